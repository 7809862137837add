"""The notation of numbers and days for readers: the decimal mark, the thousands mark, the order of a date.

It affects no number and no key: sentences, formulas, definitions, period names and data files have one notation
everywhere.
"""

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

from kalendor.core.values.columns import day_of
from kalendor.core.values.days import MONTH_NAMES

Dates = Literal["mixed", "day", "month", "year"]
THOUSANDS = (",", ".", "\u00a0", "\u2019", "")
"""What may stand between thousands; `\u00a0` is a space that no line breaks at."""


@dataclass(frozen=True)
class Notation:
    """`decimal` is `.` or `,`, `thousands` another one of `THOUSANDS`; `dates` says what comes first in a date: the day
    (31 Jul 2026), the month (Jul 31, 2026) or the year (2026-07-31); `mixed` is the day in words and the year in lists.

    >>> Notation(",", ".").of("-1,234.50"), Notation(",", "").of("1,234.50")
    ('-1.234,50', '1234,50')
    >>> [Notation(dates=order).day(20_665) for order in ("mixed", "month", "year")]
    ['31 Jul 2026', 'Jul 31, 2026', '2026-07-31']
    >>> [Notation(dates=order).listed_day(20_665) for order in ("mixed", "day")]
    ['2026-07-31', '31 Jul 2026']
    """

    decimal: str = "."
    thousands: str = ","
    dates: Dates = "mixed"

    @cached_property
    def marks(self) -> dict[int, str] | None:
        """A table for `str.translate`; None if the marks are Python's own."""
        return None if (self.decimal, self.thousands) == (".", ",") else {46: self.decimal, 44: self.thousands}

    def of(self, number: str) -> str:
        """A number formatted by Python as `1,234.50`, in this notation."""
        return number.translate(self.marks) if self.marks else number

    def day(self, day: int) -> str:
        """A day, counted from 1970-01-01."""
        found = day_of(day)
        month = MONTH_NAMES[found.month - 1]
        match self.dates:
            case "mixed" | "day":
                return f"{found.day} {month} {found.year}"
            case "month":
                return f"{month} {found.day}, {found.year}"
            case _:
                return found.isoformat()

    def listed_day(self, day: int) -> str:
        """A day among the values of a column."""
        return day_of(day).isoformat() if self.dates == "mixed" else self.day(day)


COMMON = Notation()
NOTATION: ContextVar[Notation] = ContextVar("notation", default=COMMON)
"""The notation of the request, job or file at hand; each thread of a request starts from a copy of its context."""


@contextmanager
def written_in(notation: Notation) -> Iterator[None]:
    """Context in which numbers and days are written in a notation."""
    before = NOTATION.set(notation)
    try:
        yield
    finally:
        NOTATION.reset(before)


def grouped(number: int) -> str:
    """A whole number with a thousands mark, in the current notation."""
    return NOTATION.get().of(f"{number:,}")


def noted(number: str) -> str:
    """A number formatted by Python as `1,234.50`, in the current notation."""
    return NOTATION.get().of(number)


def noted_day(day: int) -> str:
    """A day, counted from 1970-01-01, in the current notation."""
    return NOTATION.get().day(day)
