"""A reference implementation of calendars: the first day of each period, offsets by periods and years, and labels."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, timedelta
from functools import cached_property
from typing import Any

GRAINS = ("year", "half", "quarter", "month", "week")
NAMES = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")
MONTHS = {"year": 12, "half": 6, "quarter": 3, "month": 1}


@dataclass(frozen=True)
class Calendar:
    """Calendar years of twelve months from a day of a month."""

    month: int = 1
    day: int = 1

    @property
    def named(self) -> tuple[str, ...]:
        """The names of the months of a year, from the first, where they are the civil ones."""
        return () if self.day > 1 else (*NAMES[self.month - 1 :], *NAMES[: self.month - 1])

    @property
    def document(self) -> dict[str, Any]:
        return {"months": {"start_month": self.month, "start_day": self.day}}

    def start(self, grain: str, day: date) -> date:
        if grain == "week":
            return day - timedelta(day.weekday())
        month = day.year * 12 + day.month - 1 - (day.day < self.day)
        month -= (month % 12 - (self.month - 1)) % 12 % MONTHS[grain]
        return date(month // 12, month % 12 + 1, self.day)

    def moved(self, grain: str, start: date, by: int) -> date:
        if grain == "week":
            return start + timedelta(7 * by)
        month = start.year * 12 + start.month - 1 + by * MONTHS[grain]
        return date(month // 12, month % 12 + 1, self.day)

    def years_on(self, grain: str, day: date, years: int) -> date | None:
        """The same month and day; in calendars of weeks the same weekday of the week with that number, None if there is
        none."""
        if grain == "week":
            first, after = (self.first_week(self.week_year(day), years + n) for n in (0, 1))
            on = first + (day - self.first_week(self.week_year(day), 0))
            return on if on < after else None
        try:
            return day.replace(year=day.year + years)
        except ValueError:
            return day.replace(year=day.year + years, day=28)

    def first_week(self, year: date, years: int) -> date:
        """The first day of week 1 of the year a number of years after the one that begins on a day; by ISO for civil
        years."""
        begins = self.moved("year", year, years)
        return self.start("week", begins + timedelta(3) if self == Calendar() else begins)

    def week_year(self, day: date) -> date:
        """The first day of the year that a day's week belongs to."""
        year = self.start("year", day)
        if day < self.first_week(year, 0):
            return self.moved("year", year, -1)
        return self.moved("year", year, 1) if day >= self.first_week(year, 1) else year

    def same_column(self, day: date, years: int) -> date | None:
        """The corresponding day a number of years later for weeks down and years across: the nearest that lies in that
        year."""
        year = self.start("year", day)
        on = self.first_week(year, years) + (day - self.first_week(year, 0))
        week = self.start("week", on)
        first, after = self.moved("year", year, years), self.moved("year", year, years + 1)
        low, high = max(first, week), min(after, week + timedelta(7)) - timedelta(1)
        return None if low > high else min(max(on, low), high)


PATTERNS = {"4-4-5": (4, 4, 5) * 4, "4-5-4": (4, 5, 4) * 4, "5-4-4": (5, 4, 4) * 4, "13x4": (4,) * 13}
WEEKDAYS = ("monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday")


