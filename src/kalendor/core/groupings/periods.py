"""A date column in periods: the member of each day, for one grain of one calendar."""

from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from kalendor.core.groupings.calendars import Calendar
from kalendor.core.groupings.levels import BLANK, BLANK_LABEL, NO_START, ORDINARY, Members, marked
from kalendor.core.values.columns import DATED, DAY_MICROSECONDS, Array, Column, Kind, as_kind, day_number, days_of
from kalendor.core.values.days import day_label, short_day
from kalendor.definitions.axis import DayRun
from kalendor.definitions.calendar import WEEKDAYS
from kalendor.errors import DefinitionError

COARSER = {"year": 0, "half": 1, "quarter": 2, "month": 3, "week": 4, "day": 5, "hour": 6, "minute": 7}
MERGING = ("quarter_of_year", "month_of_year", "week_of_year", "day_of_month", "day_of_week", "hour_of_day")
MANY_DAYS = 1000
CLOCK = {"hour": 3_600_000_000, "minute": 60_000_000}
WIDEST_RANGE = 60_000

Grain = str | DayRun
Ordinals = NDArray[np.int64]
_WIDTHS = {
    "year": 365.0,
    "half": 182.0,
    "quarter": 91.0,
    "month": 30.0,
    "week": 7.0,
    "day": 1.0,
    "hour": 1 / 24,
    "minute": 1 / 1440,
}


def width(grain: Grain) -> float:
    """The approximate length in days of a period of a grain; used to order grains."""
    return float(grain.days) if isinstance(grain, DayRun) else _WIDTHS[grain]


