"""One cell of a sheet, and how it is found by its visible labels."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from kalendor.core.sheet.sheet import Sheet, Side
from kalendor.core.values.notation import grouped
from kalendor.errors import DefinitionError

MOST_NAMED = 12


@dataclass(frozen=True)
class Cell:
    """A figure at a position among the lines and one among the columns of a sheet (0: the total)."""

    figure: str
    line: int
    column: int


def found_cell(sheet: Sheet, figure: str, line: Sequence[str], column: Sequence[str]) -> Cell:
    """The cell of a figure whose line and column have the given labels, one a level from the outermost.

    Raises DefinitionError for a figure and for labels that are not on the sheet.
    """
    names = [f.name for f in sheet.figures]
    if figure not in names:
        raise DefinitionError(f"there is no figure {figure!r} on the sheet; there are {', '.join(names)}")
    return Cell(figure, _position(sheet.lines, line, "line"), _position(sheet.columns, column, "column"))


def _position(side: Side, labels: Sequence[str], what: str) -> int:
    at = 0
    for depth, label in enumerate(labels, start=1):
        here = np.flatnonzero((side.parent == at) & (side.depth == depth))
        if not len(here):
            under = " › ".join(labels[: depth - 1]) or "the total"
            raise DefinitionError(f"{what} {label!r}: nothing stands under {under}; give fewer labels")
        found = [i for i in here.tolist() if label in _names(side, i)]
        if not found:
            known = ", ".join(str(side.labels[i]) for i in here[:MOST_NAMED].tolist())
            more = f" and {grouped(len(here) - MOST_NAMED)} more" if len(here) > MOST_NAMED else ""
            under = f" under {' › '.join(labels[: depth - 1])}" if depth > 1 else ""
            raise DefinitionError(f"there is no {what} {label!r}{under}; there are {known}{more}")
        at = found[0]
    return at


def _names(side: Side, at: int) -> set[str]:
    """The accepted names of a line: its label, with and without the words for a part and for a number of members."""
    return {str(side.labels[at]), side.heading(at), str(side.names[at])}
