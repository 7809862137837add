"""Stretches of time that no period of a sheet cuts, and the records of a crossing along them."""

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from kalendor.core.figures.kind import Tracing
from kalendor.core.figures.operand import NOTHING, Days, Operand
from kalendor.core.placing.bundles import Bundles
from kalendor.core.values.columns import DAY_MICROSECONDS, Array, Mask

Index = NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class Stretches:
    """The days (hours, minutes) from first to last in stretches that no period of the sheet cuts, in date order.

    `of`, shape (ticks,), is the stretch of each tick from `low` on, a tick being `size` microseconds; `first`, shape
    (stretches,), the tick at which each begins, which for the first may be before `low`.
    """

    low: int
    size: int
    of: Index
    first: Index

    def at(self, days: Index, clock: Array | None) -> Index:
        """The stretch of each moment; −1 outside."""
        ticks = days * (DAY_MICROSECONDS // self.size)
        if self.size < DAY_MICROSECONDS and clock is not None:
            ticks = ticks + clock // self.size
        at = ticks - self.low
        inside = (at >= 0) & (at < len(self.of))
        return np.where(inside, self.of[np.where(inside, at, 0)] if len(self.of) else 0, -1)

    @cached_property
    def moments(self) -> tuple[Index, Index]:
        """The day and the microseconds since midnight at which each stretch begins."""
        per_day = DAY_MICROSECONDS // self.size
        ticks = self.first + self.low
        return ticks // per_day, ticks % per_day * self.size

    def last_day(self) -> int:
        """The last day of them all."""
        return (self.low + len(self.of) - 1) // (DAY_MICROSECONDS // self.size)


@dataclass(frozen=True, eq=False)
class Strip:
    """The bundles of a crossing by row (everything except the period) and place: group = row × width + place.

    `of`, shape (bundles,), is the group of each, −1 for those on no row.
    """

    bundles: Bundles
    of: Index
    height: int
    width: int
    row_of_line: Index
    row_of_column: Index
    columns_high: int

    def rows(self) -> Index:
        """Shape (lines, columns): the row of each cell."""
        return self.row_of_line[:, None] * self.columns_high + self.row_of_column[None, :]

    def between(self, first: int, last: int) -> Index:
        """The positions in the columns of the records in the groups from `first` to `last`."""
        groups = self.bundles.groups
        picked = np.append((self.of >= first) & (self.of <= last), False)
        inside = np.flatnonzero(picked[groups.ids])
        return inside if groups.rows is None else groups.rows[inside]


@dataclass(frozen=True, eq=False)
class Placed:
    """Records by row and period: `period`, shape (stretches,), is each stretch's; `here` and `known`, shape (lines,
    columns), are the period of each cell and whether as many periods as a moving figure needs end with it."""

    strip: Strip
    period: Index
    here: Index
    known: Mask


@dataclass(frozen=True, eq=False)
class Reach:
    """The records that a figure along the periods counts in one cell, and the first and last day that it covers."""

    rows: Index
    first: int
    last: int


def reached_over(tracing: Tracing, name: str, own: Operand, reach: Reach | None) -> Operand:
    """What a figure takes of those records, as the one operand of `own`."""
    rows = NOTHING if reach is None else np.sort(reach.rows)
    days = None if reach is None else Days(reach.first, reach.last)
    return replace(own, of=(tracing.over(name, replace(own, days=days), rows),), days=days)
