"""The ingredients of a sheet: the report with its as-of date, the groupings, and for each source its columns, made columns
and intakes in effect, taken from the current workspace or from an edition."""

from collections.abc import Sequence
from dataclasses import astuple, dataclass
from datetime import date
from functools import cached_property
from typing import cast

from kalendor.core.values.keys import Key, key
from kalendor.core.values.notation import NOTATION
from kalendor.definitions.kinds import Grouping
from kalendor.definitions.report import LookupColumn, MadeColumn, Report
from kalendor.definitions.resting import groupings_named
from kalendor.desk.desk import Desk
from kalendor.errors import DefinitionError
from kalendor.store.record_rows import SourceColumn, table_of
from kalendor.store.sources import Source


@dataclass(frozen=True)
class HeldSource:
    """A source at one state: `intakes` are the ids of the files in effect, `refused` counts refused lines, `mended`
    those of them corrected later, `empty` lines of separators only, `by_hand` records entered by hand."""

    id: int
    name: str
    columns: tuple[SourceColumn, ...]
    made: tuple[MadeColumn, ...]
    intakes: tuple[int, ...]
    refused: int
    mended: int
    empty: int = 0
    by_hand: int = 0

    @property
    def table(self) -> str:
        """The quoted name of its records table."""
        return table_of(self.id)

    def key(self) -> Key:
        """The key of its records, without counts of refused lines."""
        columns = [c.plain() for c in self.columns]
        return key("held", self.id, self.name, columns, list(self.made), list(self.intakes))


@dataclass(frozen=True)
class HeldGrouping:
    """A grouping at a revision."""

    id: int
    revision: int
    body: Grouping


@dataclass(frozen=True)
class Ingredients:
    """Everything a sheet is made from, the report's own source first. `as_of` overrides the report's as-of date; `today` is
    used if neither is given and no record is dated."""

    report: Report
    groupings: tuple[HeldGrouping, ...]
    sources: tuple[HeldSource, ...]
    today: date
    as_of: date | None = None

    @property
    def rests(self) -> Key:
        """The key of everything that the sheet's numbers depend on."""
        return rests(self.report, key("rests", *self._parts()))

    @property
    def key(self) -> Key:
        """The key of the sheet: everything its numbers and its tie-out depend on."""
        counted = [[s.refused, s.mended, s.empty, s.by_hand] for s in self.sources]
        given = self.as_of or self.report.as_of
        day = [given, None if given else self.today]
        written = astuple(NOTATION.get())  # the notes contain formatted numbers
        return key("sheet", self._made_of, day, counted, written)

    @cached_property
    def _made_of(self) -> Key:
        """The key of the report, the groupings and the records."""
        return key("sheet of", self.report.worked_part(), *self._parts())

    def _parts(self) -> tuple[list[Grouping], list[Key]]:
        return [g.body for g in self.groupings], [s.key() for s in self.sources]

    def source(self, name: str) -> HeldSource | None:
        """The source of that name, ignoring case, or None."""
        return next((s for s in self.sources if s.name.casefold() == name.casefold()), None)


def rests(report: Report, around: Key) -> Key:
    """The key of a report's numbers, from the key of its groupings and sources."""
    return key("edition rests", report.worked_part().model_copy(update={"notes": [], "title": "-"}), around)


def around(found: Ingredients) -> Key:
    """The key of a report's groupings and sources."""
    return key("rests", *found._parts())


def now(
    desk: Desk, report: Report, as_of: date | None = None, instead: Sequence[Grouping] | None = None
) -> Ingredients:
    """The current ingredients of a report, with the groupings `instead` if given. Call within a snapshot.

    Raises DefinitionError for a source that does not exist.
    """
    stored = desk.definitions.all("tree", "calendar", "buckets")
    every = [HeldGrouping(d.id, d.revision, cast(Grouping, d.body)) for d in stored]
    if instead is not None:
        every = [HeldGrouping(0, 0, body) for body in instead]
    named = groupings_named(report)
    used = [held for held in every if (held.body.kind, held.body.name) in named]
    if len(used) < len(named):  # one does not exist: the error will list those that do
        used = every
    if desk.sources.named(report.source) is None:
        known = ", ".join(s.name for s in desk.sources.all()) or "none yet"
        raise DefinitionError(f"there is no source named {report.source!r} (known: {known})")
    return Ingredients(report, tuple(used), tuple(held_sources(desk, sources_of(report))), desk.today(), as_of)


def held_sources(desk: Desk, names: Sequence[str]) -> list[HeldSource]:
    """The current state of the named sources, and of those their columns are looked up from, recursively; unknown names
    are ignored."""
    held, waiting = dict[int, HeldSource](), list(names)
    for name in waiting:
        source = desk.sources.named(name)
        if source is not None and source.id not in held:
            held[source.id] = held_source(desk, source)
            waiting += [other for other in looked_up_by(source.made) if other not in waiting]
    return list(held.values())


def held_source(desk: Desk, source: Source) -> HeldSource:
    """A source's current state."""
    counts = *desk.intakes.refused_count(source), desk.intakes.by_hand(source)
    return HeldSource(source.id, source.name, source.columns, source.made, desk.intakes.standing(source), *counts)


def sources_of(report: Report) -> list[str]:
    """The names of a report's sources, its own first."""
    beside = [other.source for other in report.beside]
    return list(dict.fromkeys([report.source, *beside, *looked_up_by(report.columns)]))


def looked_up_by(made: Sequence[MadeColumn]) -> list[str]:
    """The names of the sources from which made columns look up, without duplicates."""
    return list(dict.fromkeys(column.lookup.source for column in made if isinstance(column, LookupColumn)))
