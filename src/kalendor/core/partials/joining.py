"""Concatenates partials in the order of their records."""

from collections.abc import Iterable, Sequence
from dataclasses import replace
from typing import TypeVar

import numpy as np

from kalendor.core.placing.material import Material
from kalendor.core.takes.aggregate import Of
from kalendor.core.takes.condensed import Condensed, DaySpans
from kalendor.core.values.arithmetic import alike
from kalendor.core.values.columns import Array, Column, Kind, Records, concat

V = TypeVar("V")


def joined(partials: Sequence[Material]) -> Material:
    """The rows of all partials, by the position of the first record that each represents."""
    known, order, first = _known(partials), order_of(partials), partials[0]
    names = list(first.records.columns)
    columns = {name: under([one.records.columns[name] for one in partials]).take(order) for name in names}
    return replace(
        first,
        records=Records(columns, len(order)),
        refused=sum(one.refused for one in partials),
        mended=sum(one.mended for one in partials),
        empty=sum(one.empty for one in partials),
        by_hand=sum(one.by_hand for one in partials),
        condensed=_condensed(known, order),
    )


def order_of(partials: Sequence[Material]) -> Array:
    """The row, of all partials one after another, at each position of the result."""
    return np.argsort(np.concatenate([one.places for one in _known(partials)]), kind="stable")


def shifted(partial: Material, by: int) -> Material:
    """A partial with positions moved by `by`; it must not include sources beside."""
    known = partial.condensed
    if known is None or not by:
        return partial
    taken = {key: of if of.places is None else replace(of, places=of.places + by) for key, of in known.taken.items()}
    return replace(partial, condensed=replace(known, places=known.places + by, taken=taken))


def _known(partials: Sequence[Material]) -> list[Condensed]:
    return [one.condensed for one in partials if one.condensed is not None]


def _condensed(known: Sequence[Condensed], order: Array) -> Condensed:
    shared = [key for key in known[0].taken if all(key in one.taken for one in known)]
    units = {name: None for one in known for name in one.units}
    origins = [one.origin for one in known if one.origin is not None]
    return Condensed(
        np.concatenate([one.times for one in known])[order],
        np.concatenate([one.places for one in known])[order],
        {key: _taken([one.taken[key] for one in known], order) for key in shared},
        {name: under([one.units[name] for one in known]).take(order) for name in units},
        replace(origins[0], of=np.concatenate([one.of for one in origins])[order]) if origins else None,
        known[0].columns,
        known[0].worded,
        _spans([one.days for one in known], order),
    )


def _spans(days: Sequence[DaySpans | None], order: Array) -> DaySpans | None:
    there = _there(days)
    if not there:
        return None
    first, last = (np.concatenate(ends)[order] for ends in ([one.first for one in there], [one.last for one in there]))
    return DaySpans(there[0].of, first, last)


def _taken(parts: Sequence[Of], order: Array) -> Of:
    def column(of: Iterable[Column | None]) -> Column | None:
        there = _there(of)
        return under(there).take(order) if there else None

    def numbers(of: Iterable[Array | None]) -> Array | None:
        there = _there(of)
        return np.concatenate(there)[order] if there else None

    return replace(
        parts[0],
        column=column(one.column for one in parts),
        weight=column(one.weight for one in parts),
        by=column(one.by for one in parts),
        times=numbers(one.times for one in parts),
        products=column(one.products for one in parts),
        squares=column(one.squares for one in parts),
        places=numbers(one.places for one in parts),
    )


def packed(column: Column) -> Column:
    """A column with only those words that it uses."""
    if column.kind is not Kind.TEXT or len(column.words) <= len(column):
        return column
    used, codes = np.unique(np.where(column.blanks, -1, column.values), return_inverse=True)
    words = [column.words[code] for code in used.tolist() if code >= 0] or [""]
    codes = codes.reshape(-1) - int(used[0] < 0) if len(used) else codes
    return replace(column, values=np.maximum(codes, 0).astype(np.int32), words=tuple(words))


def _there(values: Iterable[V | None]) -> list[V]:
    return [value for value in values if value is not None]


def under(columns: Sequence[Column]) -> Column:
    """Columns of one kind concatenated, with all their properties."""
    first = columns[0]
    brought = list(columns) if len({c.kind for c in columns}) == 1 else alike(list(columns))
    found = concat(brought)
    depth = max(len(c.rest) for c in columns)
    rest = tuple(
        np.concatenate([c.rest[k] if k < len(c.rest) else np.zeros(len(c)) for c in columns]) for k in range(depth)
    )
    unrounded = None
    if any(c.unrounded is not None for c in columns):
        unrounded = np.concatenate([np.full(len(c), np.nan) if c.unrounded is None else c.unrounded for c in columns])
    return replace(
        found, percent=first.percent, unit=first.unit, found_by=first.found_by, rest=rest, unrounded=unrounded
    )
