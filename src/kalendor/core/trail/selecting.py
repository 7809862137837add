"""The SQL condition that selects a cell's records; evaluated over the source, it selects the same records."""

import re
from collections.abc import Iterator, Sequence
from decimal import Decimal

import numpy as np
from numpy.typing import NDArray

from kalendor.core.figures.operand import Days, Operand
from kalendor.core.formulas import texts
from kalendor.core.formulas.expressions import with_date
from kalendor.core.formulas.meeting import rows_where
from kalendor.core.formulas.scope import AS_OF
from kalendor.core.groupings.buckets import column_cuts
from kalendor.core.groupings.ground import Ground
from kalendor.core.groupings.levels import BLANK, OTHER, WORKED, Level
from kalendor.core.groupings.periods import CLOCK
from kalendor.core.placing.frame import Axis
from kalendor.core.placing.views import View
from kalendor.core.placing.windows import NONE, DayMap
from kalendor.core.values.columns import DATED, NUMERIC, Column, Kind, Mask, days_of
from kalendor.core.values.days import day_label
from kalendor.definitions.axis import AgeEntry, AxisEntry, BucketEntry, CategoryEntry, PeriodEntry
from kalendor.definitions.report import Report
from kalendor.errors import DefinitionError

Index = NDArray[np.int64]
Periods = Sequence[tuple[Level, int]]
_OR = re.compile(r"\sOR\s", re.IGNORECASE)
_ODD = re.compile(r"--|/\*")  # a comment may swallow what follows it: then the whole is verified as written
MOST_VALUES, MOST_RUNS, MOST_SAID, A_YEAR = 60, 12, 8_000, 400
PARTS = {
    "quarter_of_year": "QUARTER", "month_of_year": "MONTH", "day_of_month": "DAY", "day_of_week": "ISODOW",
    "hour_of_day": "HOUR",
}  # fmt: skip


