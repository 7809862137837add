"""From a cell back to its records: every kind of figure, by what it was worked out from."""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from kalendor.core.figures.balances import Balances, only_counted
from kalendor.core.figures.compare import shift_of
from kalendor.core.figures.derived import Reckoner, whole_of
from kalendor.core.figures.moving import MovingAlong
from kalendor.core.figures.running import RunningAlong
from kalendor.core.figures.stretches import Reach
from kalendor.core.figures.worked_lines import lines_of, worked_mask
from kalendor.core.formulas.expressions import names_in
from kalendor.core.placing.views import View
from kalendor.core.sheet.arrange import Rows
from kalendor.core.takes.takes import TAKES
from kalendor.core.trail.cell import Cell
from kalendor.core.trail.operand import Days, Operand
from kalendor.core.values.columns import Column
from kalendor.definitions.figure import (
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

Index = NDArray[np.int64]
NOTHING = np.zeros(0, dtype=np.int64)


class Tracer:
    """Finds what the numbers of one sheet are made from; `shown` are its lines in the order in which they stand."""

    def __init__(self, reckoner: Reckoner, shown: Rows) -> None:
        self.reckoner, self.shown = reckoner, shown
        self.frame, self.main = reckoner.frame, reckoner.main

    def operand(self, cell: Cell) -> Operand:
        """What the number in a cell is made from."""
        return self._of(cell.figure, self.main, cell.line, cell.column)

    def _of(self, name: str, view: View, line: int, column: int) -> Operand:
        figure = self.reckoner.figures[name]
        at = np.array([line * self.frame.columns.count + column])
        value = self.reckoner.cells(name, view).take(at)
        own = Operand("", name, "records", value, line, column)
        if isinstance(figure, Taken | Running | Moving) and self._is_worked(line):
            return self._worked_line(own, view)
        return self._by_kind(figure, own, view)

    def _by_kind(self, figure: Figure, own: Operand, view: View) -> Operand:
        line, column = own.line, own.column
        match figure:
            case Taken():
                rows = self._rows(figure, view, line, column)
                if figure.take == "balance":
                    return self._balance(figure, own, rows, view)
                return self._taken(figure, own, rows)
            case FormulaFigure():
                return replace(own, kind="formula", of=self._operands(figure, view, line, column))
            case Share():
                lines, columns = whole_of(figure, self.frame.lines, np.array([line]), np.array([column]))
                value = self._of(figure.share, view, line, column)
                whole = self._of(figure.share, view, int(lines[0]), int(columns[0]))
                return replace(own, kind="share", of=(_named(value, "value"), _named(whole, "base")))
            case Rank():
                return replace(own, kind="rank", of=(self._of(figure.rank, view, line, column),))
            case Running():
                return self._running(figure, own, view)
            case Moving():
                return self._moving(figure, own, view)
            case Compare():
                return replace(own, kind="compare", of=self._compared(figure, view, line, column))

    # -- records

    def _crossing(self, line: int, column: int) -> tuple[int, int]:
        return int(self.frame.lines.depth[line]), int(self.frame.columns.depth[column])

    def _in_crossing(self, line: int, column: int) -> tuple[int, int]:
        """The line and the column counted within their own depths."""
        crossing = self._crossing(line, column)
        return line - self.frame.lines.offsets[crossing[0]], column - self.frame.columns.offsets[crossing[1]]

    def _rows(self, figure: Taken, view: View, line: int, column: int) -> Index:
        """The records of a cell that a figure takes, in the order in which they came."""
        crossing = self._crossing(line, column)
        _, where = self.reckoner.taking(figure)
        down, across = self._in_crossing(line, column)
        groups = view.groups(crossing)
        found = np.flatnonzero(groups.ids == down * self.frame.block_shape(crossing)[1] + across)
        rows = found if groups.rows is None else groups.rows[found]
        return np.sort(rows if where is None else rows[where.mask[rows]])

    def _taken(self, figure: Taken, own: Operand, rows: Index) -> Operand:
        of, _ = self.reckoner.taking(figure)
        return replace(own, rows=rows, amounts=TAKES[figure.take].gives(rows, of))

    def _balance(self, figure: Taken, own: Operand, rows: Index, view: View) -> Operand:
        """The records of a balance's cell and those carried into it; only those that count have amounts."""
        crossing, at = self._crossing(own.line, own.column), self._in_crossing(own.line, own.column)
        balances = Balances(self.reckoner, figure, view)
        counted = balances.counted(crossing, *at)
        rows = np.union1d(rows, counted)
        return replace(own, rows=rows, amounts=only_counted(balances.column.take(rows), rows, counted))

    # -- figures from figures

    def _operands(self, figure: FormulaFigure, view: View, line: int, column: int) -> tuple[Operand, ...]:
        known = dict.fromkeys(self.reckoner.known(name) for name in names_in(figure.formula))
        return tuple(_named(self._of(name, view, line, column), name) for name in known if name is not None)

    def _compared(self, figure: Compare, view: View, line: int, column: int) -> tuple[Operand, ...]:
        bases = self.reckoner.bases
        if isinstance(figure.with_, WithFigure):
            pair = self._of(figure.compare, view, line, column), self._of(figure.with_.figure, view, line, column)
        elif isinstance(figure.with_, WithMember):
            home = int(bases.member_lines(figure.with_.member)[line])
            value = self._of(figure.compare, view, line, column)
            pair = value, self._of(figure.compare, view, home, column) if home >= 0 else _none(value)
        elif bases.dateless:
            value = self._of(figure.compare, view, line, column)
            pair = value, _none(value)
        else:
            shift = shift_of(figure, bases.era, bases.placer)
            value = self._of(figure.compare, bases.value_view(figure.to_date), line, column)
            has = bases.has_base_at(shift, figure.to_date, self._crossing(line, column))
            there = bool(has[self._in_crossing(line, column)])
            base_view = bases.base_view(shift, figure.to_date)
            pair = value, self._of(figure.compare, base_view, line, column) if there else _none(value)
        return _named(pair[0], "value"), _named(pair[1], "base")

    # -- along the periods and down the lines

    def _running(self, figure: Running, own: Operand, view: View) -> Operand:
        if figure.along == "lines":
            return self._run_down(figure, own, view)
        along = RunningAlong(self.reckoner, view, figure.along)
        crossing, at = self._crossing(own.line, own.column), self._in_crossing(own.line, own.column)
        return self._reached(figure.running, replace(own, kind="running"), along.ran_over(figure, crossing, *at))

    def _moving(self, figure: Moving, own: Operand, view: View) -> Operand:
        along = MovingAlong(self.reckoner, view, None)
        crossing, at = self._crossing(own.line, own.column), self._in_crossing(own.line, own.column)
        return self._reached(figure.moving, replace(own, kind="moving"), along.moved_over(figure, crossing, *at))

    def _reached(self, name: str, own: Operand, reach: Reach | None) -> Operand:
        """What a figure takes of the records that were reached over."""
        rows = NOTHING if reach is None else np.sort(reach.rows)
        days = None if reach is None else Days(reach.first, reach.last)
        return replace(own, of=(self._over(name, own, rows, days),), days=days)

    def _over(self, name: str, own: Operand, rows: Index, days: Days | None) -> Operand:
        figure = self.reckoner.figures[name]
        whole = Operand("", name, "formula", own.value, own.line, own.column, days=days)
        if isinstance(figure, Taken):
            _, where = self.reckoner.taking(figure)
            picked = rows if where is None else rows[where.mask[rows]]
            return self._taken(figure, replace(whole, kind="records"), picked)
        assert isinstance(figure, FormulaFigure)
        known = dict.fromkeys(self.reckoner.known(n) for n in names_in(figure.formula))
        return replace(whole, of=tuple(_named(self._over(n, own, rows, days), n) for n in known if n is not None))

    def _run_down(self, figure: Running, own: Operand, view: View) -> Operand:
        """The lines that a figure running down them has passed, one after another."""
        lines = self.frame.lines
        names = [level.name for level in lines.levels]
        depth = 0 if figure.restart == "never" else names.index(figure.restart) + 1
        home, worked = self._above(own.line, depth), worked_mask(lines)
        passed: list[int] = []
        for line in self.shown.filled().tolist():
            if int(lines.depth[line]) < len(lines.levels) or worked[line]:
                continue
            if passed and self._is_under(passed[-1], own.line) and not self._is_under(line, own.line):
                break
            if self._above(line, depth) == home:
                passed.append(line)
            if line == own.line:
                break
        parts = [self._of(figure.running, view, line, own.column) for line in passed]
        return replace(own, kind="running", of=(_together(figure.running, own, parts),) if parts else ())

    def _above(self, line: int, depth: int) -> int:
        while int(self.frame.lines.depth[line]) > depth:
            line = int(self.frame.lines.parent[line])
        return line

    def _is_under(self, line: int, other: int) -> bool:
        return self._above(line, int(self.frame.lines.depth[other])) == other

    # -- lines made from lines

    def _is_worked(self, line: int) -> bool:
        depth = int(self.frame.lines.depth[line])
        return any(w.depth == depth and self.frame.lines.path[line, depth - 1] == w.code for w in self.reckoner.worked)

    def _worked_line(self, own: Operand, view: View) -> Operand:
        depth = int(self.frame.lines.depth[own.line])
        code = self.frame.lines.path[own.line, depth - 1]
        working = next(w for w in self.reckoner.worked if w.depth == depth and w.code == code)
        here, beside = lines_of(self.frame.lines, working)
        at = int(np.flatnonzero(here == own.line)[0])
        named = {name: int(lines[at]) for name, lines in beside.items() if lines[at] >= 0}
        parts = [_named(self._of(own.figure, view, line, own.column), name) for name, line in named.items()]
        return replace(own, kind="lines", of=tuple(parts), formula=working.line.formula)


def _named(operand: Operand, name: str) -> Operand:
    return replace(operand, name=name)


def _none(like: Operand) -> Operand:
    """Nothing to compare with: no records and no value."""
    blank = replace(like.value, blank=np.ones(1, dtype=bool))
    amounts = None if like.amounts is None else like.amounts.take(NOTHING)
    return replace(like, kind="records", value=blank, rows=NOTHING, amounts=amounts, of=())


def _together(name: str, own: Operand, parts: list[Operand]) -> Operand:
    """The same figure on several lines as one: all their records, those of each operand where it is a formula."""
    merged: dict[str, list[Operand]] = {}
    for part in parts:
        for called, leaf in part.parts():
            merged.setdefault(called, []).append(leaf)
    leaves = [_all_of(called, leaf) for called, leaf in merged.items()]
    if len(leaves) == 1:
        return replace(leaves[0], name="", figure=name, value=own.value)
    return Operand("", name, "formula", own.value, own.line, own.column, of=tuple(leaves))


def _all_of(name: str, leaves: list[Operand]) -> Operand:
    rows = np.concatenate([leaf.rows for leaf in leaves if leaf.rows is not None])
    order = np.argsort(rows, kind="stable")
    given = [leaf.amounts for leaf in leaves]
    amounts: Column | None = None
    if all(one is not None for one in given):
        values = np.concatenate([one.values for one in given if one is not None])[order]
        blank = np.concatenate([one.blanks for one in given if one is not None])[order]
        assert given[0] is not None
        amounts = replace(given[0], values=values, blank=blank)
    return replace(leaves[0], name=name, rows=rows[order], amounts=amounts)
