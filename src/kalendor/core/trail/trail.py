"""The explanation of one number, down to its records."""

from dataclasses import dataclass, replace

import numpy as np

from kalendor.core.figures.compare import Bases
from kalendor.core.figures.derived import Reckoner
from kalendor.core.groupings.ground import Ground
from kalendor.core.placing.screening import Screening
from kalendor.core.placing.views import View
from kalendor.core.sheet.sheet import Sheet, ShownFigure
from kalendor.core.trail.cell import Cell
from kalendor.core.trail.operand import Operand
from kalendor.core.trail.selecting import Selecting
from kalendor.core.trail.tracing import Tracer
from kalendor.core.values.columns import Records
from kalendor.definitions.figure import Compare, Figure, Taken, WithFigure, WithMember
from kalendor.definitions.report import Report


@dataclass(frozen=True, eq=False)
class Trail:
    """A number and what it is made from.

    `figure` is its definition, `shown` the figure as the sheet has it (with format and marks), `place` its position
    among the figure's cells. `records` are those that the report was worked out from, made columns included, and
    `beside` how many of them, from the first, are the report's own.
    """

    cell: Cell
    report: Report
    figure: Figure
    shown: ShownFigure
    place: int
    operand: Operand
    lines: tuple[str, ...]
    columns: tuple[str, ...]
    as_of: int
    records: Records
    own: int

    @property
    def mark(self) -> int:
        """The mark at the cell (see `compare.MARK_WORDS`); 0 where it has none."""
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
        operand = _worded(operand, reckoner, selecting, reckoner.main)
    own = ground.records.count if ground.origin is None else int(ground.origin.own.sum())
    return Trail(
        cell, report, reckoner.figures[cell.figure], shown, place, operand,
        tuple(sheet.lines.path(cell.line)), tuple(sheet.columns.path(cell.column)), ground.as_of, ground.records, own,
    )  # fmt: skip


def _worded(operand: Operand, reckoner: Reckoner, selecting: Selecting, view: View) -> Operand:
    """An operand whose parts taken from records bear their conditions."""
    figure = reckoner.figures[operand.figure]
    if operand.kind == "records":
        taken = figure if isinstance(figure, Taken) else None
        said = selecting.of(operand, taken, view) if taken is not None else None
        return replace(operand, condition=said)
    if operand.kind != "compare":
        return replace(operand, of=tuple(_worded(one, reckoner, selecting, view) for one in operand.of))
    value, base = operand.of
    assert isinstance(figure, Compare)
    views = _compared_views(figure, reckoner.bases, view)
    return replace(
        operand, of=(_worded(value, reckoner, selecting, views[0]), _worded(base, reckoner, selecting, views[1]))
    )


def _compared_views(figure: Compare, bases: Bases, view: View) -> tuple[View, View]:
    if isinstance(figure.with_, WithFigure | WithMember) or bases.dateless:
        return view, view
    return bases.value_view(figure.to_date), bases.base_view(bases.shift_of(figure), figure.to_date)
