"""A table of texts: the output of every reader, before the kinds of its columns are known."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from kalendor.core.values.columns import text_column
from kalendor.definitions.recipe import ColumnReading
from kalendor.errors import IntakeError
from kalendor.intake.loose import RawColumn
from kalendor.intake.text import find_heading, unique_headings

SHOWN_TEXT = 500
ReadSoFar = Callable[[int, int], None]


def unwatched(done: int, total: int) -> None:
    """Progress callback that does nothing."""


@dataclass(frozen=True)
class Refused:
    """A line that did not become a record: its line number, the column at fault (empty: the whole line), text, reason.

    `cells` are the line's texts by column, so that it can be corrected; for a line without columns, its text alone.
    """

    line: int
    column: str
    text: str
    reason: str
    cells: tuple[str, ...] = ()


@dataclass(frozen=True, eq=False)
class RawTable:
    """Columns as text, all of one length; `lines`, shape (n,), is the line (or row) on which each record begins.

    `texts` are headings of columns that the file itself declares as text, so that they are not read as numbers; `told`
    says how others are to be read; `sheets` are the names of a workbook's sheets, the chosen one first; `notes` are
    remarks on the text. `files`, shape (n,), is which of several files each record is from; None if there is one.
    `empty` counts the lines that contain only separators, which are not records.
    """

    headings: tuple[str, ...]
    columns: list[RawColumn]
    lines: NDArray[np.integer]
    refused: list[Refused] = field(default_factory=list)
    texts: frozenset[str] = frozenset()
    told: Mapping[str, ColumnReading] = field(default_factory=dict)
    sheets: tuple[str, ...] = ()
    notes: tuple[str, ...] = ()
    files: NDArray[np.int32] | None = None
    empty: int = 0


def table_of_rows(
    rows: Sequence[tuple[int, list[str]]], name: str, heading_line: int | None, sheets: tuple[str, ...] = ()
) -> RawTable:
    """A table from numbered rows of texts; the heading is detected unless its line is given.

    Rows longer than the heading are refused, unless the extra cells are empty. Raises IntakeError if there is no row.
    """
    filled = [(line, cells) for line, cells in rows if any(cell.strip() for cell in cells)]
    if not filled:
        raise IntakeError(f"{name}: there is nothing in it" + (f" (sheet {sheets[0]!r})" if sheets else ""))
    if heading_line is None:
        at, heading = find_heading(filled[:200])
    else:
        found = next((row for row in filled if row[0] == heading_line), None)
        if found is None:
            raise IntakeError(f"{name}: there is no heading on line {heading_line}")
        at, heading = found
    while heading and not heading[-1].strip():
        heading = heading[:-1]
    headings = unique_headings(heading)
    width = len(headings)
    kept: list[tuple[int, list[str]]] = []
    refused: list[Refused] = []
    for line, cells in filled:
        if line <= at:
            continue
        if any(cell.strip() for cell in cells[width:]):
            text = " | ".join(cells)[:SHOWN_TEXT]
            refused.append(
                Refused(line, "", text, f"has values beyond the last heading, {headings[-1]!r}", tuple(cells))
            )
        else:
            kept.append((line, [cell.strip() for cell in cells[:width]] + [""] * (width - len(cells))))
    columns: list[RawColumn] = [text_column([cells[k] or None for _, cells in kept]) for k in range(width)]
    return RawTable(headings, columns, np.array([line for line, _ in kept], dtype=np.int64), refused, sheets=sheets)
