"""A number of a sheet explained: its trail, and the file and line of each record behind it."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kalendor.core.report import traced
from kalendor.core.sheet.sheet import Sheet
from kalendor.core.trail.cell import Cell
from kalendor.core.trail.trail import Trail
from kalendor.core.values.keys import Key
from kalendor.definitions.report import Report
from kalendor.desk.desk import Desk
from kalendor.desk.sheets import go_on, material_of, sheet_key, sheet_of
from kalendor.errors import ConflictError, DefinitionError
from kalendor.store.sources import Source


@dataclass(frozen=True, eq=False)
class Found:
    """A trail, and what knows where its records came from: the sources that it was worked out from, in order, each with the
    rows that its records stand in. To be used within the snapshot in which it was found."""

    desk: Desk
    trail: Trail
    sources: tuple[tuple[Source, NDArray[np.int64]], ...]

    @property
    def columns(self) -> list[str]:
        """The source's own columns, in order."""
        return [column.name for column in self.sources[0][0].columns]

    def origins(self, rows: Sequence[int]) -> list[tuple[str, int]]:
        """The file and line of records, by their positions among those that the report was worked out from."""
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


def trail_at(desk: Desk, report: Report, own: str, cell: Cell, worded: bool = True) -> Found:
    """The trail of a cell of the sheet that `own` names; to be asked for within a snapshot.

    Raises ConflictError where the report or its data changed since, DefinitionError for a cell that is not there.
    """
    if sheet_key(desk, report, None) != own:
        raise ConflictError("the report or its data changed since this sheet was shown; ask for the sheet again")
    found: Sheet | None = desk.sheets.get(Key(own))
    sheet = found or sheet_of(desk, report)[1]
    check_cell(sheet, cell)
    material = material_of(desk, report)
    trail = traced(report, material, desk.today(), sheet, cell, None, desk.memory, go_on, worded)
    named = [desk.sources.named(name) for name in (report.source, *(b.source for b in report.beside))]
    return Found(desk, trail, tuple((s, desk.sources.kept(s).rows) for s in named if s is not None))


def check_cell(sheet: Sheet, cell: Cell) -> None:
    """Raises DefinitionError for a cell that is not on the sheet."""
    if cell.figure not in {figure.name for figure in sheet.figures}:
        raise DefinitionError(f"there is no figure {cell.figure!r} on the sheet")
    if not (0 <= cell.line < sheet.lines.count and 0 <= cell.column < sheet.columns.count):
        raise DefinitionError("there is no such line or column on the sheet")