class Selecting:
    """Words conditions for the cells of one report; `window` are the days that its window shows, None for all."""

    def __init__(self, report: Report, ground: Ground, lines: Axis, columns: Axis, window: DayMap | None) -> None:
        self.report, self.ground, self.axes, self.window = report, ground, (lines, columns), window

    def of(self, operand: Operand, where: str | None, view: View) -> str | None:
        """The condition of an operand that is taken from the records that satisfy `where`; None if none can be
        expressed that selects just these.

        It is verified on the records before it is returned.
        """
        assert operand.rows is not None
        own = self._own(operand.rows)
        general = [*self._general(where)]
        of_cell = [one for one in (*self._members(operand, own), *self._dates(operand, view)) if one]
        parts = general + of_cell
        whole = " AND ".join(f"({one})" if len(parts) > 1 and _OR.search(one) else one for one in parts)
        if len(whole) > MOST_SAID:
            return None
        try:
            tried = [whole] if any(_ODD.search(one) for one in general) else of_cell + general
            found = self._own(rows_where(tried if whole else [], self.ground.records, self.ground.as_of))
        except DefinitionError:
            return None
        return (whole or "1 = 1") if np.array_equal(found, own) else None

    def _own(self, rows: Index) -> Index:
        origin = self.ground.origin
        return rows if origin is None else rows[origin.own[rows]]

    def _general(self, where: str | None) -> Iterator[str]:
        yield from map(self._with_date, self.report.only)
        for entry in self.report.entries_of(AgeEntry):
            if entry.opened and entry.closed:
                day = f"DATE '{day_label(self.ground.as_of)}'"
                opened, closed = quoted(entry.opened), quoted(entry.closed)
                yield f"{opened} <= {day}"
                yield f"{closed} IS NULL OR {closed} > {day}"
        if where is not None:
            yield self._with_date(where)

    def _with_date(self, condition: str) -> str:
        """A condition with the as-of date as a literal, as a database takes it."""
        if any(name.upper() == AS_OF for name in self.ground.records.columns):
            return condition
        return with_date(condition, AS_OF, day_label(self.ground.as_of))

    def _levels(self, operand: Operand) -> Iterator[tuple[Level, AxisEntry, int]]:
        """The levels that the cell stands on, the entry that made each, and the member there."""
        for axis, at, entries in zip(
            self.axes, (operand.line, operand.column), (self.report.down, self.report.across), strict=True
        ):
            for k in range(int(axis.depth[at])):
                level = axis.levels[k]
                yield level, entries[level.entry], int(axis.path[at, k])

    def _members(self, operand: Operand, rows: Index) -> Iterator[str]:
        innermost: dict[int, tuple[Level, AxisEntry, int]] = {}
        for level, entry, code in self._levels(operand):
            if not isinstance(entry, PeriodEntry):
                innermost[id(entry)] = (level, entry, code)
        for level, entry, code in innermost.values():
            yield self._member(level, code, entry, rows)

    def _member(self, level: Level, code: int, entry: AxisEntry, rows: Index) -> str:
        name = entry.column
        column = self.ground.column(name)
        if int(level.members.special[code]) == BLANK:
            return f"{quoted(name)} IS NULL"
        if not len(rows) or isinstance(entry, CategoryEntry) or int(level.members.special[code]) == OTHER:
            return _one_of(name, column, rows)
        first = int(rows[0])
        if isinstance(entry, BucketEntry) and column.kind in NUMERIC:
            return _range(name, column, first, column_cuts(column, self.ground.groupings.cut(entry)[0]))
        if isinstance(entry, AgeEntry):
            return self._age(name, column, first, entry, f"DATE '{day_label(self.ground.as_of)}'")
        return ""

    def _age(self, name: str, column: Column, row: int, entry: AgeEntry, today: str) -> str:
        cuts = [int(c) for c in column_cuts(column, self.ground.groupings.cut(entry)[0])]
        age = self.ground.as_of - int(days_of(column.take(np.array([row])))[0])
        at = int(np.searchsorted(np.array(cuts), age, side="left"))
        told = f"{today} - {quoted(name)}"
        if at == 0:
            return f"{told} <= {cuts[0]}"
        return f"{told} > {cuts[at - 1]}" if at == len(cuts) else f"{told} BETWEEN {cuts[at - 1] + 1} AND {cuts[at]}"

    # -- members by themselves

    def of_members(self, down: bool, places: Sequence[int], depth: int, keep: bool) -> str | None:
        """The condition that keeps all records of the members at `depth` above some lines (or columns), whatever else
        they belong to, or leaves them out; None if it cannot be expressed: for totals, a top's rest, computed lines,
        and ranges by rank."""
        axis, entries = (self.axes[0], self.report.down) if down else (self.axes[1], self.report.across)
        if not 0 < depth <= len(axis.levels):
            return None
        entry = entries[axis.levels[depth - 1].entry]
        mine = [k for k in range(depth) if axis.levels[k].entry == axis.levels[depth - 1].entry]
        met, blank = np.zeros(self.ground.records.count, dtype=bool), False
        said: list[str] = []
        for path in dict.fromkeys(tuple(axis.path[place, mine].tolist()) for place in places):
            members = [(axis.levels[k], code) for k, code in zip(mine, path, strict=True)]
            if any(
                code < 0 or level.of_all or level.members.special[code] in (OTHER, WORKED) for level, code in members
            ):
                return None
            rows = np.flatnonzero(np.logical_and.reduce([level.codes == code for level, code in members]))
            met[rows] = True
            if any(level.members.special[code] == BLANK for level, code in members):
                blank = True
            else:
                said.append(self._alone(entry, members, rows))
        if not all(said):
            return None
        condition = self._narrowed(entry, said, met, blank, keep)
        return condition if self._selects(condition, met if keep else ~met) else None

    def _alone(self, entry: AxisEntry, members: Periods, rows: Index) -> str:
        """The condition of one member of an entry; for a date, of the members above it too."""
        name, column = entry.column, self.ground.column(entry.column)
        if isinstance(entry, PeriodEntry):
            parts = [part for part in self._in_periods(name, column, members, None, True, True) if part]
            return " AND ".join(f"({part})" if len(parts) > 1 and " OR " in part else part for part in parts)
        if isinstance(entry, AgeEntry) and len(rows):
            return self._age(name, column, int(rows[0]), entry, AS_OF)
        return self._member(*members[-1], entry, rows)

    def _narrowed(self, entry: AxisEntry, said: Sequence[str], met: Mask, blank: bool, keep: bool) -> str:
        """Some members kept or left out, in one condition; blanks stay unless they are left out."""
        name = quoted(entry.column)
        if not said:
            return f"{name} IS {'' if keep else 'NOT '}NULL"
        if isinstance(entry, CategoryEntry):
            column = self.ground.column(entry.column)
            whole = _one_of(entry.column, column, np.flatnonzero(met & column.present), not keep)
        else:
            whole = " OR ".join(f"({one})" if len(said) > 1 and " AND " in one else one for one in said)
            whole = whole if keep else f"NOT ({whole})"
        return f"{whole} OR {name} IS NULL" if blank == keep else whole

    def _selects(self, condition: str, wanted: Mask) -> bool:
        """Whether a condition, no longer than a formula may be, selects just these records."""
        if not condition or len(condition) > MOST_SAID:
            return False
        try:
            found = self._own(rows_where([condition], self.ground.records, self.ground.as_of))
        except DefinitionError:
            return False
        return np.array_equal(found, self._own(np.flatnonzero(wanted)))

    # -- dates

    def _dates(self, operand: Operand, view: View) -> Iterator[str]:
        levels: dict[str, list[tuple[Level, int]]] = {}
        for level, entry, code in self._levels(operand):
            if isinstance(entry, PeriodEntry):
                levels.setdefault(entry.period, []).append((level, code))
        window = self.report.window
        names = dict.fromkeys([*levels, *([window.of] if window else [])])
        for name in names:
            column = self.ground.column(name)
            if column.kind in DATED:
                yield from self._on_days(name, column, levels.get(name, []), operand, view)

    def _on_days(
        self, name: str, column: Column, levels: Sequence[tuple[Level, int]], operand: Operand, view: View
    ) -> Iterator[str]:
        if any(int(level.members.special[code]) == BLANK for level, code in levels):
            yield f"{quoted(name)} IS NULL"
            return
        if any(int(level.members.special[code]) == OTHER for level, code in levels):
            assert operand.rows is not None
            yield _on(name, column, np.unique(days_of(column.take(operand.rows))))
            return
        shifted = name == view.placer.shifted
        if operand.days is not None and shifted:
            yield _between(name, column, operand.days)
            return
        moved = view.days(view.placer.grain_at(self._crossing(operand))) if shifted and view.days is not None else None
        window = self.window if self.report.window is not None and self.report.window.of == name else None
        if not levels and moved is None and window is None:
            return
        yield from self._in_periods(name, column, levels, moved or window, moved is None, shifted and moved is None)

    def _in_periods(
        self, name: str, column: Column, levels: Periods, counts: DayMap | None, wide: bool, clocked: bool
    ) -> Iterator[str]:
        """The conditions of the members of levels of one date: `wide`, on days beyond those of the records too;
        `clocked`, by the hour or minute if they have one."""
        clock = [(level, code) for level, code in levels if level.period.grouper.grain in CLOCK]
        for level, code in levels:
            if _is_part(level):
                yield self._part(name, level, code)
        if clock and clocked and all(x.period.grouper.mode == "own" for x, _ in clock):
            size = CLOCK[clock[-1][0].period.grouper.grain]
            start = int(clock[-1][0].period.numbers[clock[-1][1]]) * size
            yield _moments(name, start, start + size)
        periods = [(level, code) for level, code in levels if not _is_part(level) and (level, code) not in clock]
        if periods or counts is not None:
            span = self.ground.days(name) or (0, -1)
            try:
                yield _on(name, column, _days_in(periods, counts, span, A_YEAR if wide else 0))
            except DefinitionError:  # the calendar ends where the records do
                yield _on(name, column, _days_in(periods, counts, span, 0))

    def _part(self, name: str, level: Level, code: int) -> str:
        """A merged part of a date; the civil one, which `of` finds to be wrong if the calendar has another."""
        grouper = level.period.grouper
        number = int(level.period.numbers[code])
        if grouper.grain == "day_of_week":
            number = (number + grouper.calendar.week_start) % 7 + 1
        elif grouper.grain in ("quarter_of_year", "month_of_year"):
            number += 1
        return f"EXTRACT({PARTS[grouper.grain]} FROM {quoted(name)}) = {number}"

    def _crossing(self, operand: Operand) -> tuple[int, int]:
        return int(self.axes[0].depth[operand.line]), int(self.axes[1].depth[operand.column])


