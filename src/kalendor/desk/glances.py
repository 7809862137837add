"""A report's key number, its change, and a small chart by period."""

from dataclasses import dataclass

import numpy as np

from kalendor.core.figures.compare import based_on
from kalendor.core.sheet.sheet import Sheet
from kalendor.core.trail.cell import Cell
from kalendor.definitions.figure import comparisons
from kalendor.definitions.report import Report
from kalendor.desk.desk import Desk
from kalendor.desk.sheets import sheet_now
from kalendor.desk.summaries import fresh_sheet
from kalendor.desk.trails import trail_at
from kalendor.output.shown import shown_cells

BARS = 12


@dataclass(frozen=True)
class Glance:
    """A figure's name and formatted grand total, its change in words, and the values of its last periods."""

    figure: str
    number: str
    moved: str
    bars: tuple[float, ...]


def glance(desk: Desk, report: Report) -> Glance:
    """A report's key number and trend.

    Raises whatever computing the report raises.
    """
    fresh_sheet(desk, report)
    with desk.workspace.snapshot():
        own, sheet = sheet_now(desk, report)
        column = _last_column(sheet)
        figure = sheet.figures[0]
        number = shown_cells(figure, np.array([column]))[0]
        found = trail_at(desk, report, own, Cell(figure.name, 0, 0), worded=False).trail.bars()
        bars = () if found is None else tuple(found.value[-BARS:].tolist())
        return Glance(figure.name, number, _moved(report, sheet, column), bars)


def _last_column(sheet: Sheet) -> int:
    """The latest period's column if the outermost columns are periods, else the total."""
    columns = sheet.columns
    if not columns.levels or columns.levels[0].kind != "period":
        return 0
    outer = [at for at in columns.shown.filled().tolist() if columns.depth[at] == 1]
    inner = [at for at in columns.shown.filled().tolist() if columns.depth[at] > 0]
    return int((outer or inner or [0])[-1])


def _moved(report: Report, sheet: Sheet, column: int) -> str:
    """The first percentage change that the report shows, in words."""
    for defined in comparisons(report.figures):
        if defined.as_ == "percent" and not defined.hide:
            figure = next(f for f in sheet.figures if f.name == defined.name)
            text = shown_cells(figure, np.array([column]))[0]
            return f"{text} on {based_on(defined)}" if text else ""
    return ""
