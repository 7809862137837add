"""The records that satisfy several conditions at once."""

from collections.abc import Iterator, Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from kalendor.core.formulas.formulas import holds
from kalendor.core.formulas.scope import Scope
from kalendor.core.values.columns import Column, Records

Index = NDArray[np.int64]


class _Taken(Mapping[str, Column]):
    """The columns at some rows, each taken lazily."""

    def __init__(self, columns: Mapping[str, Column], rows: Index) -> None:
        self._columns, self._rows = columns, rows

    def __getitem__(self, name: str) -> Column:
        return self._columns[name].take(self._rows)

    def __contains__(self, name: object) -> bool:
        return name in self._columns

    def __iter__(self) -> Iterator[str]:
        return iter(self._columns)

    def __len__(self) -> int:
        return len(self._columns)


def rows_where(conditions: Sequence[str], records: Records, as_of: int) -> Index:
    """The records that satisfy all conditions, as rising positions; each is evaluated only on those that satisfied the
    ones before it.

    Raises DefinitionError for a condition that cannot be evaluated.
    """
    rows = None
    for condition in conditions:
        if rows is None:
            rows = np.flatnonzero(holds(condition, Scope(records.columns, records.count, as_of)))
        else:
            rows = rows[holds(condition, Scope(_Taken(records.columns, rows), len(rows), as_of))]
    return np.arange(records.count) if rows is None else rows
