"""A week's counterpart in another year: the week with its number, and in it the same weekday."""

from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from kalendor.core.values.days import NO_DAY, Days


class Weeks(Protocol):
    """The interface to a calendar's weeks."""

    def ordinals(self, grain: str, days: Days) -> Days: ...

    def starts(self, grain: str, ordinals: Days) -> Days: ...

    def places(self, grain: str, ordinals: Days) -> tuple[Days, Days]: ...

    def at(self, grain: str, years: Days, places: Days) -> tuple[Days, NDArray[np.bool_]]: ...

    def covers(self, grain: str, ordinals: Days) -> NDArray[np.bool_]: ...


def same_week(calendar: Weeks, days: Days, years: Days | int, whole: bool) -> Days:
    """The same weekday of the week with the same number `years` later.

    A week 53 whose target year has none has no counterpart (NO_DAY); with `whole` it counts on that year's last day.
    """
    weeks = calendar.ordinals("week", days)
    year, place = calendar.places("week", weeks)
    target, found = calendar.at("week", year + years, place)
    moved = calendar.starts("week", target) + days - calendar.starts("week", weeks)
    last = calendar.starts("year", year + years + 1) - 1
    there = calendar.covers("year", year + years)
    return np.where(found & there, moved, np.where(there & whole, last, NO_DAY))
