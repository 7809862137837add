"""The records listed under the innermost lines of a sheet."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kalendor.core.groupings.ground import Ground
from kalendor.core.groupings.levels import label_key
from kalendor.core.placing.views import View
from kalendor.core.values.columns import Array, Column, Kind, Mask
from kalendor.definitions.report import RecordList
from kalendor.errors import DefinitionError

Index = NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class Listing:
    """Records under lines: `columns` by name, each of shape (records,), line by line and within each in order.

    The records of line i are those from `starts[i]` to before `starts[i + 1]`, shape (lines + 1,); only innermost lines
    have any.
    """

    columns: dict[str, Column]
    starts: Index

    def of(self, line: int) -> range:
        """The slice of a line's records."""
        return range(int(self.starts[line]), int(self.starts[line + 1]))


def listing(asked: RecordList, view: View, ground: Ground, own: list[str]) -> Listing:
    """The records of a view under its innermost lines; `own` are the source's columns.

    Raises DefinitionError for a column that does not exist.
    """
    names = asked.columns or own
    for name in (*names, *asked.order):
        if name not in ground.records.columns:
            known = ", ".join(ground.records.columns)
            raise DefinitionError(f"records: there is no column {name!r}; there are {known}")
    frame = view.frame
    crossing = (len(frame.lines.steps), 0)
    groups = view.groups(crossing)
    rows = np.arange(ground.records.count) if groups.rows is None else groups.rows
    keys: list[Array] = [rows]
    for name in reversed(asked.order):
        keys += [*sort_keys(ground.column(name).take(rows))]
    order = np.lexsort([*keys, groups.ids])
    sizes = np.zeros(frame.lines.count + 1, dtype=np.int64)
    counted = np.bincount(groups.ids, minlength=groups.count)
    first = frame.lines.offsets[crossing[0]]
    sizes[first + 1 : first + 1 + len(counted)] = counted
    picked = rows[order]
    return Listing({name: ground.column(name).take(picked) for name in names}, np.cumsum(sizes))


def sort_keys(column: Column) -> tuple[Array, Mask]:
    """Keys that sort by a column's values, least significant first: values, then whether blank, which come last."""
    values = column.values
    if column.kind is Kind.TEXT:
        used = np.unique(values)
        ranked = sorted(used.tolist(), key=lambda i: label_key(column.words[i]))
        rank = np.zeros(int(used.max()) + 1 if len(used) else 1, dtype=np.int64)
        rank[ranked] = np.arange(len(ranked))
        values = rank[values]
    elif values.dtype == object:
        values = np.unique(values, return_inverse=True)[1]
    return np.where(column.blanks, 0, values.astype(np.int8) if values.dtype == bool else values), column.blanks
