"""The periods for which editions of a report are due: each one's days, names, and due day."""

import re
from collections.abc import Collection, Sequence
from dataclasses import dataclass
from datetime import date
from functools import lru_cache

import numpy as np

from kalendor.core.groupings.calendars import Calendar
from kalendor.core.values.columns import day_number, day_of
from kalendor.core.values.days import day_label, month_numbers, month_starts, short_day
from kalendor.core.values.notation import grouped
from kalendor.definitions.recurring import Due
from kalendor.errors import DefinitionError

SIGNS = {"week": "W", "month": "M", "quarter": "Q", "half": "H", "year": ""}
SATURDAY = 5
MOST_PERIODS = 6_000
MOST_CACHED = 1_000  # cached periods, each of which keeps its calendar in memory
_CIVIL = re.compile(r"(\d{4})(?:-(?:(\d{2})(?:-(\d{2}))?|Q([1-4])|W(\d{2})))?", re.IGNORECASE)


@dataclass(frozen=True)
class Recurring:
    """A period of a calendar, its days counted from `first` to `last`, both included; `sign` is its place in the year, as
    `M9`, or the year's name."""

    calendar: str
    every: str
    ordinal: int
    first: int
    last: int
    label: str
    sign: str

    @property
    def days(self) -> tuple[str, str]:
        """Its first and last day, ISO 8601."""
        return day_label(self.first), day_label(self.last)

    @property
    def span(self) -> str:
        """Its days in words."""
        return f"{short_day(self.first)} to {short_day(self.last)}"


def recurring(calendar: Calendar, every: str, ordinal: int) -> Recurring:
    """The period of that ordinal.

    Raises DefinitionError if the calendar does not cover it.
    """
    at = np.array([ordinal, ordinal + 1], dtype=np.int64)
    first, following = calendar.starts(every, at).tolist()
    if following <= first:
        raise DefinitionError(f"calendar {calendar.name}: it ends before a whole {every} from {day_label(first)} on")
    year, place = (int(part[0]) for part in calendar.places(every, at[:1]))
    sign = f"{SIGNS[every]}{place + 1}" if SIGNS[every] else calendar.year_name(year)
    return Recurring(calendar.name, every, ordinal, first, following - 1, calendar.label(every, ordinal), sign)


@lru_cache(maxsize=MOST_CACHED)
def period_on(calendar: Calendar, every: str, day: int) -> Recurring:
    """The period that contains a day; DefinitionError if the calendar does not cover it. Cached by the calendar object,
    since a board asks for the same few periods thousands of times."""
    return recurring(calendar, every, int(calendar.ordinals(every, np.array([day]))[0]))


def period_before(calendar: Calendar, period: Recurring) -> Recurring | None:
    """The previous period; None if the calendar does not cover it."""
    try:
        return period_on(calendar, period.every, period.first - 1)
    except DefinitionError:
        return None


def periods_before(calendar: Calendar, period: Recurring, most: int = 12) -> list[Recurring]:
    """The previous periods, the latest first."""
    found: list[Recurring] = []
    earlier = period_before(calendar, period)
    while earlier is not None and len(found) < most:
        found.append(earlier)
        earlier = period_before(calendar, earlier)
    return found


def year_before(calendar: Calendar, period: Recurring) -> Recurring | None:
    """The period at the same place of the previous year; None if that year has no such place."""
    years, places = calendar.places(period.every, np.array([period.ordinal]))
    try:
        found, there = calendar.at(period.every, years - 1, places)
        return recurring(calendar, period.every, int(found[0])) if bool(there[0]) else None
    except DefinitionError:
        return None


def periods_ending(calendar: Calendar, every: str, first: int, last: int) -> list[Recurring]:
    """The periods that end on one of the days from `first` to `last`; DefinitionError if there are too many."""
    found: list[Recurring] = []
    day = first
    while day <= last:
        period = period_on(calendar, every, day)
        if period.last <= last:
            found.append(period)
        if len(found) > MOST_PERIODS:
            raise DefinitionError(
                f"there are more than {grouped(MOST_PERIODS)} periods from {short_day(first)} on; begin later"
            )
        day = period.last + 1
    return found


def due_day(period: Recurring, due: Due, holidays: Collection[date] = ()) -> int:
    """The day on which a period's edition is due; Saturdays, Sundays and holidays are not working days."""
    if due.days is not None:
        return period.last + due.days
    left, day = due.working_days or 0, period.last
    off = {day_number(holiday) for holiday in holidays}
    while left:
        day += 1
        left -= day_of(day).weekday() < SATURDAY and day not in off
    return day


def periods_named(calendar: Calendar, every: str, text: str, known: Sequence[Recurring] = ()) -> list[Recurring]:
    """The periods that a text refers to: a period's own label, or a civil `2026`, `2026-Q3`, `2026-07`, `2026-W27` or
    `2026-07-31`, which means the periods of about that length with their middle in it, and longer ones that end in it.
    `known` are periods whose labels are tried first.

    Raises DefinitionError if there is none.
    """
    said = text.strip().casefold()
    own = [period for period in known if period.label.casefold() == said]
    if own:
        return own
    span = civil_span(text)
    if span is None:
        raise DefinitionError(f"--period {text!r} is no period; write it as 2026-07, 2026-Q3, 2026 or 2026-07-31")
    first, last = span
    around = periods_ending(calendar, every, first, last + 366)
    size = last - first + 1
    found = [
        p
        for p in around
        if (first <= (p.first + p.last) // 2 <= last if 2 * (p.last - p.first + 1) <= 3 * size else p.last <= last)
    ]
    if not found:
        near = period_on(calendar, every, span[1])
        raise DefinitionError(
            f"--period {text!r}: no {every} of {calendar.name} ends then; {near.label} runs from {near.span}"
        )
    return found


def civil_span(text: str) -> tuple[int, int] | None:
    """The first and last day of a civil `2026`, `2026-Q3`, `2026-07`, `2026-W27` or `2026-07-31`.

    >>> [day_label(day) for day in civil_span("2026-q1")]
    ['2026-01-01', '2026-03-31']
    """
    found = _CIVIL.fullmatch(text.strip())
    if found is None:
        return None
    year, month, day, quarter, week = found.groups()
    try:
        if day:
            there = day_number(date(int(year), int(month), int(day)))
            return there, there
        if week:
            monday = day_number(date.fromisocalendar(int(year), int(week), 1))
            return monday, monday + 6
        start = date(int(year), int(month or (int(quarter) * 3 - 2 if quarter else 1)), 1)
    except ValueError:
        return None
    months = 1 if month else 3 if quarter else 12
    first = day_number(start)
    return first, int(month_starts(month_numbers(np.array([first])) + months)[0]) - 1


def grain_named(text: str) -> str:
    """The grain of a civil period's text; month if it is not one.

    >>> [grain_named(text) for text in ("2026", "2026-Q3", "2026-07", "2026-W27")]
    ['year', 'quarter', 'month', 'week']
    """
    found = _CIVIL.fullmatch(text.strip())
    if found is None or found[2]:
        return "month"
    return "quarter" if found[4] else "week" if found[5] else "year"
