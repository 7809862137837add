"""The groups of a strip that have records: cumulative values along them, and sums over windows."""

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kalendor.core.figures.stretches import Strip
from kalendor.core.placing.bundles import Gathering, gathered
from kalendor.core.takes.groups import Groups
from kalendor.core.values.columns import INT64_MOST, Array, magnitude, room_to_add

Index = NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class Occupied:
    """Rising numbers (row × width + place) of the groups that have records; one more, the last, has none.

    Rows have as many places as there are periods, most of which may be empty; the work is proportional to the occupied
    groups, not to rows times periods.
    """

    gathering: Gathering
    width: int
    strip: Strip

    @property
    def keys(self) -> Index:
        """The groups' numbers."""
        return self.gathering.keys

    @property
    def count(self) -> int:
        """The number of groups, without the empty one."""
        return len(self.keys)

    def records(self) -> Groups:
        """The records by group."""
        own = self.gathering
        of_bundle = np.full(self.strip.bundles.count + 1, -1, dtype=np.int64)
        of_bundle[own.order] = np.repeat(np.arange(self.count), np.diff(np.append(own.first, len(own.order))))
        groups = self.strip.bundles.groups
        ids = of_bundle[groups.ids]
        kept = np.flatnonzero(ids >= 0)
        return Groups(ids[kept], self.count + 1, kept if groups.rows is None else groups.rows[kept])

    def up_to(self, wanted: Index, part: Index) -> Index:
        """The last group at or before each wanted one, of the same row and the same `part` of the places, shape
        (width,); the empty one if there is none."""
        if not self.count:
            return np.zeros(len(wanted), dtype=np.int64)
        at = np.searchsorted(self.keys, wanted, side="right") - 1
        found = self.keys[np.maximum(at, 0)]
        same = (at >= 0) & (found // self.width == wanted // self.width)
        same &= part[found % self.width] == part[wanted % self.width]
        return np.where(same, at, self.count)

    def first_of(self, part: Index) -> Index:
        """The positions of the first groups of each row and part of the places, shape (width,)."""
        if not self.count:
            return np.zeros(0, dtype=np.int64)
        row, at = self.keys // self.width, part[self.keys % self.width]
        return np.concatenate([[0], np.flatnonzero((row[1:] != row[:-1]) | (at[1:] != at[:-1])) + 1])

    def between(self, row: Index, first: Index, last: Index) -> tuple[Index, Index]:
        """The begin and the (exclusive) end of the groups of rows from one place to another."""
        base = row * self.width
        return np.searchsorted(self.keys, base + np.maximum(first, 0)), np.searchsorted(
            self.keys, base + last, side="right"
        )


def occupied(strip: Strip) -> Occupied:
    """The groups of a strip that have records."""
    return Occupied(gathered(strip.of), strip.width, strip)


def accumulated(ufunc: Any, values: Array, first: Index) -> Array:
    """Cumulative sums of the values (or rows of values), restarting at each position of `first`."""
    reached = (room_to_add(values) if ufunc is np.add else values).copy()
    lengths = np.diff(np.append(first, len(values)))
    longest = int(lengths.max()) if len(lengths) else 0
    if len(first) <= longest:
        for start, length in zip(first.tolist(), lengths.tolist(), strict=True):
            reached[start : start + length] = ufunc.accumulate(reached[start : start + length])
        return reached
    by_length = np.argsort(-lengths, kind="stable")
    starts, lengths = first[by_length], lengths[by_length]
    for step in range(1, longest):
        at = starts[: np.searchsorted(-lengths, -step, side="left")] + step
        reached[at] = ufunc(reached[at - 1], reached[at])
    return reached


def windowed(values: Array, begin: Index, end: Index) -> Array:
    """The sums of the values from each `begin` up to before `end`; float64 windows are summed separately, so that no
    value is lost beside a large one."""
    if values.dtype == np.float64:
        total = np.zeros(len(begin))
        some = np.flatnonzero(end > begin)
        some = some[np.argsort(begin[some], kind="stable")]
        if len(some):
            turns = np.stack([begin[some], end[some]], axis=1).reshape(-1)
            total[some] = np.add.reduceat(np.append(values, 0.0), turns)[::2]
        return total
    reached = np.concatenate([np.zeros(1, dtype=values.dtype), np.cumsum(room_to_add(values))])
    return reached[end] - reached[begin]


def with_empty(total: Array, empty: Any, times: Index) -> Array:
    """Sums to which the value of a group without records is added `times` times each."""
    if not empty:
        return total
    if total.dtype == np.float64:
        return total + float(empty) * times
    most = magnitude(total) + abs(int(empty)) * magnitude(times)
    if most > INT64_MOST:
        total, times = total.astype(object), times.astype(object)
    return total + times * int(empty)
