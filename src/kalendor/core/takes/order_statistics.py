"""Takes that need each group's own records again at every level: order statistics, variances, first and last."""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from kalendor.core.takes.aggregate import Groups, Of, Take, counts, needed, stable_order, sums, sums_of_squares
from kalendor.core.values.arithmetic import approximate, exact
from kalendor.core.values.columns import INT64_MOST, NUMERIC, Array, Column, Kind

BITMAP_MOST = 1 << 26
UINT32_MOST = 2**32 - 1

Index = NDArray[np.int64]


class Ordered(Take):
    """A take that needs each group's own records again at every level."""

    def cells(self, groups: Groups, of: Of) -> Column:
        """The take of each group, shape (groups.count,)."""
        raise NotImplementedError


@dataclass(frozen=True, eq=False)
class Sorted:
    """Values sorted within their groups: those of group g are `values[starts[g]:starts[g] + sizes[g]]`."""

    values: Array
    starts: Index
    sizes: Index


def value_order(column: Column) -> Index:
    """The positions of a column's filled records, by rising value."""
    if column.blank is None:
        return np.argsort(column.values)
    filled = np.flatnonzero(column.present)
    return filled[np.argsort(column.values[filled])]


def sorted_values(groups: Groups, of: Of) -> Sorted:
    """The column's values, blanks left out, rising within each group; kept with the groups for other takes of it."""
    return groups.remembered("sorted", of.column_key, lambda: _sorted(groups, of))


def _sorted(groups: Groups, of: Of) -> Sorted:
    column = of.column
    assert column is not None
    filled = groups.where(None if column.blank is None else column.present)
    sizes = counts(filled)
    starts = np.cumsum(sizes) - sizes
    values = _sorted_numbers(filled, filled.pick(column.values), sizes)
    return Sorted(_sorted_by_order(groups, of) if values is None else values, starts, sizes)


def _sorted_numbers(groups: Groups, values: Array, sizes: Index) -> Array | None:
    """Whole numbers sorted within their groups: each group's in a stretch of its own of the numbers that are sorted, which
    are plain ones. None where the stretches would pass 64 bits, and for other values."""
    if values.dtype.kind not in "bi":
        return None
    if not len(values):
        return values
    low = int(values.min())
    span = int(values.max()) - low + 1
    if groups.count * span > INT64_MOST or low < -INT64_MOST:
        return None
    numbers = (
        np.multiply(groups.ids, span, dtype=np.int64) if groups.count > 1 else np.zeros(len(values), dtype=np.int64)
    )
    numbers += values
    numbers -= low
    if groups.count * span <= UINT32_MOST:
        numbers = numbers.astype(np.uint32)
    numbers.sort()
    before = np.repeat(np.arange(groups.count) * span - low, sizes) if groups.count > 1 else np.int64(-low)
    return np.subtract(numbers, before, dtype=np.int64).astype(values.dtype, copy=False)


def _sorted_by_order(groups: Groups, of: Of) -> Array:
    """Any values sorted within their groups: those of the whole column in order, put apart by group."""
    column = of.column
    assert column is not None
    order = value_order(column) if of.order is None else of.order()
    if groups.rows is None:
        at, records = order, order
    else:
        place = np.full(len(column), -1, dtype=np.int64)
        place[groups.rows] = np.arange(len(groups.rows))
        at = place[order]
        inside = at >= 0
        at, records = at[inside], order[inside]
    in_order: Array = column.values[records[stable_order(groups.ids[at], groups.count)]]
    return in_order


class Percentile(Ordered):
    """Linear interpolation between the nearest ranks, as the SQL standard's PERCENTILE_CONT."""

    def cells(self, groups: Groups, of: Of) -> Column:
        column = needed(of, "percentile")
        found = sorted_values(groups, of)
        if not len(found.values):
            return approximate(np.zeros(groups.count), np.ones(groups.count, dtype=bool))
        place = np.maximum(found.sizes - 1, 0) * (self.share(of) / 100.0)
        low = np.floor(place).astype(np.int64)
        at = np.minimum(found.starts + low, len(found.values) - 1)
        above = np.minimum(at + (place > low), len(found.values) - 1)
        first, second = found.values[at].astype(np.float64), found.values[above].astype(np.float64)
        values = first + (place - low) * (second - first)
        return approximate(values / 10.0**column.places, found.sizes == 0)

    def share(self, of: Of) -> float:
        """From 0 to 100."""
        return of.p


class Median(Percentile):
    def share(self, of: Of) -> float:
        return 50.0


class Nth(Ordered):
    def __init__(self, largest: bool) -> None:
        self.largest = largest

    def cells(self, groups: Groups, of: Of) -> Column:
        column = needed(of, "nth", NUMERIC | {Kind.DATE, Kind.DATETIME, Kind.TIME})
        found = sorted_values(groups, of)
        missing = found.sizes < of.n
        at = found.starts + (found.sizes - of.n if self.largest else of.n - 1)
        values = (
            found.values[np.where(missing, 0, at)] if len(found.values) else np.zeros(groups.count, column.values.dtype)
        )
        return Column(column.kind, values, missing, column.places)


