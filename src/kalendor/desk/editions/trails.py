"""A number of an edition explained: from the records that stood when it was issued, brought back."""

from kalendor.core.trail.cell import Cell
from kalendor.desk.desk import Desk
from kalendor.desk.editions.ingredients import HeldSource, rows_of, trail_of
from kalendor.desk.editions.issuing import Opened
from kalendor.desk.trails import Found, check_cell
from kalendor.store.sources import Source


def edition_trail(desk: Desk, edition: Opened, cell: Cell, worded: bool = True) -> Found:
    """The trail of a cell of an edition; to be asked for within a snapshot.

    Raises DefinitionError for a cell that is not there, MissingError where the records are no longer there.
    """
    check_cell(edition.sheet, cell)
    made_from = edition.ingredients
    trail = trail_of(desk, made_from, edition.sheet, cell, worded)
    report = made_from.report
    held = [made_from.source(name) for name in (report.source, *(b.source for b in report.beside))]
    return Found(desk, trail, tuple((_as_source(desk, s), rows_of(desk, s).rows) for s in held if s is not None))


def _as_source(desk: Desk, held: HeldSource) -> Source:
    return Source(held.id, held.name, desk.sources.one(held.id).recipe, held.made, -1, held.columns)
