"""How far a source's records cover a period: completely, partly, or not at all. A small period is distinguished from a
partly filled one by its longest run of days without a record, compared with that of earlier periods."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from kalendor.core.groupings.cadence_periods import Recurring, periods_before
from kalendor.core.values.columns import DATED, Column, Records, column_days, days_of
from kalendor.core.values.keys import key
from kalendor.core.values.notation import noted_day
from kalendor.definitions.axis import PeriodEntry
from kalendor.definitions.report import Report
from kalendor.desk.desk import Desk
from kalendor.desk.editions.owed import Recurs
from kalendor.desk.records import complete, stamp_of
from kalendor.errors import KalendorError
from kalendor.store.by_hand import filed
from kalendor.store.column_cache import Kept
from kalendor.store.sources import Source

Filled = Literal["whole", "part", "missing", "open", "before"]
BEFORE = 12
SLACK = 1


@dataclass(frozen=True, eq=False)
class Filling:
    """The number of a source's records on each day: `counts`, shape (days,), from day `first` on, of the date column
    `of`."""

    of: str
    first: int
    counts: NDArray[np.int64]

    @property
    def last(self) -> int:
        """The last day that has a record."""
        return self.first + len(self.counts) - 1

    def within(self, first: int, last: int) -> NDArray[np.int64]:
        """The counts of the days from `first` to `last`, zeros outside the source's days."""
        found = np.zeros(max(0, last - first + 1), dtype=np.int64)
        low, high = max(first, self.first), min(last, self.last)
        if low <= high:
            found[low - first : high - first + 1] = self.counts[low - self.first : high - self.first + 1]
        return found

    def gap(self, first: int, last: int) -> tuple[int, int]:
        """The longest run of days without a record from `first` to `last`: its length in days, and its first day."""
        there = np.flatnonzero(self.within(first, last) > 0) + first
        edges = np.concatenate([[first - 1], there, [last + 1]])
        gaps = np.diff(edges) - 1
        at = int(np.argmax(gaps))
        return int(gaps[at]), int(edges[at]) + 1


@dataclass(frozen=True)
class Cover:
    """How a source covers a period: its number of records there, how far it is filled, and what is missing, in words."""

    records: int
    filled: Filled
    words: str


def date_column(report: Report, records: Records) -> str | None:
    """The date column by which a report's periods are counted: the cadence's, the window's, the first period's, else
    the first date column."""
    named = [report.cadence.of] if report.cadence is not None and report.cadence.of else []
    named += [report.window.of] if report.window is not None else []
    named += [entry.period for entry in report.entries_of(PeriodEntry)]
    found = next((name for name in named if _dated(records.columns.get(name))), None)
    return found or next((name for name, column in records.columns.items() if _dated(column)), None)


def _dated(column: Column | None) -> bool:
    return column is not None and column.kind in DATED


def filling(desk: Desk, source: Source, of: str | None = None) -> Filling | None:
    """How a source's files fill it, by a date column (default: the first); None if it has no dates. Records entered by
    hand fill no gap."""
    with desk.workspace.snapshot():
        source = desk.sources.one(source.id)
        found = complete(desk, source)
        name = of or next((name for name, column in found.records.columns.items() if _dated(column)), None)
        column = found.records.columns.get(str(name))
        if name is None or column is None or not _dated(column):
            return None
        linked = desk.linked.of(source.id)
        if linked is not None:
            days = linked.facts.days.get(name)
            return None if days is None else Filling(name, days.first, np.array(days.counts, dtype=np.int64))
        whole = Kept(Records({name: column}, found.records.count), desk.sources.kept(source).rows)
        return desk.memory(
            key("filling", stamp_of(desk, source), name),
            lambda: _counted(name, filed(desk.workspace, source, whole).records.column(name)),
        )


def _counted(name: str, column: Column) -> Filling | None:
    span = column_days(column)
    if span is None:
        return None
    days = days_of(column)[column.present] - span[0]
    return Filling(name, span[0], np.bincount(days, minlength=span[1] - span[0] + 1).astype(np.int64))


def cover(found: Filling | None, period: Recurring, before: Sequence[Recurring], today: int) -> Cover:
    """How a source covers a period that has begun; `before` are the earlier periods, the latest first."""
    if found is None:
        return Cover(0, "missing", "it has no dates")
    records = int(found.within(period.first, period.last).sum())
    if period.first > today:
        return Cover(records, "open", "the period has not begun")
    if period.last < found.first:
        return Cover(records, "before", "it begins later")
    if not records:
        return Cover(0, "missing", f"it has no record from {period.span}")
    last = min(period.last, today)
    usual = _usual(found, before, period)
    days, start = found.gap(max(period.first, found.first), last)
    if days > usual:
        end = start + days - 1
        when = noted_day(start) if days == 1 else f"{noted_day(start)} to {noted_day(end)}"
        return Cover(records, "part", f"it has no record {'on' if days == 1 else 'from'} {when}")
    return Cover(records, "whole" if period.last < today else "open", f"last record {noted_day(_last(found, period))}")


def _usual(found: Filling, before: Sequence[Recurring], period: Recurring) -> int:
    """The usual longest run without records: that of most of the twelve earlier periods that have records, plus a day;
    without any, that between the records of the period itself."""
    full = [p for p in before if p.first >= found.first and found.within(p.first, p.last).any()][:BEFORE]
    if not full:
        there = np.flatnonzero(found.within(period.first, period.last))
        return int(np.diff(there).max()) + SLACK if len(there) > 1 else period.last - period.first + 1
    gaps = sorted(found.gap(p.first, p.last)[0] for p in full)
    return gaps[(len(gaps) * 3) // 4 if len(gaps) > 3 else -1] + SLACK


def _last(found: Filling, period: Recurring) -> int:
    return period.first + int(np.flatnonzero(found.within(period.first, period.last))[-1])


class Covers:
    """How sources cover periods, looked up once for all reports over the same dates of a source."""

    def __init__(self, desk: Desk, sources: dict[str, Source], today: int) -> None:
        self._desk, self._sources, self._today = desk, sources, today
        self._records: dict[int, Records | None] = {}
        self._fillings: dict[tuple[int, str | None], Filling | None] = {}
        self._found: dict[tuple[int, str, Recurring], Cover] = {}

    def of(self, one: Recurs) -> Callable[[Recurring], Cover | None]:
        """How the source of a report covers a period, by the report's date column; None if unknown."""
        source = self._sources.get(one.report.source.casefold())
        known = None if source is None else self._filling(source, one.report)

        def covered(period: Recurring) -> Cover | None:
            if known is None:
                return None
            key = (id(known), one.calendar.name, period)
            if key not in self._found:
                self._found[key] = cover(known, period, periods_before(one.calendar, period), self._today)
            return self._found[key]

        return covered

    def _filling(self, source: Source, report: Report) -> Filling | None:
        try:
            if source.id not in self._records:
                self._records[source.id] = complete(self._desk, source).records
            records = self._records[source.id]
            of = None if records is None else date_column(report, records)
            if (source.id, of) not in self._fillings:
                self._fillings[source.id, of] = None if records is None else filling(self._desk, source, of)
            return self._fillings[source.id, of]
        except KalendorError:
            self._records.setdefault(source.id, None)
            return None
