"""Takes: one number for each group of records. Sums of exact columns are exact, whatever their size."""

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from kalendor.core.values.arithmetic import approximate, divide, exact, multiply
from kalendor.core.values.columns import INT64_MOST, NUMERIC, Array, Column, Kind, Mask, as_kind, magnitude
from kalendor.core.values.cores import pieces
from kalendor.core.values.keys import NO_KEY, Key, Keyed, Memo, key, local
from kalendor.errors import DefinitionError

EXACT_IN_FLOAT = 2**53
PIECE = 26
MOST_SQUARED = 3_037_000_499
BLOCK = 1 << 20
ORDERED = NUMERIC | {Kind.DATE, Kind.DATETIME, Kind.TIME, Kind.TEXT}

Index = NDArray[np.int64]
Places = NDArray[np.signedinteger]
Parts = tuple[Array, ...]
V = TypeVar("V")


@dataclass(frozen=True, eq=False)
class Groups:
    """Records in groups: `ids`, shape (n,), 0 ≤ id < count; `rows` are their positions in the columns (None: all).

    What is worked out of them for more than one take is remembered by `memo` under keys that begin with `key`.
    """

    ids: Places
    count: int
    rows: Index | None
    key: Key = NO_KEY
    memo: Memo = field(default_factory=local, repr=False)

    def remembered(self, kind: str, part: Keyed, make: Callable[[], V]) -> V:
        """What was made of these groups and of `part` before, or is made now."""
        return self.memo(key(kind, self.key, part), make)

    def pick(self, values: Array) -> Array:
        """The grouped records' part of an array over all records."""
        return values if self.rows is None else values[self.rows]

    def where(self, mask: Mask | None) -> "Groups":
        """The same groups with the records for which `mask` (over all records) is True."""
        if mask is None:
            return self
        picked = np.flatnonzero(self.pick(mask))
        return Groups(self.ids[picked], self.count, picked if self.rows is None else self.rows[picked])


@dataclass(frozen=True, eq=False)
class Of:
    """What is taken: the column, its weight or date, and the take's own numbers.

    `order()` gives the positions of the column's filled records by rising value; `column_key` names the column and
    whether its amounts are turned. `keys` numbers the records' keys, for a balance.
    """

    column: Column | None
    weight: Column | None
    by: Column | None
    p: float
    n: int
    order: Callable[[], Index] | None = None
    column_key: Key = NO_KEY
    keys: Array | None = None


def exact_sums(ids: Places, units: Array, count: int) -> Array:
    """The sum of int64 `units` in each group, shape (count,): int64 where it fits, else Python integers."""
    most = max(abs(int(units.min())), abs(int(units.max()))) if len(units) else 0
    if count == 1 and most * len(units) <= INT64_MOST:
        return np.array([units.sum()], dtype=np.int64)
    if most * len(units) < EXACT_IN_FLOAT:
        return np.bincount(ids, weights=units, minlength=count).astype(np.int64)
    low = (1 << PIECE) - 1
    pieces = [units & low, (units >> PIECE) & low, units >> 2 * PIECE]
    sums = [np.bincount(ids, weights=piece, minlength=count) for piece in pieces]
    if most * len(units) <= INT64_MOST:
        whole = [s.astype(np.int64) for s in sums]
        return whole[0] + (whole[1] << PIECE) + (whole[2] << 2 * PIECE)
    wide = [np.array([int(x) for x in s], dtype=object) for s in sums]
    total: Array = wide[0] + wide[1] * (1 << PIECE) + wide[2] * (1 << 2 * PIECE)
    return total


def sums(groups: Groups, column: Column) -> Array:
    """The sum of a number column in each group, in the column's own units."""
    if len(groups.ids) > 2 * BLOCK and groups.count <= BLOCK and column.values.dtype == np.int64:
        return _sums_by_block(groups, column.values)
    values = groups.pick(column.values)
    if column.kind is Kind.APPROXIMATE:
        return np.bincount(groups.ids, weights=values, minlength=groups.count)
    if values.dtype == object:
        total = np.zeros(groups.count, dtype=object)
        np.add.at(total, groups.ids, values)
        return total
    return exact_sums(groups.ids, values, groups.count)


