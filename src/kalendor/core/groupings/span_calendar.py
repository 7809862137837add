"""Calendars of listed years: week-based ones, and those by table."""

from datetime import date, timedelta

import numpy as np
from numpy.typing import NDArray

from kalendor.core.groupings.same_week import same_week
from kalendor.core.values.columns import day_number
from kalendor.core.values.days import NO_DAY, Days, day_label, naming, short_day, week_numbers, week_starts
from kalendor.definitions import calendar as documents
from kalendor.definitions.calendar import WEEKDAYS
from kalendor.errors import DefinitionError

FIRST_YEAR, LAST_YEAR = 1800, 2300


class SpanCalendar:
    """A calendar of listed years, each divided into listed months and quarters; weeks count from the first year's
    start.

    `year_starts`, shape (y + 1,): the first day of each year, and the day after the last. `month_starts` likewise;
    `months_in`, shape (y,), the number of months in each year; `quarter_of`, shape (m,), each month's quarter from 0.
    """

    def __init__(
        self,
        document: documents.Calendar,
        year_starts: Days,
        month_starts: Days,
        months_in: Days,
        quarter_of: Days,
        names: "YearNames",
    ) -> None:
        self.name, self.names, self.naming = document.name, names, naming(document)
        self.week_start = int((year_starts[0] + 3) % 7) if document.weeks else WEEKDAYS.index(document.week_start)
        self.by_weeks = document.weeks is not None
        self.year_starts, self.month_starts_, self.quarter_of = year_starts, month_starts, quarter_of
        self.first_month = np.concatenate([[0], np.cumsum(months_in)])
        changes = np.flatnonzero(np.diff(quarter_of, prepend=-1) != 0)
        turns = np.union1d(changes, self.first_month[:-1])
        self.quarter_months = turns
        self.quarter_starts = np.append(month_starts[turns], year_starts[-1])
        self.first_quarter = np.searchsorted(turns, self.first_month)
        of_year = np.searchsorted(self.first_quarter, np.arange(len(turns)), side="right") - 1
        halves = np.flatnonzero(np.isin(np.arange(len(turns)) - self.first_quarter[of_year], (0, 2)))
        self.half_starts = np.append(self.quarter_starts[halves], year_starts[-1])
        self.first_half = np.searchsorted(halves, self.first_quarter)

    def _edges(self, grain: str) -> tuple[Days, Days]:
        """First days of a grain's periods (and the day after the last), and each year's first ordinal."""
        if grain == "year":
            return self.year_starts, np.arange(len(self.year_starts))
        if grain == "month":
            return self.month_starts_, self.first_month
        if grain == "half":
            return self.half_starts, self.first_half
        return self.quarter_starts, self.first_quarter

    def ordinals(self, grain: str, days: Days) -> Days:
        days = np.asarray(days, dtype=np.int64)
        if days.size and (days.min() < self.year_starts[0] or days.max() >= self.year_starts[-1]):
            first, last = day_label(int(self.year_starts[0])), day_label(int(self.year_starts[-1]) - 1)
            wrong = day_label(int(days.min() if days.min() < self.year_starts[0] else days.max()))
            raise DefinitionError(
                f"calendar {self.name}: it runs from {first} to {last}, and the records reach {wrong}"
            )
        if grain == "day":
            return days
        if grain == "week":
            return week_numbers(days, self.week_start)
        return np.searchsorted(self._edges(grain)[0], days, side="right") - 1

    def starts(self, grain: str, ordinals: Days) -> Days:
        ordinals = np.asarray(ordinals, dtype=np.int64)
        if grain == "day":
            return ordinals
        if grain == "week":
            return week_starts(ordinals, self.week_start)
        edges = self._edges(grain)[0]
        return edges[np.clip(ordinals, 0, len(edges) - 1)]

    def places(self, grain: str, ordinals: Days) -> tuple[Days, Days]:
        ordinals = np.asarray(ordinals, dtype=np.int64)
        if grain in ("day", "week"):
            starts = self.starts(grain, ordinals)
            reach = starts if self.by_weeks or grain == "day" else starts + 6
            reach = np.clip(reach, self.year_starts[0], self.year_starts[-1] - 1)
            years = np.searchsorted(self.year_starts, reach, side="right") - 1
            return years, ordinals - self._first_of(grain, years)
        firsts = self._edges(grain)[1]
        years = np.searchsorted(firsts, ordinals, side="right") - 1
        return years, ordinals - firsts[years]

    def _first_of(self, grain: str, years: Days) -> Days:
        starts = self.year_starts[years]
        return starts if grain == "day" else week_numbers(starts, self.week_start)

    def at(self, grain: str, years: Days, places: Days) -> tuple[Days, NDArray[np.bool_]]:
        years, places = np.asarray(years, dtype=np.int64), np.asarray(places, dtype=np.int64)
        inside = (years >= 0) & (years < len(self.year_starts) - 1)
        safe = np.where(inside, years, 0)
        if grain in ("day", "week"):
            found = self._first_of(grain, safe) + places
            return found, inside & (self.places(grain, found)[0] == safe)
        firsts = self._edges(grain)[1]
        found = firsts[safe] + places
        return found, inside & (found < firsts[safe + 1])

    def covers(self, grain: str, ordinals: Days) -> NDArray[np.bool_]:
        ordinals = np.asarray(ordinals, dtype=np.int64)
        if grain in ("day", "week"):
            starts = self.starts(grain, ordinals)
            return (starts + (6 if grain == "week" else 0) >= self.year_starts[0]) & (starts < self.year_starts[-1])
        return (ordinals >= 0) & (ordinals < len(self._edges(grain)[0]) - 1)

    def within(self, days: Days) -> Days:
        return np.clip(days, self.year_starts[0], self.year_starts[-1] - 1)

    def years_on(self, grain: str, days: Days, years: Days | int, whole: bool = False) -> Days:
        if self.by_weeks or grain == "week":
            return same_week(self, days, years, whole or grain not in ("day", "week"))
        found = self._numbered(grain, days, years)
        return np.where(found == NO_DAY, self._numbered("year", days, years), found) if whole else found

    def _numbered(self, grain: str, days: Days, years: Days | int) -> Days:
        """In the period with the same number `years` later: its part with the same number, the same day."""
        exact, outer = grain == "day", "month" if grain == "day" else grain
        year, place = self.places(outer, self.ordinals(outer, days))
        target, found = self.at(outer, year + years, place)
        target, found = (year + years, self.covers("year", year + years)) if grain == "year" else (target, found)
        target = np.where(found, target, 0)
        low, end = self.starts(outer, target), self.starts(outer, target + 1)
        month = self.ordinals("month", days)
        nth = month - self.ordinals("month", self.starts(outer, self.ordinals(outer, days)))
        begins = self.starts("month", self.ordinals("month", low) + nth)
        moved = begins + days - self.starts("month", month)
        last = np.minimum(self.starts("month", self.ordinals("month", low) + nth + 1), end) - 1
        if exact:
            found &= moved <= last
        return np.where(found, np.minimum(np.where(begins < end, moved, end - 1), last), NO_DAY)

    def year_name(self, year: int) -> str:
        return self.names[year]

    def label(self, grain: str, ordinal: int) -> str:
        if grain == "day":
            return day_label(ordinal)
        year, place = (int(x) for x in self.places(grain, np.array(ordinal)))
        if grain == "year":
            return self.year_name(ordinal)
        if grain == "week":
            if self.by_weeks:
                return f"W{place + 1:02d} {self.year_name(year)}"
            return f"Week of {short_day(int(self.starts('week', np.array(ordinal))))}"
        if grain == "month" and isinstance(self.names, TableNames):
            return self.names.months[ordinal]
        return f"{self.year_name(year)} {self._quarter_name(ordinal) if grain == 'quarter' else self.place_label(grain, place)}"

    def _quarter_name(self, ordinal: int) -> str:
        return self.naming.place("quarter", int(self.quarter_of[self.quarter_months[ordinal]]))

    def place_label(self, grain: str, place: int) -> str:
        return f"Day {place + 1}" if grain == "day" else self.naming.place(grain, place)


