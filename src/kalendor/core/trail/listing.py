"""The records behind a number, sorted, and filtered by a text."""

import numpy as np
from numpy.typing import NDArray

from kalendor.core.figures.operand import Operand
from kalendor.core.formulas import texts
from kalendor.core.sheet.listing import sort_keys
from kalendor.core.values.columns import Column, Records
from kalendor.errors import DefinitionError

Index = NDArray[np.int64]
AMOUNT = "amount"


def listed(part: Operand, records: Records, sort: str | None, descending: bool, search: str) -> Index:
    """Places in an operand's records, in order: by a column or by contribution, else in source order; with `search`,
    those in which it occurs in some column, ignoring case.

    Raises DefinitionError for a column that does not exist.
    """
    assert part.rows is not None
    places = np.arange(len(part.rows))
    if search:
        places = places[_holds(part.rows, records, search.casefold())]
    if sort is None:
        return places[::-1] if descending else places
    return places[_order(_sorted_by(part, records, sort).take(places), descending)]


def _sorted_by(part: Operand, records: Records, name: str) -> Column:
    if name == AMOUNT and part.amounts is not None:
        return part.amounts
    if name not in records.columns:
        raise DefinitionError(f"there is no column {name!r} to sort by; there are {', '.join(records.columns)}")
    assert part.rows is not None
    return records.columns[name].take(part.rows)


def _order(column: Column, descending: bool) -> Index:
    """The places by value, blanks last, stable."""
    values, blank = sort_keys(column)
    return np.lexsort((-values if descending else values, blank))


def _holds(rows: Index, records: Records, wanted: str) -> NDArray[np.bool_]:
    """Shape (rows,): True for records in which the text occurs."""
    found = np.zeros(len(rows), dtype=bool)
    for column in records.columns.values():
        picked = column.take(rows)
        different, at = np.unique(picked.values, return_inverse=True)
        plain = Column(column.kind, different, None, column.places, column.words)
        told = np.fromiter(
            (wanted in texts.written(plain.item(i)).casefold() for i in range(len(different))), bool, len(different)
        )
        if told.any():
            found |= told[at.reshape(-1)] & picked.present
    return found
