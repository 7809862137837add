"""Shares: a figure as a part of a total of its own."""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from kalendor.core.figures.kind import FigureKind, Made, Reckoned, Reckoning, Tracing
from kalendor.core.figures.operand import Operand
from kalendor.core.figures.units import Units
from kalendor.core.placing.frame import Axis, Frame
from kalendor.core.placing.views import View
from kalendor.core.values import arithmetic as ar
from kalendor.definitions.figure import Share

Index = NDArray[np.int64]
TOTALS = {"all": "the total", "parent": "the group", "column": "the column", "line": "the line"}
WHOLES = {"all": "the grand total", "parent": "the group above", "column": "the column total", "line": "the line total"}


class Shares(FigureKind[Share]):
    """A part of a total."""

    name = "share"
    model = Share

    def needs(self, figure: Share) -> tuple[str, ...]:
        return (figure.share,)

    def cells(self, figure: Share, reckoning: Reckoning, view: View) -> Reckoned:
        cells = reckoning.numbers(figure.share, view)
        return Reckoned(ar.divide(cells, cells.take(_wholes(figure, reckoning.frame))))

    def units(self, figure: Share, reckoning: Reckoning, view: View) -> Units | None:
        own = reckoning.units(figure.share, view)
        return own and own.beside(own.at(_wholes(figure, reckoning.frame)))

    def operand(self, figure: Share, tracing: Tracing, own: Operand, view: View) -> Operand:
        at = _whole(figure, view.frame.lines, np.array([own.line]), np.array([own.column]))
        value = tracing.of(figure.share, view, own.line, own.column)
        whole = tracing.of(figure.share, view, int(at[0][0]), int(at[1][0]))
        return replace(own, of=(value.named("value"), whole.named("base")))

    def percent(self, figure: Share, reckoning: Reckoning) -> bool:
        return True

    def rests_on_others(self, figure: Share) -> bool:
        return figure.of_total in ("all", "column")

    def blank_at_the_top(self, figure: Share) -> bool:
        return figure.of_total == "parent"

    def told(self, figure: Share, made: Made) -> list[str]:
        whole = f"{made.parts['base']} of {WHOLES[figure.of_total]}"
        return [f"Share of {figure.share}: {made.parts['value']} of {whole}."]

    def why_blank(self, figure: Share) -> str:
        return "the total is zero or blank"


def _wholes(figure: Share, frame: Frame) -> Index:
    """Shape (lines × columns,): the cell of the total that each is a share of."""
    height, width = frame.shape
    lines, columns = np.meshgrid(np.arange(height), np.arange(width), indexing="ij")
    lines, columns = _whole(figure, frame.lines, lines, columns)
    return (lines * width + columns).reshape(-1)


def _whole(figure: Share, stand: Axis, lines: Index, columns: Index) -> tuple[Index, Index]:
    """The line and the column of the total that each cell is a share of."""
    if figure.of_total in ("all", "column"):
        lines = np.zeros_like(lines)
    elif figure.of_total == "parent":
        lines = np.maximum(stand.parent, 0)[lines]
    if figure.of_total in ("all", "line"):
        columns = np.zeros_like(columns)
    return lines, columns
