"""Finds the facts of a sheet's headline, by rules, from its own numbers and the trail; `english` words them."""

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

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
from kalendor.core.values.columns import NUMERIC, Array
from kalendor.core.values.days import FULL_MONTH_NAMES, MONTH_NAMES
from kalendor.core.values.notation import noted, noted_day
from kalendor.definitions.figure import Compare, FigureBase, FormulaFigure, Taken, WithFigure, comparisons
from kalendor.definitions.report import Report
from kalendor.errors import KalendorError
from kalendor.output.headline.english import long, short
from kalendor.output.headline.facts import Change, Facts, Move, Said, Total
from kalendor.output.headline.spoken import in_prose, spoken
from kalendor.output.shown import number_at, shown_cells, shown_total, shown_units
from kalendor.output.told import listed

SCALES = {"one": "", "thousands": "thousand", "millions": "million"}
MOST_OTHERS = 2
NUMBER = re.compile(r"\d(?:[\d,.\u00a0\u2019]*\d)?")
Trace = Callable[[Cell], Trail]


@dataclass(frozen=True)
class Headline:
    """The headline of a sheet in two lengths: `sentences` with exact numbers, `short` with spoken numbers."""

    sentences: tuple[str, ...] = ()
    short: str = ""


def headline(report: Report, sheet: Sheet, trace: Trace) -> Headline:
    """The headline of a sheet; empty if it has no number to report."""
    figure = next((f for f in sheet.figures if f.cells.kind in NUMERIC), None)
    if figure is None:
        return Headline()
    if sheet.current == NO_COLUMN:
        return _alone(f"There are no records of the period of {noted_day(sheet.as_of)}.")
    ground = _Ground(report, sheet, latest(sheet))
    if not ground.shown(figure):
        return Headline()
    if ground.mark(figure) == MIXED:
        said = _by_unit(ground, figure) or "in several currencies or units, and has no one total"
        return _alone(f"{f'{figure.name} {ground.when}'.rstrip()} is {said}.")
    facts = _facts(ground, figure, trace)
    return Headline(long(facts), short(facts))


def has_moved(given: Sequence[str], now: Sequence[str]) -> bool:
    """Whether earlier sentences contain a number that current ones do not; a change of words alone does not count."""
    return list(given) != list(now) and not _numbers(given) <= _numbers(now)


def _numbers(sentences: Sequence[str]) -> set[str]:
    return {number for sentence in sentences for number in NUMBER.findall(sentence)}


def latest(sheet: Sheet) -> int:
    """The column of the period that contains the as-of date, if the outermost columns are periods, else the total; the
    latest for a sheet that does not say."""
    if sheet.current >= 0:
        return sheet.current
    columns = sheet.columns
    if not columns.levels or columns.levels[0].kind != "period":
        return 0
    dated = (columns.depth == 1) & (columns.special == ORDINARY) & (columns.starts != NO_START)
    outer = [at for at in columns.shown.lines.tolist() if dated[at]]
    return outer[-1] if outer else 0


def _alone(sentence: str) -> Headline:
    return Headline((sentence,), sentence)


@dataclass(frozen=True, eq=False)
class _Ground:
    """The column that the headline is about: the latest period, or the total of all."""

    report: Report
    sheet: Sheet
    column: int

    @property
    def when(self) -> str:
        """The period in words, as `in July 2026`; empty for the whole sheet."""
        if not self.column:
            return ""
        return f"in {in_full(str(self.sheet.columns.labels[self.column]))}"

    @property
    def upto(self) -> str:
        """The day to which the period is counted or compared, as `to 9 July`; empty for a whole period."""
        note = self.sheet.columns.notes.get(self.column, "")
        return in_full(note) if note.startswith("to ") else ""

    def at(self, line: int = 0) -> Array:
        return np.array([line * self.sheet.columns.count + self.column])

    def mark(self, figure: ShownFigure) -> int:
        return 0 if figure.marks is None else int(figure.marks[self.at()[0]])

    def shown(self, figure: ShownFigure, line: int = 0) -> str:
        text = in_prose(shown_cells(figure, self.at(line))[0])
        scale = "" if is_percent(figure) else SCALES[figure.format.unit]
        return f"{text} {scale}" if scale and any(c.isdigit() for c in text) else text

    def said(self, figure: ShownFigure, line: int = 0) -> Said:
        exact = self.shown(figure, line)
        value = None if is_percent(figure) else number_at(figure, int(self.at(line)[0]))
        return Said(exact, exact if value is None else spoken(value, figure.format.currency))


