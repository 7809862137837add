"""The flat shape: one row for every line and column crossing, totals included, in sheet order."""

from dataclasses import dataclass
from typing import Any

import numpy as np

from kalendor.core.groupings.levels import NO_START
from kalendor.core.placing.frame import Axis
from kalendor.core.sheet.sheet import TOTAL, Sheet, level_starts, place_starts
from kalendor.core.values.columns import Column
from kalendor.output.numbers import start_text, texts


@dataclass(frozen=True)
class FlatTable:
    """Headings, and a column of texts and (for a figure, else None) of values under each; blank is the empty text.

    `starts` are headings of columns that hold the first day, or moment, of a period.
    """

    headings: list[str]
    fields: list[list[str]]
    figures: list[Column | None]
    starts: frozenset[str]

    @property
    def rows(self) -> list[list[str]]:
        """The texts row by row."""
        return [list(row) for row in zip(*self.fields, strict=True)]

    @property
    def numeric(self) -> list[bool]:
        """Which columns are figures."""
        return [figure is not None for figure in self.figures]


def flat(sheet: Sheet) -> FlatTable:
    """The summarised table of a sheet. Crossings that hold no figure are left out."""
    frame = sheet.frame
    lines, columns = sheet.line_rows.filled(), sheet.column_rows.filled()
    shown = sheet.present()[np.ix_(lines, columns)]
    at_line, at_column = np.nonzero(shown)
    line_of, column_of = lines[at_line], columns[at_column]
    headings: list[str] = []
    fields: list[list[str]] = []
    dated: list[str] = []
    starts = _Starts(sheet)
    for axis, of_row, down in ((frame.lines, line_of, True), (frame.columns, column_of, False)):
        for k, level in enumerate(axis.levels):
            headings.append(level.name)
            fields.append(_labels(sheet, axis, of_row, k, down))
            if level.period is not None:
                headings.append(f"{level.name} start")
                dated.append(headings[-1])
                fields.append(starts.of(line_of, column_of, down, k))
    for axis, of_row, name in ((frame.lines, line_of, "down_level"), (frame.columns, column_of, "across_level")):
        if axis.levels:
            names = [TOTAL, *(level.name for level in axis.levels)]
            headings.append(name)
            fields.append([names[d] for d in axis.depth[of_row].tolist()])
    at = line_of * frame.columns.count + column_of
    taken = [figure.cells.take(at) for figure in sheet.figures]
    figures = [*([None] * len(headings)), *taken]
    headings += [figure.name for figure in sheet.figures]
    fields += [texts(cells) for cells in taken]
    return FlatTable(headings, fields, figures, frozenset(dated))


def _labels(sheet: Sheet, axis: Axis, of_row: np.ndarray, k: int, down: bool) -> list[str]:
    """The label of each row's member at a level; empty below the row's own level."""
    different, back = np.unique(_ancestors(axis, of_row, k + 1), return_inverse=True)
    names = ["" if i < 0 else sheet.line_label(i) if down else sheet.column_label(i) for i in different.tolist()]
    return [names[i] for i in back.tolist()]


def _ancestors(axis: Axis, lines: np.ndarray, depth: int) -> np.ndarray:
    """The line of `depth` at or above each line; −1 for lines that stand higher."""
    at = lines.copy()
    for _ in range(len(axis.levels)):
        deep = axis.depth[np.maximum(at, 0)] > depth
        if not deep.any():
            break
        at = np.where(deep, axis.parent[np.maximum(at, 0)], at)
    return np.where(axis.depth[at] == depth, at, -1)


class _Starts:
    """The start of each row's period at a level, places in the year joined with the year on the other axis."""

    def __init__(self, sheet: Sheet) -> None:
        self.sheet = sheet
        self._grids: dict[Any, Any] = {}

    def of(self, line_of: np.ndarray, column_of: np.ndarray, down: bool, k: int) -> list[str]:
        frame = self.sheet.frame
        axis, of_row = (frame.lines, line_of) if down else (frame.columns, column_of)
        period = axis.levels[k].period
        clock = period.grouper.grain in ("hour", "minute")
        if period.grouper.mode != "place":
            starts = level_starts(axis, of_row, k)
            assert starts is not None
        else:
            starts = self._places(line_of, column_of, down, k)
        return [start_text(s, clock) for s in starts.tolist()]

    def _places(self, line_of: np.ndarray, column_of: np.ndarray, down: bool, k: int) -> np.ndarray:
        frame = self.sheet.frame
        depths = frame.lines.depth[line_of], frame.columns.depth[column_of]
        result = np.full(len(line_of), NO_START, dtype=np.int64)
        for crossing in frame.crossings:
            if (crossing[0] if down else crossing[1]) <= k:
                continue
            rows = np.flatnonzero((depths[0] == crossing[0]) & (depths[1] == crossing[1]))
            grid = place_starts(frame, crossing, down, k)
            if len(rows) and grid is not None:
                block = frame.block(crossing)
                result[rows] = grid[line_of[rows] - block[0].start, column_of[rows] - block[1].start]
        return result
