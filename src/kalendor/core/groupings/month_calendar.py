"""The calendar by months."""

from datetime import timedelta

import numpy as np
from numpy.typing import NDArray

from kalendor.core.groupings.same_week import same_week
from kalendor.core.values.columns import day_of
from kalendor.core.values.days import (
    MONTH_NAMES,
    NO_DAY,
    PER_YEAR,
    Days,
    civil_years_on,
    day_label,
    month_numbers,
    month_starts,
    naming,
    short_day,
    week_numbers,
    week_starts,
)
from kalendor.definitions import calendar as documents
from kalendor.definitions.calendar import WEEKDAYS


class MonthCalendar:
    """Years of twelve months from a given day of a given month; the civil year starts on 1 January."""

    def __init__(self, document: documents.Calendar) -> None:
        assert document.months is not None
        self.name = document.name
        self.start_month, self.start_day = document.months.start_month, document.months.start_day
        self.week_start = WEEKDAYS.index(document.week_start)
        self.civil = self.start_month == 1 and self.start_day == 1
        self.iso = self.civil and self.week_start == 0
        self.naming = naming(document)
        self.by_start = document.year_name.by == "start" or self.civil

    def ordinals(self, grain: str, days: Days) -> Days:
        days = np.asarray(days, dtype=np.int64)
        if grain == "day":
            return days
        if grain == "week":
            return week_numbers(days, self.week_start)
        months = month_numbers(days - (self.start_day - 1)) - (self.start_month - 1)
        return months // (12 // PER_YEAR[grain])

    def starts(self, grain: str, ordinals: Days) -> Days:
        ordinals = np.asarray(ordinals, dtype=np.int64)
        if grain == "day":
            return ordinals
        if grain == "week":
            return week_starts(ordinals, self.week_start)
        months = ordinals * (12 // PER_YEAR[grain]) + self.start_month - 1
        return month_starts(months) + self.start_day - 1

    def places(self, grain: str, ordinals: Days) -> tuple[Days, Days]:
        ordinals = np.asarray(ordinals, dtype=np.int64)
        if grain in PER_YEAR:
            return ordinals // PER_YEAR[grain], ordinals % PER_YEAR[grain]
        starts = self.starts(grain, ordinals)
        if grain == "day":
            return self.ordinals("year", starts), self._day_places(starts)
        if self.iso:
            years = self.ordinals("year", starts + 3)
            return years, ordinals - self.ordinals("week", self.starts("year", years) + 3)
        years = self.ordinals("year", starts + 6)
        return years, ordinals - self.ordinals("week", self.starts("year", years))

    def _day_places(self, days: Days) -> Days:
        """A number for each civil month and day, rising from the year's first day; days of the start month before the
        start day come last."""
        months = month_numbers(days)
        of_month = days - month_starts(months) + 1
        turn = (months - (self.start_month - 1)) % 12
        turn = np.where((turn == 0) & (of_month < self.start_day), 12, turn)
        return turn * 32 + of_month

    def at(self, grain: str, years: Days, places: Days) -> tuple[Days, NDArray[np.bool_]]:
        years, places = np.asarray(years, dtype=np.int64), np.asarray(places, dtype=np.int64)
        if grain in PER_YEAR:
            return years * PER_YEAR[grain] + places, np.ones(places.shape, dtype=bool)
        if grain == "day":
            months = years * 12 + self.start_month - 1 + places // 32
            first = month_starts(months)
            return first + places % 32 - 1, first + places % 32 <= month_starts(months + 1)
        first = self.starts("year", years)
        weeks = self.ordinals("week", first + 3 if self.iso else first) + places
        return weeks, self.places("week", weeks)[0] == years

    def covers(self, grain: str, ordinals: Days) -> NDArray[np.bool_]:
        return np.ones(np.shape(ordinals), dtype=bool)

    def within(self, days: Days) -> Days:
        return np.asarray(days, dtype=np.int64)

    def years_on(self, grain: str, days: Days, years: Days | int, whole: bool = False) -> Days:
        if grain == "week":
            return same_week(self, days, years, whole)
        moved = civil_years_on(days, years)
        if grain != "day" or whole:
            return moved
        return np.where(civil_years_on(moved, -np.asarray(years)) == days, moved, NO_DAY)

    def _named_after(self, year: int) -> int:
        start = day_of(int(self.starts("year", np.array(year))))
        if self.by_start:
            return start.year
        return (day_of(int(self.starts("year", np.array(year + 1)))) - timedelta(days=1)).year

    def year_name(self, year: int) -> str:
        return self.naming.year(self._named_after(year))

    def label(self, grain: str, ordinal: int) -> str:
        start = int(self.starts(grain, np.array(ordinal)))
        if grain == "day":
            return day_label(start)
        year, place = (int(x) for x in self.places(grain, np.array(ordinal)))
        if grain == "year":
            return self.year_name(ordinal)
        if grain == "week":
            return f"{self.year_name(year)}-W{place + 1:02d}" if self.iso else f"Week of {short_day(start)}"
        if grain == "month" and self.start_day == 1 and not self.naming.months:
            first = day_of(start)
            return f"{MONTH_NAMES[first.month - 1]} {first.year}"
        return f"{self.year_name(year)} {self.place_label(grain, place)}"

    def place_label(self, grain: str, place: int) -> str:
        if grain == "day":
            return f"{place % 32} {MONTH_NAMES[(place // 32 + self.start_month - 1) % 12]}"
        if grain == "month" and self.start_day == 1 and not self.naming.months:
            return MONTH_NAMES[(place + self.start_month - 1) % 12]
        return self.naming.place(grain, place)
