"""Records bundled: those of the same members, a date column's periods left out, and of the same stretch of time.

A figure along the periods is worked out from the bundles, of which there are few, at every crossing of a sheet.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kalendor.core.placing.frame import DENSE_MOST, INT32_MOST
from kalendor.core.takes.aggregate import Groups
from kalendor.core.values.columns import INT64_MOST, Array
from kalendor.core.values.keys import Key, Memo

Index = NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class Bundles:
    """`groups` are the records by bundle, with one bundle more, the last, in which there is none; `down` and `across` hold
    the member of each bundle by level (None for the column's own periods), `stretch`, shape (count,), its stretch."""

    groups: Groups
    down: tuple[Array | None, ...]
    across: tuple[Array | None, ...]
    stretch: Index

    @property
    def count(self) -> int:
        """How many bundles there are, the empty one left out."""
        return len(self.stretch)


def bundled(
    down: Sequence[Array | None],
    across: Sequence[Array | None],
    stretch: Index,
    rows: Index | None,
    own: Key,
    memo: Memo,
) -> Bundles:
    """The bundles of records: their members by level, −1 for none, their stretches, and their positions in the columns."""
    number, space = stretch, int(stretch.max(initial=0)) + 1
    for codes in (*down, *across):
        if codes is None:
            continue
        size = int(codes.max(initial=0)) + 2
        if space * size > INT64_MOST:
            different, number = np.unique(number, return_inverse=True)
            space = len(different)
        number = number * size + (codes.astype(np.int64) + 1)
        space *= size
    at, count = renumbered(number, space)
    one = np.zeros(count, dtype=np.int64)
    one[at] = np.arange(len(at))
    picked = [tuple(None if codes is None else codes[one] for codes in side) for side in (down, across)]
    narrow = at.astype(np.int32) if count < INT32_MOST else at
    return Bundles(Groups(narrow, count + 1, rows, own, memo), picked[0], picked[1], stretch[one])


def renumbered(numbers: Index, space: int) -> tuple[Index, int]:
    """The place of each number, 0 ≤ number < space, among those that occur, and how many those are."""
    if space > DENSE_MOST:
        different, at = np.unique(numbers, return_inverse=True)
        return at, len(different)
    present = np.zeros(space, dtype=bool)
    present[numbers] = True
    return (np.cumsum(present) - 1)[numbers], int(present.sum())
