"""The flat shape: one row for every line and column crossing, totals included, in sheet order."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from kalendor.core.figures.bases import MARK_WORDS
from kalendor.core.groupings.levels import NO_START
from kalendor.core.sheet.sheet import TOTAL, Sheet, ShownFigure, Side
from kalendor.core.values.columns import Array, Column, Kind
from kalendor.output.numbers import start_text, texts

APPROXIMATE = "approximate"


@dataclass(frozen=True)
class FlatTable:
    """Headings, and under each a column of texts (`labels`, blank is the empty text) or of a figure's values (`figures`).

    `starts` are headings of columns that hold the first day, or moment, of a period; `keys` of those that hold labels.
    """

    headings: list[str]
    labels: list[list[str] | None]
    figures: list[Column | None]
    starts: frozenset[str]
    keys: frozenset[str]

    @cached_property
    def fields(self) -> list[list[str]]:
        """Every column as texts."""
        pairs = zip(self.labels, self.figures, strict=True)
        return [texts(figure) if figure is not None else own or [] for own, figure in pairs]

    @property
    def rows(self) -> list[list[str]]:
        """The texts row by row."""
        return [list(row) for row in zip(*self.fields, strict=True)]

    @property
    def numeric(self) -> list[bool]:
        """Which columns hold numbers."""
        return [figure is not None and figure.kind in NUMBERS for figure in self.figures]


NUMBERS = frozenset({Kind.WHOLE, Kind.DECIMAL, Kind.APPROXIMATE})


def flat(sheet: Sheet, totals: bool = True) -> FlatTable:
    """The summarised table of a sheet; crossings without a figure are left out, and without `totals` all but the
    innermost. A figure that has marks is followed by a column `FIGURE mark`."""
    lines, columns = sheet.lines.shown.filled(), sheet.columns.shown.filled()
    if not totals:
        lines, columns = (_innermost(side, at) for side, at in ((sheet.lines, lines), (sheet.columns, columns)))
    at_line, at_column = np.nonzero(sheet.present()[np.ix_(lines, columns)])
    line_of, column_of = lines[at_line], columns[at_column]
    table = _Table()
    for side, of_row, down in ((sheet.lines, line_of, True), (sheet.columns, column_of, False)):
        for k, level in enumerate(side.levels):
            table.add(level.name, _labels(side, of_row, k + 1), key=True)
            if level.kind == "period":
                starts = _starts(sheet, line_of, column_of, down, k)
                table.add(f"{level.name} start", _start_texts(starts, level.clock), start=True)
    if totals:
        for side, of_row, name in ((sheet.lines, line_of, "down_level"), (sheet.columns, column_of, "across_level")):
            if side.levels:
                names = [TOTAL, *(level.name for level in side.levels)]
                table.add(name, [names[d] for d in side.depth[of_row].tolist()], key=True)
    at = line_of * sheet.columns.count + column_of
    for figure in sheet.figures:
        cells = figure.cells.take(at)
        table.add(figure.name, None, cells)
        marks = _marks(figure, at)
        if marks is not None:
            table.add(f"{figure.name} mark", marks, key=True)
    return table.done()


class _Table:
    """A flat table under construction."""

    def __init__(self) -> None:
        self.headings: list[str] = []
        self.labels: list[list[str] | None] = []
        self.figures: list[Column | None] = []
        self.starts: set[str] = set()
        self.keys: set[str] = set()

    def add(
        self,
        heading: str,
        labels: list[str] | None,
        figure: Column | None = None,
        key: bool = False,
        start: bool = False,
    ) -> None:
        while heading in self.headings:
            heading += " "
        self.headings.append(heading)
        self.labels.append(labels)
        self.figures.append(figure)
        if key:
            self.keys.add(heading)
        if start:
            self.starts.add(heading)

    def done(self) -> FlatTable:
        return FlatTable(self.headings, self.labels, self.figures, frozenset(self.starts), frozenset(self.keys))


def _innermost(side: Side, at: Array) -> Array:
    inner: Array = at[side.depth[at] == len(side.levels)]
    return inner


def _marks(figure: ShownFigure, at: Array) -> list[str] | None:
    """The mark of each cell in words; None for a figure without marks."""
    found = [""] * len(at)
    if figure.marks is not None:
        found = [MARK_WORDS[mark] for mark in figure.marks[at].tolist()]
    if figure.approximate:
        there = figure.cells.take(at).present.tolist()
        found = [word or (APPROXIMATE if filled else "") for word, filled in zip(found, there, strict=True)]
    return found if any(found) else None


def _labels(side: Side, of_row: Array, depth: int) -> list[str]:
    """The label of each row's member at a depth; empty below the row's own."""
    above = side.above(of_row, depth)
    found: list[str] = np.where(above < 0, "", side.labels[np.maximum(above, 0)]).tolist()
    return found


def _start_texts(starts: NDArray[np.int64], clock: bool) -> list[str]:
    different, which = np.unique(starts, return_inverse=True)
    texts = [start_text(start, clock) for start in different.tolist()]
    return [texts[i] for i in which.tolist()]


def _starts(sheet: Sheet, line_of: Array, column_of: Array, down: bool, k: int) -> NDArray[np.int64]:
    """The start of each row's period at a level, places in the year combined with the year on the other axis."""
    if (down, k) in sheet.place_starts:
        return sheet.place_starts[(down, k)][line_of, column_of]
    side, of_row = (sheet.lines, line_of) if down else (sheet.columns, column_of)
    above = side.above(of_row, k + 1)
    return np.where(above < 0, NO_START, side.starts[np.maximum(above, 0)])
