"""Orders that depend on the sheet: by a figure, by first appearance, and periods in any order but their own."""

from collections.abc import Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kalendor.core.figures.reckoner import Reckoner
from kalendor.core.groupings.levels import Level
from kalendor.core.groupings.order import member_order
from kalendor.core.placing.frame import Axis
from kalendor.core.sheet.arrange import ByValue
from kalendor.core.values.columns import Mask
from kalendor.definitions.axis import ByFigure, Entry
from kalendor.errors import DefinitionError


def orders(reckoner: Reckoner, entries: Sequence[Entry], down: bool) -> list[ByValue]:
    """The orders of an axis's entries: lines by a figure in one column (default: the total), columns by a figure in one
    line likewise."""
    side = side_of(reckoner, down)
    found = []
    for position, entry in enumerate(entries):
        by = entry.order if isinstance(entry.order, ByFigure) else None
        if by is None and entry.top is not None and entry.order is None:
            by = ByFigure(by=entry.by or "", desc=True)
        if by is not None:
            depth = depth_of(side.levels, position, by.level)
            at = _named(side_of(reckoner, not down), by.column)
            found.append(ByValue(depth, *at_total(reckoner, down, by.by, depth, at), by.desc))
        else:
            found += _standing(reckoner, down, position, entry)
    return found


def _standing(reckoner: Reckoner, down: bool, position: int, entry: Entry) -> list[ByValue]:
    """The order of each of an entry's levels, if by first appearance, or of periods by label or list."""
    side = side_of(reckoner, down)
    found = []
    for depth, level in enumerate(side.levels, start=1):
        if level.entry != position:
            continue
        if entry.order == "first_seen":
            values = reckoner.main.first_seen(down, depth)
        elif level.period is not None and (picked := member_order(level.members, entry.order)) is not None:
            values = np.argsort(picked)[side.path[side.lines_at(depth), depth - 1]]
        else:
            continue
        found.append(ByValue(depth, values, np.zeros(len(values), dtype=bool), descending=False))
    return found


def depth_of(levels: Sequence[Level], entry: int, name: str | None) -> int:
    """The depth of an entry's level of that name, by default its innermost.

    Raises DefinitionError if it has no such level.
    """
    own = [k for k, level in enumerate(levels) if level.entry == entry and (name is None or level.name == name)]
    if not own:
        raise DefinitionError(f"order: the entry has no level {name!r}")
    return own[-1] + 1


def side_of(reckoner: Reckoner, down: bool) -> Axis:
    """The lines of a sheet, or its columns."""
    return reckoner.frame.lines if down else reckoner.frame.columns


def at_total(reckoner: Reckoner, down: bool, name: str, depth: int, at: int = 0) -> tuple[NDArray[Any], Mask]:
    """A figure on the lines of a depth in one column, or on the columns of a depth in one line."""
    values, blank = reckoner.matrix(name)
    here = side_of(reckoner, down).lines_at(depth)
    return (values[here, at], blank[here, at]) if down else (values[at, here], blank[at, here])


def _named(axis_: Axis, labels: list[str] | None) -> int:
    """The column (or line) with these labels, outermost first; the total without labels."""
    if not labels:
        return 0
    for i in range(axis_.count):
        path = [axis_.levels[k].members.labels[axis_.path[i, k]] for k in range(int(axis_.depth[i]))]
        if path == labels:
            return i
    raise DefinitionError(f"order: there is no column {' › '.join(labels)}")