@dataclass(frozen=True)
class Weeks:
    """Calendar years of whole weeks, which end on the last given weekday of a month or on the one nearest to its
    end."""

    pattern: str = "4-4-5"
    ends: str = "last"
    weekday: str = "saturday"
    month: int = 1
    named: tuple[str, ...] = ()

    @property
    def document(self) -> dict[str, Any]:
        told = {"pattern": self.pattern, "ends": self.ends, "weekday": self.weekday, "month": self.month}
        return {"weeks": told}

    def year_end(self, year: int) -> date:
        last = date(year + self.month // 12, self.month % 12 + 1, 1) - timedelta(1)
        back = (last.weekday() - WEEKDAYS.index(self.weekday)) % 7
        return last - timedelta(back if self.ends == "last" or back <= 3 else back - 7)

    @cached_property
    def starts(self) -> dict[str, list[date]]:
        """The first days of all periods of 2018 to 2032, by grain."""
        found: dict[str, list[date]] = {grain: [] for grain in GRAINS}
        quarters = (0, 3, 6, 9)
        for year in range(2018, 2032):
            first, after = self.year_end(year) + timedelta(1), self.year_end(year + 1) + timedelta(1)
            weeks = [first + timedelta(7 * n) for n in range((after - first).days // 7)]
            lengths = PATTERNS[self.pattern]
            months = [weeks[sum(lengths[:n])] for n in range(len(lengths))]
            found["year"].append(first)
            found["half"] += [months[0], months[6]]
            found["quarter"] += [months[n] for n in quarters]
            found["month"] += months
            found["week"] += weeks
        return found

    def start(self, grain: str, day: date) -> date:
        return max(start for start in self.starts[grain] if start <= day)

    def moved(self, grain: str, start: date, by: int) -> date:
        return self.starts[grain][self.starts[grain].index(start) + by]

    def years_on(self, grain: str, day: date, years: int) -> date | None:
        """The same week and weekday of the period at the same place; None if that year has no such place."""
        year = self.start("year", day)
        after = self.moved("year", year, years)
        here, there = ([s for s in self.starts[grain] if self.start("year", s) == y] for y in (year, after))
        place = here.index(self.start(grain, day))
        if place >= len(there):
            return None
        end = self.moved(grain, there[place], 1)
        return min(there[place] + (day - here[place]), end - timedelta(1))


def place(calendar: Calendar | Weeks, grain: str, within: str, day: date) -> str:
    """The label of a period as a place in a coarser one."""
    if grain == "week" and isinstance(calendar, Calendar):
        return part_week(calendar, within, day)
    start, number = calendar.start(within, day), 1
    while (after := calendar.moved(grain, start, 1)) <= day:
        start, number = after, number + 1
    if within != "year":
        return f"{grain.capitalize()} {number}"
    if grain == "month" and calendar.named:
        return calendar.named[number - 1]
    return f"{grain[0].upper()}{number}" if grain in ("half", "quarter") else f"{grain[0].upper()}{number:02}"


def part_week(calendar: Calendar | Weeks, within: str, day: date) -> str:
    """The label of a week that may lie only partly in the coarser period."""
    if within == "year" and calendar == Calendar():
        year, week, _ = day.isocalendar()
        if year > day.year:
            week = date(day.year, 12, 28).isocalendar().week + 1
        return f"W{week if year >= day.year else 0:02}"
    first = calendar.start("week", calendar.start(within, day))
    number = (calendar.start("week", day) - first).days // 7 + 1
    return f"W{number:02}" if within == "year" else f"Week {number}"


def part_of(calendar: Calendar | Weeks, day: date, grains: Iterable[str]) -> tuple[date, date]:
    """The first day of the intersection of several periods around a day, and the day after its last."""
    starts = [(g, calendar.start(g, day)) for g in grains]
    return max(s for _, s in starts), min(calendar.moved(g, s, 1) for g, s in starts)


def back_from(calendar: Calendar | Weeks, grain: str, coarse: str, count: int, day: date) -> date | None:
    """The day that a day is the base of, a number of coarser periods back: in the period at the same place, at the same
    offset."""
    grain = max(grain, coarse, key=GRAINS.index)
    first, start = calendar.start(coarse, day), calendar.start(grain, day)
    if grain == "week" and isinstance(
        calendar, Calendar
    ):  # by the parts that months make of weeks, the nearest day of one
        low, after = calendar.moved(coarse, first, count), calendar.moved(coarse, first, count + 1)
        week = calendar.start("week", low) + (start - calendar.start("week", first))
        return None if week >= after else min(max(week + (day - start), low), after - timedelta(1))
    place = 0
    while calendar.moved(grain, first, place) < start:
        place += 1
    on = calendar.moved(grain, calendar.moved(coarse, first, count), place)
    if on >= calendar.moved(coarse, first, count + 1):
        return None
    return min(on + (day - start), calendar.moved(grain, on, 1) - timedelta(1))
