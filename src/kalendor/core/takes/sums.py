"""Sums of amounts by group. Those of exact amounts are exact, whatever their size; those of approximate ones are rounded once."""

from dataclasses import replace

import numpy as np

from kalendor.core.takes.exact_floats import FloatSums, float_sums, squared
from kalendor.core.takes.groups import Groups, counts
from kalendor.core.takes.whole_sums import exact_sums
from kalendor.core.values.columns import INT64_MOST, Array, Column, Kind, magnitude
from kalendor.core.values.occurrences import BLOCK

MOST_SQUARED = 3_037_000_499


def sums(groups: Groups, column: Column) -> Array:
    """The sum of a number column in each group, in the column's own units."""
    if len(groups.ids) > 2 * BLOCK and groups.count <= BLOCK and column.values.dtype == np.int64:
        return _sums_by_block(groups, column.values)
    values = groups.pick(column.values)
    if column.kind is Kind.APPROXIMATE:
        return float_sums_of(groups, column).rounded()
    if values.dtype == object:
        total = np.zeros(groups.count, dtype=object)
        np.add.at(total, groups.ids, values)
        return total
    return exact_sums(groups.ids, values, groups.count)


def _sums_by_block(groups: Groups, values: Array) -> Array:
    """The same, a block of records at a time, so that intermediate arrays stay in the processor's cache."""
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


def squares_of(column: Column) -> Column:
    """The squares of a number column's values, in the square of its units."""
    values = column.values
    if column.kind is Kind.APPROXIMATE:
        first, rest = squared(values)
        return replace(column, values=first, rest=(rest,))
    if len(values) and (values.dtype == object or magnitude(values) > MOST_SQUARED):
        values = values.astype(object)
    return replace(column, values=values * values, places=2 * column.places)


def float_sums_of(groups: Groups, column: Column) -> FloatSums:
    """The sum of approximate amounts in each group, exact."""
    return float_sums(groups.ids, [groups.pick(part) for part in (column.values, *column.rest)], groups.count)


def summed(groups: Groups, column: Column) -> Column:
    """The sum of a number column in each group, as amounts that can be summed further without loss; blank for groups
    without records."""
    blank = counts(groups) == 0
    if column.kind is Kind.APPROXIMATE:
        first, *rest = (found := float_sums_of(groups, column)).parts
        return replace(column, values=first + found.odd, blank=blank, rest=tuple(rest), unrounded=None)
    return replace(column, values=narrowed(sums(groups, column)), blank=blank, unrounded=None)


def narrowed(values: Array) -> Array:
    """Whole numbers as int64 if they fit."""
    return values.astype(np.int64) if values.dtype == object and magnitude(values) <= INT64_MOST else values