@dataclass(frozen=True)
class Grouper:
    """How days (and microseconds of the day) become the members of one level.

    A member is identified by its number: the ordinal of the period, its place in the coarser period on the other axis
    (`within`), or the merged part of the date.
    """

    column: str
    calendar: Calendar
    grain: str
    run: DayRun | None = None
    within: str | None = None

    @cached_property
    def mode(self) -> Literal["own", "place", "merging"]:
        return "place" if self.within else "merging" if self.grain in MERGING else "own"

    @property
    def size(self) -> Grain:
        """The grain as text; for runs of days with their length and start."""
        return self.grain if self.run is None else self.run

    def numbers(self, days: Ordinals, clock: Array | None) -> Ordinals:
        """The member number of each moment; `clock` is microseconds since midnight, None for whole days."""
        if self.run is not None:
            return (days - day_number(self.run.from_)) // self.run.days
        if self.grain in CLOCK:
            size = CLOCK[self.grain]
            ticks = days * (DAY_MICROSECONDS // size) + (0 if clock is None else clock // size)
            return ticks % (DAY_MICROSECONDS // size) if self.within == "day" else ticks
        if self.grain in MERGING:
            return self._merged(days, clock)
        return self._places(days) if self.within else self.calendar.ordinals(self.grain, days)

    def _places(self, days: Ordinals) -> Ordinals:
        """The place of each day's period in the coarser one that contains the day, unique within it."""
        assert self.within is not None
        if self.within == "year" and self.grain == "day":
            return self.calendar.places("day", days)[1]
        outer = self.calendar.ordinals(self.within, days)
        return self.calendar.ordinals(self.grain, days) - self.first_of(outer)

    def first_of(self, outer: Ordinals) -> Ordinals:
        """The ordinal of the period that has place 0 in each coarser one: the first, or for weeks of a year week 1."""
        assert self.within is not None
        if self.within == "year":
            return self.calendar.at(self.grain, outer, np.zeros_like(outer))[0]
        return self.calendar.ordinals(self.grain, self.calendar.starts(self.within, outer))

    def _merged(self, days: Ordinals, clock: Array | None) -> Ordinals:
        if self.grain == "hour_of_day":
            return np.zeros(len(days), np.int64) if clock is None else clock // CLOCK["hour"]
        if self.grain == "day_of_week":
            return (days + 3 - self.calendar.week_start) % 7
        if self.grain == "day_of_month":
            return days - self.calendar.starts("month", self.calendar.ordinals("month", days)) + 1
        grain = self.grain.removesuffix("_of_year")
        return self.calendar.places(grain, self.calendar.ordinals(grain, days))[1]

    def start(self, number: int) -> int | None:
        """The first day (microsecond for hours and minutes) of a period of its own; None for other members."""
        return int(self.starts(np.array([number]))[0]) if self.mode == "own" else None

    def starts(self, numbers: Ordinals) -> Ordinals:
        """The first day (microsecond for hours and minutes) of each of some periods of its own."""
        if self.run is not None:
            return day_number(self.run.from_) + numbers * self.run.days
        if self.grain in CLOCK:
            return numbers * CLOCK[self.grain]
        return self.calendar.starts(self.grain, numbers)

    def label(self, number: int) -> str:
        """The member's name."""
        if self.run is not None:
            first = day_number(self.run.from_) + number * self.run.days
            return (
                f"{short_day(first)} – {short_day(first + self.run.days - 1)}"
                if self.run.days > 1
                else day_label(first)
            )
        if self.grain in CLOCK:
            return self._clock_label(number)
        if self.within:
            return self._place_label(number)
        if self.grain in MERGING:
            return self._merged_label(number)
        return self.calendar.label(self.grain, number)

    def _clock_label(self, number: int) -> str:
        minutes = number * (CLOCK[self.grain] // CLOCK["minute"])
        time = f"{minutes % 1440 // 60:02d}:{minutes % 60:02d}"
        return time if self.within == "day" else f"{day_label(minutes // 1440)} {time}"

    def _place_label(self, number: int) -> str:
        if self.within == "year":
            return self.calendar.place_label(self.grain, number)
        names = {"quarter": "Quarter", "month": "Month", "week": "Week", "day": "Day"}
        return (
            f"{names.get(self.grain, self.grain)} {number + 1}"
            if self.grain != "day" or self.within != "month"
            else str(number + 1)
        )

    def _merged_label(self, number: int) -> str:
        if self.grain == "hour_of_day":
            return f"{number:02d}:00"
        if self.grain == "day_of_week":
            return WEEKDAYS[(number + self.calendar.week_start) % 7].capitalize()
        if self.grain == "day_of_month":
            return str(number)
        return self.calendar.place_label(self.grain.removesuffix("_of_year"), number)


@dataclass(frozen=True, eq=False)
class PeriodLevel:
    """A grouper with its members: `numbers`, shape (m,), rising; the blank member, if any, comes after them."""

    grouper: Grouper
    numbers: Ordinals

    @cached_property
    def spans(self) -> tuple[Ordinals, Ordinals]:
        """The first and last day of each member, if these are periods of their own; shape (m,) each."""
        first, after = self.grouper.starts(self.numbers), self.grouper.starts(self.numbers + 1)
        if self.grouper.grain in CLOCK:
            first, after = first // DAY_MICROSECONDS, -(-after // DAY_MICROSECONDS)
        return first, after - 1

    def codes(self, days: Ordinals, clock: Array | None) -> NDArray[np.int32]:
        """The member of each moment; −1 if no member has its number. Repeated days are looked up once."""
        if len(days) < MANY_DAYS or self.grouper.grain in (*CLOCK, "hour_of_day"):
            return self._coded(self.grouper.numbers(days, clock))
        low, high = int(days.min()), int(days.max())
        if high - low >= len(days):
            return self._coded(self.grouper.numbers(days, None))
        return np.take(self._coded(self.grouper.numbers(np.arange(low, high + 1), None)), days - low)

    def _coded(self, numbers: Ordinals) -> NDArray[np.int32]:
        if not len(self.numbers):
            return np.full(numbers.shape, -1, dtype=np.int32)
        low, high = int(self.numbers[0]), int(self.numbers[-1])
        if high - low + 1 == len(self.numbers):
            inside = (numbers >= low) & (numbers <= high)
            return np.where(inside, numbers - low, -1).astype(np.int32)
        at = np.searchsorted(self.numbers, numbers).clip(0, len(self.numbers) - 1)
        return np.where(self.numbers[at] == numbers, at, -1).astype(np.int32)


def need_dates(column: Column, name: str) -> Column:
    """The column, if it holds dates (or times, for the hour of day)."""
    column = as_kind(column, Kind.DATE, *DATED, Kind.TIME)
    if column.kind not in DATED and column.kind is not Kind.TIME:
        raise DefinitionError(f"{name!r} is {column.kind.value}, not a date; periods need a date column")
    return column


def clock_of(column: Column) -> Array | None:
    """Microseconds since midnight of each record; None for whole days."""
    if column.kind is Kind.DATE:
        return None
    return column.values % DAY_MICROSECONDS


def period_level(grouper: Grouper, column: Column) -> tuple[PeriodLevel, NDArray[np.int32], Members]:
    """A level over a date column: its members, and each record's code.

    Members are all numbers from the first to the last unless they are too many, so that gaps can be shown; otherwise
    those that occur.
    """
    column = need_dates(column, grouper.column)
    days = np.zeros(len(column), np.int64) if column.kind is Kind.TIME else days_of(column)
    clock = clock_of(column)
    present = column.present if column.blank is not None else None
    used = days if present is None else days[present]
    if not len(used):
        level = PeriodLevel(grouper, np.zeros(0, np.int64))
        return level, *_with_blank(level, np.full(len(column), -1, np.int32), column)
    if grouper.grain in CLOCK or grouper.grain == "hour_of_day":
        numbers = grouper.numbers(days, clock)
        level = PeriodLevel(grouper, _members(numbers if present is None else numbers[present]))
        codes = level._coded(numbers)
    else:
        low = int(used.min())
        at = days - low if present is None else np.where(present, days - low, 0)
        table = grouper.numbers(np.arange(low, int(used.max()) + 1), None)
        there = np.zeros(len(table), dtype=bool)
        there[at] = True
        level = PeriodLevel(grouper, _members(np.unique(table[there])))
        codes = level._coded(table)[at]
    return level, *_with_blank(level, codes, column)


def _members(numbers: Ordinals) -> Ordinals:
    low, high = int(numbers.min()), int(numbers.max())
    return np.arange(low, high + 1) if high - low < WIDEST_RANGE else np.unique(numbers)


def _with_blank(level: PeriodLevel, codes: NDArray[np.int32], column: Column) -> tuple[NDArray[np.int32], Members]:
    labels = [level.grouper.label(n) for n in level.numbers.tolist()]
    own = level.grouper.mode == "own" and len(labels) > 0
    starts = level.grouper.starts(level.numbers) if own else np.full(len(labels), NO_START)
    special = [ORDINARY] * len(labels)
    if column.blank is not None:
        codes = np.where(column.blank, np.int32(len(labels)), codes)
        labels, special, starts = [*labels, BLANK_LABEL], [*special, BLANK], np.append(starts, NO_START)
    return codes, marked(labels, special, starts=starts)


def last_day(grouper: Grouper, number: int) -> int:
    """The last day of a period of its own."""
    following = grouper.start(number + 1)
    assert following is not None
    return (following // DAY_MICROSECONDS if grouper.grain in CLOCK else following) - 1
