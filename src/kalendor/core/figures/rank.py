"""Ranks: a figure's place among its siblings, or among all lines of its level."""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from kalendor.core.figures.kind import FigureKind, Made, Reckoned, Reckoning, Tracing
from kalendor.core.figures.operand import Operand
from kalendor.core.figures.units import Units
from kalendor.core.groupings.levels import ORDINARY
from kalendor.core.placing.frame import Axis
from kalendor.core.placing.views import View
from kalendor.core.values import arithmetic as ar
from kalendor.core.values.columns import Array, Mask
from kalendor.definitions.figure import Rank

Index = NDArray[np.int64]


class Ranks(FigureKind[Rank]):
    """A place by size."""

    name = "rank"
    model = Rank

    def needs(self, figure: Rank) -> tuple[str, ...]:
        return (figure.rank,)

    def cells(self, figure: Rank, reckoning: Reckoning, view: View) -> Reckoned:
        cells = reckoning.numbers(figure.rank, view)
        stand, lie = reckoning.frame.lines, reckoning.frame.columns
        height, width = reckoning.frame.shape
        competing = _competing(reckoning)
        there = np.flatnonzero(cells.present & competing)
        ranks = np.zeros(height * width, dtype=np.int64)
        keyed = -cells.values if figure.largest_first else cells.values
        ranks[there] = _places(_groups(figure, stand, lie)[there], keyed[there])
        return Reckoned(ar.exact(ranks, cells.blanks | ~competing, 0))

    def units(self, figure: Rank, reckoning: Reckoning, view: View) -> Units | None:
        own = reckoning.units(figure.rank, view)
        groups = _groups(figure, reckoning.frame.lines, reckoning.frame.columns)
        return own and own.gathered(groups + 1, _competing(reckoning))

    def operand(self, figure: Rank, tracing: Tracing, own: Operand, view: View) -> Operand:
        return replace(own, of=(tracing.of(figure.rank, view, own.line, own.column),))

    def approximate(self, figure: Rank, reckoning: Reckoning) -> bool:
        return False

    def rests_on_others(self, figure: Rank) -> bool:
        return figure.within == "all"

    def blank_at_the_top(self, figure: Rank) -> bool:
        return figure.within == "parent"

    def told(self, figure: Rank, made: Made) -> list[str]:
        within = "within its group" if figure.within == "parent" else "among all of its level"
        return [f"The place by {figure.rank}, which is {next(iter(made.parts.values()))}, {within}."]

    def why_blank(self, figure: Rank) -> str:
        return "totals, Other, Not placed and (blank) have no rank"


def _competing(reckoning: Reckoning) -> Mask:
    """Shape (lines × columns,): True for the cells that are ranked: those of ordinary members, without totals and
    special lines."""
    stand, lie = reckoning.frame.lines, reckoning.frame.columns
    if not stand.levels:
        return np.tile(lie.specials() == ORDINARY, stand.count)
    return np.repeat((stand.specials() == ORDINARY) & ~reckoning.propped, lie.count)


def _groups(figure: Rank, stand: Axis, lie: Axis) -> Index:
    """Shape (lines × columns,): a number for each group of competing cells: lines if there are any, else columns."""
    height, width = stand.count, lie.count
    if not stand.levels and lie.levels:
        group = np.broadcast_to(lie.parent if figure.within == "parent" else lie.depth, (height, width))
    else:
        of_line = stand.parent if figure.within == "parent" else stand.depth
        group = of_line[:, None] * width + np.arange(width)[None, :]
    return group.reshape(-1).astype(np.int64)


def _places(group: Index, values: Array) -> Index:
    """The rank of each value within its group, from 1; equal values share one."""
    order = np.lexsort((_sortable(values), group))
    of_group, sorted_values = group[order], values[order]
    opened = np.ones(len(order), dtype=bool)
    opened[1:] = of_group[1:] != of_group[:-1]
    fresh = opened.copy()
    fresh[1:] |= sorted_values[1:] != sorted_values[:-1]
    at = np.arange(len(order))
    first_of_value, first_of_group = (np.maximum.accumulate(np.where(turns, at, 0)) for turns in (fresh, opened))
    place = np.empty(len(order), dtype=np.int64)
    place[order] = first_of_value - first_of_group + 1
    return place


def _sortable(values: Array) -> Array:
    return values if values.dtype != object else np.argsort(np.argsort(values, kind="stable"), kind="stable")
