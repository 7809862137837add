"""Writes numbers, dates and texts for other programs."""

from collections.abc import Callable
from datetime import datetime, timedelta
from decimal import Decimal
from typing import Any

import numpy as np

from kalendor.core.formulas.texts import written
from kalendor.core.groupings.levels import NO_START
from kalendor.core.values.columns import DATED, DAY_MICROSECONDS, Column, Kind, days_of
from kalendor.core.values.days import day_label
from kalendor.core.values.notation import NOTATION, Notation, noted


def plain_approximate(value: float) -> str:
    """Up to 12 significant digits, without an exponent.

    >>> plain_approximate(0.1 + 0.2), plain_approximate(1.0), plain_approximate(-0.0)
    ('0.3', '1', '0')
    """
    text = f"{value:.12g}"
    if "e" in text:
        text = f"{Decimal(text):f}"
    return "0" if text in ("-0", "0") else text


def plain_exact(units: int, places: int) -> str:
    """An exact number with all its places.

    >>> plain_exact(-5, 2)
    '-0.05'
    """
    if not places:
        return str(units)
    digits = f"{abs(units):0{places + 1}d}"
    return f"{'-' if units < 0 else ''}{digits[:-places]}.{digits[-places:]}"


def writer(column: Column) -> Callable[[Any], str]:
    """A function that writes one raw value of a column."""
    match column.kind:
        case Kind.WHOLE | Kind.DECIMAL:
            return lambda value: plain_exact(int(value), column.places)
        case Kind.APPROXIMATE:
            return plain_approximate
        case Kind.TEXT:
            return lambda value: column.words[value]
        case Kind.DATE:
            return day_label
        case Kind.YES_NO:
            return written
        case Kind.TIME:
            return lambda value: (datetime(1970, 1, 1) + timedelta(microseconds=int(value))).time().isoformat()
        case _:
            return lambda value: (datetime(1970, 1, 1) + timedelta(microseconds=int(value))).isoformat()


TO_SECONDS = len("2026-04-01T20:32:00")


def texts(column: Column) -> list[str]:
    """Every value written out, blanks as the empty text."""
    write = writer(column)
    values = [write(value) for value in column.values.tolist()]
    for i in np.flatnonzero(column.rounded).tolist():
        values[i] = plain_approximate(column.item(i) or 0.0)
    if column.blank is not None:
        for i in np.flatnonzero(column.blank).tolist():
            values[i] = ""
    return values


def as_read(column: Column) -> list[str]:
    """Every value in readable form: as in `texts`, percentages as such, times after their date and without zero
    seconds."""
    if column.kind is Kind.DATETIME:
        return [text.replace("T", " ").removesuffix(":00") if len(text) == TO_SECONDS else text.replace("T", " ")
                for text in texts(column)]  # fmt: skip
    if not column.percent:
        return texts(column)
    return [
        "" if value is None else f"{Decimal(str(value)) * 100:f}".rstrip("0").rstrip(".") + "%"
        for value in map(column.item, range(len(column)))
    ]


def as_listed(column: Column) -> list[str]:
    """Every value as in lists of records, in the current notation: as in `as_read`, amounts with places as on a sheet,
    2,434.55; whole numbers, which may be codes or years, without thousands marks."""
    notation = NOTATION.get()
    if column.kind in DATED and notation.dates != "mixed":
        return _listed_days(column, notation)
    found = as_read(column)
    if column.percent and notation.marks:
        return [notation.of(text) for text in found]
    if column.percent or column.kind not in (Kind.DECIMAL, Kind.APPROXIMATE):
        return found
    return [_grouped(text) for text in found]


def _listed_days(column: Column, notation: Notation) -> list[str]:
    days = days_of(column).tolist()
    clocks = [""] * len(days)
    if column.kind is Kind.DATETIME:
        clocks = [" " + text.partition(" ")[2] for text in as_read(column)]
    blank = column.blanks.tolist()
    found = zip(days, clocks, blank, strict=True)
    return ["" if none else f"{notation.listed_day(day)}{clock}" for day, clock, none in found]


def _grouped(text: str) -> str:
    """A plain decimal with thousands marks; any other text unchanged.

    >>> [_grouped(text) for text in ("2434.55", "-1234567.5", "-0.50", "12", "1e+20", "")]
    ['2,434.55', '-1,234,567.5', '-0.50', '12', '1e+20', '']
    """
    whole, point, rest = text.partition(".")
    plain = whole.removeprefix("-").isdecimal() and "e" not in rest
    return (
        noted(f"{text[:1] if text[0] == '-' else ''}{int(whole.removeprefix('-')):,}{point}{rest}") if plain else text
    )


def start_text(start: int, clock: bool) -> str:
    """A period's start: an ISO date, or a date-time for hours and minutes; empty for none."""
    if start == NO_START:
        return ""
    if not clock:
        return day_label(start)
    day, rest = divmod(start, DAY_MICROSECONDS)
    minutes = rest // 60_000_000
    return f"{day_label(day)}T{minutes // 60:02d}:{minutes % 60:02d}"
