"""Two or three sentences over a sheet, by rules from its own numbers and the trail: the total, its change, what drove
it, and what is not placed."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from kalendor.core.figures.bases import MARK_WORDS, MIXED, NOT_MEANINGFUL
from kalendor.core.figures.compare import based_on, none_to_compare_with
from kalendor.core.figures.family import kind_of
from kalendor.core.groupings.levels import NO_START, NOT_PLACED, ORDINARY
from kalendor.core.sheet.scales import is_percent
from kalendor.core.sheet.sheet import NO_COLUMN, Sheet, ShownFigure
from kalendor.core.trail.cell import Cell
from kalendor.core.trail.drivers import Drivers
from kalendor.core.trail.trail import Trail
from kalendor.core.values.columns import NUMERIC
from kalendor.core.values.days import short_day
from kalendor.definitions.figure import Compare, WithFigure, comparisons
from kalendor.definitions.report import Report
from kalendor.errors import KalendorError
from kalendor.output.shown import shown_cells, shown_total, shown_units
from kalendor.output.told import listed

SCALES = {"one": "", "thousands": "thousand", "millions": "million"}
Trace = Callable[[Cell], Trail]


@dataclass(frozen=True, eq=False)
class _Ground:
    """What the sentences are about: the first figure's total in the latest period, or of the whole sheet."""

    report: Report
    sheet: Sheet
    figure: ShownFigure
    column: int

    def shown(self, figure: ShownFigure, line: int = 0) -> str:
        text = shown_cells(figure, np.array([line * self.sheet.columns.count + self.column]))[0]
        scale = "" if is_percent(figure) else SCALES[figure.format.unit]
        return f"{text} {scale}" if scale and any(c.isdigit() for c in text) else text


def headline(report: Report, sheet: Sheet, trace: Trace) -> list[str]:
    """The sentences; none where the sheet has no number to speak of."""
    figure = next((f for f in sheet.figures if f.cells.kind in NUMERIC), None)
    if figure is None:
        return []
    if sheet.current == NO_COLUMN:
        return [f"There are no records of the period of {short_day(sheet.as_of)}."]
    ground = _Ground(report, sheet, figure, latest(sheet))
    total = ground.shown(figure)
    if not total:
        return []
    where = f" in {sheet.columns.heading(ground.column)}" if ground.column else ""
    if total == MARK_WORDS[MIXED]:
        return [
            f"{figure.name}{where} is {_by_unit(ground) or 'in several currencies or units, and has no one total'}."
        ]
    change, drove = _change(ground, trace)
    first = f"{figure.name}{where} came to {total}{f', {change}' if change else ''}."
    return [sentence for sentence in (first, drove or _largest(ground), _not_placed(ground)) if sentence]


def _by_unit(ground: _Ground) -> str:
    """The grand total by unit, as `4,545.50 EUR and 27,220.00 SEK`; empty where that is not what the sentence is of."""
    footing = next((f for f in ground.sheet.tie_out.footings if f.figure == ground.figure.name), None)
    return "" if footing is None or ground.column else listed(shown_total(ground.sheet, footing).split(", "))


def latest(sheet: Sheet) -> int:
    """The column of the period that the as-of date falls in, where the outermost columns are periods, else the total; of
    a sheet that does not say, the latest."""
    if sheet.current >= 0:
        return sheet.current
    columns = sheet.columns
    if not columns.levels or columns.levels[0].kind != "period":
        return 0
    dated = (columns.depth == 1) & (columns.special == ORDINARY) & (columns.starts != NO_START)
    outer = [at for at in columns.shown.lines.tolist() if dated[at]]
    return outer[-1] if outer else 0


