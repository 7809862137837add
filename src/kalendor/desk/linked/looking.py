"""Looks at the folders of linked sources: which files were added, changed or deleted, and what their records are like."""

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
from kalendor.desk.linked.spread import each, keep_all, reading_apart
from kalendor.desk.linked.work import (
    Manner,
    Sampled,
    looked_at,
    sample_in,
    specimen_from_bytes,
    specimen_in,
    specimen_to_bytes,
)
from kalendor.desk.partitioned import recipe_from
from kalendor.desk.spreading import Progress, Spreading, unwatched
from kalendor.desk.uploads import hold
from kalendor.errors import ConflictError, DefinitionError
from kalendor.intake.partitions import Partition
from kalendor.intake.specimen import Facts, Specimen, put_together
from kalendor.intake.typed import Reading
from kalendor.store.bringing import Bringing
from kalendor.store.linked import Link, LinkedFile
from kalendor.store.sources import Source, as_joined, recipe_json

PART_BYTES = 64 << 20
_LOOKING: defaultdict[str, threading.Lock] = defaultdict(threading.Lock)


@dataclass(frozen=True)
class Difference:
    """The paths of files that were added, changed or deleted since the last look at a source."""

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

    Raises DefinitionError for a folder that may not be linked and a name that is taken, IntakeError for files that
    cannot be read.
    """
    if desk.sources.named(name) is not None:
        raise DefinitionError(f"there is already a source named {name!r}; choose another name")
    path = allowed(desk, folder)
    with _LOOKING[name.casefold()]:
        found = _found(path, pattern)
        with reading_apart(desk, progress) as spreading:
            sampled = _sampled(spreading, path, found[0], None)
            new = Link(0, str(path), pattern, sampled.headings, Facts())
            _looked(desk, spreading, name, new, sampled, found, [])
    source = desk.sources.named(name)
    assert source is not None
    return source


def look(desk: Desk, source: Source, progress: Progress = unwatched) -> Difference:
    """Look at the folder of a linked source again; added, changed and deleted files count from now on.

    Raises DefinitionError if the source is not linked or its folder no longer exists, IntakeError for files that cannot
    be read.
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
        with reading_apart(desk, progress) as spreading:
            sampled = replace(_sampled(spreading, path, found[0], source.recipe), recipe=recipe_json(source.recipe))
            return _looked(desk, spreading, source.name, known, sampled, found, standing)


def link_of(desk: Desk, source: Source) -> Link:
    """The link of a source; DefinitionError where it has none."""
    found = desk.linked.of(source.id)
    if found is None:
        raise DefinitionError(f"{source.name} is not linked to a folder; its files were brought in")
    return found


def since(desk: Desk, source: Source) -> Difference:
    """How the folder of a linked source differs from the last look, by the size and time of each file."""
    return changed_since(desk, link_of(desk, source))


def changed_since(desk: Desk, known: Link, look: int | None = None) -> Difference:
    """How a linked folder differs from a look, given by an intake's id, or from the last one."""
    standing = desk.linked.files(known.source_id, look)
    try:
        found = files_in(Path(known.folder), known.pattern)
    except (OSError, DefinitionError):
        found = []
    return _differ(standing, found)


def _reading_alone(recipe: Recipe) -> str:
    """A recipe as JSON, without its settings for joining."""
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


def _whole(folder: Path, one: Found) -> Partition:
    return Partition(folder / one.path, 0, one.size, one.modified, one.size)


def _sampled(spreading: Spreading, folder: Path, one: Found, recipe: Recipe | None) -> Sampled:
    asked = None if recipe is None else recipe_json(recipe)
    ((_, sampled),) = each(spreading, sample_in, asked, [_whole(folder, one)])
    return sampled


def _looked(
    desk: Desk, spreading: Spreading, name: str, known: Link, sampled: Sampled, found: Sequence[Found],
    standing: Sequence[LinkedFile],
) -> Difference:  # fmt: skip
    """Read new files, and store the result of the look in one transaction."""
    folder, seen, differ = Path(known.folder), {one.path: one for one in standing}, _differ(standing, found)
    fresh = [one for one in found if one.path in {*differ.came, *differ.changed}]
    read = _digested(spreading, folder, sampled, fresh)
    touched = [one for one in read if one.path in seen and seen[one.path].sha256 == one.sha256]
    differ = replace(differ, changed=tuple(p for p in differ.changed if p not in {one.path for one in touched}))
    stands = {one.path: one for one in standing if one.path not in differ.gone} | {one.path: one for one in read}
    if touched:
        with desk.workspace.change() as db:
            desk.linked.touched(db, known.source_id, touched)
    if not differ:
        return differ
    manner = Manner(_reading_alone(recipe_from(sampled.recipe)), known.headings)
    files, specimen = _with_specimens(desk, spreading, folder, manner, [stands[p] for p in sorted(stands)])
    came = [one for one in files if one.path in {*differ.came, *differ.changed}]
    known = replace(known, facts=specimen.facts)
    _keep(desk, name, known, recipe_from(sampled.recipe), specimen, files, came, differ, set(seen.values()))
    return differ


def _digested(spreading: Spreading, folder: Path, sampled: Sampled, fresh: Sequence[Found]) -> list[LinkedFile]:
    """Files with their digests and partitions, unread."""
    how = sampled.layout, PART_BYTES
    found = dict(each(spreading, looked_at, how, [_whole(folder, one) for one in fresh])) if fresh else {}
    return [
        LinkedFile(one.path, one.size, one.modified, found[at][0], 0, 0, 0, found[at][1])
        for at, one in enumerate(fresh)
    ]


def _with_specimens(
    desk: Desk, spreading: Spreading, folder: Path, manner: Manner, files: Sequence[LinkedFile]
) -> tuple[list[LinkedFile], Specimen]:
    """The files with their numbers of records, and one specimen of all."""
    base = key("specimen", manner.recipe, manner.version)
    wanted = [(part_key(base, one, part), partition(folder, one, part)) for one in files for part in one.parts]
    keeping = Keeping(
        desk.parts, specimen_to_bytes, specimen_from_bytes, lambda parts: put_together([p for p, _ in parts])
    )
    for again in (True, False):
        keep_all(desk, spreading, specimen_in, manner, wanted)
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
    desk: Desk, name: str, known: Link, recipe: Recipe, specimen: Specimen, files: Sequence[LinkedFile],
    came: Sequence[LinkedFile], differ: Difference, standing: set[LinkedFile],
) -> None:  # fmt: skip
    """Store the look as an intake whose file lists the files and whose records are the specimen.

    Raises ConflictError if another look was stored since this one began.
    """
    listing = [[one.path, one.size, one.sha256, one.records] for one in files]
    held = hold(desk, [json.dumps({"folder": known.folder, "files": listing}, ensure_ascii=False, indent=0).encode()])
    source = desk.sources.named(name)
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
    """Whether a column has another kind now, for example because it had no value before."""
    numbers = {"whole", "decimal"}
    found = {name: column.kind.value for name, column in specimen.records.columns.items()}
    return any(
        found.get(c.name) != c.kind.value and {found.get(c.name), c.kind.value} - numbers for c in source.columns
    )
