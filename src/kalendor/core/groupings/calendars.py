"""Calendars: how days fall into years, halves, quarters, months and weeks.

A period is identified by its grain and its ordinal, a whole number that grows with time; ordinals of one grain are
consecutive. Days are whole days since 1970-01-01. All methods work on int64 arrays of any shape.
"""

from collections.abc import Sequence
from functools import lru_cache
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from kalendor.core.groupings.month_calendar import MonthCalendar
from kalendor.core.groupings.span_calendar import by_table, by_weeks
from kalendor.core.values.days import Days
from kalendor.definitions import calendar as documents


class Calendar(Protocol):
    """The interface of every calendar."""

    name: str
    week_start: int

    def __hash__(self) -> int: ...

    def ordinals(self, grain: str, days: Days) -> Days:
        """The ordinal of the period that contains each day."""
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

    def covers(self, grain: str, ordinals: Days) -> NDArray[np.bool_]:
        """Whether the calendar has each of these periods."""
        ...

    def within(self, days: Days) -> Days:
        """Each day, clamped to the calendar's first and last day."""
        ...

    def years_on(self, grain: str, days: Days, years: Days | int, whole: bool = False) -> Days:
        """The counterpart of each day `years` later, for periods of `grain`.

        A day past the end of its target period becomes that period's last day; as a day of its own (`grain` day) it has
        no counterpart: NO_DAY. Nor has a week, month or other period whose number the target year lacks, unless
        `whole`, for totals, in which it counts at the target year's end. NO_DAY if the calendar lacks the year.
        """
        ...

    def year_name(self, year: int) -> str:
        """A year's name, as FY26."""
        ...

    def label(self, grain: str, ordinal: int) -> str:
        """A period's name with its year."""
        ...

    def place_label(self, grain: str, place: int) -> str:
        """A place in the year, without the year."""
        ...


@lru_cache(maxsize=64)
def _built(text: str) -> Calendar:
    document = documents.Calendar.model_validate_json(text)
    if document.months is not None:
        return MonthCalendar(document)
    return by_weeks(document) if document.weeks is not None else by_table(document)


def calendar(document: documents.Calendar) -> Calendar:
    """The calendar that a document describes."""
    return _built(document.model_dump_json(by_alias=True))


def years_of(calendar: Calendar, first: int, last: int) -> Sequence[tuple[str, int, int]]:
    """The years that overlap the days `first` to `last`: name, first day, last day."""
    low, high = calendar.ordinals("year", np.array([first, last], dtype=np.int64)).tolist()
    edges = calendar.starts("year", np.arange(low, high + 2)).tolist()
    return [(calendar.year_name(low + i), edges[i], edges[i + 1] - 1) for i in range(high - low + 1)]
