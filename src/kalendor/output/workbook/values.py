"""Values of columns as a workbook's cells hold them."""

from dataclasses import replace
from datetime import date, datetime, time, timedelta
from decimal import Decimal

import numpy as np

from kalendor.core.values.columns import EXACT, NUMERIC, Column, Kind
from kalendor.output.numbers import texts

Value = float | int | str | date | datetime | time | None
DIGITS = 15  # digits of a number that a cell stores exactly
FIRST_DATE = date(1900, 3, 1)  # programs disagree about earlier days


def cell_values(column: Column) -> list[Value]:
    """Each value as stored in a cell: a number if all of its digits fit, else its text; None for blank."""
    found: list[Value]
    if column.kind in NUMERIC:
        found = _numbers(column)
    elif column.kind in (Kind.DATE, Kind.DATETIME, Kind.TIME):
        found = [_moment(column, i) for i in range(len(column))]
    else:
        found = list(texts(column))
    for place in np.flatnonzero(column.blanks).tolist():
        found[place] = None
    return found


def too_long(column: Column) -> int:
    """How many numbers have more digits than a cell can store, and are written as text."""
    if column.kind not in EXACT:
        return 0
    return sum(abs(units) >= 10**DIGITS for units in column.values[column.present].tolist())


def _numbers(column: Column) -> list[Value]:
    if column.kind not in EXACT:
        return list(column.values.astype(np.float64).tolist())
    if column.unrounded is not None:
        return [value if rounded else exactly for value, rounded, exactly in zip(
            column.floats().tolist(), column.rounded.tolist(), _numbers(replace(column, unrounded=None)), strict=True
        )]  # fmt: skip
    if column.values.dtype != object and (
        not len(column) or np.abs(column.values[column.present]).max(initial=0) < 10**DIGITS
    ):
        if column.places == 0:
            return list(column.values.tolist())
        return list((column.values / 10.0**column.places).tolist())
    written = texts(column)
    return [
        float(Decimal(text)) if text and abs(int(units)) < 10**DIGITS else text
        for units, text in zip(column.values.tolist(), written, strict=True)
    ]


def _moment(column: Column, place: int) -> Value:
    value = int(column.values[place])
    if column.kind is Kind.TIME:
        return (datetime(1970, 1, 1) + timedelta(microseconds=value)).time()
    try:
        if column.kind is Kind.DATE:
            day = date(1970, 1, 1) + timedelta(days=value)
            return day if day >= FIRST_DATE else day.isoformat()
        moment = datetime(1970, 1, 1) + timedelta(microseconds=value)
        return moment if moment.date() >= FIRST_DATE else moment.isoformat()
    except OverflowError:
        return texts(column.take(np.array([place])))[0]
