"""Days, civil months and weeks as numbers; the names that calendars give their periods."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kalendor.core.values.columns import day_of
from kalendor.definitions import calendar as documents

MANY = 10_000
NO_DAY = np.iinfo(np.int64).min
Days = NDArray[np.int64]

MONTH_NAMES = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")
PER_YEAR = {"year": 1, "half": 2, "quarter": 4, "month": 12}


FULL_MONTH_NAMES = (
    "January", "February", "March", "April", "May", "June", "July", "August", "September", "October", "November", "December",
)  # fmt: skip


def day_label(day: int) -> str:
    """ISO 8601."""
    return day_of(day).isoformat()


def short_day(day: int) -> str:
    """As `1 Nov 2025`."""
    d = day_of(day)
    return f"{d.day} {MONTH_NAMES[d.month - 1]} {d.year}"


def month_numbers(days: Days) -> Days:
    """Civil months since January of year 0."""
    if np.size(days) > MANY:
        first, last = int(days.min()), int(days.max())
        if last - first < len(days) // 8:  # each distinct day once, then by index
            return _months_of(np.arange(first, last + 1))[days - first]
    return _months_of(days)


def _months_of(days: Days) -> Days:
    return days.astype("datetime64[D]").astype("datetime64[M]").astype(np.int64) + 1970 * 12


def month_starts(months: Days) -> Days:
    """First days of civil months, counted from January of year 0."""
    return (months - 1970 * 12).astype("datetime64[M]").astype("datetime64[D]").astype(np.int64)


def civil_years_on(days: Days, years: Days | int) -> Days:
    """The same civil month and day `years` later; 29 February becomes the 28th in common years."""
    months = month_numbers(days)
    offset = days - month_starts(months)
    start = month_starts(months + 12 * years)
    return start + np.minimum(offset, month_starts(months + 12 * years + 1) - start - 1)


def week_numbers(days: Days, week_start: int) -> Days:
    """Weeks since the one that contains 1970-01-01, for weeks that start on a weekday (0 is Monday)."""
    return (days + 3 - week_start) // 7


def week_starts(weeks: Days, week_start: int) -> Days:
    """First days of the weeks that `week_numbers` counts."""
    return weeks * 7 - 3 + week_start


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


def naming(document: documents.Calendar) -> Naming:
    """How a calendar document names its periods."""
    return Naming(
        document.year_name.prefix,
        document.year_name.digits,
        tuple(document.quarter_names) if document.quarter_names else None,
        tuple(document.period_names) if document.period_names else None,
    )
