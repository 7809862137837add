"""The explanation of one number, down to its records."""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from kalendor.core.figures.bases import MIXED
from kalendor.core.figures.operand import RECORDS, Operand
from kalendor.core.figures.reckoner import Reckoner
from kalendor.core.groupings.calendars import Calendar
from kalendor.core.groupings.ground import Ground
from kalendor.core.placing.screening import Screening
from kalendor.core.sheet.sheet import Sheet, ShownFigure
from kalendor.core.trail.bars import Bars, bars
from kalendor.core.trail.cell import Cell
from kalendor.core.trail.drivers import Drivers, category_columns, drivers
from kalendor.core.trail.selecting import Selecting
from kalendor.core.trail.tracing import Tracer
from kalendor.core.values.columns import DATED, Records, column_days
from kalendor.definitions.figure import Back, Compare, FigureBase, Taken
from kalendor.definitions.report import Report

Index = NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class Trail:
    """A number and what it is made from.

    `figure` is its definition, `shown` the figure on the sheet (with format and marks), `place` its position among the
    figure's cells; `lines` and `columns` are the labels of its line and column, outermost first. `own` is the number of
    the report's own records, which come first; `others` are the sheet's figures; `dated` is the date column by whose
    periods, in `calendar`, the number can be shown.
    """

    cell: Cell
    report: Report
    figure: FigureBase
    shown: ShownFigure
    place: int
    operand: Operand
    lines: tuple[str, ...]
    columns: tuple[str, ...]
    ground: Ground
    own: int
    others: tuple[ShownFigure, ...]
    dated: str | None
    calendar: Calendar

    def as_shown(self, operand: Operand) -> ShownFigure:
        """An operand's one number in the format of its figure."""
        known = next((f for f in self.others if f.name == operand.figure), None)
        if known is None:
            figure = next(f for f in self.report.figures if f.name == operand.figure)
            return ShownFigure(figure.name, operand.value, figure.format)
        return replace(known, cells=operand.value, marks=None, cut=None, units=None, rounded=None)

    def definition(self, operand: Operand) -> FigureBase:
        """The definition of an operand's figure."""
        return next(f for f in self.report.figures if f.name == operand.figure)

    @property
    def as_of(self) -> int:
        """The as-of day."""
        return self.ground.as_of

    @property
    def records(self) -> Records:
        """The records that the report was computed from, made columns included."""
        return self.ground.records

    def span(self, of: str, rows: Index) -> tuple[int, int] | None:
        """The first and last day of some records in a date column; None if they have none."""
        known = None if self.ground.condensed is None else self.ground.condensed.days
        if known is not None and known.of == of:
            return known.at(rows)
        return column_days(self.records.columns[of].take(rows))

    def drivers(self) -> list[Drivers]:
        """What drove a change, by each column that explains some of it; empty for figures that are not a change of a
        sum. If rows represent several records, only the report's own categories are available."""
        columns = None if self.ground.condensed is None else category_columns(self.report)
        return [] if self.mark == MIXED else drivers(self.operand, self.ground, self._by_years, columns)

    def bars(self) -> Bars | None:
        """The number by period, with the base's beside it; None if the records have no date."""
        if self.dated is None or self.mark == MIXED or self.ground.condensed is not None:
            return None
        column = self.ground.records.columns[self.dated]
        return bars(self.operand, self.dated, column, self.calendar, self._by_years)

    @property
    def _by_years(self) -> bool:
        """Whether a comparison's base lies whole years back."""
        with_ = self.figure.with_ if isinstance(self.figure, Compare) else None
        return with_ == "year_earlier" or (isinstance(with_, Back) and with_.grain == "year")

    @property
    def mark(self) -> int:
        """The mark at the cell (see `bases.MARK_WORDS`); 0 for none."""
        return 0 if self.shown.marks is None else int(self.shown.marks[self.place])

    @property
    def cut(self) -> bool:
        """True where the cell compares only a part of what its line and column show."""
        return self.shown.cut is not None and bool(self.shown.cut[self.place])


def trail_of(
    report: Report, reckoner: Reckoner, screening: Screening, ground: Ground, sheet: Sheet, cell: Cell, worded: bool
) -> Trail:
    """The trail of a cell of a sheet; `worded`: with the conditions that select the records of each part."""
    tracer = Tracer(reckoner, sheet.lines.shown)
    shown = next(f for f in sheet.figures if f.name == cell.figure)
    place = cell.line * sheet.columns.count + cell.column
    operand = replace(tracer.operand(cell), value=shown.cells.take(np.array([place])))
    if worded:
        window = screening.window_map() if screening.window_column is not None else None
        selecting = Selecting(report, ground, reckoner.frame.lines, reckoner.frame.columns, window)
        operand = _worded(operand, reckoner, selecting)
    own = ground.records.count if ground.origin is None else int(ground.origin.own.sum())
    return Trail(
        cell, report, reckoner.figures[cell.figure], shown, place, operand,
        tuple(sheet.lines.path(cell.line)), tuple(sheet.columns.path(cell.column)), ground, own, sheet.figures,
        screening.shifted or first_date(ground), screening.calendar(),
    )  # fmt: skip


def first_date(ground: Ground) -> str | None:
    """The first column of dates."""
    return next((name for name, column in ground.records.columns.items() if column.kind in DATED), None)


def _worded(operand: Operand, reckoner: Reckoner, selecting: Selecting) -> Operand:
    """An operand whose parts taken from records have their conditions."""
    figure = reckoner.figures[operand.figure]
    if operand.kind == RECORDS and isinstance(figure, Taken) and operand.view is not None:
        return replace(operand, condition=selecting.of(operand, figure.where, operand.view))
    return replace(operand, of=tuple(_worded(one, reckoner, selecting) for one in operand.of))
