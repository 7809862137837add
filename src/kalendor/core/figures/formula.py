"""Figures by a formula over others, evaluated anew in every cell."""

from collections.abc import Callable
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from kalendor.core.figures.kind import FigureKind, Made, Over, Reckoned, Reckoning, Tracing, nothing
from kalendor.core.figures.operand import Operand
from kalendor.core.figures.units import Units, together
from kalendor.core.formulas.expressions import divides, names_in
from kalendor.core.formulas.formulas import evaluate
from kalendor.core.formulas.scope import Scope
from kalendor.core.placing.views import View
from kalendor.core.values.columns import Column, Kind
from kalendor.definitions.figure import FormulaFigure

Index = NDArray[np.int64]


class Formula(FigureKind[FormulaFigure]):
    """A formula over other figures of the same cell."""

    name = "formula"
    model = FormulaFigure

    def needs(self, figure: FormulaFigure) -> list[str]:
        return names_in(figure.formula)

    def cells(self, figure: FormulaFigure, reckoning: Reckoning, view: View) -> Reckoned:
        height, width = reckoning.frame.shape
        return Reckoned(self._evaluated(figure, reckoning, lambda name: reckoning.cells(name, view), height * width))

    def units(self, figure: FormulaFigure, reckoning: Reckoning, view: View) -> Units | None:
        return together(reckoning.units(name, view) for name in self._known(figure, reckoning))

    def over(self, figure: FormulaFigure, reckoning: Reckoning, groups: Over) -> Column:
        return self._evaluated(figure, reckoning, lambda name: reckoning.over(name, groups), groups.count)

    def _evaluated(
        self, figure: FormulaFigure, reckoning: Reckoning, cells: Callable[[str], Column], count: int
    ) -> Column:
        columns = {name: cells(name) for name in self._known(figure, reckoning)}
        every = columns or {name: nothing(count) for name in reckoning.figures}
        return evaluate(figure.formula, Scope(every, count, reckoning.ground.as_of))

    def _known(self, figure: FormulaFigure, reckoning: Reckoning) -> list[str]:
        found = (reckoning.known(name) for name in self.needs(figure))
        return list(dict.fromkeys(name for name in found if name is not None))

    def operand(self, figure: FormulaFigure, tracing: Tracing, own: Operand, view: View) -> Operand:
        names = self._known(figure, tracing.reckoning)
        return replace(own, of=tuple(tracing.of(name, view, own.line, own.column).named(name) for name in names))

    def operand_over(self, figure: FormulaFigure, tracing: Tracing, own: Operand, rows: Index) -> Operand:
        names = self._known(figure, tracing.reckoning)
        return replace(own, of=tuple(tracing.over(name, own, rows).named(name) for name in names))

    def approximate(self, figure: FormulaFigure, reckoning: Reckoning) -> bool:
        """Ratios of exact amounts are divided once from them, and are not marked approximate."""
        inexact = reckoning.cells(figure.name).kind is Kind.APPROXIMATE and not divides(figure.formula)
        return inexact or any(reckoning.approximate(name) for name in self._known(figure, reckoning))

    def told(self, figure: FormulaFigure, made: Made) -> list[str]:
        return [worked_out(figure.formula, made)]

    def why_blank(self, figure: FormulaFigure) -> str:
        return "a part of the formula is blank, or it divides by zero"


def worked_out(formula: str, made: Made) -> str:
    """The words for a formula's number, and of which numbers."""
    listed = ", ".join(f"{name} is {number}" for name, number in made.parts.items())
    return f"Worked out as {formula}, where {listed}." if listed else f"Worked out as {formula}."
