"""Labels of single values for editors: the same words as in the sentence."""

import itertools
from collections.abc import Mapping
from contextlib import suppress
from typing import Any, get_args

from kalendor.definitions.axis import Grain
from kalendor.definitions.figure import TakeName
from kalendor.sentence.spelling import NoWordsError
from kalendor.sentence.writing import any_writer

_VALUES: Mapping[str, tuple[Any, Any]] = {
    "text": ({"text": "one"}, {"text": "other"}),
    "number": ({"number": "1"}, {"number": "2"}),
    "date": ({"day": "2026-01-01"}, {"day": "2025-02-02"}),
}
_SPANS = ({"count": 2, "unit": "month"}, {"count": 3, "unit": "year"})
_BLANKS = ("blank", "filled")
TESTS: Mapping[str, tuple[str, ...]] = {
    "text": ("among", "not among", "contains", "not contains", "begins", "ends", *_BLANKS),
    "number": ("least", "most", "between", "equal", "not", "over", "under", *_BLANKS),
    "date": ("between", "last", "least", "most", "equal", *_BLANKS),
    "yes_no": ("yes", "no", *_BLANKS),
}
"""How a value of each kind can be compared, the commonest first."""
Labels = Mapping[str, Mapping[str, str]]


def labels() -> Labels:
    """The words for each value, by its kind (`grain`, `take`, `total`, `base`, `as`, and `text`, `number`, `date` and
    `yes_no` for how a value of that kind is compared).

    >>> labels()["grain"]["month_of_year"], labels()["take"]["weighted_mean"], labels()["base"]["year_earlier"]
    ('month of year', 'weighted average', 'a year earlier')
    >>> labels()["number"]["least"], labels()["date"]["least"], labels()["text"]["not among"]
    ('is at least', 'is on or after', 'is not')
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
        **{kind: {test: _compared(kind, test) for test in tests} for kind, tests in TESTS.items()},
        "as": {"percent": "change", "difference": "difference", "index": "index", "base": "base"},
    }


def _compared(kind: str, test: str) -> str:
    """The words of a comparison without its values: what two examples of it have in common."""
    if test in ("yes", "no"):
        return _comparison("equal", {"yes": test == "yes"}).removeprefix("c ")
    if test in _BLANKS:
        return _comparison(test).removeprefix("c ")
    words = [_comparison(test, value).split(" ") for value in ({"last": _SPANS}.get(test) or _VALUES[kind])]
    common = itertools.takewhile(lambda pair: pair[0] == pair[1], zip(*words, strict=False))
    return " ".join(word for word, _ in common).removeprefix("c ")


def _comparison(test: str, value: Mapping[str, Any] | None = None) -> str:
    values = {} if value is None else {"values": [value, value] if test == "between" else [value]}
    return any_writer().write("clause_condition", {"column": "c", "is": test, **values})
