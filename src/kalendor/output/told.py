"""A trail in words: what was taken of which records, against which base, and why a mark stands."""

from collections.abc import Sequence

import numpy as np

from kalendor.core.figures.compare import GONE, NEW, NOT_MEANINGFUL
from kalendor.core.placing.screening import Step
from kalendor.core.sheet.sheet import Sheet
from kalendor.core.trail.operand import Operand
from kalendor.core.trail.trail import Trail
from kalendor.core.values.columns import column_days
from kalendor.core.values.days import short_day
from kalendor.definitions.figure import (
    Back,
    Compare,
    Figure,
    FormulaFigure,
    Moving,
    Rank,
    Running,
    Share,
    Taken,
    WithFigure,
    WithMember,
)
from kalendor.output.brief import set_aside_by
from kalendor.output.shown import shown_cells

FIRST = np.array([0])
TAKES = {
    "sum": "Sum of {of}", "count": "Count", "count_values": "Count of the non-blank values of {of}",
    "distinct": "Count of the different values of {of}", "mean": "Average of {of}",
    "weighted_mean": "Average of {of} weighted by {weight}", "median": "Median of {of}",
    "percentile": "Percentile {p:g} of {of}", "nth_largest": "Number {n} of the largest values of {of}",
    "nth_smallest": "Number {n} of the smallest values of {of}", "min": "Minimum of {of}", "max": "Maximum of {of}",
    "variance": "Variance of {of}", "stdev": "Standard deviation of {of}", "variance_pop": "Population variance of {of}",
    "stdev_pop": "Population standard deviation of {of}", "first": "First value of {of} by {by}",
    "last": "Last value of {of} by {by}", "balance": "Closing balance of {of} by {by}{carried}",
}  # fmt: skip
TOTALS = {"all": "the grand total", "parent": "the group above", "column": "the column total", "line": "the line total"}
MARKS = {
    NEW: "new: there is nothing in the base to compare with",
    GONE: "gone: the base has records, and there are none now",
    NOT_MEANINGFUL: "n/m: the base is zero or negative, so that no percentage means anything",
}
WAYS = {"base": "the base itself", "difference": "the difference", "percent": "the change as a percentage of the base",
        "index": "an index on which the base is 100"}  # fmt: skip


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
    """How a number was come by, in sentences."""
    said = _sentences(trail, trail.operand, trail.figure)
    if trail.report.only:
        said.append(f"Only where {' and '.join(trail.report.only)}.")
    if trail.cut:
        said.append(f"Compared up to {short_day(trail.as_of)} only; the figure beside it counts all that is shown.")
    if trail.shown.approximate:
        said.append("It is approximate: it rests on amounts that are not kept exactly.")
    return said


def why(trail: Trail) -> str:
    """Why a mark stands in the place of a number, or why there is none; empty where there is one."""
    if trail.mark:
        return f"{MARKS[trail.mark]}."
    return "" if _number(trail) else f"It is blank: {_why_blank(trail)}."


def under_title(sheet: Sheet) -> str:
    """What stands under a sheet's title: its source and its as-of date."""
    return f"{sheet.tie_out.source} · as of {short_day(sheet.as_of)}"


def tie_words(sheet: Sheet) -> str:
    """The tie-out as one sentence, from the records read to those on the sheet; of a part, that it is one."""
    tie = sheet.tie_out
    if sheet.part_of:
        return f"A part of {sheet.part_of}.{_adding_up(sheet)}"
    said = [f"{tie.read:,} records read", *(f"{step.records:,} {_step(step)}" for step in tie.steps if step.records)]
    here = f"{tie.on_sheet:,} on this sheet"
    if tie.not_placed:
        here += f", {tie.not_placed:,} of them not placed"
    aside = [f"{tie.refused:,} {'line was' if tie.refused == 1 else 'lines were'} refused when imported"] * bool(
        tie.refused
    )
    aside += [f"{tie.empty:,} {'line' if tie.empty == 1 else 'lines'} of separators alone"] * bool(tie.empty)
    here += f" ({', '.join(aside)})" if aside else ""
    return f"{' → '.join([*said, here])}.{_adding_up(sheet)}"


def _adding_up(sheet: Sheet) -> str:
    """That lines add up to the totals: of which figures, where not of all."""
    footed = {footing.figure for footing in sheet.tie_out.footings}
    named = [figure.name for figure in sheet.figures if figure.name in footed]
    if not named:
        return ""
    return f" Lines {'' if len(named) == len(sheet.figures) else f'of {listed(named)} '}add up to the totals."


def listed(names: Sequence[str]) -> str:
    """Names in a row: a, b and c."""
    return " and ".join([", ".join(names[:-1]), names[-1]] if len(names) > 1 else names)


def _step(step: Step) -> str:
    return f"set aside by {set_aside_by(step.why)}" if step.kind == "only" else step.why