def _is_part(level: Level) -> bool:
    """Whether a level is a merged part of a date that SQL can express."""
    return level.period.grouper.mode == "merging" and level.period.grouper.grain in PARTS


def _days_in(periods: Periods, counts: DayMap | None, span: tuple[int, int], edge: int) -> Index:
    """The days, from `edge` before the first record to as many after the last, that fall in the members of periods."""
    days = np.arange(span[0] - edge, span[1] + edge + 1)
    counted = days if counts is None else counts.of(days)
    there = counted != NONE
    for level, code in periods:
        there &= level.period.codes(np.where(there, counted, counted[there][0] if there.any() else 0), None) == code
    return days[there]


def quoted(name: str) -> str:
    """A column's name as written in conditions.

    >>> print(quoted("sold on"))
    "sold on"
    """
    return '"' + name.replace('"', '""') + '"'


def literal(column: Column, row: int) -> str:
    """A record's value as written in conditions."""
    value = texts.written(column.item(row))
    if column.kind is Kind.DATE:
        return f"DATE '{value}'"
    if column.kind is Kind.DATETIME:
        return f"TIMESTAMP '{value}'"
    if column.kind in NUMERIC or column.kind is Kind.YES_NO:
        return str(column.item(row)).upper() if column.kind is Kind.YES_NO else f"{column.item(row)}"
    return "'" + value.replace("'", "''") + "'"


