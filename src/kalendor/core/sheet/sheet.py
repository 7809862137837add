"""The sheet as a value: labels, paths, roles, cells, marks, headings and notes. All outputs read only this."""

from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from kalendor.core.sheet.footnotes import Footnote
from kalendor.core.sheet.listing import Listing
from kalendor.core.sheet.side import TOTAL, LevelHead, Side
from kalendor.core.sheet.tieout import TieOut
from kalendor.core.values.columns import Column, Mask
from kalendor.definitions.figure import Format
from kalendor.definitions.report import Layout

Index = NDArray[np.int64]
NO_COLUMN, NOT_SAID = -1, -2
__all__ = ["NOT_SAID", "NO_COLUMN", "TOTAL", "ColumnHead", "HeadingSpan", "LevelHead", "Sheet", "ShownFigure", "Side"]


@dataclass(frozen=True)
class ColumnHead:
    """A column that bears figures: its position, its headings, outermost first, and its role."""

    at: int
    labels: tuple[str, ...]
    depth: int
    role: str


@dataclass(frozen=True)
class HeadingSpan:
    """A heading over the next `columns` columns."""

    label: str
    columns: int


@dataclass(frozen=True, eq=False)
class ShownFigure:
    """A figure on the sheet: `cells`, shape (lines × columns,); `marks` likewise (see `compare.MARK_WORDS`).

    `zero_is_none`: a 0 means no record, as in a count. `percent`: best shown as a percentage; `signed`: its plus is
    shown. `units`, shape (lines × columns,), numbers the unit of each cell, such as a currency, −1 for none; None if
    all are the same. `cut`, shape (lines × columns,), is True where the figure compares only a part of what the line
    shows. `rounded`, shape (lines × columns,), are the cells rounded so that what is shown adds up; None if each is
    rounded independently.
    """

    name: str
    cells: Column
    format: Format
    marks: NDArray[np.int8] | None = None
    zero_is_none: bool = False
    percent: bool = False
    signed: bool = False
    approximate: bool = False
    cut: Mask | None = None
    units: NDArray[np.int64] | None = None
    rounded: Column | None = None

    @property
    def as_shown(self) -> "ShownFigure":
        """The figure with its cells as shown: those rounded so that they add up, if it has such."""
        return self if self.rounded is None else replace(self, cells=self.rounded, rounded=None)


@dataclass(frozen=True, eq=False)
class Sheet:
    """A computed report. The same definition, groupings, records and as-of date give the same sheet.

    `held`, shape (lines, columns): the cells that contain records. `place_starts` holds, for levels that show places in
    a coarser period (True: down, and the level's number), each cell's period start, shape (lines, columns). `layout` is
    how it is set, `listing` the records under its innermost lines, `footnotes` the notes on its lines and numbers.
    `part_of` is the title of the sheet of which this is one member's part, whose tie-out does not apply to it; empty
    for a whole sheet. `current` is the outermost column whose period contains the as-of date (or the window's last day,
    if earlier): NO_COLUMN if that period has none, NOT_SAID if the outermost columns are not periods.
    """

    title: str
    as_of: int
    lines: Side
    columns: Side
    held: Mask
    figures: tuple[ShownFigure, ...]
    tie_out: TieOut
    notes: tuple[str, ...] = ()
    place_starts: dict[tuple[bool, int], Index] = field(default_factory=dict)
    layout: Layout = field(default_factory=Layout)
    listing: Listing | None = None
    footnotes: tuple[Footnote, ...] = ()
    part_of: str = ""
    current: int = NOT_SAID

    @property
    def shape(self) -> tuple[int, int]:
        """The number of lines and of columns, of all depths."""
        return self.lines.count, self.columns.count

    def present(self) -> Mask:
        """Shape (lines, columns): cells that contain records, or a figure other than a count of none."""
        found = self.held.reshape(-1).copy()
        for figure in self.figures:
            there = figure.cells.present
            found |= there & (figure.cells.values != 0) if figure.zero_is_none else there
            if figure.marks is not None:
                found |= figure.marks != 0
        return found.reshape(self.shape)

    def heads(self) -> list[ColumnHead]:
        """The columns that bear figures, in order."""
        deepest = len(self.columns.levels)
        found = []
        for at in self.columns.shown.filled().tolist():
            depth = int(self.columns.depth[at])
            role = "leaf" if depth == deepest else "grand" if depth == 0 else "subtotal"
            path = [*self.columns.path(at), *([TOTAL] if depth < deepest else [])]
            found.append(ColumnHead(at, tuple(path), depth, role))
        return found

    def heading_rows(self) -> list[list[HeadingSpan]]:
        """The rows of headings over the columns, outermost first, each heading once over its span."""
        heads = self.heads()
        rows = []
        at = np.array([head.at for head in heads], dtype=np.int64)
        for level in range(len(self.columns.levels)):
            spans: list[tuple[object, str, int]] = []
            for head, above in zip(heads, self.columns.above(at, level + 1).tolist(), strict=True):
                label = head.labels[level] if level < len(head.labels) else ""
                own: object = above if above >= 0 else ("total", head.at, level)
                if spans and spans[-1][0] == own:
                    spans[-1] = (own, label, spans[-1][2] + 1)
                else:
                    spans.append((own, label, 1))
            rows.append([HeadingSpan(label, columns) for _, label, columns in spans])
        return rows
