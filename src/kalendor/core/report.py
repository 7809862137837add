"""Computes a report: its sheet, and the trail of a number, from its plan."""

from collections.abc import Sequence
from dataclasses import replace
from datetime import date

import numpy as np

from kalendor.core.figures.family import kind_of
from kalendor.core.figures.kind import marked_mixed
from kalendor.core.figures.worked_lines import missing, worked_mask
from kalendor.core.placing.frame import Axis
from kalendor.core.placing.material import Material
from kalendor.core.plan import Plan, places, planned
from kalendor.core.sheet import notes
from kalendor.core.sheet.adding_up import moved_by_rounding, rounded_to_add_up
from kalendor.core.sheet.arrange import Rows, beneath, rows, sibling_ranks
from kalendor.core.sheet.assembly import current_column, place_starts, side
from kalendor.core.sheet.folds import hidden_rest, other_names
from kalendor.core.sheet.footnotes import footnotes
from kalendor.core.sheet.listing import listing
from kalendor.core.sheet.orders import orders
from kalendor.core.sheet.proof import proved
from kalendor.core.sheet.sheet import TOTAL, Sheet, ShownFigure
from kalendor.core.trail.cell import Cell
from kalendor.core.trail.selecting import Selecting
from kalendor.core.trail.trail import Trail, trail_of
from kalendor.core.values.columns import Mask
from kalendor.core.values.keys import Memo, forget
from kalendor.definitions.figure import FigureBase
from kalendor.definitions.report import Report


def work_out(
    report: Report,
    material: Material,
    today: date,
    as_of: date | None = None,
    memo: Memo = forget,
) -> Sheet:
    """The sheet of a report; arguments as for `planned`.

    Raises FootingError if the sheet does not foot.
    """
    return sheet_of(planned(report, material, today, as_of, memo))


def sheet_of(plan: Plan) -> Sheet:
    """The sheet of a plan.

    Raises FootingError if it does not foot.
    """
    with plan.lock:
        return _assembled(plan)


def traced(plan: Plan, sheet: Sheet, cell: Cell, worded: bool = True) -> Trail:
    """The trail of a cell of a plan's sheet; `worded`: with SQL conditions that select the records, verified on them."""
    with plan.lock:
        return trail_of(plan.report, plan.reckoner, plan.screening, plan.ground, sheet, cell, worded)


def narrowing(plan: Plan, down: bool, places: Sequence[int], depth: int, keep: bool) -> str | None:
    """The condition that keeps, or leaves out, the members at `depth` above some lines (or columns) of a plan's sheet;
    None if it cannot be expressed."""
    with plan.lock:
        frame = plan.reckoner.frame
        selecting = Selecting(plan.report, plan.ground, frame.lines, frame.columns, None)
        return selecting.of_members(down, places, depth, keep)


def _assembled(plan: Plan) -> Sheet:
    report, reckoner, hidden, ground = plan.report, plan.reckoner, plan.hidden, plan.ground
    frame = reckoner.frame
    others = other_names(plan.folded, frame.lines, True), other_names(plan.folded, frame.columns, False)
    aside = _aside(frame.lines, report.out_of_sight.lines), _aside(frame.columns, report.out_of_sight.columns)
    line_rows = _rows(plan, True, hidden.lines | beneath(frame.lines, aside[0]))
    column_rows = _rows(plan, False, hidden_rest(frame.columns, plan.tops(False)) | beneath(frame.columns, aside[1]))
    figures = tuple(_shown(plan, figure, line_rows) for figure in report.figures if not figure.hide)
    said = (
        *_notes(plan),
        *missing(reckoner.worked),
        *notes.out_of_sight(*(int(a.sum()) for a in aside)),
        *notes.rounded([(f.name, moved_by_rounding(f)) for f in figures if f.rounded is not None]),
    )
    lines = side(frame.lines, line_rows, others[0], _cut_notes(plan, frame.lines), report.layout.grand or TOTAL)
    columns = side(frame.columns, column_rows, others[1], _cut_notes(plan, frame.columns))
    return Sheet(
        report.title,
        ground.as_of,
        lines,
        columns,
        reckoner.main.held(),
        figures,
        proved(report, plan.material, plan.screening, reckoner, hidden.counted, said),
        said,
        place_starts(frame),
        report.layout,
        None if report.records is None else listing(report.records, reckoner.main, ground, plan.material.own),
        footnotes(report.notes, ground.as_of, lines, columns, [f.name for f in figures]),
        current=current_column(frame.columns, _last_day(plan)),
    )


