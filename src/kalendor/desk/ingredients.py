"""What a sheet is made from: the report with its as-of date, the groupings, and of each source its columns, its made columns
and the files that stood. It comes from the workspace as it is now, or from an edition."""

from collections.abc import Sequence
from dataclasses import astuple, dataclass
from datetime import date
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
    """A source as it stood: `intakes` are the files that counted, by their ids, `refused` the lines that never became records,
    `mended` those of them that did later, `empty` lines of nothing but separators. So many records were entered `by_hand`."""

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
        """The table of its records, quoted."""
        return table_of(self.id)

    def key(self) -> Key:
        """Names its records: what was refused is no part of them."""
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
    """All that a sheet is made from; the report's own source first. `as_of` is the date asked for, where the report's own
    does not stand; `today` stands for it where neither is given and no record is dated."""

    report: Report
    groupings: tuple[HeldGrouping, ...]
    sources: tuple[HeldSource, ...]
    today: date
    as_of: date | None = None

    @property
    def rests(self) -> Key:
        """Names what the sheet's numbers rest on."""
        return rests(self.report, key("rests", *self._parts()))

    @property
    def key(self) -> Key:
        """Names the sheet: all that its numbers and its tie-out rest on."""
        counted = [[s.refused, s.mended, s.empty, s.by_hand] for s in self.sources]
        given = self.as_of or self.report.as_of
        day = [given, None if given else self.today]
        written = astuple(NOTATION.get())  # its notes are words
        return key("sheet", self.report.worked_part(), day, *self._parts(), counted, written)

    def _parts(self) -> tuple[list[Grouping], list[Key]]:
        return [g.body for g in self.groupings], [s.key() for s in self.sources]

    def source(self, name: str) -> HeldSource | None:
        """The source of that name, capital letters or not."""
        return next((s for s in self.sources if s.name.casefold() == name.casefold()), None)


def rests(report: Report, around: Key) -> Key:
    """The key of a report's numbers, from that of the groupings and sources around it."""
    return key("edition rests", report.worked_part().model_copy(update={"notes": [], "title": "-"}), around)


def around(found: Ingredients) -> Key:
    """The key of the groupings and sources around a report."""
    return key("rests", *found._parts())


def now(
    desk: Desk, report: Report, as_of: date | None = None, instead: Sequence[Grouping] | None = None
) -> Ingredients:
    """What a report would be made from now, or over other groupings `instead`. To be asked for within a snapshot.

    Raises DefinitionError for a source that is not there.
    """
    stored = desk.definitions.all("tree", "calendar", "buckets")
    every = [HeldGrouping(d.id, d.revision, cast(Grouping, d.body)) for d in stored]
    if instead is not None:
        every = [HeldGrouping(0, 0, body) for body in instead]
    named = groupings_named(report)
    used = [held for held in every if (held.body.kind, held.body.name) in named]
    if len(used) < len(named):  # one is not there: what there is will be named
        used = every
    if desk.sources.named(report.source) is None:
        known = ", ".join(s.name for s in desk.sources.all()) or "none yet"
        raise DefinitionError(f"there is no source named {report.source!r} (known: {known})")
    return Ingredients(report, tuple(used), tuple(held_sources(desk, sources_of(report))), desk.today(), as_of)


def held_sources(desk: Desk, names: Sequence[str]) -> list[HeldSource]:
    """The sources of some names as they stand, and those that their columns are looked up from, in turn; names of none
    are passed over."""
    held, waiting = dict[int, HeldSource](), list(names)
    for name in waiting:
        source = desk.sources.named(name)
        if source is not None and source.id not in held:
            held[source.id] = held_source(desk, source)
            waiting += [other for other in looked_up_by(source.made) if other not in waiting]
    return list(held.values())


def held_source(desk: Desk, source: Source) -> HeldSource:
    """A source as it stands."""
    counts = *desk.intakes.refused_count(source), desk.intakes.by_hand(source)
    return HeldSource(source.id, source.name, source.columns, source.made, desk.intakes.standing(source), *counts)


def sources_of(report: Report) -> list[str]:
    """The sources that a report names, its own first."""
    beside = [other.source for other in report.beside]
    return list(dict.fromkeys([report.source, *beside, *looked_up_by(report.columns)]))


def looked_up_by(made: Sequence[MadeColumn]) -> list[str]:
    """The names of the sources that made columns look up from, each once."""
    return list(dict.fromkeys(column.lookup.source for column in made if isinstance(column, LookupColumn)))
