"""A few values of a column, by which a person recognises it."""

from dataclasses import replace
from datetime import date, datetime

import numpy as np

from kalendor.core.values.columns import DATED, NUMERIC, Column, Kind
from kalendor.core.values.occurrences import occurring
from kalendor.output.numbers import as_read

SHOWN, OFTEN, LONGEST = 3, 0.2, 24


def examples(column: Column, format: str | None = None) -> str:
    """The most common texts, the range of numbers, the last date as `format` (of strftime) writes it; empty if all are
    blank.

    >>> from kalendor.core.values.columns import number_column
    >>> examples(number_column([3, 1, None, 2]))
    '1 – 3, often blank'
    """
    if not column.present.any():
        return ""
    blank = ", often blank" if column.blanks.mean() > OFTEN else ""
    if column.kind is Kind.TEXT:
        counts = occurring(column.values[column.present], len(column.words))
        first = [i for i in np.argsort(-counts, kind="stable")[:SHOWN].tolist() if counts[i]]
        return " · ".join(_short(column.words[i]) for i in first) + blank
    values = column.values[column.present]
    if column.kind in DATED:
        return _dated(replace(column, values=np.array([values.max()]), blank=None), format) + blank
    if column.kind in NUMERIC or column.kind is Kind.TIME:
        ends = as_read(replace(column, values=np.array([values.min(), values.max()]), blank=None, unrounded=None))
        return (ends[0] if ends[0] == ends[1] else f"{ends[0]} – {ends[1]}") + blank
    return "yes · no" + blank


def _dated(one: Column, format: str | None) -> str:
    value = one.item(0)
    if not format or "%" not in format or not isinstance(value, date | datetime):
        return as_read(one)[0]
    return value.strftime(format)


def _short(text: str) -> str:
    return text if len(text) <= LONGEST else text[: LONGEST - 1] + "…"
