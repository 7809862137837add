"""The data of a sheet's chart: its outermost lines by its outermost columns, in one figure, limited to what can be
read."""

from dataclasses import dataclass, replace

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
    """`values`, shape (lines, series), NaN for none; `texts` are the same formatted. `upright` if the lines are
    periods, `aging` if the series are, the latest last; `at` is each number's line and column on the sheet, NOWHERE if
    it is not a cell of the sheet; `left` is the number of lines left out."""

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
        """The height in inches, if there is room."""
        return 2.2 if self.upright else 0.6 + len(self.lines) * (0.12 + 0.1 * len(self.series))

    @property
    def alternative(self) -> str:
        """The alternative text of the chart."""
        said = f"{self.figure} by {len(self.lines)} lines"
        if len(self.series) > 1:
            said += f", {' and '.join(self.series)} beside each other"
        ends = ", ".join(f"{line} {self.texts[i][-1]}" for i, line in enumerate(self.lines) if i < 6)
        return f"{said}: {ends}{' and more' if len(self.lines) > 6 else ''}."


def chart_of(given: Handover) -> Chart | None:
    """The chart exported with a sheet; None if none is requested, or there is none to draw."""
    return chart(given.sheet, given.report) if given.export.chart else None


def chart(sheet: Sheet, report: Report | None = None) -> Chart | None:
    """The chart of a sheet; None if it has no numeric figure, no column to draw, or fewer than two lines.

    If the report compares with an earlier period, like periods are drawn: each line in the latest period beside its
    base, or each period beside its own.
    """
    figure = next((f for f in sheet.figures if f.cells.kind in NUMERIC), None)
    if figure is None:
        return None
    return _of_like_periods(sheet, report, figure) or _of_all(sheet, figure)


@dataclass(frozen=True, eq=False)
class Pairs:
    """A figure's numbers beside their bases: two `series`, `values`, shape (lines, 2), and their texts."""

    figure: str
    series: tuple[str, str]
    values: NDArray[np.float64]
    texts: tuple[tuple[str, str], ...]


def latest_pairs(sheet: Sheet, report: Report | None, figure: ShownFigure, lines: Index) -> Pairs | None:
    """Lines in the latest of many columns, or in a part of a period, beside their bases; None if nothing is compared
    exactly, or if every base is a column of its own."""
    columns = _outermost(sheet.columns)
    if sheet.current <= 0 or sheet.current not in columns:
        return None
    note = sheet.columns.notes.get(sheet.current, "")
    if len(columns) <= MOST_SERIES and not note.startswith("to "):
        return None
    found = _paired(sheet, report, figure, lines * sheet.columns.count + sheet.current)
    if found is None:
        return None
    end = f", {note}" if note else ""
    return replace(found, series=(f"{found.series[0]}{end}", f"{sheet.columns.labels[sheet.current]}{end}"))


def _paired(sheet: Sheet, report: Report | None, figure: ShownFigure, cells: Index) -> Pairs | None:
    found = bases_of(report, sheet, figure, cells)
    if found is None:
        return None
    values = np.column_stack([found.values, _numbers(figure.cells.take(cells), 1)[:, 0]])
    return Pairs(
        figure.name, (found.name, figure.name), values, tuple(zip(found.texts, shown_cells(figure, cells), strict=True))
    )


def _of_like_periods(sheet: Sheet, report: Report | None, figure: ShownFigure) -> Chart | None:
    """Lines in the latest period, or consecutive periods, each beside its base; None if the bases are unknown, or add
    nothing."""
    return _lines_in_latest(sheet, report, figure) or _periods_in_a_row(sheet, report, figure)


def _lines_in_latest(sheet: Sheet, report: Report | None, figure: ShownFigure) -> Chart | None:
    lines = _outermost(sheet.lines)
    pairs = latest_pairs(sheet, report, figure, lines[:MOST_LINES]) if len(lines) > 1 else None
    cells = lines * sheet.columns.count + sheet.current
    return None if pairs is None else _of_pairs(sheet, sheet.lines, lines, cells, pairs)


def _periods_in_a_row(sheet: Sheet, report: Report | None, figure: ShownFigure) -> Chart | None:
    """None if some have no base, since the earlier periods are then in the same row."""
    lines, columns, width = _outermost(sheet.lines), _outermost(sheet.columns), sheet.columns.count
    if len(lines) < 2 <= len(columns) and _are_periods(sheet.columns):
        side, rows, cells = sheet.columns, columns, lines[0] * width + columns
    elif len(columns) == 1 and len(lines) > 1 and _are_periods(sheet.lines):
        side, rows, cells = sheet.lines, lines, lines * width + columns[0]
    else:
        return None
    pairs = _paired(sheet, report, figure, cells[:MOST_LINES])
    return None if pairs is None or np.isnan(pairs.values[:, 0]).any() else _of_pairs(sheet, side, rows, cells, pairs)


def _of_pairs(sheet: Sheet, side: Side, rows: Index, cells: Index, pairs: Pairs) -> Chart:
    places = [(at // sheet.columns.count, at % sheet.columns.count) for at in cells[:MOST_LINES].tolist()]
    return Chart(
        pairs.figure, tuple(_name(side, at) for at in rows[:MOST_LINES].tolist()), pairs.series, pairs.values, pairs.texts,
        tuple(place for at in places for place in (NOWHERE, at)), _are_periods(side), True, max(0, len(rows) - MOST_LINES),
    )  # fmt: skip


def _of_all(sheet: Sheet, figure: ShownFigure) -> Chart | None:
    """One series for each outermost column; of many, the latest few."""
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
    """The lines of the outermost level as shown, each once; only the total if there is no level."""
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
    return name.encode("utf-8", "replace").decode()  # unpaired surrogates cannot be drawn


def _numbers(cells: Column, width: int) -> NDArray[np.float64]:
    found: NDArray[np.float64] = np.where(cells.blanks, np.nan, cells.floats()).reshape(-1, width)
    return found
