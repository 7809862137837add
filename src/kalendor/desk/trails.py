"""Explains a number of a sheet: its trail, and the file and line of each record behind it."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kalendor.core.sheet.sheet import Sheet
from kalendor.core.trail.cell import Cell
from kalendor.core.trail.trail import Trail
from kalendor.definitions.report import Report
from kalendor.desk.desk import Desk
from kalendor.desk.ingredients import HeldSource, Ingredients, now
from kalendor.desk.records import rows_of
from kalendor.desk.sheets import sheet_from, trail_from
from kalendor.errors import ConflictError, DefinitionError
from kalendor.store.by_hand import hand_rows


@dataclass(frozen=True, eq=False)
class Found:
    """A trail with the origins of its records: the sources it was computed from, in order, each with its records' row
    ids. Use within the snapshot in which it was computed."""

    desk: Desk
    trail: Trail
    sources: tuple[tuple[HeldSource, NDArray[np.int64]], ...]

    @property
    def columns(self) -> list[str]:
        """The source's own columns, in order."""
        return [column.name for column in self.sources[0][0].columns]

    def origins(self, rows: Sequence[int]) -> list[tuple[str, int]]:
        """The file and line of records, by their positions among the report's records."""
        found: dict[int, tuple[str, int]] = {}
        start = 0
        for source, ids in self.sources:
            here = np.array([row for row in rows if start <= row < start + len(ids)], dtype=np.int64)
            if len(here):
                own = ids[here - start]
                by_id = self.desk.intakes.origins(source, own.tolist())
                found.update({row: by_id[id] for row, id in zip(here.tolist(), own.tolist(), strict=True)})
            start += len(ids)
        return [found.get(row, ("", 0)) for row in rows]

    def by_hand(self, rows: NDArray[np.int64]) -> NDArray[np.bool_]:
        """Shape (n,): which records, by their positions among the report's records, were entered by
        hand."""
        ids = [np.isin(ids, hand_rows(self.desk.workspace, held)) if held.by_hand else np.zeros(len(ids), dtype=bool)
               for held, ids in self.sources]  # fmt: skip
        found: NDArray[np.bool_] = np.concatenate(ids)[rows]
        return found


def trail_at(desk: Desk, report: Report, own: str, cell: Cell, worded: bool = True) -> Found:
    """The trail of a cell of the sheet with the key `own`. Call within a snapshot.

    Raises ConflictError where the report or its data changed since, DefinitionError for a cell that is not there.
    """
    found = now(desk, report)
    if found.key != own:
        raise ConflictError("the report or its data changed since this sheet was shown; ask for the sheet again")
    return trail_in(desk, found, sheet_from(desk, found), cell, worded)


def trail_in(desk: Desk, found: Ingredients, sheet: Sheet, cell: Cell, worded: bool = True) -> Found:
    """The trail of a cell of the sheet of ingredients. Call within a snapshot.

    Raises DefinitionError for a cell that is not there, MissingError where the records are no longer there.
    """
    check_cell(sheet, cell)
    trail = trail_from(desk, found, sheet, cell, worded)
    held = [found.source(name) for name in (found.report.source, *(b.source for b in found.report.beside))]
    return Found(desk, trail, tuple((one, rows_of(desk, one).rows) for one in held if one is not None))


def check_cell(sheet: Sheet, cell: Cell) -> None:
    """Raises DefinitionError if the sheet has no such cell."""
    if cell.figure not in {figure.name for figure in sheet.figures}:
        raise DefinitionError(f"there is no figure {cell.figure!r} on the sheet")
    if not (0 <= cell.line < sheet.lines.count and 0 <= cell.column < sheet.columns.count):
        raise DefinitionError("there is no such line or column on the sheet")
