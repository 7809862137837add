"""What a chart of a sheet draws: its outermost lines by its outermost columns, in one figure, no more than can be read."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kalendor.core.sheet.arrange import GRAND
from kalendor.core.sheet.sheet import Sheet, Side
from kalendor.core.values.columns import NUMERIC, Column
from kalendor.output.shown import shown_cells

MOST_LINES, MOST_SERIES = 24, 6
Index = NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class Chart:
    """`values`, shape (lines, series), NaN where there is none; `texts` are the same as people read them. `upright` where
    the lines are periods, `aging` where the series are, the latest last; `left` is how many lines were too many."""

    figure: str
    lines: tuple[str, ...]
    series: tuple[str, ...]
    values: NDArray[np.float64]
    texts: tuple[tuple[str, ...], ...]
    at: tuple[tuple[int, int], ...]
    upright: bool
    aging: bool
    left: int

    @property
    def height(self) -> float:
        """How high it is drawn where there is room, in inches."""
        return 2.2 if self.upright else 0.6 + len(self.lines) * (0.12 + 0.1 * len(self.series))

    @property
    def alternative(self) -> str:
        """The chart in words, for those who cannot see it."""
        said = f"{self.figure} by {len(self.lines)} lines"
        if len(self.series) > 1:
            said += f", {' and '.join(self.series)} beside each other"
        ends = ", ".join(f"{line} {self.texts[i][-1]}" for i, line in enumerate(self.lines) if i < 6)
        return f"{said}: {ends}{' and more' if len(self.lines) > 6 else ''}."


def chart(sheet: Sheet) -> Chart | None:
    """The chart of a sheet; None where it has no figure of numbers, no column to draw, or less than two lines."""
    figure = next((f for f in sheet.figures if f.cells.kind in NUMERIC), None)
    if figure is None:
        return None
    lines, columns = _outermost(sheet.lines), _outermost(sheet.columns)
    across = len(lines) < 2 <= len(columns)
    rows, series = (columns, lines) if across else (lines, columns)
    own_side, other_side = (sheet.columns, sheet.lines) if across else (sheet.lines, sheet.columns)
    shown_rows, shown_series = rows[:MOST_LINES], series[-MOST_SERIES:]
    if len(shown_rows) < 2 or not len(shown_series):
        return None
    pairs = [(b, a) if across else (a, b) for a in shown_rows.tolist() for b in shown_series.tolist()]
    at = np.array([line * sheet.columns.count + column for line, column in pairs], dtype=np.int64)
    texts = shown_cells(figure, at)
    width = len(shown_series)
    by_row = tuple(tuple(texts[i * width : (i + 1) * width]) for i in range(len(shown_rows)))
    names = [_names(side, at) for side, at in ((sheet.lines, lines), (sheet.columns, columns))]
    own, others = (names[1], names[0]) if across else (names[0], names[1])
    return Chart(
        figure.name, tuple(own[:MOST_LINES]), tuple(others[-MOST_SERIES:]), _numbers(figure.cells.take(at), width), by_row,
        tuple(pairs), _are_periods(own_side), _are_periods(other_side), max(0, len(rows) - MOST_LINES),
    )  # fmt: skip


def _are_periods(side: Side) -> bool:
    return bool(side.levels) and side.levels[0].kind == "period"


def _outermost(side: Side) -> Index:
    """The lines of the outermost level as shown, each once; the total alone where there is no level."""
    if not side.levels:
        return np.array([0], dtype=np.int64)
    here = [
        line
        for line, role in zip(side.shown.lines.tolist(), side.shown.roles, strict=True)
        if role != GRAND and side.depth[line] == 1
    ]
    return np.array(list(dict.fromkeys(here)), dtype=np.int64)


def _names(side: Side, at: Index) -> list[str]:
    whole = [side.heading(line) if side.depth[line] else "" for line in at.tolist()]
    return [name.encode("utf-8", "replace").decode() for name in whole]  # half of a character cannot be drawn


def _numbers(cells: Column, width: int) -> NDArray[np.float64]:
    found: NDArray[np.float64] = np.where(cells.blanks, np.nan, cells.floats()).reshape(-1, width)
    return found
