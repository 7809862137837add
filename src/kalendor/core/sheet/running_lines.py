"""A running figure down the lines, in the order in which they are shown."""

import numpy as np

from kalendor.core.figures.derived import Reckoner
from kalendor.core.figures.occupied import accumulated
from kalendor.core.figures.worked_lines import worked_mask
from kalendor.core.sheet.arrange import Rows
from kalendor.core.values.columns import Column
from kalendor.definitions.figure import Running
from kalendor.errors import DefinitionError


def down_the_lines(reckoner: Reckoner, figure: Running, shown: Rows) -> Column:
    """A running figure down the lines as they are shown; a subtotal shows the value reached."""
    cells = reckoner.cells(figure.running)
    frame = reckoner.frame
    values, blank = cells.values.reshape(frame.shape), cells.blanks.reshape(frame.shape)
    result, none = np.zeros_like(values), np.ones(frame.shape, dtype=bool)
    lines = frame.lines
    names = [level.name for level in lines.levels]
    if figure.restart not in ("never", *names):
        raise DefinitionError(f"restart: there is no level {figure.restart!r} among the lines to restart at")
    depth = 0 if figure.restart == "never" else names.index(figure.restart) + 1
    order = shown.filled()
    order = order[(lines.depth[order] == len(lines.levels)) & ~worked_mask(lines)[order]]
    above = [order]
    for _ in range(len(lines.levels) - depth):
        above.append(lines.parent[above[-1]])
    if len(order):
        first = np.flatnonzero(np.diff(above[-1], prepend=-1))
        reached = accumulated(np.add, np.where(blank, 0, values)[order], first)
        result = result.astype(reached.dtype)
        for at in above:  # the last of those under a line is what it reached
            result[at], none[at] = reached, False
    return Column(cells.kind, result.reshape(-1), none.reshape(-1), cells.places)
