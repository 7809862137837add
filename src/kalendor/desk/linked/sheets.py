"""The material of a report over a linked source: cached partials of its files' partitions, merged."""

import json
import os
import shutil
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager, suppress
from contextvars import ContextVar
from dataclasses import dataclass, replace
from datetime import date
from pathlib import Path
from uuid import uuid4

import numpy as np

from kalendor import VERSION
from kalendor.core.partials.condensing import RECORDS_OF, condensed, merged
from kalendor.core.partials.joining import shifted
from kalendor.core.partials.rests import partial_key, rests_on_day
from kalendor.core.partials.stored import from_bytes, to_bytes
from kalendor.core.placing.material import Material, as_of_column
from kalendor.core.values.columns import DATED, Records, day_of
from kalendor.core.values.keys import NO_KEY, Key, key
from kalendor.definitions.recipe import Recipe
from kalendor.definitions.report import Report
from kalendor.desk.desk import Desk
from kalendor.desk.files import columns_read
from kalendor.desk.ingredients import HeldSource, Ingredients
from kalendor.desk.kept_parts import Keeping, LostError, Node, tree
from kalendor.desk.linked.parts import part_key, partition
from kalendor.desk.linked.spread import keep_all, reading
from kalendor.desk.linked.work import TOLD, Manner, Work, last_day_in, made_json, partial_in
from kalendor.desk.partitioned import as_json, groupings_from
from kalendor.desk.records import Complete, inputs, others_of
from kalendor.desk.spreading import Progress
from kalendor.errors import IntakeError, KalendorError, WriteRefusedError
from kalendor.intake.column_files import write_columns
from kalendor.intake.partitions import Partition
from kalendor.store.linked import Link, LinkedFile
from kalendor.store.sources import as_joined, recipe_json

MOST_OTHERS = 20  # sources stored for workers
SOON_BYTES = 16 << 20  # bytes of partitions up to which a screen waits
ASKED_ON_SCREEN: ContextVar[bool] = ContextVar("asked_on_screen", default=False)


class UnreadError(KalendorError):
    """A sheet was requested for a screen, but much of a linked source must be read first, which `read` does. `about` is
    the key of what is read."""

    def __init__(self, said: str, about: Key, read: Callable[[Progress], None]) -> None:
        super().__init__(said)
        self.about, self.read = about, read


@contextmanager
def on_screen() -> Iterator[None]:
    """Context in which nothing slow is waited for: UnreadError is raised instead."""
    token = ASKED_ON_SCREEN.set(True)
    try:
        yield
    finally:
        ASKED_ON_SCREEN.reset(token)


@dataclass(frozen=True, eq=False)
class Over:
    """A report over a linked source, given its ingredients: the files of the look in effect, and what workers receive.
    `others` are the records of the sources beside and of those that columns look up from."""

    desk: Desk
    report: Report
    own: HeldSource
    link: Link
    files: Sequence[LinkedFile]
    work: Work
    others: dict[str, Complete]
    base: Key

    @property
    def parts(self) -> list[tuple[Key, Partition]]:
        """The partitions of all files, each with the key of its partial."""
        folder = Path(self.link.folder)
        return [(part_key(self.base, f, part), partition(folder, f, part)) for f in self.files for part in f.parts]

    @property
    def node(self) -> Node:
        """The tree of the partials."""
        return tree([own for own, _ in self.parts])

    @property
    def keeping(self) -> Keeping[Material]:
        """How partials are kept and merged."""
        found = groupings_from(self.work.groupings)

        def merge(parts: Sequence[tuple[Material, int]]) -> Material:
            moved = [shifted(one, before << RECORDS_OF) for one, before in parts]
            return merged(self.report, moved, self.work.as_of)

        def read(content: bytes) -> Material:
            return replace(from_bytes(content), groupings=found)

        return Keeping(self.desk.parts, to_bytes, read, merge)

    def material(self, progress: Progress) -> Material:
        """The partials of all partitions merged, with the records of sources beside.

        Raises UnreadError, IntakeError, DefinitionError, and what `progress` raises.
        """
        parts, node = self.parts, self.node
        for again in (True, False):
            if not self.desk.parts.has(node.key):
                self._keep_parts(parts, progress)
            try:
                whole = self.keeping.value(node)
                break
            except LostError:
                if not again:
                    raise IntakeError(f"{self.own.name}: what was read of it could not be kept; make room") from None
        if self.report.beside:
            whole = merged(self.report, [whole, self.beside()], self.work.as_of)
        stamps = [other.stamp for other in self.others.values()]
        return replace(whole, stamp=key("linked", node.key, self.report.columns, self.report.beside, stamps))

    def _keep_parts(self, parts: Sequence[tuple[Key, Partition]], progress: Progress) -> None:
        missing = [(own, part) for own, part in parts if not self.desk.parts.has(own)]
        if not missing:
            return
        if self.desk.workspace.reads_only:
            raise WriteRefusedError
        if ASKED_ON_SCREEN.get() and sum(part.weight for _, part in missing) > SOON_BYTES:
            raise UnreadError(f"{self.own.name} has to be read for this sheet first", self.node.key, self.read)
        check_as_looked_at(self.own.name, [part for _, part in missing])
        with reading(self.desk, [part for _, part in missing], progress) as spreading:
            keep_all(self.desk, spreading, partial_in, self.work, missing)

    def read(self, progress: Progress) -> None:
        """Read the missing partitions, and cache their partials and the merged ones."""
        self.material(progress)

    def beside(self, condense: bool = True) -> Material:
        """The records of the sources beside, as a partial or unchanged."""
        nothing = np.zeros(0, dtype=np.int64)
        specimen = self.desk.sources.rows.kept_of(self.own, self.own.intakes).records
        own = {c.name: specimen.columns[c.name].take(nothing) for c in self.work.read_columns}
        found = replace(self.work.made_of(Records(own, 0)), part=False)
        return condensed(self.report, found, self.work.as_of, worded=True) if condense else found


