"""Takes: one number for each group of records. Sums of exact columns are exact, whatever their size."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kalendor.core.arithmetic import approximate, exact, multiply
from kalendor.core.columns import INT64_MOST, NUMERIC, Array, Column, Kind, Mask
from kalendor.definitions.figure import Taken
from kalendor.errors import DefinitionError

EXACT_IN_FLOAT = 2**53
PIECE = 26
BITMAP_MOST = 1 << 26

Index = NDArray[np.int64]
Parts = tuple[Array, ...]


@dataclass(frozen=True, eq=False)
class Groups:
    """Records in groups: `ids`, shape (n,), 0 ≤ id < count; `rows` are their positions in the columns (None: all)."""

    ids: Index
    count: int
    rows: Index | None

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
    """What is taken: the column, its weight or date, and the take's own numbers."""

    column: Column | None
    weight: Column | None
    by: Column | None
    p: float
    n: int


def exact_sums(ids: Index, units: Array, count: int) -> Array:
    """The sum of int64 `units` in each group, shape (count,): int64 where it fits, else Python integers."""
    most = max(abs(int(units.min())), abs(int(units.max()))) if len(units) else 0
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
    values = groups.pick(column.values)
    if column.kind is Kind.APPROXIMATE:
        return np.bincount(groups.ids, weights=values, minlength=groups.count)
    if values.dtype == object:
        total = np.zeros(groups.count, dtype=object)
        np.add.at(total, groups.ids, values)
        return total
    return exact_sums(groups.ids, values, groups.count)


def counts(groups: Groups) -> Array:
    """How many records each group has."""
    return np.bincount(groups.ids, minlength=groups.count)


def stable_order(ids: Index, count: int) -> Index:
    """The order that sorts `ids`, equal ones as they stand, by 16 bits at a time (radix)."""
    order: Index | None = None
    for shift in range(0, max(1, int(count - 1).bit_length()), 16):
        digit = ((ids if order is None else ids[order]) >> shift & 0xFFFF).astype(np.uint16)
        next_order = np.argsort(digit, kind="stable")
        order = next_order if order is None else order[next_order]
    assert order is not None
    return order


def _column(of: Of, take: str, allowed: frozenset[Kind] = NUMERIC) -> Column:
    assert of.column is not None
    if of.column.kind not in allowed:
        raise DefinitionError(
            f"{take} needs {'a number' if allowed is NUMERIC else 'another'} column, not {of.column.kind.value}"
        )
    return of.column


class Additive:
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

    def parts(self, groups: Groups, of: Of) -> Parts:
        column = _column(of, "sum")
        filled = groups.where(None if column.blank is None else column.present)
        return sums(filled, column), counts(filled)

    def finish(self, parts: Parts, of: Of) -> Column:
        total, n = parts
        column = _column(of, "sum")
        if column.kind is Kind.APPROXIMATE:
            return approximate(total, n == 0)
        return exact(total, n == 0, column.places)


class Count(Additive):
    combine = (np.add,)

    def parts(self, groups: Groups, of: Of) -> Parts:
        return (counts(groups),)

    def finish(self, parts: Parts, of: Of) -> Column:
        return exact(parts[0].astype(np.int64), None, 0)


class CountValues(Count):
    def parts(self, groups: Groups, of: Of) -> Parts:
        assert of.column is not None
        return (counts(groups.where(None if of.column.blank is None else of.column.present)),)


class Mean(Sum):
    def finish(self, parts: Parts, of: Of) -> Column:
        total, n = parts
        column = _column(of, "mean")
        with np.errstate(all="ignore"):
            return approximate(total.astype(np.float64) / (n * 10.0**column.places), n == 0)


class WeightedMean(Additive):
    combine = (np.add, np.add)

    def parts(self, groups: Groups, of: Of) -> Parts:
        column, weight = _column(of, "weighted_mean"), of.weight
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
        with np.errstate(all="ignore"):
            top = parts[0].astype(np.float64) / 10.0**product.places
            return approximate(top / (parts[1].astype(np.float64) / 10.0**of.weight.places), None)


class Least(Additive):
    combine: tuple[np.ufunc, ...] = (np.minimum, np.add)
    name, sign = "min", 1

    def parts(self, groups: Groups, of: Of) -> Parts:
        column = _column(of, self.name, NUMERIC | {Kind.DATE, Kind.DATETIME, Kind.TIME})
        filled = groups.where(None if column.blank is None else column.present)
        worst = np.inf if column.kind is Kind.APPROXIMATE else np.iinfo(np.int64).max
        if self.sign < 0:
            worst = -worst
        dtype = np.float64 if column.kind is Kind.APPROXIMATE else np.int64
        found = np.full(groups.count, worst, dtype=dtype)
        self.combine[0].at(found, filled.ids, filled.pick(column.values).astype(dtype))
        return found, counts(filled)

    def finish(self, parts: Parts, of: Of) -> Column:
        assert of.column is not None
        blank = parts[1] == 0
        values = np.where(blank, 0, parts[0]).astype(of.column.values.dtype)
        return Column(of.column.kind, values, blank, of.column.places)


