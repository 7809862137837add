"""A running figure down the lines, in the order in which they are shown."""

from typing import Any

import numpy as np

from kalendor.core.figures.derived import Reckoner
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
    deepest = len(lines.levels)
    reached: dict[int, Any] = {}
    worked = worked_mask(lines)
    for line in shown.filled().tolist():
        if lines.depth[line] < deepest or worked[line]:
            continue
        above = [line]
        while lines.depth[above[-1]] > 0:
            above.append(int(lines.parent[above[-1]]))
        home = next(i for i in above if lines.depth[i] == depth)
        reached[home] = reached.get(home, 0) + np.where(blank[line], 0, values[line])
        for i in above:
            if lines.depth[i] >= depth:
                result[i], none[i] = reached[home], False
    return Column(cells.kind, result.reshape(-1), none.reshape(-1), cells.places)
