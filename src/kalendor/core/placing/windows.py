"""Which days a sheet shows, and which earlier days stand as a base: maps from a record's day to the day it counts as."""

from dataclasses import dataclass
from datetime import date

import numpy as np
from numpy.typing import NDArray

from kalendor.core.groupings.calendars import Calendar
from kalendor.core.groupings.month_calendar import MonthCalendar
from kalendor.core.groupings.periods import CLOCK, COARSER
from kalendor.core.values.columns import day_number
from kalendor.core.values.days import civil_years_on
from kalendor.definitions.report import Show, Window

Days = NDArray[np.int64]
NONE = np.iinfo(np.int64).min
EARLIEST = day_number(date.min)


@dataclass(frozen=True, eq=False)
class DayMap:
    """`table[d - low]` is the day that day d counts as, or NONE; days outside the table count as NONE.

    Moments are first moved on by `later` microseconds. With `undated` records without a date stand where they do.
    """

    low: int
    table: Days
    later: int = 0
    undated: bool = False

    def of(self, days: Days) -> Days:
        """The day each of `days` counts as."""
        at = days - self.low
        inside = (at >= 0) & (at < len(self.table))
        return np.where(inside, self.table[np.where(inside, at, 0)], NONE)

    def same(self, other: "DayMap") -> bool:
        """Whether each day counts as the same one."""
        return (self.low, self.later) == (other.low, other.later) and np.array_equal(self.table, other.table)


@dataclass(frozen=True)
class Span:
    """Days from `first` to `last`, both included."""

    first: int
    last: int


def window_span(window: Window, calendar: Calendar, as_of: int) -> Span:
    """The days that a window shows."""
    show: Show = window.show
    if show.from_ is not None and show.to is not None:
        return Span(day_number(show.from_), day_number(show.to))
    grain = show.grain or show.this or show.to_date
    assert grain is not None
    here = int(calendar.ordinals(grain, np.array(as_of)))
    first = here - (show.last or 1) + 1
    return Span(max(int(calendar.starts(grain, np.array(first))), EARLIEST), as_of)


def window_grain(window: Window) -> str | None:
    """The grain that a window counts in; None for one from a date to a date."""
    return window.show.grain or window.show.this or window.show.to_date


def within_window(window: Window, calendar: Calendar, as_of: int) -> DayMap:
    """The window's days as themselves, every other day as NONE."""
    span = window_span(window, calendar, as_of)
    days = np.arange(span.first, span.last + 1)
    if window.each_to_date:
        grain = window_grain(window)
        assert grain is not None
        days = np.where(before_place(calendar, grain, days, as_of), days, NONE)
    return DayMap(span.first, days)


def before_place(calendar: Calendar, grain: str, days: Days, cut: int) -> NDArray[np.bool_]:
    """True for days that stand no later in their period of `grain` than `cut` stands in its own."""
    back = int(calendar.ordinals(grain, np.array(cut)))
    own = calendar.ordinals(grain, days)
    forward = np.full(days.shape, NONE)
    for ordinal in np.unique(own).tolist():
        here = own == ordinal
        moved = _years_on if grain == "year" else _offset_on
        forward[here] = moved(calendar, grain, days[here], back - ordinal)
    return (forward != NONE) & (forward <= cut)


def _years_on(calendar: Calendar, grain: str, days: Days, years: int) -> Days:
    """Each day's like, so many years on, for periods of a grain; NONE where the year has no such place.

    By months: the same month and day, whatever day the calendar starts on (29 February answers to the 28th, but for
    days as periods, where it has no like). By weeks: the same week and weekday; a week 53 without its like counts at
    the year's end, but for weeks and days.
    """
    if isinstance(calendar, MonthCalendar) and grain != "week":
        moved = civil_years_on(days, years)
        return np.where(civil_years_on(moved, -years) == days, moved, NONE) if grain == "day" else moved
    if getattr(calendar, "by_weeks", False) or grain in ("week", "day"):
        return _same_week(calendar, grain, days, years)
    year, place = calendar.places("month", calendar.ordinals("month", days))
    return _placed(calendar, "month", days, year + years, place)


def _same_week(calendar: Calendar, grain: str, days: Days, years: int) -> Days:
    weeks = calendar.ordinals("week", days)
    year, place = calendar.places("week", weeks)
    target, found = calendar.at("week", year + years, place)
    moved = calendar.starts("week", target) + days - calendar.starts("week", weeks)
    last = NONE if grain in ("week", "day") else calendar.starts("year", year + years + 1) - 1
    return np.where(found, moved, last)


