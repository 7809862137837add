"""Which records reach the sheet: conditions, open items and the window, each a counted step."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from kalendor.core.formulas.expressions import blank_names, names_in
from kalendor.core.formulas.formulas import holds
from kalendor.core.formulas.scope import Scope
from kalendor.core.groupings.calendars import Calendar
from kalendor.core.groupings.ground import Ground
from kalendor.core.placing import windows
from kalendor.core.placing.era import Era
from kalendor.core.values.columns import DATED, DAY_MICROSECONDS, Column, Kind, Mask, as_kind, column_days, days_of
from kalendor.core.values.interruption import go_on
from kalendor.core.values.keys import Key
from kalendor.core.values.notation import noted_day
from kalendor.definitions.axis import AgeEntry, PeriodEntry
from kalendor.definitions.report import Report
from kalendor.errors import DefinitionError

Index = NDArray[np.int64]


@dataclass(frozen=True)
class Step:
    """Records that did not reach the sheet, and why."""

    why: str
    kind: str
    records: int


class Screening:
    """The records that satisfy a report's conditions, those in its window, and the steps that exclude the others.

    `rows` are positions of records that pass (None: all), including those that `each_to_date` cuts, in any period;
    `main_rows` those of them that the window shows. `shifted` is the date column that comparisons shift; `era` bounds
    them, None without such a column.
    """

    def __init__(self, report: Report, ground: Ground, open_items: Sequence[Mask], key: Key) -> None:
        self.report, self.ground, self.open_items, self.key = report, ground, open_items, key
        self.steps: list[Step] = []
        self.notes: list[str] = []
        passing = self._passing()
        self.window_column, self.shifted = self._dated()
        passing = self._static_window(passing)
        self.rows: Index | None = None if passing is None else np.flatnonzero(passing)
        self.era = self._era()
        self.main_rows = self._main_rows()
        self._leave_out_cut()

    def _passing(self) -> Mask | None:
        """Records that satisfy every `only` and, if ages require it, are open items; each step is counted."""
        records, ground = self.ground.records, self.ground
        scope = Scope(records.columns, records.count, ground.as_of)
        passing: Mask | None = None
        for condition in self.report.only:
            go_on()
            self._note_open_items(condition)
            met = holds(condition, scope)
            if ground.origin is not None:
                met = met | ground.origin.spared(set(names_in(condition)))
            passing = self._narrowed(passing, met, condition, "only")
        for still_open in self.open_items:
            passing = self._narrowed(passing, still_open, f"not open on {noted_day(ground.as_of)}", "open")
        return passing

    def _note_open_items(self, condition: str) -> None:
        """Adds a note on items that a plain IS NULL on a closing date excludes although they were still open on an
        earlier as-of date."""
        for name in blank_names(condition):
            column = self.ground.records.columns.get(name)
            span = column_days(column) if column is not None else None
            if span is not None and span[1] > self.ground.as_of:
                day = noted_day(self.ground.as_of)
                self.notes.append(f"{name} IS NULL leaves out items closed after {day}, which were open then")

    def _narrowed(self, passing: Mask | None, met: Mask, why: str, kind: str) -> Mask:
        before = self._own_count(np.ones(len(met), dtype=bool) if passing is None else passing)
        left = met.copy() if passing is None else passing & met
        self.steps.append(Step(why, kind, before - self._own_count(left)))
        return left

    def _own_count(self, mask: Mask) -> int:
        """How many of the report's own records a mask selects; those of a source beside are not counted."""
        origin, times = self.ground.origin, self.ground.times
        own = mask if origin is None else mask & origin.own
        return int(own.sum() if times is None else times[own].sum())

    def _dated(self) -> tuple[str | None, str | None]:
        """The window's column, and the column that comparisons shift: the first period's, else the window's."""
        window = self.report.window.of if self.report.window else None
        if window is not None and as_kind(self.ground.column(window), Kind.DATE, *DATED).kind not in DATED:
            raise DefinitionError(f"window: {window!r} is not a date column")
        period = next((entry.period for entry in self.report.entries_of(PeriodEntry)), None)
        if period is not None and as_kind(self.ground.column(period), Kind.DATE, *DATED).kind not in DATED:
            period = None
        return window, period or window

    def calendar(self) -> Calendar:
        """The calendar of the column that comparisons shift: its first period's, else the window's, else the civil year."""
        entries = [entry for entry in self.report.entries_of(PeriodEntry) if entry.period == self.shifted]
        name = entries[0].calendar if entries else self.report.window.calendar if self.report.window else None
        return self.ground.groupings.calendar(name)

    def window_map(self) -> windows.DayMap:
        """The days that the report's window shows; there is one."""
        window = self.report.window
        assert window is not None
        return windows.within_window(window, self.ground.groupings.calendar(window.calendar), self.ground.as_of)

    def _inside_window(self, passing: Mask | None) -> Mask:
        """The records that pass and are in the window; those without a date, and those outside it, are a step each."""
        column = as_kind(self.ground.column(self.window_column or ""), Kind.DATE, *DATED)
        if column.blank is not None and column.blank.any():
            passing = self._narrowed(passing, column.present, "without a date", "undated")
        inside = self.window_map().of(days_of(column)) != windows.NONE
        return self._narrowed(passing, inside, "outside the window", "window")

    def _static_window(self, passing: Mask | None) -> Mask | None:
        """A window on another column than the shifted one, which is a plain condition."""
        if self.window_column is None or self.window_column == self.shifted:
            return passing
        return self._inside_window(passing)

    def _era(self) -> Era | None:
        if self.shifted is None:
            return None
        column = self.ground.column(self.shifted)
        rows = self.rows
        if self.ground.origin is not None:
            own = np.flatnonzero(self.ground.origin.own)
            rows = own if rows is None else np.intersect1d(rows, own)
        passing = column if rows is None else column.take(rows)
        span = column_days(passing)
        if span is None:
            return None
        window = self.report.window if self.window_column == self.shifted else None
        era = Era(self.calendar(), *span, _first_moment(passing, span[0]), self.ground.as_of)
        if window is None:
            return era
        calendar, as_of = self.ground.groupings.calendar(window.calendar), self.ground.as_of
        shown = windows.window_span(window, calendar, as_of)
        return replace(
            era,
            shown=self.window_map(),
            span=shown,
            grain=windows.window_grain(window),
            before=windows.window_before(window, shown),
            alike=lambda days: windows.cut_alike(window, calendar, calendar.within(days), as_of),
        )

    def _main_rows(self) -> Index | None:
        """Records on the sheet: those that pass and lie in the window."""
        if self.window_column is None or self.window_column != self.shifted:
            return self.rows
        passing = None
        if self.rows is not None:
            passing = np.zeros(self.ground.records.count, dtype=bool)
            passing[self.rows] = True
        return np.flatnonzero(self._inside_window(passing))

    def _leave_out_cut(self) -> None:
        """Excludes records that `each_to_date` cuts from what bases, running and moving figures count."""
        window = self.report.window
        if window is None or not window.each_to_date or self.era is None or self.era.shown is None:
            return
        column = as_kind(self.ground.column(window.of), Kind.DATE, *DATED)
        rows = np.flatnonzero(column.present) if self.rows is None else self.rows[column.present[self.rows]]
        self.rows = rows[self.era.alike(days_of(column)[rows])]


def _first_moment(column: Column, first_day: int) -> int:
    if column.kind is Kind.DATETIME:
        return int(column.values[column.present].min())
    return first_day * DAY_MICROSECONDS


def screened(report: Report, ground: Ground, open_items: Sequence[Mask]) -> Screening:
    """The screening of a report, cached; `open_items` are the masks of its age entries."""
    periods = report.entries_of(PeriodEntry)
    calendars = [entry.calendar for entry in periods]
    calendars += [report.window.calendar] if report.window else []
    key = ground.key(
        "screening",
        ground.as_of,
        report.only,
        report.window,
        [(entry.opened, entry.closed) for entry in report.entries_of(AgeEntry)],
        [(entry.period, entry.calendar) for entry in periods],
        [ground.groupings.calendar_document(name) for name in calendars],
    )
    return ground.memo(key, lambda: Screening(report, ground, open_items, key))
