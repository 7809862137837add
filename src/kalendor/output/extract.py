"""Extracts the part of a sheet under one member of a level as a sheet of its own.

Its numbers are those of the whole sheet; totals, tie-out and notes of other members are left out.
"""

from dataclasses import replace
from typing import Any

import numpy as np

from kalendor.core.groupings.levels import OTHER, WORKED
from kalendor.core.sheet.arrange import GRAND, Rows
from kalendor.core.sheet.sheet import NOT_SAID, Sheet, ShownFigure, Side
from kalendor.core.sheet.tieout import TieOut
from kalendor.core.values.columns import Mask
from kalendor.definitions.axis import AxisEntry, ByFigure, ByList, CategoryEntry
from kalendor.definitions.report import OutOfSight, Report
from kalendor.errors import DefinitionError
from kalendor.output.dependence import blank_at_the_top, check_parts, resting_on_others
from kalendor.output.handover import Handover
from kalendor.output.told import listed
from kalendor.sentence.writing import brief


def members(sheet: Sheet, level: str) -> list[int]:
    """The lines of a level that have records of their own, in display order: neither computed lines nor the rest of a
    top.

    Raises DefinitionError for a level that does not make lines.
    """
    names = [one.name for one in sheet.lines.levels]
    if level not in names:
        raise DefinitionError(f"there is no level {level!r} among the lines; there are {', '.join(names) or 'none'}")
    depth = names.index(level) + 1
    shown = sheet.lines.shown.lines.tolist()
    own = (sheet.lines.depth == depth) & ~np.isin(sheet.lines.special, (OTHER, WORKED))
    return list(dict.fromkeys(line for line in shown if own[line]))


def extract(sheet: Sheet, member: int, report: Report | None) -> Sheet:
    """The lines at and under a member, in its non-empty columns; without the grand total, and without figures that
    depend on other members.

    Raises DefinitionError if nothing is left, or if the lines themselves depend on all records.
    """
    lines = sheet.lines
    depth = int(lines.depth[member])
    own = (lines.above(lines.shown.lines, depth) == member) & ~_periods_of_others(sheet)[lines.shown.lines]
    kept = [i for i in np.flatnonzero(own).tolist() if lines.shown.roles[i] != GRAND]
    rows = Rows(lines.shown.lines[kept], tuple(lines.shown.roles[i] for i in kept))
    path = " › ".join(lines.path(member))
    here = lines.above(np.arange(lines.count), depth) == member
    figures, left = _own_figures(sheet, member, report)
    note = f"Of {sheet.title}: {path} alone.{_left_out(left)}"
    own_notes = tuple(n for n in sheet.footnotes if not n.gone and (n.line is None or here[n.line]))
    part = replace(sheet, figures=figures)
    return replace(
        part,
        title=f"{sheet.title}: {path}",
        lines=replace(lines, shown=rows),
        columns=_own_columns(part, here),
        tie_out=_untold(sheet.tie_out, [figure.name for figure in figures]),
        notes=(note,),
        footnotes=tuple(n for n in own_notes if n.figure is None or n.figure in {f.name for f in figures}),
        part_of=sheet.title,
        current=NOT_SAID,
    )


def left_out_of_parts(report: Report) -> list[str]:
    """The names of the visible figures that a member's part does not contain."""
    resting = set(resting_on_others(report))
    return [figure.name for figure in report.figures if figure.name in resting and not figure.hide]


def _left_out(names: list[str]) -> str:
    if not names:
        return ""
    return f" {listed(names)} {'is' if len(names) == 1 else 'are'} left out: {'it rests' if len(names) == 1 else 'they rest'} on others, too."


