"""Rows that each represent several records which a report does not distinguish."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kalendor.core.takes.aggregate import Of
from kalendor.core.values.columns import Column
from kalendor.core.values.keys import Key, key
from kalendor.core.values.origin import Origin
from kalendor.definitions.figure import Taken

Index = NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class DaySpans:
    """The first and last day of each row's records in the column `of`, shape (n,) each, days since 1970-01-01; for rows
    without a date the first is greater than the last."""

    of: str
    first: Index
    last: Index

    def at(self, rows: Index) -> tuple[int, int] | None:
        """The first and last day of all records of some rows; None if they have no date."""
        if not len(rows):
            return None
        first, last = int(self.first[rows].min()), int(self.last[rows].max())
        return (first, last) if first <= last else None


@dataclass(frozen=True, eq=False)
class Condensed:
    """What is known about condensed records beside their columns, which are those of the first record that each row
    represents.

    `times`, shape (n,): how many records each row represents; `places`, likewise, the position of the first of them
    among all records. `taken` has what figures take of each row, by `taking_key`. `units` are those of `units_in`,
    `origin` says which source each row is of, and `columns` names those of the report's own source. `worded`: sentences
    can be made of the sheet, for which `days` are kept if there is a date column.
    """

    times: Index
    places: Index
    taken: Mapping[Key, Of]
    units: Mapping[str, Column]
    origin: Origin | None
    columns: tuple[str, ...]
    worded: bool = False
    days: DaySpans | None = None

    @property
    def read(self) -> int:
        """How many of the report's own records there are."""
        return int(self.times.sum() if self.origin is None else self.times[self.origin.own].sum())


def taking_key(figure: Taken, of: str | None) -> Key:
    """The key of what a figure takes of the column `of`; figures that differ only in their records share it."""
    return key("taking", figure.take, of, figure.weight, figure.by, figure.keys)
