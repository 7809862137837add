"""The sheet as a value: lines, columns, figures in every cell, and the tie-out."""

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from kalendor.core.groupings.levels import NO_START
from kalendor.core.groupings.periods import COARSER
from kalendor.core.placing.frame import Axis, Frame
from kalendor.core.placing.positions import cell_periods, starts_of
from kalendor.core.sheet.arrange import Rows
from kalendor.core.sheet.tieout import TieOut
from kalendor.core.values.columns import Column
from kalendor.definitions.figure import Format

Index = NDArray[np.int64]
TOTAL = "Total"


@dataclass(frozen=True, eq=False)
class ShownFigure:
    """A figure on the sheet: `cells`, shape (lines × columns,); `marks` likewise (see `compare.MARK_WORDS`).

    `zero_is_none`: a 0 stands for no record, as in a count. `percent` is the way it is best read.
    """

    name: str
    cells: Column
    format: Format
    marks: NDArray[np.int8] | None = None
    zero_is_none: bool = False
    percent: bool = False


@dataclass(frozen=True, eq=False)
class Sheet:
    """A report as worked out. The same definition, groupings, records and as-of date give the same sheet.

    `held`, shape (lines, columns): the cells in which a record stands.
    """

    title: str
    as_of: int
    frame: Frame
    held: NDArray[np.bool_]
    line_rows: Rows
    column_rows: Rows
    figures: tuple[ShownFigure, ...]
    tie_out: TieOut
    other_lines: dict[int, str] = field(default_factory=dict)
    other_columns: dict[int, str] = field(default_factory=dict)
    notes: tuple[str, ...] = ()
    line_notes: dict[int, str] = field(default_factory=dict)
    column_notes: dict[int, str] = field(default_factory=dict)

    def present(self) -> NDArray[np.bool_]:
        """Shape (lines, columns): cells in which a record stands, or that hold a figure other than a count of none."""
        found = self.held.reshape(-1).copy()
        for figure in self.figures:
            there = figure.cells.present
            found |= there & (figure.cells.values != 0) if figure.zero_is_none else there
        return found.reshape(self.frame.shape)

    def line_label(self, line: int) -> str:
        """A line's own label."""
        return self.other_lines.get(line) or own_label(self.frame.lines, line)

    def line_heading(self, line: int) -> str:
        """A line's label as a reader sees it, with the words for a period that is cut."""
        note = self.line_notes.get(line)
        return f"{self.line_label(line)} · {note}" if note else self.line_label(line)

    def column_label(self, column: int) -> str:
        """A column's own label."""
        return self.other_columns.get(column) or own_label(self.frame.columns, column)

    def column_heading(self, column: int) -> str:
        """A column's own label as a reader sees it, with the words for a period that is cut."""
        note = self.column_notes.get(column)
        label = self.column_label(column)
        return f"{label} · {note}" if note else label


def own_label(axis: Axis, line: int) -> str:
    """The label of a line's innermost member; a week that a coarser period cuts is marked as part."""
    depth = int(axis.depth[line])
    if depth == 0:
        return TOTAL
    level = axis.levels[depth - 1]
    label = level.members.labels[axis.path[line, depth - 1]]
    return f"{label} (part)" if _is_part(axis, line, depth - 1) else label


def _is_part(axis: Axis, line: int, k: int) -> bool:
    period = axis.levels[k].period
    code = int(axis.path[line, k])
    if period is None or period.grouper.grain != "week" or period.grouper.mode != "own" or code >= len(period.numbers):
        return False
    first = int(period.grouper.start(int(period.numbers[code])))
    for j in range(k):
        outer = axis.levels[j].period
        if outer is None or outer.grouper.column != period.grouper.column or outer.grouper.mode != "own":
            continue
        numbers = outer.grouper.numbers(np.array([first, first + 6]), None)
        if outer.grouper.grain in COARSER and numbers[0] != numbers[1]:
            return True
    return False


def place_starts(frame: Frame, crossing: tuple[int, int], down: bool, level: int) -> Index | None:
    """Where a level shows places in a coarser period: each cell's period start, shape (lines, columns); else None."""
    axis = frame.lines if down else frame.columns
    period = axis.levels[level].period
    if period is None or period.grouper.mode != "place":
        return None
    found = cell_periods(frame, crossing, period.grouper.column)
    if found is None or found[0].grain != period.grouper.grain:
        return _ancestor_places(frame, crossing, down, level)
    return starts_of(*found)


def _ancestor_places(frame: Frame, crossing: tuple[int, int], down: bool, level: int) -> Index | None:
    """The starts of a coarser place level, read from the crossing at which it is the innermost."""
    axis = frame.lines if down else frame.columns
    depth = crossing[0] if down else crossing[1]
    upper = (level + 1, crossing[1]) if down else (crossing[0], level + 1)
    found = cell_periods(frame, upper, axis.levels[level].period.grouper.column)
    if found is None or found[0].grain != axis.levels[level].period.grouper.grain:
        return None
    starts = starts_of(*found)
    lines = np.arange(axis.offsets[depth], axis.offsets[depth + 1])
    while len(lines) and axis.depth[lines[0]] > level + 1:
        lines = axis.parent[lines]
    at = lines - axis.offsets[level + 1]
    return starts[at] if down else starts[:, at]


def level_starts(axis: Axis, lines: Sequence[int] | Index, level: int) -> Index | None:
    """The start of each line's member at a period level; NO_START where there is none; None for other levels."""
    starts = axis.levels[level].members.starts
    if starts is None:
        return None
    codes = axis.path[np.asarray(lines), level]
    if not len(starts):
        return np.full(len(codes), NO_START)
    return np.where(codes >= 0, starts[np.maximum(codes, 0)], NO_START)