def _same_place(calendar: Calendar, days: Days, years: int) -> Days:
    """The same weekday of the week with the same number in the year so many years on, so that a cell is the base of the
    cell beside it; where only a part of that week lies in the year, the nearest day of it, and NONE where none does."""
    year, week = calendar.ordinals("year", days), calendar.ordinals("week", days)
    nought = np.zeros_like(year)
    target = calendar.at("week", year + years, nought)[0] + week - calendar.at("week", year, nought)[0]
    moved = calendar.starts("week", target) + days - calendar.starts("week", week)
    first = np.maximum(calendar.starts("week", target), calendar.starts("year", year + years))
    last = np.minimum(calendar.starts("week", target + 1), calendar.starts("year", year + years + 1)) - 1
    return np.where(first <= last, np.clip(moved, first, last), NONE)


def _placed(calendar: Calendar, grain: str, days: Days, years: Days, places: Days) -> Days:
    target, found = calendar.at(grain, years, places)
    return np.where(found, _offset_into(calendar, grain, days, target), NONE)


def _offset_into(calendar: Calendar, grain: str, days: Days, target: Days) -> Days:
    """The day at the same number of days from the start of `target`; past its end, its last day."""
    own = calendar.starts(grain, calendar.ordinals(grain, days))
    start = calendar.starts(grain, target)
    size = calendar.starts(grain, target + 1) - start
    return start + np.minimum(days - own, size - 1)


def _offset_on(calendar: Calendar, grain: str, days: Days, periods: int) -> Days:
    return _offset_into(calendar, grain, days, calendar.ordinals(grain, days) + periods)


@dataclass(frozen=True)
class Shift:
    """How far back a base lies: a year, one period of the level's own grain, or `count` periods of a grain.

    `by_place`: weeks stand as places in the year, so that a year earlier is the same line, one column back.
    """

    kind: str
    count: int = 1
    grain: str = "year"
    by_place: bool = False

    def later(self, grain: str) -> int:
        """How many microseconds a moment is moved on before its day is: the period before an hour is the hour before."""
        return CLOCK[grain] if self.kind == "period_before" and grain in CLOCK else 0

    def forward(self, calendar: Calendar, grain: str, days: Days) -> Days:
        """The day that each day is the base of, for levels of `grain`; NONE where it is the base of none."""
        if self.later(grain):
            return days
        if self.kind == "period_before" and grain != "year":
            return _offset_on(calendar, _whole(grain), days, 1)
        if self.kind in ("period_before", "year_earlier") or self.grain == "year":
            if self.by_place and grain == "week":
                return _same_place(calendar, days, self.count)
            like = "month" if grain == "run" and isinstance(calendar, MonthCalendar) else _whole(grain)
            return _years_on(calendar, like, days, self.count)
        if self.grain in ("week", "day"):
            return days + self.count * (7 if self.grain == "week" else 1)
        return self._in_coarser(calendar, _whole(grain), days)

    def _in_coarser(self, calendar: Calendar, grain: str, days: Days) -> Days:
        """In the period at the same place of the coarser one so many on, as far into it; NONE where there is none. Weeks that
        months cut are told by their parts: the nearest day of the part."""
        if COARSER[grain] < COARSER[self.grain]:
            grain = self.grain
        if grain == "day" and isinstance(calendar, MonthCalendar):
            grain = self.grain
        here = calendar.ordinals(self.grain, days)
        own = calendar.ordinals(grain, days)
        first = calendar.ordinals(grain, calendar.starts(self.grain, here))
        target = calendar.ordinals(grain, calendar.starts(self.grain, here + self.count)) + own - first
        if grain == "week" and isinstance(calendar, MonthCalendar):
            low, high = (calendar.starts(self.grain, here + n) for n in (self.count, self.count + 1))
            moved = calendar.starts("week", target) + days - calendar.starts("week", own)
            return np.where(calendar.starts("week", target) < high, np.clip(moved, low, high - 1), NONE)
        fits = calendar.ordinals(self.grain, calendar.starts(grain, target)) == here + self.count
        return np.where(fits, _offset_into(calendar, grain, days, target), NONE)


def _whole(grain: str) -> str:
    """The grain to shift days by: hours and minutes move with their day."""
    return "day" if grain in ("hour", "minute", "run") else grain


def shift_map(
    shift: Shift, calendar: Calendar, grain: str, low: int, high: int, shown: DayMap | None, cut: int | None
) -> DayMap:
    """Base days of a shift over `low` to `high`: where they count, if that is shown and not after the `cut`."""
    days = np.arange(low, high + 1 + (1 if shift.later(grain) else 0))
    target = shift.forward(calendar, grain, days)
    if shown is not None:
        target = np.where(target == NONE, NONE, shown.of(target))
    return DayMap(low, _cut(target, cut), shift.later(grain))


def cut_map(low: int, high: int, shown: DayMap | None, cut: int) -> DayMap:
    """Each shown day as itself, but for those after the `cut`; records without a date are not after it."""
    days = np.arange(low, high + 1)
    return DayMap(low, _cut(days if shown is None else shown.of(days), cut), undated=shown is None)


def _cut(target: Days, cut: int | None) -> Days:
    return target if cut is None else np.where(target > cut, NONE, target)
