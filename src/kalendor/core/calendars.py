"""Calendars: how days fall into years, halves, quarters, months and weeks.

A period is known by its grain and its ordinal, a whole number that grows with time; ordinals of one grain follow
each other without gaps. Days are whole days since 1970-01-01. All methods work on int64 arrays of any shape.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from functools import lru_cache
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from kalendor.core.columns import day_number, day_of
from kalendor.definitions import calendar as documents
from kalendor.definitions.calendar import WEEKDAYS
from kalendor.errors import DefinitionError

Days = NDArray[np.int64]

FIRST_YEAR, LAST_YEAR = 1800, 2300
MONTH_NAMES = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")
PER_YEAR = {"year": 1, "half": 2, "quarter": 4, "month": 12}


class Calendar(Protocol):
    """What every calendar answers."""

    name: str
    week_start: int

    def ordinals(self, grain: str, days: Days) -> Days:
        """The ordinal of the period that each day falls in."""
        ...

    def starts(self, grain: str, ordinals: Days) -> Days:
        """The first day of each period."""
        ...

    def places(self, grain: str, ordinals: Days) -> tuple[Days, Days]:
        """The year (an ordinal of grain year) and the place in it, from 0, of each period."""
        ...

    def at(self, grain: str, years: Days, places: Days) -> tuple[Days, NDArray[np.bool_]]:
        """The ordinal at a place of a year, and whether the year has that place."""
        ...

    def year_name(self, year: int) -> str:
        """A year's name, as FY26."""
        ...

    def label(self, grain: str, ordinal: int) -> str:
        """A period's name, carrying its year."""
        ...

    def place_label(self, grain: str, place: int) -> str:
        """A place in the year, without the year."""
        ...


def day_label(day: int) -> str:
    """ISO 8601."""
    return day_of(day).isoformat()


def short_day(day: int) -> str:
    """As `1 Nov 2025`."""
    d = day_of(day)
    return f"{d.day} {MONTH_NAMES[d.month - 1]} {d.year}"


def month_numbers(days: Days) -> Days:
    """Civil months since January of year 0."""
    return days.astype("datetime64[D]").astype("datetime64[M]").astype(np.int64) + 1970 * 12


def month_starts(months: Days) -> Days:
    """First days of civil months that are counted from January of year 0."""
    return (months - 1970 * 12).astype("datetime64[M]").astype("datetime64[D]").astype(np.int64)


@dataclass(frozen=True)
class Naming:
    """How a calendar names its years, quarters and months."""

    prefix: str
    digits: int
    quarters: tuple[str, ...] | None
    months: tuple[str, ...] | None

    def year(self, civil: int) -> str:
        return self.prefix + (f"{civil % 100:02d}" if self.digits == 2 else str(civil))

    def place(self, grain: str, place: int) -> str:
        if grain == "quarter" and self.quarters:
            return self.quarters[place]
        if grain == "month" and self.months and place < len(self.months):
            return self.months[place]
        letter = {"half": "H", "quarter": "Q"}.get(grain)
        return f"{letter}{place + 1}" if letter else f"{'M' if grain == 'month' else 'W'}{place + 1:02d}"


