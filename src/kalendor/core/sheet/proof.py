"""The proof that a sheet is complete: each record accounted for, each additive figure's lines adding up to its total."""

from collections.abc import Callable
from dataclasses import replace
from fractions import Fraction

import numpy as np

from kalendor.core.figures.reckoner import Reckoner
from kalendor.core.figures.worked_lines import worked_mask
from kalendor.core.formulas.texts import written
from kalendor.core.groupings.levels import BLANK, NOT_PLACED
from kalendor.core.placing.frame import Axis, Frame
from kalendor.core.placing.material import Material
from kalendor.core.placing.screening import Screening, Step
from kalendor.core.placing.views import View
from kalendor.core.sheet.tieout import Control, Footing, TieOut, footed
from kalendor.core.takes.aggregate import Additive
from kalendor.core.takes.groups import Groups, counts
from kalendor.core.takes.takes import TAKES
from kalendor.core.takes.units import Coded
from kalendor.core.takes.whole_sums import exact_sums
from kalendor.core.values.columns import NUMERIC, Array, Column, Kind, Mask, day_number
from kalendor.definitions.figure import Taken
from kalendor.definitions.report import Report
from kalendor.errors import DefinitionError


def proved(
    report: Report,
    material: Material,
    screening: Screening,
    reckoner: Reckoner,
    hidden_lines: int,
    notes: tuple[str, ...],
) -> TieOut:
    """The tie-out of a sheet.

    Raises FootingError if a count or a sum does not add up.
    """
    main, frame = reckoner.main, reckoner.frame
    origin = main.placer.ground.origin
    own: Mask | None = None if origin is None else origin.own
    grouped, times = main.groups(frame.crossings[-1]).where(own), main.placer.ground.times
    cells = counts(grouped) if times is None else exact_sums(grouped.ids, grouped.pick(times), grouped.count)
    reached = _reached(main, own, times)
    on_sheet = int(cells.sum())
    steps = list(screening.steps)
    if on_sheet != reached:
        steps.append(Step("on lines that are not kept", "keep", reached - on_sheet))
    cells = cells.reshape(frame.block_shape(frame.crossings[-1]))
    return TieOut(
        report.source,
        material.read,
        material.refused,
        material.mended,
        tuple(steps),
        on_sheet,
        _in_any(cells, frame, NOT_PLACED),
        _in_any(cells, frame, BLANK),
        tuple(_footing(reckoner, f) for f in report.figures if isinstance(f, Taken) and TAKES[f.take].adds_up),
        _controls(report, reckoner),
        hidden_lines,
        notes,
        material.empty,
        material.by_hand,
    ).check()


def _reached(main: View, own: Mask | None, times: Array | None) -> int:
    """The number of records on the sheet, only of the report's `own` if given."""
    here = own if own is None or main.rows is None else own[main.rows]
    if times is None:
        return main.count if here is None else int(here.sum())
    there = times if main.rows is None else times[main.rows]
    return int((there if here is None else there[here]).sum())


def _footing(reckoner: Reckoner, figure: Taken) -> Footing:
    """The figure's grand total taken directly, not rolled up, and checked against every depth."""
    take = TAKES[figure.take]
    assert isinstance(take, Additive)
    of, where = reckoner.taking(figure)
    groups = reckoner.main.groups(reckoner.frame.crossings[-1], where)
    once = Groups(np.broadcast_to(np.int64(0), len(groups.ids)), 1, groups.rows)
    direct = take.finish(take.parts(once, of), of)
    footed(figure.name, _without_worked(reckoner, figure.name), reckoner.frame, direct, _size(of.column, groups))
    if (units := reckoner.ground.units.get(figure.of or "")) is not None:
        return Footing(figure.name, _by_unit(units, lambda mask: take.finish(take.parts(once.where(mask), of), of)))
    return Footing(figure.name, _total(direct))


def _total(direct: Column) -> str:
    return written(direct.item(0)) if direct.item(0) is not None else ""


def _by_unit(units: Coded, total: Callable[[Mask], Column]) -> str:
    """A total by unit, as `39.00 EUR, 370.00 SEK`."""
    there = units.ones.present
    by_unit = [(label, total(there & (units.numbers.values == i))) for i, label in enumerate(units.labels)]
    return ", ".join(f"{_total(found)} {label}".strip() for label, found in by_unit if found.item(0) is not None)


def _size(column: Column | None, groups: Groups) -> float:
    """The sum of the absolute values of approximate records; 0 for others, which foot exactly."""
    if column is None or column.kind is not Kind.APPROXIMATE:
        return 0.0
    values = groups.pick(np.where(column.blanks, 0.0, np.abs(column.values)))
    return float(values.sum())


def _without_worked(reckoner: Reckoner, name: str) -> Column:
    """A figure's cells without those of computed lines, which have no records."""
    cells = reckoner.cells(name)
    if not reckoner.worked:
        return cells
    worked = np.repeat(worked_mask(reckoner.frame.lines), reckoner.frame.columns.count)
    return replace(cells, blank=cells.blanks | worked)


def _controls(report: Report, reckoner: Reckoner) -> tuple[Control, ...]:
    """Each control total of this as-of date beside the sheet's grand total."""
    found = []
    as_of = reckoner.main.placer.ground.as_of
    for control in report.controls:
        if control.as_of is not None and day_number(control.as_of) != as_of:
            continue
        if reckoner.shown(control.figure).cells.kind not in NUMERIC:
            raise DefinitionError(
                f"controls: {control.figure!r} is no number, and cannot be checked against {control.expect}"
            )
        cell = reckoner.shown(control.figure).cells.item(0)
        agrees = cell is not None and Fraction(str(cell)) == Fraction(control.expect)
        found.append(Control(control.figure, control.expect, "" if cell is None else written(cell), agrees))
    return tuple(found)


def _in_any(cells: Array, frame: Frame, special: int) -> int:
    """The number of records, given `cells` of the innermost lines and columns, in a special member of any level."""
    lines, columns = (_special(axis, special) for axis in (frame.lines, frame.columns))
    return int(cells[lines[:, None] | columns[None, :]].sum())


def _special(axis: Axis, special: int) -> Mask:
    """Shape (innermost lines,): True for those with a special member on their path."""
    path = axis.path[axis.lines_at(len(axis.levels))]
    found = np.zeros(len(path), dtype=bool)
    for k, level in enumerate(axis.levels):
        found |= level.members.special[path[:, k]] == special
    return found
