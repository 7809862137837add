"""Ranges of numbers and ages of dates: cuts, labels, and the range of each value."""

import itertools
from decimal import Decimal

import numpy as np
from numpy.typing import NDArray

from kalendor.core.groupings.levels import BLANK, BLANK_LABEL, NO_DATE_LABEL, ORDINARY, Members, marked
from kalendor.core.values.columns import DATED, INT64_MOST, NUMERIC, Array, Column, Kind, as_kind, days_of
from kalendor.definitions.buckets import Cut, Quantiles, Steps
from kalendor.errors import DefinitionError


def cuts_of(cut: Cut, values: Array | None = None, places: int = 0, times: Array | None = None) -> list[Decimal]:
    """The cuts as exact decimals, rising. Quantiles are taken of `values`, in units of 10**-places, each of which
    represents `times` records (None: one).

    >>> from kalendor.definitions.buckets import Steps
    >>> [str(c) for c in cuts_of(Steps(**{"from": 0, "to": 1, "step": 0.5}))]
    ['0.0', '0.5', '1.0']
    """
    if isinstance(cut, Quantiles):
        return _quantiles(cut.quantiles, np.zeros(0) if values is None else values, places, times)
    if not isinstance(cut, Steps):
        return [_exact(c) for c in cut]
    low, high, step = _exact(cut.from_), _exact(cut.to), _exact(cut.step)
    return [low + step * i for i in range(int((high - low) / step) + 1)]