def in_full(words: str) -> str:
    """Words with the names of months in full: `Jul 2026` as `July 2026`."""
    names = dict(zip(MONTH_NAMES, FULL_MONTH_NAMES, strict=True))
    return " ".join(names.get(word, word) for word in words.split(" "))


def _facts(ground: _Ground, figure: ShownFigure, trace: Trace) -> Facts:
    total, compared = _total(ground, figure)
    trail = _trail(ground, compared, trace)
    when = ground.when
    if ground.upto and (total.change is None or _is_cut(ground, figure, trail)):
        when = f"{when} {ground.upto}"
    elif ground.upto and total.change is not None:
        total = replace(total, change=replace(total.change, upto=ground.upto))
    moves = _moves(ground, compared, trail) if compared is not None and trail is not None else ()
    largest, amount = _largest(ground, figure, total.adds)
    unplaced, level = _not_placed(ground, figure)
    speak = [f for f in ground.sheet.figures if f.name != figure.name and _speaks_of_itself(ground, f)]
    others = [_total(ground, other)[0] for other in speak[:MOST_OTHERS]]
    if total.change is not None and total.change.upto:
        others = [replace(other, change=None) for other in others]
    return Facts(total, when, tuple(others), moves, largest, amount, unplaced, level)


def _total(ground: _Ground, figure: ShownFigure) -> tuple[Total, Compare | None]:
    """A figure's total, and the comparison that gives its change; None without a change that can be broken down."""
    change, compared = _change(ground, figure)
    adds = any(footing.figure == figure.name for footing in ground.sheet.tie_out.footings)
    value = number_at(figure, int(ground.at()[0]))
    return Total(figure.name, ground.said(figure), change, adds, value == 0), compared


def _speaks_of_itself(ground: _Ground, figure: ShownFigure) -> bool:
    """Whether a further figure has a number of its own to report: taken or computed, not a comparison."""
    asked: FigureBase = next(f for f in ground.report.figures if f.name == figure.name)
    if not isinstance(asked, Taken | FormulaFigure) or figure.cells.kind not in NUMERIC:
        return False
    return not ground.mark(figure) and number_at(figure, int(ground.at()[0])) is not None


def _by_unit(ground: _Ground, figure: ShownFigure) -> str:
    """The grand total by unit, as `4,545.50 EUR and 27,220.00 SEK`; empty if the sentence is about another column."""
    footing = next((f for f in ground.sheet.tie_out.footings if f.figure == figure.name), None)
    return "" if footing is None or ground.column else listed(shown_total(ground.sheet, footing).split(", "))


def _change(ground: _Ground, figure: ShownFigure) -> tuple[Change | None, Compare | None]:
    """The change of a total against its base by the first comparison that shows a direction; None if there is none."""
    shown_figures = {f.name: f for f in ground.sheet.figures}
    for asked in comparisons(ground.report.figures, figure.name):
        if asked.name not in shown_figures or not kind_of(asked).signed(asked):
            continue
        shown = shown_figures[asked.name]
        mark, base, beside = ground.mark(shown), based_on(asked), not asked.with_period
        if mark == MIXED:
            continue
        if mark == NOT_MEANINGFUL:
            words = f"against {base} of zero or less" if beside or not isinstance(asked.with_, str) else f"against zero or less {base}"  # fmt: skip
            return Change(base, lacking=words), None
        if MARK_WORDS[mark]:
            return Change(base, lacking=none_to_compare_with(asked)), None
        change = _moved(ground.said(shown), base, isinstance(asked.with_, WithFigure))
        return change, asked if change is not None and change.way else None
    return None, None


def _moved(said: Said, base: str, beside: bool) -> Change | None:
    """A change as shown: one that rounds to zero does not count."""
    if not said.exact:
        return None
    way = -1 if said.exact.startswith("\u2212") else 1
    plain = Said(said.exact.strip("+\u2212"), said.spoken.strip("+\u2212"))
    if not any(digit in plain.exact for digit in "123456789"):
        return Change(base, 0, plain, beside)
    return Change(base, way, plain, beside)


def _trail(ground: _Ground, asked: Compare | None, trace: Trace) -> Trail | None:
    """The trail of the total's change; None without a change that can be broken down."""
    try:
        return None if asked is None else trace(Cell(asked.name, 0, ground.column))
    except KalendorError:
        return None


