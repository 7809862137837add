"""Takes that need each group's own records at every level: order statistics, variances, first and last."""

from dataclasses import dataclass, replace
from fractions import Fraction
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from kalendor.core.takes.aggregate import Of, Take, counted, needed
from kalendor.core.takes.exact_floats import as_float
from kalendor.core.takes.groups import Groups, counts, stable_order
from kalendor.core.takes.sums import float_sums_of, squares_of, summed, sums
from kalendor.core.values.arithmetic import approximate, exact
from kalendor.core.values.columns import INT64_MOST, NUMERIC, Array, Column, Kind, Mask

BITMAP_MOST = 1 << 26
UINT32_MOST = 2**32 - 1

Index = NDArray[np.int64]
N = TypeVar("N", int, Fraction)


class Ordered(Take):
    """A take that needs each group's own records at every level."""

    by_value = True

    def cells(self, groups: Groups, of: Of) -> Column:
        """The take of each group, shape (groups.count,)."""
        raise NotImplementedError


@dataclass(frozen=True, eq=False)
class Sorted:
    """Values sorted within their groups: those of group g are at `starts[g]` up to before `starts[g] + sizes[g]`.

    `upto`, shape (values,), is the rank after the last one that each value has, where values represent several records;
    None where each represents one, at its own rank.
    """

    values: Array
    starts: Index
    sizes: Index
    upto: Index | None = None

    @property
    def places(self) -> int:
        """The number of ranks."""
        return len(self.values) if self.upto is None else int(self.upto[-1]) if len(self.upto) else 0

    def at(self, places: Index) -> Array:
        """The values at given ranks, of which there is at least one."""
        found: Array = self.values[places if self.upto is None else np.searchsorted(self.upto, places, side="right")]
        return found


def value_order(column: Column) -> Index:
    """The positions of a column's filled records, by rising value."""
    if column.blank is None:
        return np.argsort(column.values)
    filled = np.flatnonzero(column.present)
    return filled[np.argsort(column.values[filled])]


def sorted_values(groups: Groups, of: Of) -> Sorted:
    """The column's values, without blanks, rising within each group; cached with the groups for other takes of the
    column."""
    return groups.remembered("sorted", (of.column_key, of.times is None), lambda: _sorted(groups, of))


def _sorted(groups: Groups, of: Of) -> Sorted:
    column = of.column
    assert column is not None
    filled = groups.where(None if column.blank is None else column.present)
    sizes = counted(filled, of)
    starts = np.cumsum(sizes) - sizes
    if of.times is not None:
        order = _value_order_in_groups(groups, of)
        return Sorted(column.values[order], starts, sizes, np.cumsum(of.times[order]))
    values = _sorted_numbers(filled, filled.pick(column.values), sizes)
    return Sorted(column.values[_value_order_in_groups(groups, of)] if values is None else values, starts, sizes)


def _sorted_numbers(groups: Groups, values: Array, sizes: Index) -> Array | None:
    """Whole numbers sorted within their groups: each group's are shifted to a range of its own, and plain numbers
    sorted. None if the ranges would exceed 64 bits, and for other kinds."""
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


def _value_order_in_groups(groups: Groups, of: Of) -> Index:
    """The positions of the filled records group by group, by rising value, from the order of the whole column."""
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
    found: Index = records[stable_order(groups.ids[at], groups.count)]
    return found


class Percentile(Ordered):
    """Linear interpolation between the nearest ranks, as the SQL standard's PERCENTILE_CONT."""

    def cells(self, groups: Groups, of: Of) -> Column:
        column = needed(of, "percentile")
        found = sorted_values(groups, of)
        if not found.places:
            return approximate(np.zeros(groups.count), np.ones(groups.count, dtype=bool))
        place = np.maximum(found.sizes - 1, 0) * (self.share(of) / 100.0)
        low = np.floor(place).astype(np.int64)
        at = np.minimum(found.starts + low, found.places - 1)
        above = np.minimum(at + (place > low), found.places - 1)
        first, second = found.at(at).astype(np.float64), found.at(above).astype(np.float64)
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
        values = found.at(np.where(missing, 0, at)) if found.places else np.zeros(groups.count, column.values.dtype)
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
        found = sorted_values(groups, replace(of, times=None))
        fresh = np.ones(len(found.values), dtype=bool)
        np.not_equal(found.values[1:], found.values[:-1], out=fresh[1:])
        fresh[found.starts[found.sizes > 0]] = True
        before = np.zeros(len(fresh) + 1, dtype=np.int64)
        np.cumsum(fresh, out=before[1:])
        return exact(before[found.starts + found.sizes] - before[found.starts], None, 0)


