"""Rounding that preserves sums: the shown numbers of lines add up to the shown numbers of their totals.

Totals are rounded first, independently; the parts of a total are then rounded down or up so that they add up to it, up
where the remainder is largest (largest remainder method). If a figure adds up along both axes of a sheet, so do its
shown numbers.
"""

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from kalendor.core.placing.frame import Axis
from kalendor.core.sheet.scales import exponent_of
from kalendor.core.sheet.sheet import ShownFigure
from kalendor.core.values.columns import EXACT, NUMERIC, Column, Kind, Mask

Whole = NDArray[np.int64]
Real = NDArray[np.float64]
CLOSE, MOST, MOST_MOVED = 1e-9, 2**52, 400


def rounded_to_add_up(figure: ShownFigure, lines: Axis, columns: Axis, apart: Mask) -> ShownFigure:
    """The figure with `rounded`: its cells as shown if its format requires that they add up.

    `apart`, shape (lines,), is True for lines that no total counts. The figure is returned unchanged if it has no
    numbers, is shown with all its places, does not add up anywhere, or has amounts beyond 2**52 shown units.
    """
    cells = figure.cells
    exponent = exponent_of(figure)
    if not figure.format.foots or cells.kind not in NUMERIC or (cells.kind in EXACT and exponent <= -cells.places):
        return figure
    shape = (lines.count, columns.count)
    amounts = _Amounts.of(cells, exponent, shape)
    if amounts is None:
        return figure
    rounding = _Rounding(amounts, lines, columns, apart)
    found = rounding.shown()
    if not rounding.tied:
        return figure
    scale, places = 10 ** max(exponent, 0), max(-exponent, 0)
    kind = Kind.DECIMAL if places else Kind.WHOLE
    units = (found * scale).reshape(-1)
    return replace(figure, rounded=Column(kind, units, cells.blanks, places, percent=cells.percent))


def moved_by_rounding(figure: ShownFigure) -> int:
    """How many of a figure's shown numbers differ from their own rounding."""
    if figure.rounded is None:
        return 0
    exponent = exponent_of(figure)
    shape = (len(figure.cells.values), 1)
    amounts = _Amounts.of(figure.cells, exponent, shape)
    assert amounts is not None
    shown = figure.rounded.values.reshape(shape) // 10 ** max(exponent, 0)
    return int(((amounts.alone() != shown).reshape(-1) & ~figure.cells.blanks).sum())


@dataclass(frozen=True, eq=False)
class _Amounts:
    """Numbers in shown units, each shape (lines, columns): rounded down, and the remainders (0 to 1). Blanks are 0."""

    floor: Whole
    rest: Real

    @classmethod
    def of(cls, cells: Column, exponent: int, shape: tuple[int, int]) -> "_Amounts | None":
        """The amounts of a figure whose shown numbers are multiples of 10**exponent; None if they are too large."""
        values = np.where(cells.blanks, 0, cells.values).reshape(shape)
        if cells.kind in EXACT:
            size = 10 ** (exponent + cells.places)
            floor, rest = values // size, (values % size) / size
        else:
            scaled = values.astype(np.float64) * 10.0**-exponent
            near = np.rint(scaled)
            whole = np.abs(scaled - near) <= CLOSE * np.maximum(1, np.abs(scaled))
            floor = np.where(whole, near, np.floor(scaled))
            rest = np.where(whole, 0.0, scaled - floor)
        if np.abs(floor).max(initial=0) > MOST:
            return None
        return cls(floor.astype(np.int64), rest.astype(np.float64))

    def alone(self) -> Whole:
        """Each number rounded independently, half away from zero."""
        up = np.where(self.floor < 0, self.rest > 0.5, self.rest >= 0.5)
        return self.floor + up

    def of_columns(self, at: Whole) -> "_Amounts":
        return _Amounts(self.floor[:, at], self.rest[:, at])

    def of_lines(self, at: Whole) -> "_Amounts":
        return _Amounts(self.floor[at], self.rest[at])

    def sums_to(self, line: "_Amounts") -> Mask:
        """Shape (columns,): where these lines add up to the one line."""
        floors = self.floor.sum(axis=0) - line.floor[0]
        rests = self.rest.sum(axis=0) - line.rest[0]
        found: Mask = np.abs(floors + rests) <= CLOSE * np.maximum(1, np.abs(line.floor[0]))
        return found

    def several(self) -> Mask:
        """Shape (columns,): where more than one line is not zero."""
        found: Mask = ((self.floor != 0) | (self.rest > 0)).sum(axis=0) > 1
        return found

    def turned(self) -> "_Amounts":
        return _Amounts(self.floor.T, self.rest.T)


