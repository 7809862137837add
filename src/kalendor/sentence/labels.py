"""What single values are called, for the labels of editors: the same words as in the sentence."""

from collections.abc import Mapping
from contextlib import suppress
from typing import Any, get_args

from kalendor.definitions.axis import Grain
from kalendor.definitions.figure import TakeName
from kalendor.sentence.spelling import NoWordsError
from kalendor.sentence.writing import any_writer

Labels = Mapping[str, Mapping[str, str]]


def labels() -> Labels:
    """By what is named (`grain`, `take`, `total`, `base`, `as`), the words for each value.

    >>> labels()["grain"]["month_of_year"], labels()["take"]["weighted_mean"], labels()["base"]["year_earlier"]
    ('month of year', 'weighted average', 'a year earlier')
    """
    writer = any_writer()

    def said(category: str, value: Any) -> str:
        with suppress(NoWordsError):
            return writer.write(category, value)
        return ""

    takes = {take: said("take", {"take": take}) for take in get_args(TakeName)}
    own = {"sum": "sum", "count": "count of records", "count_values": "number of filled", "distinct": "number of different",
           "weighted_mean": "weighted average", "percentile": "percentile", "nth_largest": "n-th largest", "nth_smallest": "n-th smallest",
           "first": "first", "last": "last", "balance": "closing balance"}  # fmt: skip
    return {
        "grain": {grain: said("own_grain", grain) for grain in get_args(Grain)},
        "take": {take: words or own[take] for take, words in takes.items()},
        "total": {total: said("total", total) for total in ("all", "parent", "column", "line")},
        "base": {base: said("based", base).removeprefix("on ") for base in ("year_earlier", "period_before")},
        "as": {"percent": "change", "difference": "difference", "index": "index", "base": "base"},
    }
