"""Looks at the folders of linked sources: which files came, changed or went, and what their records are like."""

import json
import sqlite3
import threading
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path

from kalendor.core.values.keys import Key, key
from kalendor.core.values.notation import grouped
from kalendor.definitions.recipe import Recipe
from kalendor.desk.desk import Desk
from kalendor.desk.kept_parts import Keeping, LostError, tree
from kalendor.desk.linked.folders import Found, allowed, files_in
from kalendor.desk.linked.parts import part_key, partition
from kalendor.desk.linked.spread import each, keep_all
from kalendor.desk.linked.work import Manner, digest_of, specimen_from_bytes, specimen_in, specimen_to_bytes
from kalendor.desk.spreading import Progress, unwatched
from kalendor.desk.uploads import hold
from kalendor.errors import ConflictError, DefinitionError
from kalendor.intake.partitions import Partition, partitions, recipe_of, sample_of
from kalendor.intake.specimen import Facts, Specimen, put_together
from kalendor.intake.text import Layout
from kalendor.intake.typed import Reading
from kalendor.store.bringing import Bringing
from kalendor.store.linked import Link, LinkedFile, Part
from kalendor.store.sources import Source, as_joined, recipe_json

PART_BYTES = 64 << 20
SAMPLE_BYTES = 8 << 20
_LOOKING: defaultdict[str, threading.Lock] = defaultdict(threading.Lock)


@dataclass(frozen=True)
class Difference:
    """The paths of files that came, changed or went since a source was looked at."""

    came: tuple[str, ...] = ()
    changed: tuple[str, ...] = ()
    gone: tuple[str, ...] = ()

    def __bool__(self) -> bool:
        return bool(self.came or self.changed or self.gone)

    @property
    def said(self) -> str:
        """The difference in words, as "2 files came, 1 changed"."""
        counts = [(len(self.came), "came"), (len(self.changed), "changed"), (len(self.gone), "went")]
        there = [(count, what) for count, what in counts if count]
        if not there:
            return "no file came, changed or went"
        (first, what), rest = there[0], there[1:]
        files = "file" if first == 1 else "files"
        return ", ".join([f"{grouped(first)} {files} {what}", *(f"{grouped(count)} {what}" for count, what in rest)])


def link(desk: Desk, name: str, folder: str, pattern: str, progress: Progress = unwatched) -> Source:
    """Link a folder as a source of that name, and look at it.

    Raises DefinitionError for a folder that may not be linked and a name that is taken, IntakeError for files that cannot be read.
    """
    if desk.sources.named(name) is not None:
        raise DefinitionError(f"there is already a source named {name!r}; choose another name")
    path = allowed(desk, folder)
    with _LOOKING[name.casefold()]:
        found = _found(path, pattern)
        sample = sample_of(path / found[0].path, SAMPLE_BYTES, None, None)
        manner = Manner(_reading_alone(recipe_of(sample)), sample.headings)
        new = Link(0, str(path), pattern, sample.headings, Facts())
        _looked(desk, name, new, manner, sample, found, [], progress)
    source = desk.sources.named(name)
    assert source is not None
    return source


def look(desk: Desk, source: Source, progress: Progress = unwatched) -> Difference:
    """Look at the folder of a linked source again; what came, changed or went counts from now on.

    Raises DefinitionError where the source is not linked or its folder is no longer there, IntakeError for files that cannot be read.
    """
    known = link_of(desk, source)
    path = Path(known.folder)
    if not path.is_dir():
        raise DefinitionError(f"{path}: there is no such folder now; is its disk there? Nothing was changed")
    with _LOOKING[source.name.casefold()]:
        source = desk.sources.one(source.id)
        standing, found = desk.linked.files(source.id), _found(path, known.pattern)
        if not _differ(standing, found):
            return Difference()
        manner = Manner(_reading_alone(source.recipe), known.headings)
        sample = sample_of(path / found[0].path, SAMPLE_BYTES, source.recipe, None)
        return _looked(desk, source.name, known, manner, sample, found, standing, progress)


def link_of(desk: Desk, source: Source) -> Link:
    """The link of a source; DefinitionError where it has none."""
    found = desk.linked.of(source.id)
    if found is None:
        raise DefinitionError(f"{source.name} is not linked to a folder; its files were brought in")
    return found


def since(desk: Desk, source: Source) -> Difference:
    """What is otherwise in the folder of a linked source than when it was looked at, by the size and time of each file."""
    return changed_since(desk, link_of(desk, source))


def changed_since(desk: Desk, known: Link, look: int | None = None) -> Difference:
    """What is otherwise in a linked folder than after a look, an intake's id, or after the last one, likewise."""
    standing = desk.linked.files(known.source_id, look)
    try:
        found = files_in(Path(known.folder), known.pattern)
    except (OSError, DefinitionError):
        found = []
    return _differ(standing, found)


def _reading_alone(recipe: Recipe) -> str:
    """A recipe as JSON, without what it says of joining."""
    return recipe_json(as_joined(recipe, Recipe()))


def _found(path: Path, pattern: str) -> list[Found]:
    found = files_in(path, pattern)
    if not found:
        raise DefinitionError(f"{path}: there is no file that matches {pattern!r}; nothing was changed")
    return found


def _differ(standing: Sequence[LinkedFile], found: Sequence[Found]) -> Difference:
    before, now = ({one.path: (one.size, one.modified) for one in files} for files in (standing, found))
    return Difference(
        tuple(path for path in now if path not in before),
        tuple(path for path in now if path in before and now[path] != before[path]),
        tuple(path for path in before if path not in now),
    )


