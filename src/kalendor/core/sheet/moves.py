"""The differences between two sheets: cells with the same labels and different numbers."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kalendor.core.sheet.sheet import Sheet, ShownFigure, Side
from kalendor.core.values.columns import EXACT, NUMERIC, Column, Kind, Mask

Index = NDArray[np.int64]
Path = tuple[tuple[str, int], ...]
NOWHERE = -1
DIGITS = 12


@dataclass(frozen=True)
class Place:
    """A cell by its labels: the figure's name, and the labels of its line and of its column, outermost first, each with
    its special kind."""

    figure: str
    line: Path
    column: Path


@dataclass(frozen=True)
class Move:
    """A cell that changed: its line and column on the earlier sheet and on the later; None if it does not exist there."""

    place: Place
    before: tuple[int, int] | None
    after: tuple[int, int] | None


class Places:
    """The positions of a sheet's cells, by their labels."""

    def __init__(self, sheet: Sheet) -> None:
        self.sheet = sheet
        self.lines, self.columns = paths(sheet.lines), paths(sheet.columns)
        self._line = {path: at for at, path in enumerate(self.lines)}
        self._column = {path: at for at, path in enumerate(self.columns)}
        self._figure = {figure.name: figure for figure in sheet.figures}

    def at(self, place: Place) -> tuple[int, int] | None:
        """A cell's line and column; None if the sheet does not have it."""
        line, column = self._line.get(place.line), self._column.get(place.column)
        return None if line is None or column is None or place.figure not in self._figure else (line, column)

    def value(self, place: Place) -> Any:
        """A cell's value: a number as a Decimal, an approximate one to 12 digits; None for a blank."""
        at = self.at(place)
        return None if at is None else cell_value(self._figure[place.figure], at[0] * self.sheet.columns.count + at[1])


def cell_value(figure: ShownFigure, at: int) -> Any:
    """A cell's value likewise, by its position among the figure's cells."""
    value = figure.cells.item(at)
    if isinstance(value, float):
        return Decimal(f"{value:.{DIGITS}g}") if np.isfinite(value) else None
    return Decimal(value) if figure.cells.kind in EXACT and value is not None else value


def paths(side: Side) -> list[Path]:
    """The labels of each line (or column), outermost first, each with its special kind; for lines that represent a rest
    beyond a top, without the number of members."""
    found: list[Path] = [()] * side.count
    for at in np.argsort(side.depth, kind="stable").tolist():
        if side.depth[at] > 0:
            own = str(side.names[at] if at in side.rest else side.labels[at])
            found[at] = (*found[int(side.parent[at])], (own, int(side.special[at])))
    return found


def moves(before: Places, after: Places) -> Iterator[Move]:
    """The cells shown on either sheet that differ in number or mark, in the later sheet's order, those that no longer
    exist last."""
    lines = _paired(before.lines, after.lines, _shown(before.sheet.lines), _shown(after.sheet.lines))
    columns = _paired(before.columns, after.columns, _shown(before.sheet.columns), _shown(after.sheet.columns))
    known = {figure.name: figure for figure in before.sheet.figures}
    names = list(dict.fromkeys([*(f.name for f in after.sheet.figures), *known]))
    later = {figure.name: figure for figure in after.sheet.figures}
    widths = before.sheet.columns.count, after.sheet.columns.count
    differ = [(name, _differ(known.get(name), later.get(name), lines, columns, widths)) for name in names]
    for i, (line, was_line, is_line) in enumerate(zip(*lines, strict=True)):
        for j, (column, was_column, is_column) in enumerate(zip(*columns, strict=True)):
            for name, moved in differ:
                if moved[i, j]:
                    there = was_line >= 0 and was_column >= 0 and name in known
                    here = is_line >= 0 and is_column >= 0 and name in later
                    yield Move(
                        Place(name, line, column),
                        (was_line, was_column) if there else None,
                        (is_line, is_column) if here else None,
                    )


def any_moved(before: Places, after: Places) -> bool:
    """Whether any cell moved."""
    return next(moves(before, after), None) is not None


def _shown(side: Side) -> set[int]:
    return set(side.shown.filled().tolist())


def _paired(
    before: Sequence[Path], after: Sequence[Path], was_shown: set[int], is_shown: set[int]
) -> tuple[list[Path], list[int], list[int]]:
    """Lines shown on either sheet, with their positions on both; NOWHERE if a sheet does not have the line."""
    was, now = ({path: at for at, path in enumerate(one)} for one in (before, after))
    here = [path for at, path in enumerate(after) if at in is_shown or was.get(path, NOWHERE) in was_shown]
    gone = [path for at, path in enumerate(before) if at in was_shown and path not in now]
    found = [*here, *gone]
    return found, [was.get(path, NOWHERE) for path in found], [now.get(path, NOWHERE) for path in found]


def _differ(
    before: ShownFigure | None,
    after: ShownFigure | None,
    lines: tuple[list[Path], list[int], list[int]],
    columns: tuple[list[Path], list[int], list[int]],
    widths: tuple[int, int],
) -> Mask:
    """Shape (lines, columns): where the figure's number or mark differs."""
    sides = (
        _at(before, lines[1], columns[1], widths[0]),
        _at(after, lines[2], columns[2], widths[1]),
    )
    (was, had, marked), (now, has, marks) = sides
    shape = len(lines[0]), len(columns[0])
    if _alike(was, now):
        same = was.values == now.values
    else:
        same = np.array([_value(was, i) == _value(now, i) for i in range(shape[0] * shape[1])], dtype=bool)
    different: Mask = (had != has) | (had & has & ~same) | (marked != marks)
    return different.reshape(shape)


def _alike(was: Column, now: Column) -> bool:
    return was.kind is now.kind and was.places == now.places and was.kind in NUMERIC


def _value(column: Column, i: int) -> Any:
    value = column.item(i)
    return Decimal(str(value)) if column.kind in NUMERIC and value is not None else value


def _at(
    figure: ShownFigure | None, lines: list[int], columns: list[int], width: int
) -> tuple[Column, Mask, NDArray[np.int8]]:
    """A figure's values at each line and column, whether there is one, and its mark; blank at NOWHERE."""
    count = len(lines) * len(columns)
    if figure is None:
        nothing = Column(Kind.WHOLE, np.zeros(count, np.int64))
        return nothing, np.zeros(count, bool), np.zeros(count, np.int8)
    down, across = np.array(lines, np.int64)[:, None], np.array(columns, np.int64)[None, :]
    there = ((down >= 0) & (across >= 0)).reshape(-1)
    at = np.where(there, (down * width + across).reshape(-1), 0)
    cells = figure.cells.take(at)
    marks = np.zeros(count, np.int8)
    if figure.marks is not None:
        marks[there] = figure.marks[at[there]]
    return cells, there & cells.present, marks
