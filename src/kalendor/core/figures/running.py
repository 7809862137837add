"""Running figures: accumulated along a period column, or down the lines in display order."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from kalendor.core.figures.kind import FigureKind, Made, Reckoned, Reckoning, Tracing, nothing
from kalendor.core.figures.occupied import accumulated
from kalendor.core.figures.operand import Operand
from kalendor.core.figures.running_along import RunningAlong
from kalendor.core.figures.stretches import reached_over
from kalendor.core.figures.units import Units, together
from kalendor.core.figures.worked_lines import worked_mask
from kalendor.core.placing.frame import Axis
from kalendor.core.placing.views import View
from kalendor.core.values.columns import Array, Column
from kalendor.core.values.notation import grouped
from kalendor.definitions.figure import Running
from kalendor.errors import DefinitionError

Index = NDArray[np.int64]


class RunningKind(FigureKind[Running]):
    """An accumulated figure."""

    name = "running"
    model = Running
    filled_by_lines = True

    def needs(self, figure: Running) -> tuple[str, ...]:
        return (figure.running,)

    def counts_days(self, figure: Running) -> bool:
        return True

    def cells(self, figure: Running, reckoning: Reckoning, view: View) -> Reckoned:
        if figure.along == "lines":
            return Reckoned(nothing(reckoning.frame.shape[0] * reckoning.frame.shape[1]))
        return Reckoned(RunningAlong(reckoning, view, figure.along).running(figure))

    def as_shown(self, figure: Running, reckoning: Reckoning, cells: Column, order: Index) -> Column:
        return _down_the_lines(figure, reckoning, order) if figure.along == "lines" else cells

    def units(self, figure: Running, reckoning: Reckoning, view: View) -> Units | None:
        if figure.along == "lines":
            return None
        along = RunningAlong(reckoning, view, figure.along)

        def sums(name: str) -> Column:
            return along.running(figure.model_copy(update={"running": name}))

        return together(one.units(sums) for one in reckoning.telling(figure.running))

    def units_as_shown(self, figure: Running, reckoning: Reckoning, order: Index) -> Units | None:
        own = reckoning.units(figure.running)
        if own is None or figure.along != "lines":
            return None
        passed = _Passed(figure, reckoning.frame.lines, order)
        shape = reckoning.frame.shape
        return Units(*(passed.reached(ufunc, part.reshape(shape)).reshape(-1)
                       for ufunc, part in ((np.minimum, own.least), (np.maximum, own.largest))))  # fmt: skip

    def operand(self, figure: Running, tracing: Tracing, own: Operand, view: View) -> Operand:
        if figure.along == "lines":
            lines = tracing.passed(figure.restart, own.line)
            parts = [tracing.of(figure.running, view, line, own.column) for line in lines]
            return replace(own, of=(_together(figure.running, own, parts),) if parts else ())
        along = RunningAlong(tracing.reckoning, view, figure.along)
        reach = along.ran_over(figure, tracing.crossing(own), *tracing.place(own))
        return reached_over(tracing, figure.running, own, reach)

    def adds_up(self, figure: Running, reckoning: Reckoning) -> bool:
        return reckoning.adds_up(figure.running)

    def percent(self, figure: Running, reckoning: Reckoning) -> bool:
        return reckoning.percent(figure.running)

    def reaches_back(self, figure: Running) -> bool:
        return figure.along != "lines"

    def rests_on_others(self, figure: Running) -> bool:
        return figure.along == "lines"

    def told(self, figure: Running, made: Made) -> list[str]:
        if figure.along == "lines":
            return [
                f"{figure.running} added up down the lines as they stand, over {grouped(made.records)} records so far."
            ]
        again = f", starting again with each {figure.restart}" if figure.restart != "never" else ""
        return [f"{figure.running} added up along the periods{again}{made.days}."]

    def why_blank(self, figure: Running) -> str:
        return "the period has not begun, or stands above the level at which the total starts again"


def _down_the_lines(figure: Running, reckoning: Reckoning, order: Index) -> Column:
    """The value reached at each line; a subtotal shows that of the last line under it."""
    cells, frame = reckoning.cells(figure.running), reckoning.frame
    values, blank = cells.values.reshape(frame.shape), cells.blanks.reshape(frame.shape)
    passed = _Passed(figure, frame.lines, order)
    result, none = passed.reached(np.add, np.where(blank, 0, values)), np.ones(frame.shape, dtype=bool)
    for at in passed.above:
        none[at] = False
    return Column(cells.kind, result.reshape(-1), none.reshape(-1), cells.places)


class _Passed:
    """The innermost lines in display order (`above[0]`), and those above them up to where a figure restarts."""

    def __init__(self, figure: Running, lines: Axis, order: Index) -> None:
        names = [level.name for level in lines.levels]
        if figure.restart not in ("never", *names):
            raise DefinitionError(f"restart: there is no level {figure.restart!r} among the lines to restart at")
        depth = 0 if figure.restart == "never" else names.index(figure.restart) + 1
        self.above = [order[(lines.depth[order] == len(lines.levels)) & ~worked_mask(lines)[order]]]
        for _ in range(len(lines.levels) - depth):
            self.above.append(lines.parent[self.above[-1]])

    def reached(self, ufunc: np.ufunc, values: Array) -> Array:
        """The value reached at each line, shape (lines, columns): for a line above others, that of the last one under
        it; zero elsewhere."""
        result = np.zeros_like(values)
        if len(self.above[0]):
            first = np.flatnonzero(np.diff(self.above[-1], prepend=-1))
            reached = accumulated(ufunc, values[self.above[0]], first)
            result = result.astype(reached.dtype)
            for at in self.above:
                result[at] = reached
        return result


def _together(name: str, own: Operand, parts: Sequence[Operand]) -> Operand:
    """The same figure on several lines as one: all their records, those of each operand for a formula."""
    merged: dict[str, list[Operand]] = {}
    for part in parts:
        for called, leaf in part.parts():
            merged.setdefault(called, []).append(leaf)
    leaves = [_all_of(called, leaf) for called, leaf in merged.items()]
    if len(leaves) == 1:
        return replace(leaves[0], name="", figure=name, value=own.value)
    return replace(own, name="", figure=name, kind="formula", of=tuple(leaves))


def _all_of(name: str, leaves: Sequence[Operand]) -> Operand:
    rows = np.concatenate([leaf.rows for leaf in leaves if leaf.rows is not None])
    order = np.argsort(rows, kind="stable")
    given = [leaf.amounts for leaf in leaves if leaf.amounts is not None]
    amounts: Column | None = None
    if len(given) == len(leaves):
        values = np.concatenate([one.values for one in given])[order]
        blank = np.concatenate([one.blanks for one in given])[order]
        amounts = replace(given[0], values=values, blank=blank)
    return replace(leaves[0], name=name, rows=rows[order], amounts=amounts)
