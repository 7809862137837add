"""Takes: one number for each group of records."""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from kalendor.core.takes.groups import Groups, counts
from kalendor.core.takes.sums import summed, sums
from kalendor.core.takes.whole_sums import exact_sums
from kalendor.core.values.arithmetic import approximate, divide, exact, multiply
from kalendor.core.values.columns import NUMERIC, Array, Column, Kind, Mask, as_kind, blank_column
from kalendor.core.values.keys import NO_KEY, Key
from kalendor.errors import DefinitionError

ORDERED = NUMERIC | {Kind.DATE, Kind.DATETIME, Kind.TIME, Kind.TEXT}

Index = NDArray[np.int64]
Parts = tuple[Array, ...]


@dataclass(frozen=True, eq=False)
class Of:
    """What is taken: the column, its weight or date, and the take's own parameters.

    `order()` gives the positions of the column's filled records by rising value; `column_key` names the column and
    whether its signs are reversed. `keys` numbers the records' keys, for a balance.

    If a row represents several records, `times`, shape (n,), says how many of them the take counts; `column` then has
    the take's value over them (their sum, least value, last value), `products` and `squares` the further sums that it
    needs, and `places`, shape (n,), the position of that value among all records. None where each row is one record.
    """

    column: Column | None
    weight: Column | None
    by: Column | None
    p: float
    n: int
    order: Callable[[], Index] | None = None
    column_key: Key = NO_KEY
    keys: Array | None = None
    times: Index | None = None
    products: Column | None = None
    squares: Column | None = None
    places: Index | None = None


def counted(groups: Groups, of: Of) -> Index:
    """How many records each group has, shape (groups.count,)."""
    return counts(groups) if of.times is None else exact_sums(groups.ids, groups.pick(of.times), groups.count)


def needed(of: Of, take: str, allowed: frozenset[Kind] = NUMERIC) -> Column:
    """The column that a take is of, if its kind is one of those allowed; else DefinitionError."""
    assert of.column is not None
    column = of.column if of.column.kind in allowed else as_kind(of.column, Kind.WHOLE, *allowed)
    if column.kind not in allowed:
        raise DefinitionError(
            f"{take} needs {'a number' if allowed is NUMERIC else 'another'} column, not {of.column.kind.value}"
        )
    return column


class Take:
    """The properties common to all takes."""

    counts = False
    """Whether it is a number of records or values, whatever these are."""
    adds_up = False
    """Whether its parts add up to the whole, so that a missing part counts as 0."""
    by_value = False
    """Whether rows that stand for several records must be of one value each."""

    def gives(self, rows: Index, of: Of) -> Column | None:
        """What each of the records at `rows` contributes to the number; None if contributions do not add up to it."""
        return None

    def condensed(self, groups: Groups, of: Of) -> Of:
        """What is taken when each group becomes one row, shape (groups.count,); rows that represent records can be
        condensed again."""
        return replace(of, column=None, times=counted(groups, of), order=None)


class Additive(Take):
    """A take of a whole that is the sum (least, largest) of its parts' values."""

    combine: tuple[np.ufunc, ...]

    def parts(self, groups: Groups, of: Of) -> Parts:
        """Arrays of shape (groups.count,), combined upwards by `combine`."""
        raise NotImplementedError

    def finish(self, parts: Parts, of: Of) -> Column:
        """The take's value from its parts."""
        raise NotImplementedError


class Sum(Additive):
    combine = (np.add, np.add)
    adds_up = True

    def gives(self, rows: Index, of: Of) -> Column | None:
        return needed(of, "sum").take(rows)

    def parts(self, groups: Groups, of: Of) -> Parts:
        column = needed(of, "sum")
        filled = groups.where(None if column.blank is None else column.present)
        return sums(filled, column), counted(filled, of)

    def finish(self, parts: Parts, of: Of) -> Column:
        total, n = parts
        column = needed(of, "sum")
        return _of_kind(column, total, n == 0)

    def condensed(self, groups: Groups, of: Of) -> Of:
        column = needed(of, "sum")
        filled = groups.where(None if column.blank is None else column.present)
        return replace(of, column=summed(filled, column), times=counted(filled, of), order=None)


class Count(Additive):
    combine = (np.add,)
    counts = adds_up = True

    def parts(self, groups: Groups, of: Of) -> Parts:
        return (counted(groups, of),)

    def finish(self, parts: Parts, of: Of) -> Column:
        return exact(parts[0].astype(np.int64), None, 0)

    def gives(self, rows: Index, of: Of) -> Column | None:
        return exact(np.ones(len(rows), dtype=np.int64) if of.times is None else of.times[rows], None, 0)


class CountValues(Count):
    def gives(self, rows: Index, of: Of) -> Column | None:
        assert of.column is not None
        blank = of.column.blanks[rows]
        return exact(np.ones(len(rows), dtype=np.int64) if of.times is None else of.times[rows], blank, 0)

    def parts(self, groups: Groups, of: Of) -> Parts:
        assert of.column is not None
        return (counted(groups.where(None if of.column.blank is None else of.column.present), of),)

    def condensed(self, groups: Groups, of: Of) -> Of:
        (times,) = self.parts(groups, of)
        return replace(of, column=exact(times, times == 0, 0), times=times, order=None)


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
        filled, products, weight = self._filled(groups, of)
        return sums(filled, products), sums(filled, weight)

    def finish(self, parts: Parts, of: Of) -> Column:
        assert of.weight is not None
        return divide(_of_kind(_products(of), parts[0], None), _of_kind(of.weight, parts[1], None))

    def condensed(self, groups: Groups, of: Of) -> Of:
        filled, products, weight = self._filled(groups, of)
        column, products, weight = of.column, summed(filled, products), summed(filled, weight)
        assert column is not None
        nothing = blank_column(column.kind, groups.count, column.places)
        return replace(of, column=replace(nothing, blank=products.blank), products=products, weight=weight, order=None)

    def _filled(self, groups: Groups, of: Of) -> tuple[Groups, Column, Column]:
        """The records with an amount and a weight, the products of both, and the weights."""
        column, weight = needed(of, "weighted_mean"), of.weight
        assert weight is not None
        if weight.kind not in NUMERIC:
            raise DefinitionError(f"weighted_mean needs a number column as its weight, not {weight.kind.value}")
        filled = groups.where(
            None if column.blank is None and weight.blank is None else column.present & weight.present
        )
        return filled, _products(of), weight


def _products(of: Of) -> Column:
    """Each record's amount times its weight."""
    if of.products is not None:
        return of.products
    assert of.column is not None
    assert of.weight is not None
    return multiply(of.column, of.weight)


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

    def condensed(self, groups: Groups, of: Of) -> Of:
        return replace(of, column=self.finish(self.parts(groups, of), of), order=None)


class Largest(Least):
    combine = (np.maximum, np.add)
    name, sign = "max", -1