def _sums_by_block(groups: Groups, values: Array) -> Array:
    """The same a block of records at a time, so that what is in hand stays near the processor."""
    total: Array = np.zeros(groups.count, dtype=np.int64)
    most = 0
    for start in range(0, len(groups.ids), BLOCK):
        here = slice(start, start + BLOCK)
        units = values[here] if groups.rows is None else values[groups.rows[here]]
        part = exact_sums(groups.ids[here], units, groups.count)
        most += max(abs(int(part.min())), abs(int(part.max())))
        if most > INT64_MOST and total.dtype != object:
            total = total.astype(object)
        total = total + part
    return total


def sums_of_squares(groups: Groups, column: Column) -> Array:
    """The sum of an exact column's squares in each group, in the square of its units."""
    values = column.values
    if len(values) and (values.dtype == object or magnitude(values) > MOST_SQUARED):
        values = values.astype(object)
    return sums(groups, replace(column, values=values * values))


def counts(groups: Groups) -> Array:
    """How many records each group has."""
    if groups.count == 1:
        return np.array([len(groups.ids)], dtype=np.int64)
    return groups.remembered("counts", None, lambda: occurring(groups.ids, groups.count))


def occurring(ids: Places, count: int) -> Index:
    """How often each of 0 ≤ id < count occurs, shape (count,); a block at a time where that is less than to widen all."""
    if len(ids) <= BLOCK or count > BLOCK:
        return np.bincount(ids, minlength=count)
    found = np.zeros(count, dtype=np.int64)
    for piece in pieces(len(ids), BLOCK):
        found += np.bincount(ids[piece], minlength=count)
    return found


def stable_order(ids: Places, count: int) -> Index:
    """The order that sorts `ids`, equal ones as they stand, by 16 bits at a time (radix)."""
    order: Index | None = None
    for shift in range(0, max(1, int(count - 1).bit_length()), 16):
        digit = ((ids if order is None else ids[order]) >> shift & 0xFFFF).astype(np.uint16)
        next_order = np.argsort(digit, kind="stable")
        order = next_order if order is None else order[next_order]
    assert order is not None
    return order


def needed(of: Of, take: str, allowed: frozenset[Kind] = NUMERIC) -> Column:
    """The column that a take is of, where its kind is one of those allowed; else DefinitionError."""
    assert of.column is not None
    column = as_kind(of.column, Kind.WHOLE, *allowed)
    if column.kind not in allowed:
        raise DefinitionError(
            f"{take} needs {'a number' if allowed is NUMERIC else 'another'} column, not {of.column.kind.value}"
        )
    return column


class Take:
    """What any take says of itself."""

    counts = False
    """Whether it is a number of records or values, whatever these are."""
    adds_up = False
    """Whether its parts add up to the whole, so that a missing part counts as 0."""

    def gives(self, rows: Index, of: Of) -> Column | None:
        """What each of the records at `rows` gives to the number; None where they do not add up to it."""
        return None


class Additive(Take):
    """A take whose parts of a whole are the sums (least, largest) of its parts' parts."""

    combine: tuple[np.ufunc, ...]

    def parts(self, groups: Groups, of: Of) -> Parts:
        """Arrays of shape (groups.count,), combined upwards by `combine`."""
        raise NotImplementedError

    def finish(self, parts: Parts, of: Of) -> Column:
        """The take itself from its parts."""
        raise NotImplementedError


class Sum(Additive):
    combine = (np.add, np.add)
    adds_up = True

    def gives(self, rows: Index, of: Of) -> Column | None:
        return needed(of, "sum").take(rows)

    def parts(self, groups: Groups, of: Of) -> Parts:
        column = needed(of, "sum")
        filled = groups.where(None if column.blank is None else column.present)
        return sums(filled, column), counts(filled)

    def finish(self, parts: Parts, of: Of) -> Column:
        total, n = parts
        column = needed(of, "sum")
        return _of_kind(column, total, n == 0)


