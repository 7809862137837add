"""Explains a number of a sheet: its trail, and the file and line of each record behind it."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from kalendor.core.plan import Plan
from kalendor.core.sheet.sheet import Sheet
from kalendor.core.trail.cell import Cell
from kalendor.core.trail.trail import Trail
from kalendor.core.values.interruption import go_on
from kalendor.definitions.report import Report
from kalendor.desk.desk import Desk
from kalendor.desk.ingredients import HeldSource, Ingredients, now
from kalendor.desk.linked.records import Read, read_for
from kalendor.desk.linked.sheets import Over, over
from kalendor.desk.records import rows_of
from kalendor.desk.sheets import plan_of, sheet_from, trail_from
from kalendor.errors import ConflictError, DefinitionError
from kalendor.store.by_hand import hand_rows


@dataclass(frozen=True, eq=False)
class Found:
    """A trail with the origins of its records: the sources it was computed from, in order, each with its records' row
    ids. Use within the snapshot in which it was computed."""

    desk: Desk
    trail: Trail
    sources: tuple[tuple[HeldSource, NDArray[np.int64]], ...]

    def listing(self, most: int | None = None) -> "Found":
        """The same with records that can be listed: at least `most` of each part if there are as many, None for all of
        them.

        Raises DefinitionError if they are too many to be listed.
        """
        return self

    @property
    def all_listed(self) -> bool:
        """Whether all records of each part are listed."""
        return True

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


@dataclass(frozen=True, eq=False)
class FoundLinked(Found):
    """A trail over a linked source, whose records are read when they are listed; `read` are those read so far."""

    over: Over
    plan: Plan
    read: Read | None = None

    def listing(self, most: int | None = None) -> Found:
        if self.read is not None and (self.read.whole or most is not None):
            return self
        read = read_for(self.over, self.plan, self.trail, most)
        return replace(self, trail=read.trail, read=read)

    @property
    def all_listed(self) -> bool:
        return self.read is not None and self.read.whole

    def origins(self, rows: Sequence[int]) -> list[tuple[str, int]]:
        read = self._read
        places = read.beside[np.array(rows, dtype=np.int64)].tolist()
        beside = dict(zip(places, super().origins(places), strict=True))
        return [read.origins[row] if place < 0 else beside[place] for row, place in zip(rows, places, strict=True)]

    def by_hand(self, rows: NDArray[np.int64]) -> NDArray[np.bool_]:
        if self.read is None:
            return np.zeros(len(rows), dtype=bool)
        places = self.read.beside[rows]
        found = np.zeros(len(rows), dtype=bool)
        found[places >= 0] = super().by_hand(places[places >= 0])
        return found

    @property
    def _read(self) -> Read:
        assert self.read is not None, "records are listed first"
        return self.read


def trail_at(desk: Desk, report: Report, own: str, cell: Cell, worded: bool = True) -> Found:
    """The trail of a cell of the sheet with the key `own`. Call within a snapshot.

    Raises ConflictError if the report or its data changed since, DefinitionError for a cell that does not exist.
    """
    found = now(desk, report)
    if found.key != own:
        raise ConflictError("the report or its data changed since this sheet was shown; ask for the sheet again")
    return trail_in(desk, found, sheet_from(desk, found), cell, worded)


def trail_in(desk: Desk, found: Ingredients, sheet: Sheet, cell: Cell, worded: bool = True) -> Found:
    """The trail of a cell of the sheet of ingredients. Call within a snapshot.

    Raises DefinitionError for a cell that does not exist, MissingError if the records no longer exist.
    """
    check_cell(sheet, cell)
    trail = trail_from(desk, found, sheet, cell, worded)
    beside = [one.source for one in found.report.beside]
    linked = over(desk, found, lambda done, total: go_on())
    if linked is not None:
        none = ((linked.own, np.zeros(0, dtype=np.int64)),)
        return FoundLinked(desk, trail, (*none, *_held(desk, found, beside)), linked, plan_of(desk, found))
    return Found(desk, trail, _held(desk, found, [found.report.source, *beside]))


def _held(desk: Desk, found: Ingredients, names: Sequence[str]) -> tuple[tuple[HeldSource, NDArray[np.int64]], ...]:
    held = [found.source(name) for name in names]
    return tuple((one, rows_of(desk, one).rows) for one in held if one is not None)


def check_cell(sheet: Sheet, cell: Cell) -> None:
    """Raises DefinitionError if the sheet has no such cell."""
    if cell.figure not in {figure.name for figure in sheet.figures}:
        raise DefinitionError(f"there is no figure {cell.figure!r} on the sheet")
    if not (0 <= cell.line < sheet.lines.count and 0 <= cell.column < sheet.columns.count):
        raise DefinitionError("there is no such line or column on the sheet")