class Distinct(Ordered):
    counts = True

    def cells(self, groups: Groups, of: Of) -> Column:
        column = of.column
        assert column is not None
        size = len(column.words)
        if column.kind is Kind.TEXT and groups.count * size <= BITMAP_MOST:
            filled = groups.where(None if column.blank is None else column.present)
            seen = np.zeros(groups.count * max(1, size), dtype=bool)
            seen[filled.ids * max(1, size) + filled.pick(column.values)] = True
            return exact(seen.reshape(groups.count, max(1, size)).sum(axis=1), None, 0)
        found = sorted_values(groups, of)
        fresh = np.ones(len(found.values), dtype=bool)
        np.not_equal(found.values[1:], found.values[:-1], out=fresh[1:])
        fresh[found.starts[found.sizes > 0]] = True
        before = np.zeros(len(fresh) + 1, dtype=np.int64)
        np.cumsum(fresh, out=before[1:])
        return exact(before[found.starts + found.sizes] - before[found.starts], None, 0)


class Variance(Ordered):
    """From exact sums of values and of squares, divided once, so that groups of equal variance are equal."""

    def __init__(self, sample: bool, root: bool) -> None:
        self.sample, self.root = sample, root

    def cells(self, groups: Groups, of: Of) -> Column:
        column = needed(of, "variance")
        filled = groups.where(None if column.blank is None else column.present)
        n = counts(filled)
        result = (
            self._of_floats(filled, column, n) if column.kind is Kind.APPROXIMATE else self._exact(filled, column, n)
        )
        return approximate(np.sqrt(result) if self.root else result, n < (2 if self.sample else 1))

    def _exact(self, filled: Groups, column: Column, n: Array) -> Array:
        total, squares = sums(filled, column), sums_of_squares(filled, column)
        scale = 10 ** (2 * column.places)
        found = [
            (k * q - s * s) / (k * (k - 1 if self.sample else k) * scale) if k > (1 if self.sample else 0) else 0.0
            for k, s, q in zip(n.tolist(), total.tolist(), squares.tolist(), strict=True)
        ]
        return np.array(found, dtype=np.float64)

    def _of_floats(self, filled: Groups, column: Column, n: Array) -> Array:
        values = filled.pick(column.values)
        with np.errstate(all="ignore"):
            mean = sums(filled, column) / n
            far = values - mean[filled.ids]
            squares = np.bincount(filled.ids, weights=far * far, minlength=filled.count)
            return np.asarray(squares / (n - 1 if self.sample else n), dtype=np.float64)


class AtEnd(Ordered):
    """The first or last value by a date column; of equal dates, the first or last to appear."""

    def __init__(self, last: bool) -> None:
        self.last = last

    def cells(self, groups: Groups, of: Of) -> Column:
        column, by = of.column, of.by
        assert column is not None
        assert by is not None
        filled = groups.where(column.present & by.present)
        order = np.argsort(filled.pick(by.values), kind="stable")
        order = order[stable_order(filled.ids[order], groups.count)]
        sizes = counts(filled)
        ends = np.cumsum(sizes) - (1 if self.last else sizes)
        at = order[np.where(sizes > 0, ends, 0)] if len(order) else np.zeros(groups.count, np.int64)
        picked = filled.pick(column.values)
        values = picked[at] if len(picked) else np.zeros(groups.count, column.values.dtype)
        return Column(column.kind, values, sizes == 0, column.places, column.words)


class Balance(Ordered):
    """The last value by a date for each key, added up over the keys; over time only the last counts."""

    def gives(self, rows: Index, of: Of) -> Column | None:
        column, by, keys = needed(of, "balance"), of.by, of.keys
        assert by is not None
        assert keys is not None
        there = np.flatnonzero((column.present & by.present)[rows])
        order = there[np.lexsort((there, by.values[rows[there]], keys[rows[there]]))]
        own = keys[rows[order]]
        last = np.ones(len(order), dtype=bool)
        last[:-1] = own[1:] != own[:-1]
        nothing = np.ones(len(rows), dtype=bool)
        nothing[order[last]] = False
        picked = column.take(rows)
        return replace(picked, blank=nothing)

    def cells(self, groups: Groups, of: Of) -> Column:
        column, by, keys = needed(of, "balance"), of.by, of.keys
        assert by is not None
        assert keys is not None
        filled = groups.where(column.present & by.present)
        width = int(keys.max()) + 1 if len(keys) else 1
        pairs = np.multiply(filled.ids, width, dtype=np.int64) + filled.pick(keys)
        different, dense = np.unique(pairs, return_inverse=True)
        inner = Groups(dense.reshape(-1), max(1, len(different)), filled.rows)
        last = AtEnd(last=True).cells(inner, of)
        outer = Groups(different // width, groups.count, None)
        blank = counts(filled) == 0
        if not len(different):
            return exact(np.zeros(groups.count, dtype=np.int64), blank, column.places)
        total = sums(outer, last)
        return approximate(total, blank) if column.kind is Kind.APPROXIMATE else exact(total, blank, column.places)
