"""The change between two sheets of one report as a table row: the first figure's total then and now."""

from dataclasses import dataclass
from decimal import Decimal

import numpy as np

from kalendor.core.groupings.levels import ORDINARY
from kalendor.core.sheet.sheet import Sheet, ShownFigure
from kalendor.core.values.columns import NUMERIC
from kalendor.core.values.notation import noted
from kalendor.output.headline.headline import in_full, latest
from kalendor.output.shown import number_at, shown_number


@dataclass(frozen=True)
class Moved:
    """A report's total `then`, in the edition `since`, and `now`; `line` is the outermost one with the largest change,
    and its change.

    Numbers are formatted as the figure is; `percent` is empty if the earlier number is zero or less.
    """

    title: str
    figure: str
    since: str
    then: str
    now: str
    change: str
    percent: str
    line: str = ""


def moved_since(now: Sheet, then: Sheet, since: str) -> Moved | None:
    """The change of the first numeric figure of both sheets; None if one of them has none."""
    figure = next((f for f in now.figures if f.cells.kind in NUMERIC), None)
    before = None if figure is None else next((f for f in then.figures if f.name == figure.name), None)
    if figure is None or before is None or before.cells.kind not in NUMERIC:
        return None
    value, base = (number_at(f, _at(sheet, 0)) for f, sheet in ((figure, now), (before, then)))
    if value is None or base is None:
        return None
    change = value - base
    return Moved(
        now.title, _named(now, figure), since, shown_number(base, figure), shown_number(value, figure), _signed(change, figure),
        noted(f"{change / base * 100:+.1f}%").replace("-", "\u2212") if base > 0 else "", _line(now, figure, then, before),
    )  # fmt: skip


def _at(sheet: Sheet, line: int) -> int:
    return line * sheet.columns.count + latest(sheet)


def _named(sheet: Sheet, figure: ShownFigure) -> str:
    column = latest(sheet)
    return f"{figure.name}, {in_full(str(sheet.columns.labels[column]))}" if column else figure.name


def _signed(change: Decimal, figure: ShownFigure) -> str:
    text = shown_number(change, figure)
    return f"+{text}" if change > 0 and not text.startswith("+") else text


def _line(now: Sheet, figure: ShownFigure, then: Sheet, before: ShownFigure) -> str:
    """The outermost line with the largest change; empty if there are none, or only periods, whose lines differ."""
    if not now.lines.levels or now.lines.levels[0].kind == "period":
        return ""
    values, bases = _by_label(now, figure), _by_label(then, before)
    moves = {label: values.get(label, Decimal(0)) - bases.get(label, Decimal(0)) for label in (*values, *bases)}
    label = max(moves, key=lambda one: abs(moves[one]), default="")
    return f"{label} {_signed(moves[label], figure)}" if label and moves[label] else ""


def _by_label(sheet: Sheet, figure: ShownFigure) -> dict[str, Decimal]:
    outer = np.flatnonzero((sheet.lines.depth == 1) & (sheet.lines.special == ORDINARY)).tolist()
    found = ((str(sheet.lines.labels[line]), number_at(figure, _at(sheet, line))) for line in outer)
    return {label: value for label, value in found if value is not None}