def _own_figures(sheet: Sheet, member: int, report: Report | None) -> tuple[tuple[ShownFigure, ...], list[str]]:
    """The figures that depend on the member alone, and the names of those that are left out."""
    if report is None:
        return sheet.figures, []
    check_parts(sheet)
    resting, blank = resting_on_others(report), blank_at_the_top(report)
    figures = [figure for figure in sheet.figures if figure.name not in resting]
    if not figures:
        raise DefinitionError(
            "every figure of this report rests on other members, too; a part of it would hold nothing"
        )
    at = np.zeros(sheet.shape, dtype=bool)
    at[member] = True
    found = [_blanked(figure, at.reshape(-1)) if figure.name in blank else figure for figure in figures]
    return tuple(found), [figure.name for figure in sheet.figures if figure.name in resting]


def _blanked(figure: ShownFigure, at: Mask) -> ShownFigure:
    marks = None if figure.marks is None else np.where(at, np.int8(0), figure.marks)
    rounded = None if figure.rounded is None else replace(figure.rounded, blank=figure.rounded.blanks | at)
    return replace(figure, cells=replace(figure.cells, blank=figure.cells.blanks | at), marks=marks, rounded=rounded)


def _periods_of_others(sheet: Sheet) -> Mask:
    """Shape (lines,): True for periods without a record of their own, which exist because of others' records."""
    found: Mask = _are_periods(sheet.lines)[sheet.lines.depth] & ~sheet.held.any(axis=1)
    return found


def _are_periods(side: Side) -> Mask:
    """Shape (levels + 1,): True for the depths whose level is one of periods."""
    return np.array([False, *(level.kind == "period" for level in side.levels)], dtype=bool)


def _own_columns(sheet: Sheet, here: Mask) -> Side:
    """The columns in which some line of the part has a value, for periods only those with one of its records, and the
    totals over them."""
    columns = sheet.columns
    periods = _are_periods(columns)
    held = np.asarray(sheet.present()[here].any(axis=0))
    held &= ~periods[columns.depth] | np.asarray(sheet.held[here].any(axis=0))
    kept = [i for i, at in enumerate(columns.shown.lines.tolist()) if held[at]]
    if not kept:
        return columns
    return replace(columns, shown=Rows(columns.shown.lines[kept], tuple(columns.shown.roles[i] for i in kept)))


def _untold(tie: TieOut, figures: list[str]) -> TieOut:
    """A tie-out that says nothing about the whole except which figures' lines add up."""
    footings = tuple(replace(footing, total="") for footing in tie.footings if footing.figure in figures)
    return TieOut(tie.source, 0, 0, 0, (), 0, 0, 0, footings)


def parted(given: Handover, level: str) -> list[tuple[str, Handover]]:
    """A sheet once for each member of a level, by their headings, without texts about the whole.

    Raises DefinitionError for a level that does not make lines.
    """
    lines = given.sheet.lines
    return [(lines.heading(at), part(given, at)) for at in members(given.sheet, level)]


def part(given: Handover, member: int) -> Handover:
    """The part of a sheet under a member, without texts about the whole."""
    said = given.brief and given.report and brief(_own_report(given.report))
    return replace(
        given, sheet=extract(given.sheet, member, given.report), headline=(), short="", told=(), brief=said or ""
    )


def _own_report(report: Report) -> Report:
    """The report without the figures and computed lines that a part does not contain, and without anything that names
    other members or amounts of the whole: control totals, hidden lines, disabled phrases, lists of members."""
    resting = set(resting_on_others(report))
    unnamed = {
        "figures": [f for f in report.figures if f.name not in resting],
        "lines": [],
        "controls": [],
        "silenced": [],
    }
    axes = {way: [_unlisted(entry) for entry in getattr(report, way)] for way in ("down", "across")}
    return report.model_copy(update={**unnamed, **axes, "out_of_sight": OutOfSight()})


def _unlisted(entry: AxisEntry) -> AxisEntry:
    """An axis entry without the members that it lists."""
    listed = isinstance(entry.order, ByList) or (isinstance(entry.order, ByFigure) and entry.order.column)
    named: dict[str, Any] = {"signs": {}, "labels": {}} if isinstance(entry, CategoryEntry) else {}
    return entry.model_copy(update={**named, **({"order": None} if listed else {})})
