"""Explains a number of an edition from the records in effect when it was issued."""

from kalendor.core.trail.cell import Cell
from kalendor.desk.desk import Desk
from kalendor.desk.editions.issuing import Opened
from kalendor.desk.trails import Found, trail_in


def edition_trail(desk: Desk, edition: Opened, cell: Cell, worded: bool = True) -> Found:
    """The trail of a cell of an edition (see `trail_in`)."""
    return trail_in(desk, edition.ingredients, edition.sheet, cell, worded)