def _number(trail: Trail) -> str:
    return shown_cells(trail.shown, np.array([trail.place]))[0]


def number_of(trail: Trail, operand: Operand) -> str:
    """An operand's number as the sheet would show it."""
    return shown_cells(trail.as_shown(operand), FIRST)[0] or "nothing"


def taken_words(figure: Taken) -> str:
    """What a figure takes, as `Sum of net`."""
    said = TAKES[figure.take].format(of=figure.of, weight=figure.weight, p=figure.p or 0, n=figure.n or 1, by=figure.by,
                                     carried=", carried on from before" if figure.carry else "")  # fmt: skip
    return f"{said} where {figure.where}" if figure.where else said


def based_on(figure: Compare) -> str:
    """What a comparison's base is, as `a year earlier`."""
    match figure.with_:
        case "year_earlier":
            return "a year earlier"
        case "period_before":
            return "the period before"
        case Back(back=count, grain=grain):
            return f"{count} {grain}{'' if count == 1 else 's'} back"
        case WithMember(member=member):
            return member
        case WithFigure(figure=other):
            return other
    raise AssertionError(figure.with_)


def none_to_compare_with(figure: Compare) -> str:
    """That a comparison has no base, as `with nothing a year earlier to compare it with`."""
    match figure.with_:
        case WithMember() | WithFigure():
            return f"with nothing in {based_on(figure)} to compare it with"
        case "period_before":
            return "with nothing in the period before to compare it with"
    return f"with nothing {based_on(figure)} to compare it with"


def _sentences(trail: Trail, operand: Operand, figure: Figure) -> list[str]:
    parts = {one.name or one.figure: number_of(trail, one) for one in operand.of}
    match figure:
        case Taken() if operand.kind == "records":
            over = f"{operand.counted:,} {'record' if operand.counted == 1 else 'records'}"
            own = f"{taken_words(figure)}{' of' if figure.take == 'count' and not figure.where else ' over'} {over}"
            return [f"{own}{_when(trail, operand)}."]
        case FormulaFigure():
            return [_worked_out(figure.formula, parts)]
        case Share():
            whole = f"{parts['base']} of {TOTALS[figure.of_total]}"
            return [f"Share of {figure.share}: {parts['value']} of {whole}."]
        case Rank():
            within = "within its group" if figure.within == "parent" else "among all of its level"
            return [f"The place by {figure.rank}, which is {next(iter(parts.values()))}, {within}."]
        case Compare():
            own = f"{figure.compare} is {parts['value']}, against {parts['base']} for {based_on(figure)}"
            return [f"{own}; shown is {WAYS[figure.as_]}."]
        case Running() | Moving() if operand.kind != "lines":
            return _along(operand, figure)
        case _:
            return [_worked_out(operand.formula, parts)]


def _worked_out(formula: str, parts: dict[str, str]) -> str:
    listed = ", ".join(f"{name} is {number}" for name, number in parts.items())
    return f"Worked out as {formula}, where {listed}." if listed else f"Worked out as {formula}."


def _when(trail: Trail, operand: Operand) -> str:
    """The first and last day of an operand's records, where they are dated."""
    if trail.dated is None or operand.rows is None:
        return ""
    span = column_days(trail.records.columns[trail.dated].take(operand.rows))
    if span is None:
        return ""
    first, last = (short_day(day) for day in span)
    return f", {trail.dated} {first}" if first == last else f", {trail.dated} {first} – {last}"


def _along(operand: Operand, figure: Running | Moving) -> list[str]:
    if isinstance(figure, Moving):
        how = f"The {'average' if figure.take == 'mean' else 'sum'} of {figure.moving} over {figure.periods} periods"
    elif figure.along == "lines":
        return [f"{figure.running} added up down the lines as they stand, over {operand.counted:,} records so far."]
    else:
        how = f"{figure.running} added up along the periods"
        how += f", starting again with each {figure.restart}" if figure.restart != "never" else ""
    if operand.days is None:
        return [f"{how}."]
    span = f"{short_day(operand.days.first)} – {short_day(operand.days.last)}"
    return [f"{how}, {span}, {operand.counted:,} {'record' if operand.counted == 1 else 'records'}."]


def _why_blank(trail: Trail) -> str:
    match trail.figure:
        case Compare():
            return "there is nothing to compare with here, for the records begin later, or the period has not begun"
        case Running():
            return "the period has not begun, or stands above the level at which the total starts again"
        case Moving():
            return "fewer periods lie before it than it needs"
        case Rank():
            return "totals, Other, Not placed and (blank) have no rank"
        case Share():
            return "the total is zero or blank"
        case FormulaFigure():
            return "a part of the formula is blank, or it divides by zero"
        case _:
            return "no record here has a value to take"