def _is_cut(ground: _Ground, figure: ShownFigure, trail: Trail | None) -> bool:
    """Whether the shown total is the one that is compared, and ends where the comparison does: it may otherwise include
    later records."""
    at = int(ground.at()[0])
    return trail is not None and trail.operand.of[0].value.item(0) == figure.cells.item(at)


def _moves(ground: _Ground, asked: Compare, trail: Trail) -> tuple[Move, ...]:
    """Who rose most and who fell most, the larger of the two first; none if there is only a single member."""
    try:
        by = _way(ground, trail.drivers(), isinstance(asked.with_, WithFigure))
    except KalendorError:
        return ()
    if by is None or (len(by.labels) == 1 and _is_all(by, trail)):
        return ()
    found = [move for wanted in (1, -1) if (move := _most_moved(by, wanted, asked)) is not None]
    if len(found) == 2 and abs(float(by.difference[0])) == abs(min(by.difference.tolist())):
        found.reverse()
    return tuple(found)


def _is_all(by: Drivers, trail: Trail) -> bool:
    """Whether the first member is the only one on both sides of a comparison."""
    sides = [(by.value[0], trail.operand.of[0]), (by.base[0], trail.operand.of[1])]
    return all(side.value.blanks[0] or own == side.value.values[0] for own, side in sides)


def _most_moved(by: Drivers, wanted: int, asked: Compare) -> Move | None:
    sizes = [float(n) * wanted for n in by.difference]
    moved = [i for i, size in enumerate(sizes) if size > 0]
    if not moved:
        return None
    alike = [i for i in moved if sizes[i] == sizes[moved[0]] and _way_of(by, i, wanted, asked) == _way_of(by, moved[0], wanted, asked)]  # fmt: skip
    first = alike[0]
    size = shown_units(abs(int(by.difference[first])), by.places) if by.exact else ""
    base = float(by.base[first])
    way = _way_of(by, first, wanted, asked)
    part = noted(f"{abs(float(by.difference[first])) / base * 100:,.1f}%") if asked.as_ == "percent" and base > 0 and way in ("rose", "fell") else ""  # fmt: skip
    return Move(
        tuple(by.labels[i] for i in alike), way, len(moved) > len(alike), Said(size, size) if size else None,
        part if len(alike) == 1 else "", based_on(asked),
    )  # fmt: skip


def _way_of(by: Drivers, at: int, wanted: int, asked: Compare) -> str:
    """How a member changed: it rose, fell, came or went; compared with another figure or member it is above or below."""
    if not asked.with_period:
        return "above" if wanted > 0 else "below"
    if not float(by.base[at]):
        return "came"
    if not float(by.value[at]):
        return "went"
    return "rose" if wanted > 0 else "fell"


def _way(ground: _Ground, ways: list[Drivers], own_only: bool) -> Drivers | None:
    """The breakdown by the sheet's own outermost level if available, else the one that explains most; another figure
    may be of another source, which shares only the sheet's own levels."""
    own = ground.sheet.lines.levels[0].name if ground.sheet.lines.levels else ""
    found = next((way for way in ways if way.level == own), None)
    return found or (ways[0] if ways and not own_only else None)


def _largest(ground: _Ground, figure: ShownFigure, adds: bool) -> tuple[tuple[str, ...], Said | None]:
    """The largest of the outermost lines, for a figure that adds up; several if they are equal, none if all are."""
    lines = ground.sheet.lines
    if not lines.levels or lines.levels[0].kind == "period" or not adds:
        return (), None
    outer = np.flatnonzero((lines.depth == 1) & (lines.special == ORDINARY))
    cells = figure.cells.take(outer * ground.sheet.columns.count + ground.column)
    there = np.flatnonzero(cells.present)
    if len(there) < 2:
        return (), None
    alike = outer[there[cells.values[there] == cells.values[there].max()]].tolist()
    if len(alike) == len(there):
        return (), None
    return tuple(lines.heading(at) for at in alike), ground.said(figure, alike[0])


def _not_placed(ground: _Ground, figure: ShownFigure) -> tuple[Said | None, str]:
    lines = ground.sheet.lines
    here = np.flatnonzero((lines.special == NOT_PLACED) & (lines.depth > 0))
    if not len(here):
        return None, ""
    said = ground.said(figure, int(here[0]))
    return (said, lines.levels[int(lines.depth[here[0]]) - 1].name) if said.exact else (None, "")
