"""Which days a sheet shows, and which earlier days are a base: maps from a record's day to the day it counts as."""

from dataclasses import dataclass
from datetime import date

import numpy as np
from numpy.typing import NDArray

from kalendor.core.groupings.calendars import Calendar
from kalendor.core.values.columns import day_number
from kalendor.core.values.days import NO_DAY
from kalendor.definitions.report import Show, Window

Days = NDArray[np.int64]
NONE = NO_DAY
EARLIEST = day_number(date.min)


@dataclass(frozen=True, eq=False)
class DayMap:
    """`table[d - low]` is the day that day d counts as, or NONE; days outside the table count as NONE.

    Moments are first moved by `later` microseconds. With `undated`, records without a date are left in place.
    """

    low: int
    table: Days
    later: int = 0
    undated: bool = False

    def of(self, days: Days) -> Days:
        """The day each of `days` counts as."""
        at = days - self.low
        if not len(self.table):
            return np.full(at.shape, NONE)
        inside = (at >= 0) & (at < len(self.table))
        return np.where(inside, self.table[np.where(inside, at, 0)], NONE)

    def same(self, other: "DayMap") -> bool:
        """Whether each day is mapped to itself."""
        return (self.low, self.later) == (other.low, other.later) and np.array_equal(self.table, other.table)


@dataclass(frozen=True)
class Span:
    """Days from `first` to `last`, both included."""

    first: int
    last: int


def window_span(window: Window, calendar: Calendar, as_of: int) -> Span:
    """The days that a window shows."""
    show: Show = window.show
    grain = window_grain(window)
    if grain is None:
        first = EARLIEST if show.from_ is None else day_number(show.from_)
        return Span(first, as_of if show.to is None else day_number(show.to))
    here = int(calendar.ordinals(grain, np.array(as_of)))
    first = here - (show.last or 1) + 1 if show.previous is None else here - 1
    span = Span(max(int(calendar.starts(grain, np.array(first))), EARLIEST), as_of)
    return span if show.previous is None else Span(span.first, int(calendar.starts(grain, np.array(here))) - 1)


def window_grain(window: Window) -> str | None:
    """The grain that a window counts in; None for one given by dates."""
    return window.show.grain or window.show.this or window.show.to_date or window.show.previous


def window_before(window: Window, span: Span) -> tuple[int, str]:
    """The distance to the window before a window: its periods, or its days if it is given by dates."""
    grain = window_grain(window)
    return (max(1, span.last - span.first + 1), "day") if grain is None else (window.show.last or 1, grain)


def within_window(window: Window, calendar: Calendar, as_of: int) -> DayMap:
    """The map of the window's days to themselves, every other day to NONE."""
    span = window_span(window, calendar, as_of)
    days = np.arange(span.first, span.last + 1)
    return DayMap(span.first, np.where(cut_alike(window, calendar, days, as_of), days, NONE))


def cut_alike(window: Window, calendar: Calendar, days: Days, as_of: int) -> NDArray[np.bool_]:
    """False for days after the place at which `each_to_date` cuts every period, inside the window and outside it."""
    grain = window_grain(window)
    if not window.each_to_date or grain is None:
        return np.ones(days.shape, dtype=bool)
    return before_place(calendar, grain, days, as_of)


def before_place(calendar: Calendar, grain: str, days: Days, cut: int) -> NDArray[np.bool_]:
    """True for days that are no later in their period of `grain` than `cut` is in its own."""
    periods = int(calendar.ordinals(grain, np.array(cut))) - calendar.ordinals(grain, days)
    forward = (
        calendar.years_on(grain, days, periods, True) if grain == "year" else offset_on(calendar, grain, days, periods)
    )
    return (forward != NONE) & (forward <= cut)


def offset_into(calendar: Calendar, grain: str, days: Days, target: Days) -> Days:
    """The day at the same distance from the start of `target`; past its end, its last day."""
    own = calendar.starts(grain, calendar.ordinals(grain, days))
    start = calendar.starts(grain, target)
    size = calendar.starts(grain, target + 1) - start
    return start + np.minimum(days - own, size - 1)


def offset_on(calendar: Calendar, grain: str, days: Days, periods: Days | int) -> Days:
    """The same for the period `periods` later; NONE if the calendar has none."""
    target = calendar.ordinals(grain, days) + periods
    return np.where(calendar.covers(grain, target), offset_into(calendar, grain, days, target), NONE)


def cut_map(low: int, high: int, shown: DayMap | None, cut: int) -> DayMap:
    """The map of each shown day to itself, except those after the `cut`; records without a date are not after it."""
    days = np.arange(low, high + 1)
    target = days if shown is None else shown.of(days)
    return DayMap(low, np.where(target > cut, NONE, target), undated=shown is None)