def _change(ground: _Ground, trace: Trace) -> tuple[str, str]:
    """The change of the total against its base, and what drove it; empty where the report compares nothing."""
    names = {f.name for f in ground.sheet.figures}
    for asked in comparisons(ground.report.figures, ground.figure.name):
        if asked.name not in names or not kind_of(asked).signed(asked):
            continue
        shown = next(f for f in ground.sheet.figures if f.name == asked.name)
        text = ground.shown(shown)
        base = based_on(asked)
        mark = MARK_WORDS.index(text) if text in MARK_WORDS else 0
        if mark == MIXED:
            continue
        if mark == NOT_MEANINGFUL:
            return f"against {base} of zero or less" if not isinstance(
                asked.with_, str
            ) else f"against zero or less {base}", ""
        words = none_to_compare_with(asked) if mark else _moved(text, base)
        return words, _drove(ground, asked, trace) if words and not mark else ""
    return "", ""


def _moved(text: str, base: str) -> str:
    if not text:
        return ""
    below = text.startswith(("(", "−"))
    size = text.strip("()+−")
    if not any(digit in size for digit in "123456789"):
        return f"as much as {base}"
    return f"{size} {'less' if below else 'more'} than {base}"


def _drove(ground: _Ground, asked: Compare, trace: Trace) -> str:
    try:
        ways = trace(Cell(asked.name, 0, ground.column)).drivers()
    except KalendorError:
        return ""
    beside = not asked.with_period
    by = _way(ground, ways, isinstance(asked.with_, WithFigure))
    if by is None or not len(by.labels):
        return ""
    said = []
    for wanted in (1, -1):
        moved = [i for i in range(len(by.labels)) if float(by.difference[i]) * wanted > 0]
        if moved:
            size = shown_units(abs(int(by.difference[moved[0]])), by.places) if by.exact else ""
            way = _way_it_went(by, moved[0], wanted, len(moved) > 1, based_on(asked) if beside else "")
            said.append(f"{by.labels[moved[0]]} {way}{f', by {size}' if size else ''}")
    if len(said) == 2 and abs(float(by.difference[0])) == abs(min(by.difference.tolist())):
        said.reverse()
    return f"{'; '.join(said)}." if said else ""


def _way_it_went(by: Drivers, at: int, wanted: int, several: bool, beside: str) -> str:
    """How a member moved: it rose, fell, came or went; beside another figure or member it stands above or below."""
    most = "most " if several else ""
    if beside:
        return f"is {most}{'above' if wanted > 0 else 'below'} {beside}"
    if not int(by.base[at]) if by.exact else not float(by.base[at]):
        return "came new"
    if not int(by.value[at]) if by.exact else not float(by.value[at]):
        return "is gone"
    return f"{'rose' if wanted > 0 else 'fell'} {most}".rstrip()


def _way(ground: _Ground, ways: list[Drivers], own_only: bool) -> Drivers | None:
    """By the sheet's own outermost level where that is one of the ways, else by the one that explains most; another
    figure may be of another source, which has but the sheet's own levels."""
    own = ground.sheet.lines.levels[0].name if ground.sheet.lines.levels else ""
    found = next((way for way in ways if way.level == own), None)
    return found or (ways[0] if ways and not own_only else None)


def _largest(ground: _Ground) -> str:
    """The largest of the outermost lines, for a figure that adds up."""
    lines = ground.sheet.lines
    adds = {footing.figure for footing in ground.sheet.tie_out.footings}
    if not lines.levels or lines.levels[0].kind == "period" or ground.figure.name not in adds:
        return ""
    outer = np.flatnonzero((lines.depth == 1) & (lines.special == ORDINARY))
    cells = ground.figure.cells.take(outer * ground.sheet.columns.count + ground.column)
    there = np.flatnonzero(cells.present)
    if len(there) < 2:
        return ""
    at = int(outer[there[int(np.argmax(cells.values[there]))]])
    return f"{lines.heading(at)} is largest, with {ground.shown(ground.figure, at)}."


def _not_placed(ground: _Ground) -> str:
    lines = ground.sheet.lines
    here = np.flatnonzero((lines.special == NOT_PLACED) & (lines.depth > 0))
    if not len(here):
        return ""
    amount = ground.shown(ground.figure, int(here[0]))
    level = lines.levels[int(lines.depth[here[0]]) - 1].name
    return f"{amount} of it has no {level} yet." if amount else ""
