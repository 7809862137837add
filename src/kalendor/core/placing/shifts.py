"""The shift of a comparison's base: from a base day to the day that it is compared with."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kalendor.core.groupings.calendars import Calendar
from kalendor.core.groupings.periods import CLOCK, Grain, width
from kalendor.core.placing.windows import NONE, offset_into, offset_on
from kalendor.definitions.axis import DayRun

Days = NDArray[np.int64]
LONGEST = {"year": 366, "half": 184, "quarter": 92, "month": 31, "week": 7, "day": 1}
SHORTEST = {"year": 365, "half": 181, "quarter": 90, "month": 28, "week": 7, "day": 1}


@dataclass(frozen=True)
class Shift:
    """A year earlier, one period of the cell's own grain before, or `count` periods of a grain back.

    `by_place`: weeks stand as places in the year, so that a year earlier is the same line, one column back.
    """

    kind: str
    count: int = 1
    grain: str = "year"
    by_place: bool = False

    def later(self, grain: Grain) -> int:
        """By how many microseconds a moment is moved before its day is taken: the period before an hour is the previous
        hour."""
        return CLOCK[grain] if self.kind == "period_before" and isinstance(grain, str) and grain in CLOCK else 0

    def by(self, grain: Grain) -> Grain:
        """The grain of the periods that the shift counts, for cells of `grain`."""
        if self.kind == "period_before":
            return "day" if grain in CLOCK else grain
        return self.grain if self.kind == "back" else "year"

    def forward(self, calendar: Calendar, grain: Grain, days: Days, whole: bool = False) -> Days:
        """The day that each base day is the counterpart of, for cells of `grain`; NONE if the calendar has none.

        With `whole`, for totals over periods of `grain`, base days without a counterpart of their own count at the end
        of the corresponding period, so that the base is that of the whole earlier period.
        """
        target = days if self.later(grain) else self._forward(calendar, grain, calendar.within(days), whole)
        there = calendar.covers("day", days) & (target != NONE) & calendar.covers("day", target)
        return np.where(there, target, NONE)

    def _forward(self, calendar: Calendar, grain: Grain, days: Days, whole: bool) -> Days:
        by = self.by(grain)
        if isinstance(by, DayRun):
            return days + by.days
        if by == "year":
            if self.by_place and grain == "week":
                return _same_place(calendar, days, self.count)
            if isinstance(grain, DayRun) and grain.days > 1:
                return calendar.years_on("month", days, self.count, True)
            return calendar.years_on("day" if width(grain) <= width("day") else str(grain), days, self.count, whole)
        if self.kind == "period_before":
            return offset_on(calendar, by, days, 1)
        if by in ("week", "day"):
            return days + self.count * (7 if by == "week" else 1)
        if width(grain) >= width(by) or (isinstance(grain, DayRun) and grain.days > 1):
            return offset_on(calendar, by, days, self.count)
        found = self._in_coarser(calendar, grain, days)
        return np.where(found == NONE, offset_on(calendar, by, days, self.count), found) if whole else found

    def _in_coarser(self, calendar: Calendar, grain: Grain, days: Days) -> Days:
        """In the period at the same place of the coarser one `count` later, the same distance from its start."""
        here = calendar.ordinals(self.grain, days)
        found = calendar.covers(self.grain, here + self.count)
        low, end = (calendar.starts(self.grain, here + n) for n in (self.count, self.count + 1))
        low = calendar.within(low)
        if width(grain) <= width("day"):
            moved = low + days - calendar.starts(self.grain, here)
            return np.where(found & (moved < end), moved, NONE)
        assert isinstance(grain, str)
        own = calendar.ordinals(grain, days)
        target = calendar.ordinals(grain, low) + own - calendar.ordinals(grain, calendar.starts(self.grain, here))
        if grain == "week":
            moved = calendar.starts("week", target) + days - calendar.starts("week", own)
            return np.where(found & (calendar.starts("week", target) < end), np.clip(moved, low, end - 1), NONE)
        return np.where(
            found & (calendar.starts(grain, target) < end), offset_into(calendar, grain, days, target), NONE
        )

    def base_days(self, calendar: Calendar, grain: Grain, first: int, last: int, oldest: int) -> Days:
        """Days that include all counterparts, from `oldest` on, of the days from `first` to `last`; none that the
        calendar lacks."""
        by = self.by(grain)
        longest = by.days if isinstance(by, DayRun) else LONGEST[by]
        low, high = calendar.within(np.array([max(first - self.count * longest - 60, oldest), last])).tolist()
        start = calendar.within(np.full(1, NONE)).item()
        return np.arange(low if start == NONE else start, high + 1)

    def before(self, calendar: Calendar, grain: Grain, days: Days, oldest: int) -> NDArray[np.bool_]:
        """True for days whose base lies before the calendar's first day, or before `oldest`."""
        by = self.by(grain)
        start = calendar.within(np.full(1, NONE))
        if start.item() == NONE or isinstance(by, DayRun):
            shortest = by.days if isinstance(by, DayRun) else SHORTEST[by]
            return days - self.count * shortest + 60 < oldest
        found: NDArray[np.bool_] = (
            calendar.ordinals(by, calendar.within(days)) - self.count < calendar.ordinals(by, start)[0]
        )
        return found


def _same_place(calendar: Calendar, days: Days, years: int) -> Days:
    """The same weekday of the week with the same number in the year `years` later, so that a cell is the base of the
    cell beside it; if only a part of that week lies in the year, its nearest day, and NONE without one."""
    year, week = calendar.ordinals("year", days), calendar.ordinals("week", days)
    nought = np.zeros_like(year)
    target = calendar.at("week", year + years, nought)[0] + week - calendar.at("week", year, nought)[0]
    moved = calendar.starts("week", target) + days - calendar.starts("week", week)
    first = np.maximum(calendar.starts("week", target), calendar.starts("year", year + years))
    last = np.minimum(calendar.starts("week", target + 1), calendar.starts("year", year + years + 1)) - 1
    return np.where(calendar.covers("year", year + years) & (first <= last), np.clip(moved, first, last), NONE)