def over(desk: Desk, found: Ingredients, progress: Progress) -> Over | None:
    """A report over a linked source, at the look that its ingredients refer to; None if its source is not linked.

    Raises as `Over.material` does.
    """
    report, own = found.report, found.source(found.report.source)
    link = None if own is None else desk.linked.of(own.id)
    if own is None or link is None:
        return None
    others = others_of(desk, found, own)
    recipe = recipe_json(_recipe_of(desk, own))
    work = Work(
        Manner(recipe, link.headings, _wanted(own, report)),
        as_json(report),
        tuple(as_json(held.body) for held in found.groupings),
        own.columns,
        made_json(own.made),
        tuple((name, _put_for_workers(desk, one)) for name, one in others.items()),
        found.as_of or report.as_of or found.today,
    )
    files = desk.linked.files(own.id, max(own.intakes))
    asked = Over(desk, report, own, link, files, work, others, NO_KEY)
    if found.as_of is None and report.as_of is None:
        work = replace(work, as_of=_last_day(asked, progress) or found.today)
    return replace(asked, work=work, base=_base(asked, work))


def _recipe_of(desk: Desk, own: HeldSource) -> Recipe:
    """How the files of a look are read, with the columns named as in the ingredients, even if they were renamed since."""
    found = as_joined(desk.intakes.recipe_of(desk.intakes.one(max(own.intakes))), Recipe())
    now = {c.sql_name: c.name for c in desk.sources.one(own.id).columns}
    before = {now[c.sql_name]: c.name for c in own.columns if now.get(c.sql_name, c.name) != c.name}
    columns = {
        before.get(name, name): how.model_copy(update={"headings": [*how.headings, name]}) if name in before else how
        for name, how in found.columns.items()
    }
    return found.model_copy(update={"columns": columns})


def _base(asked: Over, work: Work) -> Key:
    """The key of everything that partials depend on beside the files."""
    return key(
        "partial",
        VERSION,
        partial_key(asked.report),
        list(work.groupings),
        [c.plain() for c in work.columns],
        work.made,
        {name: one.stamp for name, one in asked.others.items()},
        work.manner.recipe,
        None if work.manner.wanted is None else sorted(work.manner.wanted),
        work.as_of if rests_on_day(asked.report) else None,
    )


def _last_day(asked: Over, progress: Progress) -> date | None:
    """The as-of date given by the records."""
    name = as_of_column(asked.report)
    if name is None:
        return None
    days = asked.link.facts.days.get(name)
    standing = asked.desk.intakes.standing(asked.desk.sources.one(asked.own.id))
    if days is not None and standing == asked.own.intakes and name in {c.name for c in asked.own.columns}:
        return day_of(days.first + len(days.counts) - 1)
    base = key("last day", name, _base(asked, asked.work))
    asked = replace(asked, base=base)
    missing = [(own, part) for own, part in asked.parts if not asked.desk.parts.has(own)]
    if missing and asked.desk.workspace.reads_only:
        raise WriteRefusedError
    with reading(asked.desk, [part for _, part in missing], progress) as spreading:
        keep_all(asked.desk, spreading, last_day_in, asked.work, missing)
    found = [json.loads(asked.desk.parts.get(own) or b"null") for own, _ in asked.parts]
    there = [day for day in found if day is not None]
    return day_of(max(there)) if there else None


def _wanted(own: HeldSource, report: Report) -> frozenset[str] | None:
    """The columns of the source that a report depends on, in lower case; None for all, also if it refers to one that
    does not exist, so that the error can list all."""
    used = columns_read(report)
    if used is None:
        return None
    names = set(used)
    for made in reversed(own.made):
        if made.name.casefold() in names:
            names |= {name.casefold() for name in inputs(made)}
    there = {c.name.casefold() for c in own.columns}
    made_names = {made.name.casefold() for made in (*own.made, *report.columns)}
    if not names - made_names - {"as_of"} <= there:
        return None
    units = {name.casefold() for c in own.columns if c.unit for name in (c.name, c.unit)}
    dated = [c.name.casefold() for c in own.columns if c.kind in DATED]
    own_made = {made.name.casefold() for made in own.made}
    return frozenset((names | units | set(dated[:1])) & (there | own_made))


def _put_for_workers(desk: Desk, other: Complete) -> str:
    """The folder in which records are stored for workers, as columns to be memory-mapped; the latest few are kept."""
    root = desk.parts.folder.absolute() / "others"
    folder = root / other.stamp
    with suppress(OSError):
        os.utime(folder)  # mark as used: the least recently used are dropped first
    if not (folder / TOLD).is_file():
        if desk.workspace.reads_only:
            raise WriteRefusedError
        part = folder.with_name(f".{uuid4().hex}")
        part.mkdir(parents=True)
        (part / TOLD).write_text(json.dumps(write_columns(part, other.records)), "utf-8")
        try:
            part.rename(folder)
        except OSError:  # another process stored it first
            shutil.rmtree(part, ignore_errors=True)
        for old in sorted(root.iterdir(), key=lambda one: one.stat().st_mtime)[:-MOST_OTHERS]:
            shutil.rmtree(old, ignore_errors=True)
    return str(folder)


def check_as_looked_at(name: str, parts: Sequence[Partition]) -> None:
    """Raises IntakeError if a file differs from the look."""
    for part in parts:
        try:
            part.check()
        except IntakeError:
            there = "was changed" if part.path.exists() else "is no longer there"
            raise IntakeError(
                f"{part.path} {there} since {name} was looked at; look at the folder again to read it as it is now"
            ) from None