def _one_of(name: str, column: Column, rows: Index, none: bool = False) -> str:
    """The condition that a column has one of the records' values; empty if they are too many."""
    picked = column.take(rows)
    blank = bool(picked.blanks.any())
    there = rows[picked.present]
    _, first = np.unique(column.values[there], return_index=True)
    if len(first) > MOST_VALUES:
        return ""
    values = [literal(column, int(there[i])) for i in np.sort(first).tolist()]
    equal, among = ("<>", "NOT IN") if none else ("=", "IN")
    single = f"{quoted(name)} {equal} {''.join(values)}"
    several = f"{quoted(name)} {among} ({', '.join(values)})"
    said = [] if not values else [single if len(values) == 1 else several]
    return " OR ".join([*said, *([f"{quoted(name)} IS NULL"] if blank else [])])


def _range(name: str, column: Column, row: int, cuts: Sequence[Decimal]) -> str:
    value = column.item(row)
    at = sum(1 for cut in cuts if value >= cut)
    low = [f"{quoted(name)} >= {cuts[at - 1]:f}"] if at > 0 else []
    high = [f"{quoted(name)} < {cuts[at]:f}"] if at < len(cuts) else []
    return " AND ".join([*low, *high])


def _between(name: str, column: Column, days: Days) -> str:
    if column.kind is Kind.DATETIME:
        return (
            f"{quoted(name)} >= DATE '{day_label(days.first)}' AND {quoted(name)} < DATE '{day_label(days.last + 1)}'"
        )
    if days.first == days.last:
        return f"{quoted(name)} = DATE '{day_label(days.first)}'"
    return f"{quoted(name)} BETWEEN DATE '{day_label(days.first)}' AND DATE '{day_label(days.last)}'"


def _moments(name: str, start: int, end: int) -> str:
    first, last = (Column(Kind.DATETIME, np.array([at])) for at in (start, end))
    return f"{quoted(name)} >= {literal(first, 0)} AND {quoted(name)} < {literal(last, 0)}"


def _on(name: str, column: Column, days: Index) -> str:
    """The condition for the days as few runs; empty if they are too many."""
    if not len(days):
        return "1 = 0"
    turns = np.flatnonzero(np.diff(days) != 1)
    firsts, lasts = days[np.concatenate([[0], turns + 1])], days[np.concatenate([turns, [len(days) - 1]])]
    if len(firsts) > MOST_RUNS:
        return ""
    runs = zip(firsts.tolist(), lasts.tolist(), strict=True)
    return " OR ".join(_between(name, column, Days(first, last)) for first, last in runs)