def _looked(
    desk: Desk, name: str, known: Link, manner: Manner, sample: Reading, found: Sequence[Found],
    standing: Sequence[LinkedFile], progress: Progress,
) -> Difference:  # fmt: skip
    """Read what is new, and keep what the look found, in one transaction."""
    seen, differ = {one.path: one for one in standing}, _differ(standing, found)
    fresh = [one for one in found if one.path in {*differ.came, *differ.changed}]
    read = _digested(desk, Path(known.folder), manner, sample.layout, fresh, progress)
    touched = [one for one in read if one.path in seen and seen[one.path].sha256 == one.sha256]
    differ = replace(differ, changed=tuple(p for p in differ.changed if p not in {one.path for one in touched}))
    stands = {one.path: one for one in standing if one.path not in differ.gone} | {one.path: one for one in read}
    if touched:
        with desk.workspace.change() as db:
            desk.linked.touched(db, known.source_id, touched)
    if not differ:
        return differ
    files, specimen = _with_specimens(desk, Path(known.folder), manner, [stands[p] for p in sorted(stands)], progress)
    came = [one for one in files if one.path in {*differ.came, *differ.changed}]
    known = replace(known, facts=specimen.facts)
    _keep(desk, name, known, sample, specimen, files, came, differ, set(seen.values()))
    return differ


def _digested(
    desk: Desk, folder: Path, manner: Manner, layout: Layout | None, fresh: Sequence[Found], progress: Progress
) -> list[LinkedFile]:
    """Files with their digests and the partitions in which they are read, not read yet."""
    wholes = [Partition(folder / one.path, 0, one.size, one.modified, one.size) for one in fresh]
    digests = dict(each(desk, digest_of, manner, wholes, progress)) if wholes else {}
    found = []
    for at, one in enumerate(fresh):
        cut = partitions([folder / one.path], PART_BYTES, layout)
        parts = tuple(Part(p.weight, p.groups, p.heading, p.first, p.last) for p in cut)
        found.append(LinkedFile(one.path, one.size, one.modified, digests[at], 0, 0, 0, parts))
    return found


def _with_specimens(
    desk: Desk, folder: Path, manner: Manner, files: Sequence[LinkedFile], progress: Progress
) -> tuple[list[LinkedFile], Specimen]:
    """The files with the counts of their records, and the specimen of all."""
    base = key("specimen", manner.recipe, manner.version)
    wanted = [(part_key(base, one, part), partition(folder, one, part)) for one in files for part in one.parts]
    keeping = Keeping(
        desk.parts, specimen_to_bytes, specimen_from_bytes, lambda parts: put_together([p for p, _ in parts])
    )
    for again in (True, False):
        keep_all(desk, specimen_in, manner, wanted, progress)
        try:
            return _counted(keeping, base, files), keeping.value(tree([own for own, _ in wanted]))
        except LostError:
            if not again:
                raise
    raise AssertionError


def _counted(keeping: Keeping[Specimen], base: Key, files: Sequence[LinkedFile]) -> list[LinkedFile]:
    counted = []
    for one in files:
        if not one.records:
            facts = keeping.value(tree([part_key(base, one, part) for part in one.parts])).facts
            one = replace(one, records=facts.records, refused=facts.refused, empty=facts.empty)
        counted.append(one)
    return counted


def _keep(
    desk: Desk, name: str, known: Link, sample: Reading, specimen: Specimen, files: Sequence[LinkedFile],
    came: Sequence[LinkedFile], differ: Difference, standing: set[LinkedFile],
) -> None:  # fmt: skip
    """The look as an intake, whose file lists the files, and whose records are the specimen.

    Raises ConflictError where other files stand by now than when the look began.
    """
    listing = [[one.path, one.size, one.sha256, one.records] for one in files]
    held = hold(desk, [json.dumps({"folder": known.folder, "files": listing}, ensure_ascii=False, indent=0).encode()])
    source = desk.sources.named(name)
    recipe: Recipe = sample.recipe if source is None else source.recipe
    if source is None:
        recipe = recipe_of(sample)
    reading = Reading(
        f"{grouped(len(files))} {'file' if len(files) == 1 else 'files'}", specimen.records, specimen.lines, (), recipe, {},
        headings=known.headings,
    )  # fmt: skip
    way = Bringing(
        name, reading, held.sha256, held.size, desk.now(), "replace_all", again=True, path=held.path, origin="link",
        reshape=source is not None and _other_kinds(source, specimen), widen=True, reason=differ.said if source else "",
    )  # fmt: skip

    def note(db: sqlite3.Connection, after: Source) -> None:
        if {replace(one, modified=0) for one in desk.linked.files(after.id)} != {
            replace(o, modified=0) for o in standing
        }:
            raise ConflictError(f"the folder of {name} was looked at meanwhile; nothing was changed")
        look = max(desk.intakes.standing(after))
        desk.linked.note(db, replace(known, source_id=after.id), look, came, [*differ.changed, *differ.gone])

    try:
        desk.intakes.bring_in(way, then=note)
    finally:
        held.path.unlink(missing_ok=True)


def _other_kinds(source: Source, specimen: Specimen) -> bool:
    """Whether a column is of another kind now, as one that had no value before."""
    numbers = {"whole", "decimal"}
    found = {name: column.kind.value for name, column in specimen.records.columns.items()}
    return any(
        found.get(c.name) != c.kind.value and {found.get(c.name), c.kind.value} - numbers for c in source.columns
    )