class Largest(Least):
    combine = (np.maximum, np.add)
    name, sign = "max", -1


class Ordered:
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


def sorted_values(groups: Groups, column: Column) -> Sorted:
    """The column's values, blanks left out, rising within each group."""
    filled = groups.where(None if column.blank is None else column.present)
    values = filled.pick(column.values)
    order = np.argsort(values)
    order = order[stable_order(filled.ids[order], groups.count)]
    sizes = counts(filled)
    return Sorted(values[order], np.cumsum(sizes) - sizes, sizes)


class Percentile(Ordered):
    """Linear interpolation between the nearest ranks, as the SQL standard's PERCENTILE_CONT."""

    def cells(self, groups: Groups, of: Of) -> Column:
        column = _column(of, "percentile")
        found = sorted_values(groups, column)
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
        column = _column(of, "nth", NUMERIC | {Kind.DATE, Kind.DATETIME, Kind.TIME})
        found = sorted_values(groups, column)
        missing = found.sizes < of.n
        at = found.starts + (found.sizes - of.n if self.largest else of.n - 1)
        values = (
            found.values[np.where(missing, 0, at)] if len(found.values) else np.zeros(groups.count, column.values.dtype)
        )
        return Column(column.kind, values, missing, column.places)


class Distinct(Ordered):
    def cells(self, groups: Groups, of: Of) -> Column:
        column = of.column
        assert column is not None
        filled = groups.where(None if column.blank is None else column.present)
        codes = filled.pick(column.values)
        size = len(column.words)
        if column.kind is not Kind.TEXT:
            different, codes = np.unique(codes, return_inverse=True)
            size = len(different)
        keys = filled.ids * max(1, size) + codes
        if groups.count * max(1, size) <= BITMAP_MOST:
            seen = np.zeros(groups.count * max(1, size), dtype=bool)
            seen[keys] = True
            found = seen.reshape(groups.count, -1).sum(axis=1)
        else:
            found = np.bincount(np.unique(keys) // size, minlength=groups.count)
        return exact(found.astype(np.int64), None, 0)


class Variance(Ordered):
    def __init__(self, sample: bool, root: bool) -> None:
        self.sample, self.root = sample, root

    def cells(self, groups: Groups, of: Of) -> Column:
        column = _column(of, "variance")
        filled = groups.where(None if column.blank is None else column.present)
        n = counts(filled)
        values = filled.pick(column.values).astype(np.float64)
        with np.errstate(all="ignore"):
            mean = sums(filled, column).astype(np.float64) / n
            far = values - mean[filled.ids]
            squares = np.bincount(filled.ids, weights=far * far, minlength=groups.count)
            result = squares / (n - 1 if self.sample else n) / 100.0**column.places
            result = np.sqrt(result) if self.root else result
        return approximate(result, n < (2 if self.sample else 1))


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


TAKES: dict[str, Additive | Ordered] = {
    "sum": Sum(),
    "count": Count(),
    "count_values": CountValues(),
    "distinct": Distinct(),
    "mean": Mean(),
    "weighted_mean": WeightedMean(),
    "median": Median(),
    "percentile": Percentile(),
    "nth_largest": Nth(largest=True),
    "nth_smallest": Nth(largest=False),
    "min": Least(),
    "max": Largest(),
    "variance": Variance(sample=True, root=False),
    "stdev": Variance(sample=True, root=True),
    "variance_pop": Variance(sample=False, root=False),
    "stdev_pop": Variance(sample=False, root=True),
    "first": AtEnd(last=False),
    "last": AtEnd(last=True),
}

COUNTING = frozenset({"count", "count_values", "distinct"})


def what_of(figure: Taken, column: Callable[[str], Column]) -> Of:
    """What a figure takes; `column` finds a column by name."""

    def found(name: str | None) -> Column | None:
        return None if name is None else column(name)

    of = found(figure.of)
    if figure.take in ("sum", "mean") and of is not None and of.kind not in NUMERIC:
        raise DefinitionError(
            f"figure {figure.name}: {figure.take} needs a number column, and {figure.of!r} is {of.kind.value}"
        )
    return Of(of, found(figure.weight), found(figure.by), figure.p or 0.0, figure.n or 1)