def _rows(plan: Plan, down: bool, out_of_sight: Mask) -> Rows:
    """The lines (or columns) in display order, with their totals."""
    report, frame, totals = plan.report, plan.reckoner.frame, plan.report.totals
    axis_, entries = (frame.lines, report.down) if down else (frame.columns, report.across)
    inner, grand = (totals.down, totals.grand_down) if down else (totals.across, totals.grand_across)
    ranks = sibling_ranks(axis_, orders(plan.reckoner, entries, down=down))
    listed = down and report.records is not None and bool(axis_.levels)
    return rows(axis_, ranks, out_of_sight, places(axis_.levels, inner, grand, totals.levels), listed)


def _last_day(plan: Plan) -> int:
    era = plan.screening.era
    return plan.ground.as_of if era is None or era.span is None else min(plan.ground.as_of, era.span.last)


def _notes(plan: Plan) -> list[str]:
    kept = bool(plan.report.keep) and plan.report.totals.totals == "kept"
    return [
        *plan.screening.notes,
        *notes.negative(plan.sides.negative),
        *notes.hidden(plan.hidden.counted, kept),
        *notes.compared(plan.screening.era, plan.compared, plan.unshown),
        *notes.mixed(plan.ground.units, plan.report.figures),
        *notes.without_counterpart(plan.reckoner.bases.lacking(plan.compared)),
    ]


def _cut_notes(plan: Plan, axis_: Axis) -> dict[int, str]:
    era, shifted = plan.screening.era, plan.screening.shifted
    if era is None or shifted is None:
        return {}
    compared = plan.compared
    return notes.cut(axis_, shifted, era, any(f.to_date for f in compared) if compared else None)


def _shown(plan: Plan, figure: FigureBase, line_rows: Rows) -> ShownFigure:
    reckoner = plan.reckoner
    found, kind = reckoner.shown(figure.name), kind_of(figure)
    order = line_rows.filled()
    found = replace(found, cells=kind.as_shown(figure, reckoner, found.cells, order))
    late = kind.units_as_shown(figure, reckoner, order)
    found = found if late is None else marked_mixed(found, late)
    units = late or reckoner.units(figure.name)
    percent = reckoner.percent(figure.name)
    cut = reckoner.bases.cut_cells() if figure in plan.compared and figure.to_date else None
    inexact = reckoner.approximate(figure.name)
    shown = ShownFigure(
        figure.name,
        found.cells,
        figure.format,
        found.marks,
        found.zero_is_none,
        percent,
        kind.signed(figure),
        inexact,
        cut,
        None if units is None else units.numbers,
    )
    return rounded_to_add_up(shown, reckoner.frame.lines, reckoner.frame.columns, worked_mask(reckoner.frame.lines))


def _aside(axis_: Axis, paths: Sequence[Sequence[str]]) -> Mask:
    """Shape (lines,): True for the lines (or columns) with those labels, outermost first; labels that do not occur are
    ignored."""
    result = np.zeros(axis_.count, dtype=bool)
    for path in paths:
        at = np.zeros(1, dtype=np.int64)
        for k, label in enumerate(path[: len(axis_.levels)]):
            here = np.arange(axis_.offsets[k + 1], axis_.offsets[k + 2])
            codes = [i for i, name in enumerate(axis_.levels[k].members.labels) if name == label]
            at = here[np.isin(axis_.parent[here], at) & np.isin(axis_.path[here, k], codes)]
        result[at] = len(path) > 0 and len(path) <= len(axis_.levels)
    result[0] = False
    return result