class Variance(Ordered):
    """From exact sums of values and of squares, divided once, so that groups of equal variance are equal."""

    by_value = False

    def __init__(self, sample: bool, root: bool) -> None:
        self.sample, self.root = sample, root

    def cells(self, groups: Groups, of: Of) -> Column:
        filled = self._filled(groups, of)
        n = counted(filled, of)
        result = (
            self._of_floats(filled, of, n)
            if needed(of, "variance").kind is Kind.APPROXIMATE
            else self._exact(filled, of, n)
        )
        return approximate(np.sqrt(result) if self.root else result, n < (2 if self.sample else 1))

    def condensed(self, groups: Groups, of: Of) -> Of:
        column, filled = needed(of, "variance"), self._filled(groups, of)
        return replace(
            of,
            column=summed(filled, column),
            squares=summed(filled, _squares(of)),
            times=counted(filled, of),
            order=None,
        )

    def _filled(self, groups: Groups, of: Of) -> Groups:
        column = needed(of, "variance")
        return groups.where(None if column.blank is None else column.present)

    def _exact(self, filled: Groups, of: Of, n: Index) -> Array:
        column = needed(of, "variance")
        total, squared = sums(filled, column).tolist(), sums(filled, _squares(of)).tolist()
        found = [self._of(*one) for one in zip(n.tolist(), total, squared, strict=True)]
        return np.array([over / (under * 10 ** (2 * column.places)) for over, under in found], dtype=np.float64)

    def _of_floats(self, filled: Groups, of: Of, n: Index) -> Array:
        total, squared = float_sums_of(filled, needed(of, "variance")), float_sums_of(filled, _squares(of))
        found = [self._of(*one) for one in zip(n.tolist(), total.exact(), squared.exact(), strict=True)]
        variances = np.array([as_float(Fraction(max(over, 0)) / under) for over, under in found], dtype=np.float64)
        return np.where(np.isnan(total.odd) | (total.odd != 0), np.nan, variances + squared.odd)

    def _of(self, k: int, s: N, q: N) -> tuple[N | int, int]:
        """The variance of k numbers that sum to s, and their squares to q, as a numerator and a denominator."""
        return (k * q - s * s, k * (k - 1 if self.sample else k)) if k > (1 if self.sample else 0) else (0, 1)


def _squares(of: Of) -> Column:
    """Each record's square, or those that a row stands for summed."""
    return squares_of(needed(of, "variance")) if of.squares is None else of.squares


class AtEnd(Ordered):
    """The first or last value by a date column; of equal dates, the first or last in source order."""

    by_value = False

    def __init__(self, last: bool) -> None:
        self.last = last

    def cells(self, groups: Groups, of: Of) -> Column:
        column, rows, blank = needed_column(of), *self._ends(groups, of)
        values = column.values[rows] if len(column) else np.zeros(groups.count, column.values.dtype)
        return Column(column.kind, values, blank, column.places, column.words)

    def condensed(self, groups: Groups, of: Of) -> Of:
        column, by = needed_column(of), of.by
        assert by is not None
        assert of.places is not None
        rows, blank = self._ends(groups, of)
        return replace(
            of,
            column=replace(column.take(rows), blank=blank),
            by=replace(by.take(rows), blank=blank),
            places=of.places[rows],
            order=None,
        )

    def _ends(self, groups: Groups, of: Of) -> tuple[Index, Mask]:
        """The position of each group's first or last record, and whether there is none."""
        column, by = needed_column(of), of.by
        assert by is not None
        filled = groups.where(column.present & by.present)
        rows = np.arange(len(filled.ids)) if filled.rows is None else filled.rows
        order = by_date(by, rows, of.places)
        order = order[stable_order(filled.ids[order], groups.count)]
        sizes = counts(filled)
        ends = np.cumsum(sizes) - (1 if self.last else sizes)
        found = rows[order[np.where(sizes > 0, ends, 0)]] if len(order) else np.zeros(groups.count, np.int64)
        return found, sizes == 0


def by_date(by: Column, rows: Index, places: Index | None) -> Index:
    """The order of records at `rows`, rising, by a date; of equal dates those first that come first in the source."""
    if places is None:
        return np.argsort(by.values[rows], kind="stable")
    return np.lexsort((places[rows], by.values[rows]))


def needed_column(of: Of) -> Column:
    """The column that is taken, of any kind."""
    assert of.column is not None
    return of.column


class Balance(AtEnd):
    """The last value by a date for each key, added up over the keys; over time only the last counts."""

    def __init__(self) -> None:
        super().__init__(last=True)

    def gives(self, rows: Index, of: Of) -> Column | None:
        column, by, keys = needed(of, "balance"), of.by, of.keys
        assert by is not None
        assert keys is not None
        there = np.flatnonzero((column.present & by.present)[rows])
        seen = there if of.places is None else of.places[rows[there]]
        order = there[np.lexsort((seen, by.values[rows[there]], keys[rows[there]]))]
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
        last = super().cells(inner, of)
        outer = Groups(different // width, groups.count, None)
        blank = counts(filled) == 0
        if not len(different):
            return exact(np.zeros(groups.count, dtype=np.int64), blank, column.places)
        total = sums(outer, last)
        return approximate(total, blank) if column.kind is Kind.APPROXIMATE else exact(total, blank, column.places)
