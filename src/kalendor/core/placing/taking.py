"""Computes a take for every cell of a sheet: rolled up, from bundles of the records, or cell by cell."""

from collections.abc import Callable, Sequence

import numpy as np

from kalendor.core.groupings.periods import Grain
from kalendor.core.placing.bundles import Bundles, gathered, with_room
from kalendor.core.placing.cells import Crossing, assembled, joined, rolled_up
from kalendor.core.placing.views import View, Where
from kalendor.core.takes.aggregate import Additive, Of, Parts
from kalendor.core.takes.takes import TAKES
from kalendor.core.values.columns import Array, Column
from kalendor.core.values.cores import each


def taken(name: str, of: Of, where: Where | None, view: View, wanted: Sequence[Crossing] | None = None) -> Column:
    """A take for every cell, shape (lines × columns,); crossings that are not `wanted` are blank."""
    take = TAKES[name]
    frame = view.frame
    if isinstance(take, Additive):
        if view.days is None:
            parts = _rolled(take, of, where, view)
            return take.finish(tuple(part.reshape(-1) for part in parts), of)
        found = each(_shifted(take, of, where, view), frame.crossings, view.count)
        return take.finish(tuple(joined(frame, blocks) for blocks in zip(*found, strict=True)), of)
    asked = wanted or frame.crossings
    made = each(lambda c: take.cells(view.groups(c, where), of), asked, view.count)
    return assembled(frame, dict(zip(asked, made, strict=True)))


def _shifted(take: Additive, of: Of, where: Where | None, view: View) -> Callable[[Crossing], Parts]:
    """A function that gives a take's parts for the cells of a crossing of a shifted view, whose records are placed
    differently for each grain: from bundles, if those are few."""
    by_grain: dict[Grain | None, tuple[Bundles, Parts] | None] = {}
    for grain in dict.fromkeys(map(view.grain_at, view.frame.crossings)):
        bundles = view.bundles(grain)
        if bundles is None:
            by_grain[grain] = None
        else:
            parts = take.parts(bundles.groups.where(None if where is None else where.mask), of)
            by_grain[grain] = bundles, with_room(take.combine, parts)

    def at(crossing: Crossing) -> Parts:
        known = by_grain[view.grain_at(crossing)]
        return take.parts(view.groups(crossing, where), of) if known is None else _spread(take, *known, view, crossing)

    return at


def _spread(take: Additive, bundles: Bundles, parts: Parts, view: View, crossing: Crossing) -> Parts:
    """A take's parts for the cells of a crossing, from those by bundle."""
    frame = view.frame
    height, width = frame.block_shape(crossing)
    lines = frame.lines.locate(_given(bundles.down), crossing[0], bundles.count)
    columns = frame.columns.locate(_given(bundles.across), crossing[1], bundles.count)
    gathering = gathered(np.where((lines >= 0) & (columns >= 0), lines * width + columns, -1))
    return tuple(gathering.spread(ufunc, p, height * width) for ufunc, p in zip(take.combine, parts, strict=True))


def _given(codes: Sequence[Array | None]) -> list[Array]:
    return [one for one in codes if one is not None]


def _rolled(take: Additive, of: Of, where: Where | None, view: View) -> Parts:
    leaf_parts = take.parts(view.groups(view.frame.crossings[-1], where), of)
    return tuple(rolled_up(view.frame, ufunc, leaf) for ufunc, leaf in zip(take.combine, leaf_parts, strict=True))