class YearNames(tuple[str, ...]):
    """The names of a calendar's listed years, in order."""


class TableNames(YearNames):
    """Year names, with the names of the months of a calendar by table."""

    months: tuple[str, ...] = ()


def week_year_end(rule: documents.Weeks, year: int) -> tuple[date, date]:
    """The last day of the week-based year whose nominal end falls in civil `year`, and that nominal end."""
    nominal = date(year + rule.month // 12, rule.month % 12 + 1, 1) - timedelta(days=1)
    back = (nominal.weekday() - WEEKDAYS.index(rule.weekday)) % 7
    if rule.ends == "nearest" and back > 3:
        back -= 7
    return nominal - timedelta(days=back), nominal


_QUARTER_WEEKS = {"4-4-5": (4, 4, 5), "4-5-4": (4, 5, 4), "5-4-4": (5, 4, 4)}


def _month_weeks(pattern: str, weeks: int) -> list[int]:
    sizes = [4] * 13 if pattern == "13x4" else list(_QUARTER_WEEKS[pattern]) * 4
    sizes[-1] += weeks - 52
    return sizes


def by_weeks(document: documents.Calendar) -> SpanCalendar:
    """The week-based calendar that a document describes, over the years 1800 to 2300."""
    rule = document.weeks
    assert rule is not None
    ends = [week_year_end(rule, year) for year in range(FIRST_YEAR - 1, LAST_YEAR + 1)]
    starts = [day_number(end) + 1 for end, _ in ends]
    naming_ = naming(document)
    names, months, quarter_of, months_in = [], [], [], []
    quarters = [0] * 3 + [1] * 3 + [2] * 3 + [3] * (4 if rule.pattern == "13x4" else 3)
    for i, start in enumerate(starts[:-1]):
        named = ends[i + 1][1] if document.year_name.by == "end" else ends[i][1] + timedelta(days=1)
        names.append(naming_.year(named.year))
        sizes = _month_weeks(rule.pattern, (starts[i + 1] - start) // 7)
        months.extend((start + 7 * np.cumsum([0, *sizes[:-1]])).tolist())
        quarter_of.extend(quarters)
        months_in.append(len(sizes))
    return SpanCalendar(
        document,
        np.array(starts, dtype=np.int64),
        np.array([*months, starts[-1]], dtype=np.int64),
        np.array(months_in),
        np.array(quarter_of),
        YearNames(names),
    )


def by_table(document: documents.Calendar) -> SpanCalendar:
    """The calendar whose periods a document lists.

    Raises DefinitionError if the periods of a year are not consecutive.
    """
    table = document.table
    assert table is not None
    starts = [day_number(period.start) for period in table.periods] + [day_number(table.ends) + 1]
    years: list[str] = []
    year_starts, months_in, quarter_of = [], [], []
    quarters: list[str] = []
    for period, start in zip(table.periods, starts, strict=False):
        if not years or years[-1] != period.year:
            if period.year in years:
                raise DefinitionError(f"calendar {document.name}: the year {period.year} is broken in two by others")
            years.append(period.year)
            year_starts.append(start)
            months_in.append(0)
            quarters = []
        name = period.quarter or f"Q{months_in[-1] // 3 + 1}"
        if name not in quarters:
            quarters.append(name)
        quarter_of.append(quarters.index(name))
        months_in[-1] += 1
    names = TableNames(years)
    names.months = tuple(period.name for period in table.periods)
    return SpanCalendar(
        document,
        np.array([*year_starts, starts[-1]], dtype=np.int64),
        np.array(starts, dtype=np.int64),
        np.array(months_in),
        np.array(quarter_of),
        names,
    )