class _Rounding:
    """The shown units of one figure, from the grand total inwards; `tied`, once known, where any two numbers add up to
    a third."""

    def __init__(self, amounts: _Amounts, lines: Axis, columns: Axis, apart: Mask) -> None:
        self.amounts, self.lines, self.apart = amounts, lines, apart
        self.groups = [(node, at[~apart[at]]) for node, at in _families(lines)]
        self.families = list(_families(columns)) if _add_up_across(amounts, columns) else []
        inner = np.isin(np.arange(columns.count), [node for node, _ in self.families])
        self.own = np.flatnonzero(~inner)
        self.tied = any(amounts.of_columns(beneath).turned().several().any() for _, beneath in self.families)

    def shown(self) -> Whole:
        """Shape (lines, columns)."""
        result = np.zeros_like(self.amounts.floor)
        self._begin(result, 0)
        for node, beneath in self.groups:
            if len(beneath):
                self._divide(result, node, beneath)
        for line in np.flatnonzero(self.apart).tolist():
            self._begin(result, line)
        return result

    def _begin(self, result: Whole, line: int) -> None:
        """Rounds a line that adds up to nothing above it: its total independently, its columns to that total."""
        own = self.amounts.of_lines(np.array([line]))
        result[line] = own.alone()[0]
        for node, beneath in self.families:
            part = own.of_columns(beneath).turned()
            result[line, beneath] = _divided(part, np.array([result[line, node]]), None)[:, 0]

    def _divide(self, result: Whole, node: int, beneath: Whole) -> None:
        """Rounds the lines under one to add up to it."""
        parts = self.amounts.of_lines(beneath)
        sums = parts.sums_to(self.amounts.of_lines(np.array([node])))
        if not sums[self.own].all() and self.families:
            for line in beneath.tolist():
                self._begin(result, line)
            return
        result[beneath] = parts.alone()
        tops = self.own if not self.families else np.zeros(1, dtype=np.int64)
        here = tops[sums[tops]]
        self.tied = self.tied or bool(parts.of_columns(here).several().any())
        result[np.ix_(beneath, here)] = _divided(parts.of_columns(here), result[node, here], None)
        for outer, inner in self.families:
            wanted = result[beneath, outer]
            result[np.ix_(beneath, inner)] = _divided(parts.of_columns(inner), result[node, inner], wanted)
        for outer, inner in reversed(self.families):
            result[beneath, outer] = result[np.ix_(beneath, inner)].sum(axis=1)


def _families(axis: Axis) -> Iterator[tuple[int, Whole]]:
    """Each line that has lines under it, with these, from the grand total inwards."""
    order = np.argsort(axis.parent, kind="stable")
    starts = np.flatnonzero(np.diff(axis.parent[order], prepend=-2))
    for at in np.split(order, starts[1:]):
        if axis.parent[at[0]] >= 0:
            yield int(axis.parent[at[0]]), at


def _add_up_across(amounts: _Amounts, columns: Axis) -> bool:
    """Whether every line's columns add up to those above them."""
    turned = amounts.turned()
    return all(
        turned.of_lines(beneath).sums_to(turned.of_lines(np.array([node]))).all()
        for node, beneath in _families(columns)
    )


def _divided(parts: _Amounts, totals: Whole, wanted: Whole | None) -> Whole:
    """Shape (lines, columns): the parts rounded down or up so that each column adds up to its entry of `totals`.

    `wanted`, shape (lines,), is what each line is to add up to if the columns allow it; None for independent columns. A
    part that needs no rounding is changed only if a total cannot be reached otherwise.
    """
    found = parts.floor.copy()
    short = totals - found.sum(axis=0)
    loose = parts.rest > 0
    ahead = parts.rest.sum(axis=1)
    for column in range(found.shape[1]):
        rest = parts.rest[:, column]
        ahead = ahead - rest
        due = rest if wanted is None else wanted - found.sum(axis=1) - ahead
        _raise(found[:, column], int(short[column]), loose[:, column], due, rest)
    if wanted is not None:
        _mend(found, parts, wanted)
    return found


def _raise(column: Whole, count: int, loose: Mask, due: Real, rest: Real) -> None:
    """Raise `count` numbers of a column by one, in place, those with the largest remainders first."""
    if not count:
        return
    order = np.lexsort((-np.abs(column), -rest, -np.round(due, 9), ~loose))
    able = int(loose.sum())
    if 0 < count <= able:
        column[order[:count]] += 1
        return
    # More than rounding can give, for example if a total was itself rounded to add up: the largest numbers take it.
    column[loose] += 1 if count > 0 else 0
    left = count - (able if count > 0 else 0)
    largest = np.argsort(-np.abs(column), kind="stable")
    whole, over = divmod(abs(left), len(column))
    column += np.sign(left) * whole
    column[largest[:over]] += np.sign(left)


def _mend(found: Whole, parts: _Amounts, wanted: Whole) -> None:
    """Move raised units between lines, in place, until each adds up to its wanted sum, as far as possible."""
    loose = parts.rest > 0
    for _ in range(MOST_MOVED):
        missing = wanted - found.sum(axis=1)
        if not (missing > 0).any():
            return
        path = _path(found - parts.floor, loose, missing)
        if path is None:
            return
        for taker, column, giver in path:
            found[taker, column] += 1
            found[giver, column] -= 1


def _path(raised: Whole, loose: Mask, missing: Whole) -> list[tuple[int, int, int]] | None:
    """Steps (to, column, from) that move one unit from a line with too much to a line with too little; None if there
    are none. Breadth-first search; each column is visited once."""
    can_take, can_give = loose & (raised < 1), loose & (raised > 0)
    waiting = np.flatnonzero(missing > 0).tolist()
    came: dict[int, tuple[int, int, int] | None] = dict.fromkeys(waiting)
    closed = np.zeros(raised.shape[1], dtype=bool)
    while waiting:
        line = waiting.pop(0)
        for column in np.flatnonzero(can_take[line] & ~closed).tolist():
            closed[column] = True
            givers = [giver for giver in np.flatnonzero(can_give[:, column]).tolist() if giver not in came]
            came.update({giver: (line, column, giver) for giver in givers})
            rich = [giver for giver in givers if missing[giver] < 0]
            if rich:
                return _steps(came, rich[0])
            waiting.extend(givers)
    return None


def _steps(came: dict[int, tuple[int, int, int] | None], last: int) -> list[tuple[int, int, int]]:
    steps = []
    step = came[last]
    while step is not None:
        steps.append(step)
        step = came[step[0]]
    return steps
