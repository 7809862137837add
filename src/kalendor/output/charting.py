"""What a chart of a sheet draws: its outermost lines by its outermost columns, in one figure, no more than can be read."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kalendor.core.sheet.arrange import GRAND
from kalendor.core.sheet.sheet import Sheet, ShownFigure, Side
from kalendor.core.values.columns import NUMERIC, Column
from kalendor.definitions.report import Report
from kalendor.output.handover import Handover
from kalendor.output.like_periods import bases_of
from kalendor.output.shown import shown_cells

MOST_LINES, MOST_SERIES = 24, 6
NOWHERE = (-1, -1)
Index = NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class Chart:
    """`values`, shape (lines, series), NaN where there is none; `texts` are the same as people read them. `upright` where
    the lines are periods, `aging` where the series are, the latest last; `at` is each number's line and column on the sheet, NOWHERE where it stands
    in no cell; `left` is how many lines were too many."""

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


def chart_of(given: Handover) -> Chart | None:
    """The chart that goes along with a sheet; None where none is asked for, or there is none to draw."""
    return chart(given.sheet, given.report) if given.export.chart else None


def chart(sheet: Sheet, report: Report | None = None) -> Chart | None:
    """The chart of a sheet; None where it has no figure of numbers, no column to draw, or less than two lines.

    Where the report compares with an earlier period, like periods are drawn: each line in the latest period beside its
    base, or each period beside its own.
    """
    figure = next((f for f in sheet.figures if f.cells.kind in NUMERIC), None)
    if figure is None:
        return None
    return _of_like_periods(sheet, report, figure) or _of_all(sheet, figure)


@dataclass(frozen=True, eq=False)
class _Alike:
    """The lines (or columns) of `side` at `rows` that are drawn, each with the base of its cell in `cells`; `column` is the one
    that all cells stand in, 0 where each row is a period of its own."""

    side: Side
    rows: Index
    cells: Index
    column: int = 0


def _alike(sheet: Sheet) -> _Alike | None:
    """What like periods can be drawn of: lines in the latest of many columns, or in a part of one; periods in a row."""
    lines, columns, width = _outermost(sheet.lines), _outermost(sheet.columns), sheet.columns.count
    if len(lines) >= 2 and sheet.current > 0 and sheet.current in columns:
        is_part = sheet.columns.notes.get(sheet.current, "").startswith("to ")
        if len(columns) <= MOST_SERIES and not is_part:
            return None  # the base is drawn as a column of its own
        return _Alike(sheet.lines, lines, lines * width + sheet.current, sheet.current)
    if len(columns) >= 2 > len(lines) and _are_periods(sheet.columns):
        return _Alike(sheet.columns, columns, lines[0] * width + columns)
    if len(lines) >= 2 and _are_periods(sheet.lines) and len(columns) == 1:
        return _Alike(sheet.lines, lines, lines * width + columns[0])
    return None


def _of_like_periods(sheet: Sheet, report: Report | None, figure: ShownFigure) -> Chart | None:
    """Two series, the base and the period; None where nothing is compared, or all that is compared is drawn anyway."""
    of = _alike(sheet)
    if of is None:
        return None
    rows, cells = of.rows[:MOST_LINES], of.cells[:MOST_LINES]
    found = bases_of(report, sheet, figure, cells)
    if found is None or (not of.column and np.isnan(found.values).any()):
        return None
    note = sheet.columns.notes.get(of.column, "")
    latest = str(sheet.columns.labels[of.column]) if of.column else figure.name
    own = figure.cells.take(cells)
    places = [(at // sheet.columns.count, at % sheet.columns.count) for at in cells.tolist()]
    return Chart(
        figure.name, tuple(_name(of.side, at) for at in rows.tolist()),
        tuple(f"{name}, {note}" if note else name for name in (found.name, latest)),
        np.column_stack([found.values, _numbers(own, 1)[:, 0]]), tuple(zip(found.texts, shown_cells(figure, cells), strict=True)),
        tuple(place for at in places for place in (NOWHERE, at)),
        _are_periods(of.side), True, max(0, len(of.rows) - MOST_LINES),
    )  # fmt: skip


def _of_all(sheet: Sheet, figure: ShownFigure) -> Chart | None:
    """As many series as there are outermost columns, the latest few of many."""
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
    names = [[_name(side, one) for one in at.tolist()] for side, at in ((sheet.lines, lines), (sheet.columns, columns))]
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


def _name(side: Side, at: int) -> str:
    name = side.heading(at) if side.depth[at] else ""
    return name.encode("utf-8", "replace").decode()  # half of a character cannot be drawn


def _numbers(cells: Column, width: int) -> NDArray[np.float64]:
    found: NDArray[np.float64] = np.where(cells.blanks, np.nan, cells.floats()).reshape(-1, width)
    return found