class MonthCalendar:
    """Years of twelve months from a given day of a given month; the civil year is the one from 1 January."""

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
            month, first = self._month_of(starts)
            return month // 12, (month % 12) * 32 + starts - first
        if self.iso:
            years = self.ordinals("year", starts + 3)
            return years, ordinals - self.ordinals("week", self.starts("year", years) + 3)
        years = self.ordinals("year", starts + 6)
        return years, ordinals - self.ordinals("week", self.starts("year", years))

    def _month_of(self, days: Days) -> tuple[Days, Days]:
        months = self.ordinals("month", days)
        return months, self.starts("month", months)

    def at(self, grain: str, years: Days, places: Days) -> tuple[Days, NDArray[np.bool_]]:
        years, places = np.asarray(years, dtype=np.int64), np.asarray(places, dtype=np.int64)
        if grain in PER_YEAR:
            return years * PER_YEAR[grain] + places, np.ones(places.shape, dtype=bool)
        if grain == "day":
            months = years * 12 + places // 32
            days = self.starts("month", months) + places % 32
            return days, days < self.starts("month", months + 1)
        first = self.starts("year", years)
        weeks = self.ordinals("week", first + 3 if self.iso else first) + places
        return weeks, self.places("week", weeks)[0] == years

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
            month, day = (place // 32 + self.start_month - 1) % 12, place % 32
            on = date(2000, month + 1, self.start_day) + timedelta(days=day)
            return f"{on.day} {MONTH_NAMES[on.month - 1]}"
        if grain == "month" and self.start_day == 1 and not self.naming.months:
            return MONTH_NAMES[(place + self.start_month - 1) % 12]
        return self.naming.place(grain, place)


class SpanCalendar:
    """A calendar of listed years, each cut into listed months and quarters; weeks run on from the first year's start.

    `year_starts`, shape (y + 1,): the first day of each year, and the day after the last. `month_starts` likewise;
    `months_in`, shape (y,), how many months each year has; `quarter_of`, shape (m,), each month's quarter from 0.
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

    def _edges(self, grain: str) -> tuple[Days, Days]:
        """First days of a grain's periods (and the day after the last), and each year's first ordinal."""
        if grain == "year":
            return self.year_starts, np.arange(len(self.year_starts))
        if grain == "month":
            return self.month_starts_, self.first_month
        return self.quarter_starts, self.first_quarter

    def ordinals(self, grain: str, days: Days) -> Days:
        days = np.asarray(days, dtype=np.int64)
        if days.size and (days.min() < self.year_starts[0] or days.max() >= self.year_starts[-1]):
            first, last = day_label(int(self.year_starts[0])), day_label(int(self.year_starts[-1]) - 1)
            wrong = day_label(int(days.min() if days.min() < self.year_starts[0] else days.max()))
            raise DefinitionError(f"calendar {self.name}: it runs from {first} to {last}, and the records reach {wrong}")
        if grain == "day":
            return days
        if grain == "week":
            return week_numbers(days, self.week_start)
        if grain == "half":
            quarters = self.ordinals("quarter", days)
            years, places = self.places("quarter", quarters)
            return years * 2 + np.minimum(places // 2, 1)
        return np.searchsorted(self._edges(grain)[0], days, side="right") - 1

    def starts(self, grain: str, ordinals: Days) -> Days:
        ordinals = np.asarray(ordinals, dtype=np.int64)
        if grain == "day":
            return ordinals
        if grain == "week":
            return week_starts(ordinals, self.week_start)
        if grain == "half":
            quarters, _ = self.at("quarter", ordinals // 2, ordinals % 2 * 2)
            return self.starts("quarter", quarters)
        edges = self._edges(grain)[0]
        return edges[np.clip(ordinals, 0, len(edges) - 1)]

    def places(self, grain: str, ordinals: Days) -> tuple[Days, Days]:
        ordinals = np.asarray(ordinals, dtype=np.int64)
        if grain == "half":
            return ordinals // 2, ordinals % 2
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
        if grain == "half":
            return safe * 2 + places, inside
        if grain in ("day", "week"):
            found = self._first_of(grain, safe) + places
            return found, inside & (self.places(grain, found)[0] == safe)
        firsts = self._edges(grain)[1]
        found = firsts[safe] + places
        return found, inside & (found < firsts[safe + 1])

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


def week_numbers(days: Days, week_start: int) -> Days:
    """Weeks since the one that holds 1970-01-01, for weeks that start on a weekday (0 is Monday)."""
    return (days + 3 - week_start) // 7


def week_starts(weeks: Days, week_start: int) -> Days:
    """First days of the weeks that `week_numbers` counts."""
    return weeks * 7 - 3 + week_start


def naming(document: documents.Calendar) -> Naming:
    """The calendar document's way of naming."""
    return Naming(
        document.year_name.prefix,
        document.year_name.digits,
        tuple(document.quarter_names) if document.quarter_names else None,
        tuple(document.period_names) if document.period_names else None,
    )


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


def _by_weeks(document: documents.Calendar) -> SpanCalendar:
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


def _by_table(document: documents.Calendar) -> SpanCalendar:
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


@lru_cache(maxsize=64)
def _built(text: str) -> Calendar:
    document = documents.Calendar.model_validate_json(text)
    if document.months is not None:
        return MonthCalendar(document)
    return _by_weeks(document) if document.weeks is not None else _by_table(document)


def calendar(document: documents.Calendar) -> Calendar:
    """The calendar that a document describes."""
    return _built(document.model_dump_json(by_alias=True))


def years_of(calendar: Calendar, first: int, last: int) -> Sequence[tuple[str, int, int]]:
    """The years that touch the days `first` to `last`: name, first day, last day."""
    low, high = calendar.ordinals("year", np.array([first, last], dtype=np.int64)).tolist()
    edges = calendar.starts("year", np.arange(low, high + 2)).tolist()
    return [(calendar.year_name(low + i), edges[i], edges[i + 1] - 1) for i in range(high - low + 1)]