def _quantiles(count: int, values: Array, places: int, times: Array | None = None) -> list[Decimal]:
    """The value at each quantile's rank, each once; for the lowest of all values the next above it, so that no range is
    empty; 0 without values.

    >>> [str(c) for c in _quantiles(4, np.array([5, 1, 2, 3, 4, 6, 7, 8]), 0)]
    ['3', '5', '7']
    """
    if not len(values):
        return [Decimal(0)]
    if times is None:
        ordered, at = np.sort(values), np.array([len(values) * k // count for k in range(1, count)], dtype=np.int64)
    else:
        order = np.argsort(values, kind="stable")
        upto = np.cumsum(times[order])
        ordered, at = (
            values[order],
            np.searchsorted(upto, [int(upto[-1]) * k // count for k in range(1, count)], "right"),
        )
    above = ordered[ordered > ordered[0]][:1]
    lowest = above[0] if len(above) else ordered[0]
    found = np.unique(np.maximum(ordered[at], lowest)).tolist()
    return [_exact(v) if isinstance(v, float) else Decimal(v).scaleb(-places) for v in found]


def _exact(number: float) -> Decimal:
    return Decimal(int(number)) if float(number).is_integer() else Decimal(repr(number))


def written_cut(cut: Decimal) -> str:
    """A cut as text, with a thousands mark."""
    text = f"{cut.normalize():,f}"
    return text.rstrip("0").rstrip(".") if "." in text else text


def range_labels(cuts: list[Decimal], whole: bool) -> list[str]:
    """Labels of the n + 1 ranges, each of which contains its lower cut.

    >>> range_labels([Decimal(0), Decimal(10)], whole=True)
    ['Under 0', '0 – 9', '10 and over']
    """
    labels = [f"Under {written_cut(cuts[0])}"]
    whole = whole and all(c == c.to_integral_value() for c in cuts)
    for low, high in itertools.pairwise(cuts):
        if whole:
            top = high - 1
            labels.append(written_cut(low) if low == top else f"{written_cut(low)} – {written_cut(top)}")
        else:
            labels.append(f"{written_cut(low)} up to {written_cut(high)}")
    return [*labels, f"{written_cut(cuts[-1])} and over"]


def age_labels(cuts: list[Decimal]) -> list[str]:
    """Labels of the n + 1 ages, each of which contains its upper cut.

    >>> age_labels([Decimal(0), Decimal(30)])
    ['Not yet due', '1 – 30', 'Over 30']
    """
    labels = ["Not yet due" if cuts[0] == 0 else f"Up to {written_cut(cuts[0])}"]
    for low, high in itertools.pairwise(cuts):
        labels.append(written_cut(high) if low + 1 == high else f"{written_cut(low + 1)} – {written_cut(high)}")
    return [*labels, f"Over {written_cut(cuts[-1])}"]


def named(labels: list[str], given: list[str] | None, what: str) -> list[str]:
    """The given labels, if there is one for each range; else the generated ones."""
    if given is None:
        return labels
    if len(given) != len(labels):
        raise DefinitionError(
            f"{what}: {len(labels) - 1} cuts make {len(labels)} ranges, and {len(given)} labels are given"
        )
    return given


def ranges(
    column: Column, name: str, cut: Cut, labels: list[str] | None, times: Array | None = None
) -> tuple[NDArray[np.int32], Members]:
    """The range of each record's number; a range contains its lower cut. Each row represents `times` records (None:
    one)."""
    column = as_kind(column, Kind.WHOLE, *NUMERIC)
    if column.kind not in NUMERIC:
        raise DefinitionError(f"{name!r} is {column.kind.value}, not a number; ranges need a number column")
    cuts = column_cuts(column, cut, times)
    codes = np.searchsorted(_edges(column, cuts), column.values, side="right")
    made = named(range_labels(cuts, column.kind is Kind.WHOLE), labels, f"ranges of {name}")
    return _finished(codes, made, column, BLANK_LABEL)


def column_cuts(column: Column, cut: Cut, times: Array | None = None) -> list[Decimal]:
    """The cuts of a number column."""
    return cuts_of(cut, column.values[column.present], column.places, _of_present(times, column))


def _of_present(times: Array | None, column: Column) -> Array | None:
    return None if times is None else times[column.present]


def age_cuts(column: Column, cut: Cut, as_of: int, times: Array | None = None) -> list[Decimal]:
    """The cuts, in days, of a date column's ages at the as-of day; by quantiles, an age is one day more than its cut."""
    if not isinstance(cut, Quantiles):
        return cuts_of(cut)
    return [c - 1 for c in cuts_of(cut, as_of - days_of(column)[column.present], 0, _of_present(times, column))]


def _edges(column: Column, cuts: list[Decimal]) -> Array:
    """The cuts in the column's own units, each rounded up to a whole unit."""
    if column.kind is Kind.APPROXIMATE:
        return np.array([float(c) for c in cuts])
    units = [int(c.scaleb(column.places).to_integral_value(rounding="ROUND_CEILING")) for c in cuts]
    return np.array([min(max(unit, -INT64_MOST), INT64_MOST) for unit in units], dtype=np.int64)


def ages(
    column: Column, name: str, cut: Cut, labels: list[str] | None, as_of: int, times: Array | None = None
) -> tuple[NDArray[np.int32], Members]:
    """The age of each record's date at the as-of day (days since 1970-01-01); an age contains its upper cut."""
    column = as_kind(column, Kind.DATE, *DATED)
    if column.kind not in DATED:
        raise DefinitionError(f"{name!r} is {column.kind.value}, not a date; ages need a date column")
    cuts = age_cuts(column, cut, as_of, times)
    if any(c != c.to_integral_value() for c in cuts):
        raise DefinitionError(f"ages of {name}: cuts are whole days")
    days = [min(max(int(c), -INT64_MOST), INT64_MOST) for c in cuts]
    codes = np.searchsorted(np.array(days, dtype=np.int64), as_of - days_of(column), side="left")
    made = named(age_labels(cuts), labels, f"ages of {name}")
    return _finished(codes, made, column, NO_DATE_LABEL)


def _finished(codes: Array, labels: list[str], column: Column, blank_label: str) -> tuple[NDArray[np.int32], Members]:
    codes = codes.astype(np.int32)
    always = [False, *[True] * (len(labels) - 2), False]
    special = [ORDINARY] * len(labels)
    if column.blank is not None:
        codes = np.where(column.blank, np.int32(len(labels)), codes)
        labels, special, always = [*labels, blank_label], [*special, BLANK], [*always, False]
    return codes, marked(labels, special, always=np.array(always))