class Count(Additive):
    combine = (np.add,)
    counts = adds_up = True

    def parts(self, groups: Groups, of: Of) -> Parts:
        return (counts(groups),)

    def finish(self, parts: Parts, of: Of) -> Column:
        return exact(parts[0].astype(np.int64), None, 0)

    def gives(self, rows: Index, of: Of) -> Column | None:
        return exact(np.ones(len(rows), dtype=np.int64), None, 0)


class CountValues(Count):
    def gives(self, rows: Index, of: Of) -> Column | None:
        assert of.column is not None
        return exact(np.ones(len(rows), dtype=np.int64), of.column.blanks[rows], 0)

    def parts(self, groups: Groups, of: Of) -> Parts:
        assert of.column is not None
        return (counts(groups.where(None if of.column.blank is None else of.column.present)),)


class Mean(Sum):
    adds_up = False

    def gives(self, rows: Index, of: Of) -> Column | None:
        return None

    def finish(self, parts: Parts, of: Of) -> Column:
        total, n = parts
        return divide(_of_kind(needed(of, "mean"), total, n == 0), exact(n, None, 0))


def _of_kind(column: Column, total: Array, blank: Mask | None) -> Column:
    """Sums of a column, in its kind and places."""
    return approximate(total, blank) if column.kind is Kind.APPROXIMATE else exact(total, blank, column.places)


class WeightedMean(Additive):
    combine = (np.add, np.add)

    def parts(self, groups: Groups, of: Of) -> Parts:
        column, weight = needed(of, "weighted_mean"), of.weight
        assert weight is not None
        if weight.kind not in NUMERIC:
            raise DefinitionError(f"weighted_mean needs a number column as its weight, not {weight.kind.value}")
        filled = groups.where(
            None if column.blank is None and weight.blank is None else column.present & weight.present
        )
        return sums(filled, multiply(column, weight)), sums(filled, weight)

    def finish(self, parts: Parts, of: Of) -> Column:
        assert of.column is not None
        assert of.weight is not None
        product = multiply(of.column, of.weight)
        return divide(_of_kind(product, parts[0], None), _of_kind(of.weight, parts[1], None))


def _text_order(column: Column) -> tuple[Index, Index]:
    """The codes of a column's words by code points, and the rank of each code."""
    order = np.array(sorted(range(len(column.words)), key=column.words.__getitem__), dtype=np.int64)
    rank = np.empty_like(order)
    rank[order] = np.arange(len(order))
    return order, rank


class Least(Additive):
    combine: tuple[np.ufunc, ...] = (np.minimum, np.add)
    name, sign = "min", 1

    def parts(self, groups: Groups, of: Of) -> Parts:
        column = needed(of, self.name, ORDERED)
        if column.kind is Kind.TEXT:
            column = replace(column, kind=Kind.WHOLE, values=_text_order(column)[1][column.values], words=())
        filled = groups.where(None if column.blank is None else column.present)
        worst = np.inf if column.kind is Kind.APPROXIMATE else np.iinfo(np.int64).max
        if self.sign < 0:
            worst = -worst
        dtype = np.float64 if column.kind is Kind.APPROXIMATE else np.int64
        found = np.full(groups.count, worst, dtype=dtype)
        self.combine[0].at(found, filled.ids, filled.pick(column.values).astype(dtype))
        return found, counts(filled)

    def finish(self, parts: Parts, of: Of) -> Column:
        column = needed(of, self.name, ORDERED)
        blank = parts[1] == 0
        values = np.where(blank, 0, parts[0])
        values = _text_order(column)[0][values] if column.kind is Kind.TEXT else values
        return Column(column.kind, values.astype(column.values.dtype), blank, column.places, column.words)


class Largest(Least):
    combine = (np.maximum, np.add)
    name, sign = "max", -1
