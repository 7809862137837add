"""Explains a trail in words: what was aggregated over which records, against which base, and why a mark is shown."""

from collections.abc import Sequence

import numpy as np

from kalendor.core.figures.bases import GONE, MIXED, NEW, NOT_MEANINGFUL
from kalendor.core.figures.family import kind_of
from kalendor.core.figures.formula import worked_out
from kalendor.core.figures.kind import Made
from kalendor.core.figures.operand import LINES, Operand
from kalendor.core.placing.screening import Step
from kalendor.core.sheet.scales import is_percent
from kalendor.core.sheet.sheet import Sheet
from kalendor.core.trail.trail import Trail
from kalendor.core.values.notation import grouped, noted_day
from kalendor.output.shown import shown_cells
from kalendor.sentence.conditions import set_aside_by

FIRST = np.array([0])
MARKS = {
    NEW: "new: there is nothing in the base to compare with",
    GONE: "gone: the base has records, and there are none now",
    NOT_MEANINGFUL: "n/m: the base is zero or negative, so that no percentage means anything",
    MIXED: "mixed: it would put amounts of several units together, such as currencies",
}


def told(trail: Trail) -> list[str]:
    """The explanation of a number, a sentence a line."""
    place = " › ".join(trail.lines) or "all lines", " › ".join(trail.columns) or "all columns"
    said = [f"{trail.cell.figure}, {place[0]}, {place[1]}: {_number(trail) or 'blank'}.", *sentences(trail)]
    if reason := why(trail):
        said.append(reason)
    for name, part in trail.operand.parts():
        if part.condition is not None:
            said.append(f"{'The records' if name == 'value' else f'The records of {name}'}: {part.condition}")
    return said


def sentences(trail: Trail) -> list[str]:
    """How a number was computed, in sentences."""
    said = _sentences(trail)
    if trail.report.only:
        said.append(f"Only where {' and '.join(trail.report.only)}.")
    if trail.cut:
        said.append(f"Compared up to {noted_day(trail.as_of)} only; the figure beside it counts all that is shown.")
    if trail.shown.approximate:
        said.append("It is approximate: it rests on amounts that are not kept exactly.")
    if trail.shown.rounded is not None and (nearest := number_of(trail, trail.operand)) != _number(trail):
        said.append(f"It is rounded so that what is shown adds up; the nearest would be {nearest}.")
    return said


def why(trail: Trail) -> str:
    """Why a mark is shown instead of a number, or why there is none; empty if there is one."""
    if trail.mark:
        return f"{MARKS[trail.mark]}."
    return "" if _number(trail) else f"It is blank: {kind_of(trail.figure).why_blank(trail.figure)}."


def under_title(sheet: Sheet) -> str:
    """The line under a sheet's title: its source, its as-of date, and which numbers are in thousands or millions."""
    scale = scale_of(sheet)
    return f"{sheet.tie_out.source} · as of {noted_day(sheet.as_of)}{f' · {scale}' if scale else ''}"


def scale_of(sheet: Sheet) -> str:
    """The words for numbers in thousands or millions: of which figures, if not of all; empty if there are none."""
    units = {f.name: "one" if is_percent(f) else f.format.unit for f in sheet.figures}
    scaled = {name: unit for name, unit in units.items() if unit != "one"}
    if len(scaled) == len(units) and len(set(scaled.values())) == 1:
        return f"in {next(iter(scaled.values()))}"
    by_unit = [(unit, [name for name, own in scaled.items() if own == unit]) for unit in ("thousands", "millions")]
    return ", ".join(f"{listed(names)} in {unit}" for unit, names in by_unit if names)


def tie_words(sheet: Sheet) -> str:
    """The tie-out as one sentence, from the records read to those on the sheet; for a part, that it is one."""
    tie = sheet.tie_out
    if sheet.part_of:
        return f"A part of {sheet.part_of}.{_adding_up(sheet)}"
    by_hand = [f"{grouped(tie.by_hand)} entered by hand"] * bool(tie.by_hand)
    said = [
        f"{grouped(tie.read - tie.by_hand)} records read",
        *by_hand,
        *(f"{grouped(step.records)} {_step(step)}" for step in tie.steps if step.records),
    ]
    here = f"{grouped(tie.on_sheet)} on this sheet"
    if tie.not_placed:
        here += f", {grouped(tie.not_placed)} of them not placed"
    aside = [f"{grouped(tie.refused)} {'line was' if tie.refused == 1 else 'lines were'} refused when imported"] * bool(
        tie.refused
    )
    aside += [f"{grouped(tie.empty)} {'line' if tie.empty == 1 else 'lines'} of separators alone"] * bool(tie.empty)
    here += f" ({', '.join(aside)})" if aside else ""
    return f"{' → '.join([*said, here])}.{_adding_up(sheet)}"


def _adding_up(sheet: Sheet) -> str:
    """The words for lines that add up to the totals: of which figures, if not of all."""
    footed = {footing.figure for footing in sheet.tie_out.footings}
    named = [figure.name for figure in sheet.figures if figure.name in footed]
    if not named:
        return ""
    return f" Lines {'' if len(named) == len(sheet.figures) else f'of {listed(named)} '}add up to the totals."


def listed(names: Sequence[str]) -> str:
    """A list of names in words: a, b and c."""
    return " and ".join([", ".join(names[:-1]), names[-1]] if len(names) > 1 else names)


def _step(step: Step) -> str:
    return f"set aside by {set_aside_by(step.why)}" if step.kind == "only" else step.why


def _number(trail: Trail) -> str:
    return shown_cells(trail.shown, np.array([trail.place]))[0]


def number_of(trail: Trail, operand: Operand) -> str:
    """An operand's number as the sheet would show it."""
    return shown_cells(trail.as_shown(operand), FIRST)[0] or "nothing"


def _sentences(trail: Trail) -> list[str]:
    operand, figure = trail.operand, trail.figure
    parts = {one.name or one.figure: number_of(trail, one) for one in operand.of}
    made = Made(parts, operand.counted, _when(trail, operand), _over(operand))
    return [worked_out(operand.formula, made)] if operand.kind == LINES else kind_of(figure).told(figure, made)


def _when(trail: Trail, operand: Operand) -> str:
    """The first and last day of an operand's records, if they are dated."""
    if trail.dated is None or operand.rows is None:
        return ""
    span = trail.span(trail.dated, operand.rows)
    if span is None:
        return ""
    first, last = (noted_day(day) for day in span)
    return f", {trail.dated} {first}" if first == last else f", {trail.dated} {first} – {last}"


def _over(operand: Operand) -> str:
    """The days that a number covers, and its records."""
    if operand.days is None:
        return ""
    span = f"{noted_day(operand.days.first)} – {noted_day(operand.days.last)}"
    return f", {span}, {grouped(operand.counted)} {'record' if operand.counted == 1 else 'records'}"
