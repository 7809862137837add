"""Traces a cell back to its records: each figure gives the operands of its number."""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from kalendor.core.figures.family import kind_of
from kalendor.core.figures.kind import Reckoning
from kalendor.core.figures.operand import LINES, Operand
from kalendor.core.figures.worked_lines import Working, lines_of, worked_mask
from kalendor.core.placing.views import View
from kalendor.core.sheet.arrange import Rows
from kalendor.core.trail.cell import Cell

Index = NDArray[np.int64]


class Tracer:
    """Finds the operands of one sheet's numbers; `shown` are its lines in display order."""

    def __init__(self, reckoning: Reckoning, shown: Rows) -> None:
        self.reckoning, self.shown, self.frame = reckoning, shown, reckoning.frame

    def operand(self, cell: Cell) -> Operand:
        """The operands of the number in a cell."""
        return self.of(cell.figure, self.reckoning.main, cell.line, cell.column)

    def of(self, name: str, view: View, line: int, column: int) -> Operand:
        """The operands of a figure's number in a cell of a view."""
        figure = self.reckoning.figures[name]
        kind = kind_of(figure)
        at = np.array([line * self.frame.columns.count + column])
        value = self.reckoning.shown(name, view).cells.take(at)
        own = Operand("", name, kind.name, value, line, column, view=view, times=self.reckoning.ground.times)
        working = self._worked_at(line) if kind.filled_by_lines else None
        return kind.operand(figure, self, own, view) if working is None else self._worked_line(own, working, view)

    def over(self, name: str, own: Operand, rows: Index) -> Operand:
        """What a figure takes of the records at `rows`, in the place of `own`."""
        figure = self.reckoning.figures[name]
        kind = kind_of(figure)
        return kind.operand_over(figure, self, replace(own, name="", figure=name, kind=kind.name), rows)

    def crossing(self, own: Operand) -> tuple[int, int]:
        """The depths of an operand's line and column."""
        return int(self.frame.lines.depth[own.line]), int(self.frame.columns.depth[own.column])

    def place(self, own: Operand) -> tuple[int, int]:
        """The line and the column counted within their own depths."""
        down, across = self.crossing(own)
        return own.line - self.frame.lines.offsets[down], own.column - self.frame.columns.offsets[across]

    def passed(self, restart: str, line: int) -> list[int]:
        """The innermost lines at and before a line, in display order, since a level began anew ("never": from the
        first)."""
        lines = self.frame.lines
        names = [level.name for level in lines.levels]
        depth = 0 if restart == "never" else names.index(restart) + 1
        home, worked = self._above(line, depth), worked_mask(lines)
        passed: list[int] = []
        for here in self.shown.filled().tolist():
            if int(lines.depth[here]) < len(lines.levels) or worked[here]:
                continue
            if passed and self._is_under(passed[-1], line) and not self._is_under(here, line):
                break
            if self._above(here, depth) == home:
                passed.append(here)
            if here == line:
                break
        return passed

    def _above(self, line: int, depth: int) -> int:
        while int(self.frame.lines.depth[line]) > depth:
            line = int(self.frame.lines.parent[line])
        return line

    def _is_under(self, line: int, other: int) -> bool:
        return self._above(line, int(self.frame.lines.depth[other])) == other

    def _worked_at(self, line: int) -> Working | None:
        """The formula of a computed line."""
        depth = int(self.frame.lines.depth[line])
        code = self.frame.lines.path[line, depth - 1] if depth else -1
        return next((w for w in self.reckoning.worked if w.depth == depth and w.code == code), None)

    def _worked_line(self, own: Operand, working: Working, view: View) -> Operand:
        here, beside = lines_of(self.frame.lines, working)
        at = int(np.flatnonzero(here == own.line)[0])
        named = {name: int(lines[at]) for name, lines in beside.items() if lines[at] >= 0}
        parts = [self.of(own.figure, view, line, own.column).named(name) for name, line in named.items()]
        return replace(own, kind=LINES, of=tuple(parts), formula=working.line.formula)
