"""Which records reach the sheet: conditions, open items and the window, each a counted step."""

import hashlib
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kalendor.core.formulas.expressions import blank_names, names_in
from kalendor.core.formulas.formulas import Scope, holds
from kalendor.core.groupings import axes
from kalendor.core.groupings.axes import Ground
from kalendor.core.groupings.calendars import Calendar
from kalendor.core.placing import windows
from kalendor.core.placing.era import Era
from kalendor.core.values.columns import DATED, Column, Mask, column_days, days_of
from kalendor.core.values.days import short_day
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
    """The records that pass a report's conditions, those in its window, and the steps that set the others aside.

    `rows` are positions of records that pass (None: all); `main_rows` those of them that the window shows. `shifted`
    is the date column that comparisons shift; `era` bounds them, None where there is no such column.
    """

    def __init__(self, report: Report, ground: Ground) -> None:
        self.report, self.ground = report, ground
        self.key = screening_key(report, ground)
        self.steps: list[Step] = []
        self.notes: list[str] = []
        passing = self._passing()
        self.window_column, self.shifted = self._dated()
        passing = self._static_window(passing)
        self.rows: Index | None = None if passing is None else np.flatnonzero(passing)
        self.era = self._era()
        self.main_rows = self._main_rows()

    def _passing(self) -> Mask | None:
        """Records that pass every `only` and are open items where ages ask for it; each step is counted."""
        records, ground = self.ground.records, self.ground
        scope = Scope(records.columns, records.count, ground.as_of)
        passing: Mask | None = None
        for condition in self.report.only:
            self._heed_open_items(condition)
            met = holds(condition, scope)
            if ground.origin is not None:
                met = met | ground.origin.spared(set(names_in(condition)))
            passing = self._narrowed(passing, met, condition, "only")
        for entry in (*self.report.down, *self.report.across):
            if isinstance(entry, AgeEntry) and (still_open := axes.open_items(ground, entry)) is not None:
                passing = self._narrowed(passing, still_open, f"not open on {short_day(ground.as_of)}", "open")
        return passing

    def _heed_open_items(self, condition: str) -> None:
        """A plain IS NULL on a closing date leaves out what was still open on an earlier as-of date."""
        for name in blank_names(condition):
            column = self.ground.records.columns.get(name)
            span = column_days(column) if column is not None else None
            if span is not None and span[1] > self.ground.as_of:
                day = short_day(self.ground.as_of)
                self.notes.append(f"{name} IS NULL leaves out items closed after {day}, which were open then")

    def _narrowed(self, passing: Mask | None, met: Mask, why: str, kind: str) -> Mask:
        before = self._own_count(np.ones(len(met), dtype=bool) if passing is None else passing)
        left = met.copy() if passing is None else passing & met
        self.steps.append(Step(why, kind, before - self._own_count(left)))
        return left

    def _own_count(self, mask: Mask) -> int:
        """How many of the report's own records a mask holds; those of a source beside it are not counted."""
        origin = self.ground.origin
        return int(mask.sum() if origin is None else (mask & origin.own).sum())

    def _dated(self) -> tuple[str | None, str | None]:
        """The window's column, and the column that comparisons shift: the first period's, else the window's."""
        window = self.report.window.of if self.report.window else None
        if window is not None and self.ground.column(window).kind not in DATED:
            raise DefinitionError(f"window: {window!r} is not a date column")
        period = next((e.period for e in (*self.report.down, *self.report.across) if isinstance(e, PeriodEntry)), None)
        if period is not None and self.ground.column(period).kind not in DATED:
            period = None
        return window, period or window

    def _calendar(self) -> Calendar:
        entries = [
            e
            for e in (*self.report.down, *self.report.across)
            if isinstance(e, PeriodEntry) and e.period == self.shifted
        ]
        name = entries[0].calendar if entries else self.report.window.calendar if self.report.window else None
        return self.ground.groupings.calendar(name)

    def _window_map(self, column: Column) -> windows.DayMap | None:
        window = self.report.window
        span = column_days(column)
        if window is None or span is None:
            return None
        return windows.within_window(window, self.ground.groupings.calendar(window.calendar), self.ground.as_of, *span)

    def _inside_window(self) -> Mask | None:
        if self.window_column is None:
            return None
        column = self.ground.column(self.window_column)
        days = self._window_map(column)
        if days is None:
            return np.zeros(len(column), dtype=bool)
        return (days.of(days_of(column)) != windows.NONE) & column.present

    def _static_window(self, passing: Mask | None) -> Mask | None:
        """A window on another column than the one that is shifted is a plain condition."""
        if self.window_column is None or self.window_column == self.shifted:
            return passing
        inside = self._inside_window()
        assert inside is not None
        return self._narrowed(passing, inside, "outside the window", "window")

    def _era(self) -> Era | None:
        if self.shifted is None:
            return None
        column = self.ground.column(self.shifted)
        rows = self.rows
        if self.ground.origin is not None:
            own = np.flatnonzero(self.ground.origin.own)
            rows = own if rows is None else np.intersect1d(rows, own)
        span = column_days(column if rows is None else column.take(rows))
        if span is None:
            return None
        calendar = self._calendar()
        window = self.report.window if self.window_column == self.shifted else None
        shown = self._window_map(column) if window else None
        reach = (
            windows.window_span(window, self.ground.groupings.calendar(window.calendar), self.ground.as_of)
            if window
            else None
        )
        return Era(calendar, *span, self.ground.as_of, shown, reach, windows.window_grain(window) if window else None)

    def _main_rows(self) -> Index | None:
        """Records on the sheet: those that pass and lie in the window."""
        if self.window_column is None or self.window_column != self.shifted:
            return self.rows
        inside = self._inside_window()
        assert inside is not None
        passing = np.ones(len(inside), dtype=bool)
        if self.rows is not None:
            passing[:] = False
            passing[self.rows] = True
        chosen = np.flatnonzero(passing & inside)
        outside = self._own_count(passing) - self._own_count(passing & inside)
        self.steps.append(Step("outside the window", "window", outside))
        return chosen


def screening_key(report: Report, ground: Ground) -> str:
    """What a screening rests on."""
    entries = [*report.down, *report.across]
    open_items = [f"{e.opened}/{e.closed}" for e in entries if isinstance(e, AgeEntry)]
    periods = [f"{e.period}/{e.calendar}" for e in entries if isinstance(e, PeriodEntry)]
    calendars = [c.model_dump_json() for c in ground.groupings.calendars.values()] if report.window or periods else []
    window = report.window.model_dump_json() if report.window else ""
    parts = ["screening", ground.stamp, str(ground.as_of), *report.only, window, *open_items, *periods, *calendars]
    return hashlib.sha256("\x1f".join(parts).encode()).hexdigest()


def screened(report: Report, ground: Ground) -> Screening:
    """The screening of a report, kept for its next sheet."""
    return ground.memo(screening_key(report, ground), lambda: Screening(report, ground))
