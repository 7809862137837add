"""Which totals of a sheet can be live formulas: those to which the cells they span add up."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kalendor.core.values.columns import EXACT, Column
from kalendor.output.typeset import SetColumn, Typeset

Index = NDArray[np.int64]
Mask = NDArray[np.bool_]
CLOSE = 1e-12


@dataclass(frozen=True, eq=False)
class Spans:
    """The rows that each total row spans: from `first` to `last` (both included), by row; −1 for other rows."""

    first: Index
    last: Index
    depths: tuple[int, ...]


def spans(set_: Typeset) -> Spans:
    """The span of each total: its group's rows, which come before it, or after it if totals come first."""
    rows, lines = set_.rows, set_.sheet.lines
    first, last = np.full(len(rows), -1, dtype=np.int64), np.full(len(rows), -1, dtype=np.int64)
    row_lines = np.array([row.line for row in rows], dtype=np.int64)
    row_depths = np.array([row.depth for row in rows], dtype=np.int64)
    for depth in sorted({row.depth for row in rows if row.total}):
        own = lines.above(row_lines, depth)
        inner = row_depths > depth
        for at in (i for i, row in enumerate(rows) if row.total and row.depth == depth):
            start, end = at, at
            while start > 0 and inner[start - 1] and own[start - 1] == row_lines[at]:
                start -= 1
            while end + 1 < len(rows) and inner[end + 1] and own[end + 1] == row_lines[at]:
                end += 1
            if start < at:
                first[at], last[at] = start, at - 1
            elif end > at:
                first[at], last[at] = at + 1, end
    return Spans(first, last, tuple(sorted({row.depth for row in rows if row.total}, reverse=True)))


def live(set_: Typeset, over: Spans, column: SetColumn) -> Mask:
    """Which rows of a column are totals to which the cells under them add up, shape (rows,).

    Only figures whose lines foot; a total that includes hidden lines is not live.
    """
    found = np.zeros(len(set_.rows), dtype=np.bool_)
    figure = set_.figure(column).as_shown
    if figure.name not in {footing.figure for footing in set_.sheet.tie_out.footings}:
        return found
    amounts, there = _amounts(set_, figure.cells, column)
    if amounts is None:
        return found
    depths = np.array([row.depth if row.total else -1 for row in set_.rows])
    for depth in over.depths:
        at = np.flatnonzero((depths == depth) & (over.first >= 0) & there)
        sums = np.concatenate([[0], np.cumsum(np.where(found, 0, amounts))])
        under = sums[over.last[at] + 1] - sums[over.first[at]]
        own = amounts[at]
        agrees = (
            under == own if figure.cells.kind in EXACT else np.abs(under - own) <= CLOSE * np.maximum(1, np.abs(own))
        )
        found[at[agrees]] = True
    return found


def _amounts(set_: Typeset, cells: Column, column: SetColumn) -> tuple[Index | None, Mask]:
    """The column's numbers by row, 0 for none, and whether there is one; None if they exceed 64 bits."""
    picked = cells.take(set_.places(column))
    there = np.zeros(len(set_.rows), dtype=np.bool_)
    there[set_.filled] = picked.present
    if picked.values.dtype == object or float(np.abs(picked.values.astype(np.float64)).sum()) > 2.0**62:
        return None, there
    amounts = np.zeros(len(set_.rows), dtype=picked.values.dtype if cells.kind not in EXACT else np.int64)
    amounts[set_.filled] = np.where(picked.present, picked.values, 0)
    return amounts, there
