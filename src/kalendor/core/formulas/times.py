"""Dates in formulas: differences, intervals, parts of a date."""

from datetime import date, datetime, timedelta

import numpy as np
from sqlglot import exp

from kalendor.core.values import arithmetic as ar
from kalendor.core.values.columns import DATED, DAY_MICROSECONDS, Column, Kind, as_kind, day_number, days_of, scalar
from kalendor.errors import DefinitionError

__all__ = ["DATED", "days_between", "extracted", "moved", "plus_months", "read_as"]

_MONTHS = {"MONTH": 1, "QUARTER": 3, "YEAR": 12}
_DAYS = {"DAY": 1, "WEEK": 7}
FIRST_DAY, LAST_DAY = day_number(date.min), day_number(date.max)
MOST_MOVED = {"DAY": 4 * 10**6, "WEEK": 10**6, "MONTH": 120_000, "QUARTER": 40_000, "YEAR": 10_000}
MOST_MOVED |= {"HOUR": 10**8, "MINUTE": 6 * 10**9, "SECOND": 4 * 10**11}
_MICROSECONDS = {"SECOND": 1_000_000, "MINUTE": 60_000_000, "HOUR": 3_600_000_000}


def days_between(later: Column, earlier: Column) -> Column:
    """Whole days from `earlier` to `later`."""
    return Column(Kind.WHOLE, days_of(later) - days_of(earlier), ar.either_blank(later, earlier))


def plus_months(days: np.ndarray, months: int) -> np.ndarray:
    """Days since 1970-01-01 moved by whole months; a day that the month lacks becomes its last."""
    dates = days.astype("datetime64[D]")
    month = dates.astype("datetime64[M]")
    of_month = (dates - month.astype("datetime64[D]")).astype(np.int64)
    target = month + months
    start = target.astype("datetime64[D]").astype(np.int64)
    size = (target + 1).astype("datetime64[D]").astype(np.int64) - start
    return start + np.minimum(of_month, size - 1)


def moved(column: Column, interval: exp.Interval, sign: int) -> Column:
    """A date or date-time column plus (sign 1) or minus (sign -1) an interval.

    Raises DefinitionError if a date would leave the years 1 to 9999.
    """
    column = as_kind(column, Kind.DATE, *DATED, Kind.TIME)
    if isinstance(interval.args.get("unit"), exp.IntervalSpan):
        raise DefinitionError(f"{interval.sql()!r}: an interval has one unit here, as INTERVAL '14' MONTH")
    result = _moved(column, interval, sign)
    days = days_of(result)[result.present]
    if len(days) and (days.min() < FIRST_DAY or days.max() > LAST_DAY):
        raise DefinitionError(f"{interval.sql()!r} takes a date out of the years 1 to 9999")
    return result


def _moved(column: Column, interval: exp.Interval, sign: int) -> Column:
    unit = (interval.args.get("unit") or exp.Var(this="DAY")).name.upper().removesuffix("S")
    try:
        amount = sign * int(interval.this.name)
    except (ValueError, AttributeError):
        raise DefinitionError(f"{interval.sql()!r}: an interval needs a whole number, as INTERVAL '3' MONTH") from None
    if abs(amount) > MOST_MOVED[unit] if unit in MOST_MOVED else False:
        raise DefinitionError(f"{interval.sql()!r} takes a date out of the years 1 to 9999")
    if column.kind not in DATED:
        raise DefinitionError(f"{interval.sql()!r} can only be added to a date, and was added to {ar.say(column.kind)}")
    days = days_of(column)
    if unit in _MONTHS:
        result = plus_months(days, amount * _MONTHS[unit])
    elif unit in _DAYS:
        result = days + amount * _DAYS[unit]
    elif unit in _MICROSECONDS:
        start = column.values if column.kind is Kind.DATETIME else days * DAY_MICROSECONDS
        return Column(Kind.DATETIME, start + amount * _MICROSECONDS[unit], column.blank)
    else:
        raise DefinitionError(f"{unit} is not a unit of time that is known here")
    if column.kind is Kind.DATETIME:
        return Column(Kind.DATETIME, result * DAY_MICROSECONDS + column.values % DAY_MICROSECONDS, column.blank)
    return Column(Kind.DATE, result.astype(np.int32), column.blank)


def extracted(column: Column, part: str) -> Column:
    """EXTRACT(part FROM column): YEAR, QUARTER, MONTH, WEEK (ISO), ISOYEAR, DAY, HOUR, MINUTE, SECOND, ISODOW (Monday
    is 1), DOY.

    Raises DefinitionError for other parts, among them DOW, which systems number differently.
    """
    column = as_kind(column, Kind.DATE, *DATED, Kind.TIME)
    if column.kind is Kind.TIME or part in {"HOUR", "MINUTE", "SECOND"}:
        if column.kind is Kind.DATE:
            return Column(Kind.WHOLE, np.zeros(len(column), np.int64), column.blank)
        seconds = (column.values % DAY_MICROSECONDS) // 1_000_000
        clock = {"HOUR": seconds // 3600, "MINUTE": seconds // 60 % 60, "SECOND": seconds % 60}
        if part not in clock:
            raise DefinitionError(f"EXTRACT has no {part} of {ar.say(column.kind)}")
        return Column(Kind.WHOLE, clock[part], column.blank)
    if column.kind not in DATED:
        raise DefinitionError(f"EXTRACT needs a date, and was given {ar.say(column.kind)}")
    days = days_of(column)
    dates = days.astype("datetime64[D]")
    months = dates.astype("datetime64[M]").astype(np.int64)
    thursday = (days - (days + 3) % 7 + 3).astype("datetime64[D]")
    iso_year = thursday.astype("datetime64[Y]")
    parts = {
        "YEAR": months // 12 + 1970,
        "QUARTER": months % 12 // 3 + 1,
        "MONTH": months % 12 + 1,
        "DAY": (dates - dates.astype("datetime64[M]").astype("datetime64[D]")).astype(np.int64) + 1,
        "WEEK": (thursday - iso_year.astype("datetime64[D]")).astype(np.int64) // 7 + 1,
        "ISODOW": (days + 3) % 7 + 1,
        "DOY": (dates - dates.astype("datetime64[Y]").astype("datetime64[D]")).astype(np.int64) + 1,
    }
    parts["ISOYEAR"] = iso_year.astype(np.int64) + 1970
    if part in ("DOW", "DAYOFWEEK", "WEEKDAY"):
        raise DefinitionError(f"EXTRACT({part} …) is numbered differently by systems; use ISODOW, in which Monday is 1")
    if part not in parts:
        raise DefinitionError(f"EXTRACT has no {part}")
    return Column(Kind.WHOLE, parts[part], column.blank)


def read_as(column: Column, other: Column) -> Column:
    """A text literal compared with a date is parsed as a date; anything else is unchanged."""
    if column.kind is not Kind.TEXT or len(column) != 1 or other.kind not in DATED:
        return column
    word = column.words[0]
    try:
        return scalar(Kind.DATE, day_number(date.fromisoformat(word)))
    except ValueError:
        pass
    try:
        moment = datetime.fromisoformat(word)
    except ValueError:
        raise DefinitionError(f"{word!r} is not a date; write it as DATE '2026-07-31'") from None
    micro = (moment - datetime(1970, 1, 1)) // timedelta(microseconds=1)
    return scalar(Kind.DATETIME, micro)
