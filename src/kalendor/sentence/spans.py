"""Days and spans of days as a sentence says them: ISO 8601 dates, both ends included."""

import calendar
from collections.abc import Mapping
from datetime import date as Date
from datetime import timedelta
from typing import Any

from kalendor.sentence.chart import Unfit

A_WEEK, QUARTER = 8, 3
"""Days by which years of 52 or 53 weeks differ from calendar years at most; the months of a quarter."""


def day_of(year: int, month: int, day: int) -> str:
    """A day, as 2026-07-31."""
    try:
        return Date(year, month, day).isoformat()
    except ValueError:
        raise Unfit from None


def month_span(year: int, month: int) -> dict[str, str]:
    """The first and the last day of a month."""
    return {"from": day_of(year, month, 1), "to": day_of(year, month, calendar.monthrange(year, month)[1])}


def year_span(year: int) -> dict[str, str]:
    """The first and the last day of a year."""
    return {"from": day_of(year, 1, 1), "to": day_of(year, 12, 31)}


def quarter_span(year: int, quarter: int) -> dict[str, str]:
    """The first and the last day of a quarter."""
    return {"from": month_span(year, quarter * 3 - 2)["from"], "to": month_span(year, quarter * 3)["to"]}


def months(year: int, first: int, last: int) -> dict[str, str]:
    """From a month to one of a year; a later month's is that of the year before."""
    return {"from": month_span(year - (first > last), first)["from"], "to": month_span(year, last)["to"]}


def months_on(year: int, first: int, last: int) -> dict[str, str]:
    """From a month of a year to the next of another name."""
    return {"from": month_span(year, first)["from"], "to": month_span(year + (last < first), last)["to"]}


def joined_spans(first: Mapping[str, str], second: Mapping[str, str]) -> dict[str, str]:
    """Two spans of days as one, if one of them follows the other, in whichever order they are said."""
    if day_after(second["to"]) == first["from"]:
        first, second = second, first
    if day_after(first["to"]) != second["from"]:
        raise Unfit
    return {"from": first["from"], "to": second["to"]}


def spans_between(first: Mapping[str, str], second: Mapping[str, str]) -> dict[str, str]:
    """All days from the earlier of two spans to the later one."""
    earlier, later = sorted((first, second), key=lambda span: span["from"])
    return {"from": earlier["from"], "to": later["to"]}


def months_up_to(count: int, span: Mapping[str, str]) -> dict[str, str]:
    """So many months, the last of which is that in which a span ends."""
    year, month = int(span["to"][:4]), int(span["to"][5:7])
    first = year * 12 + month - count
    return {"from": month_span(first // 12, first % 12 + 1)["from"], "to": month_span(year, month)["to"]}


def day_before(day: str) -> str:
    """The day before a day."""
    return (Date.fromisoformat(day) - timedelta(days=1)).isoformat()


def day_after(day: str) -> str:
    """The day after a day."""
    return (Date.fromisoformat(day) + timedelta(days=1)).isoformat()


def year_of_span(span: Any) -> str | None:
    """The year that a span is, from 1800 to 2200; None if it is none."""
    year = str(span.get("from", ""))[:4] if isinstance(span, dict) else ""
    return year if span == {"from": f"{year}-01-01", "to": f"{year}-12-31"} and "1800" <= year <= "2200" else None


def back_to(shown: Mapping[str, Any], base: Mapping[str, str]) -> Any:
    """How far a span of whole months, or a year of any calendar, lies before the one shown, as the base of a comparison.

    Raises Unfit if it does not, or is not of the same kind.

    >>> back_to(quarter_span(2026, 2), quarter_span(2026, 1)), back_to(month_span(2026, 3), month_span(2025, 3))
    ({'back': 1, 'grain': 'quarter'}, 'year_earlier')
    """
    if not {"from", "to"} <= shown.keys():
        raise Unfit
    (first, after), (own_first, own_after) = _ends(shown), _ends(base)
    years = round((first - own_first).days / 365.25)
    if years > 0 and all(abs((one - other).days - years * 365.25) < A_WEEK for one, other in ((first, own_first), (after, own_after))):  # fmt: skip
        return "year_earlier" if years == 1 else {"back": years, "grain": "year"}
    back, size = _months_between(own_first, first), _months_between(first, after)
    if not 0 < back == _months_between(own_after, after) or {first.day, after.day, own_first.day, own_after.day} != {1}:
        raise Unfit
    if size == QUARTER and back % size == 0:
        return {"back": back // size, "grain": "quarter"}
    return {"back": back, "grain": "month"}


def _ends(span: Mapping[str, str]) -> tuple[Date, Date]:
    """The first day of a span, and the day after its last."""
    return Date.fromisoformat(span["from"]), Date.fromisoformat(day_after(span["to"]))


def _months_between(first: Date, second: Date) -> int:
    return (second.year - first.year) * 12 + second.month - first.month
