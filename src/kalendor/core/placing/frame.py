"""The frame of a sheet: the lines and columns of every depth, and the line and column of each record."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import DTypeLike, NDArray

from kalendor.core.groupings.levels import Level
from kalendor.core.values.columns import Array
from kalendor.core.values.cores import each, in_turn, pieces

Codes = Sequence[Array]
Index = NDArray[np.int64]
Places = NDArray[np.signedinteger]
DENSE_MOST, INT32_MOST = 1 << 23, 2**31 - 1


@dataclass(frozen=True, eq=False)
class Step:
    """The mapping from lines of one depth to those of the next: the rising keys (parent × size + code) that occur."""

    keys: Index
    size: int
    table: NDArray[np.int32] | None

    def known(self, keys: Places) -> Places:
        """The position of each key, all of which must occur."""
        return np.searchsorted(self.keys, keys) if self.table is None else np.take(self.table, keys, mode="clip")

    def locate(self, keys: Places) -> Places:
        """The position of each key; −1 if it does not occur or is negative."""
        if self.table is not None and len(self.table):
            if len(keys) and (int(keys.min()) < 0 or int(keys.max()) >= len(self.table)):
                inside = (keys >= 0) & (keys < len(self.table))
                return np.where(inside, self.table[np.where(inside, keys, 0)], -1)
            return self.table[keys]
        if not len(self.keys):
            return np.full(keys.shape, -1, dtype=np.int64)
        at = np.searchsorted(self.keys, keys).clip(0, len(self.keys) - 1)
        return np.where(self.keys[at] == keys, at, -1)


def _step(
    parts: Sequence["_Part"], keys_of: Callable[["_Part"], Places], more: Index | None, parents: int, size: int
) -> Step:
    """The step with the keys of all parts, and `more`; negative keys are ignored."""
    space, records = parents * size, sum(part.count for part in parts)
    if space > DENSE_MOST:
        different = each(lambda part: np.unique(keys_of(part)), parts, records)
        merged = np.unique(np.concatenate([*different, np.zeros(0, dtype=np.int64) if more is None else more]))
        return Step(merged[merged >= 0], size, None)

    def occurring(part: "_Part") -> Places:
        keys = keys_of(part)
        if not part.whole:
            keys = keys[keys >= 0]
        return np.flatnonzero(np.bincount(keys, minlength=space)) if 4 * space <= len(keys) else keys

    present = np.zeros(space, dtype=bool)
    for found in in_turn(occurring, parts, records):
        present[found] = True
    if more is not None:
        present[more[more >= 0]] = True
    keys = np.flatnonzero(present)
    table = np.full(space, -1, dtype=np.int32)
    table[keys] = np.arange(len(keys))
    return Step(keys, size, table)


@dataclass(frozen=True, eq=False)
class Axis:
    """The lines (or columns) of every depth, one depth after another, in the order of their members.

    Depth 0 is the grand total; depth d has a line for each path of d members. For line i: `depth[i]`, `parent[i]` (−1
    for the grand total), `path[i, k]` its member at level k (−1 below its depth), and `first_leaf[i]` and
    `leaf_count[i]`, the innermost lines beneath it; a line shown though empty has none. `offsets[d]` is the first line
    of depth d. `found` holds, for each set that the axis was made from, the innermost line of each record.
    """

    levels: tuple[Level, ...]
    steps: tuple[Step, ...]
    offsets: tuple[int, ...]
    depth: NDArray[np.int32]
    parent: Index
    path: NDArray[np.int32]
    first_leaf: Index
    leaf_count: Index
    found: tuple[Places, ...]

    @property
    def count(self) -> int:
        """The number of lines of all depths."""
        return len(self.depth)

    @property
    def leaves(self) -> int:
        """The number of innermost lines."""
        return self.offsets[-1] - self.offsets[-2]

    def lines_at(self, depth: int) -> slice:
        """The slice of the lines of a depth."""
        return slice(self.offsets[depth], self.offsets[depth + 1])

    def specials(self) -> NDArray[np.int8]:
        """Shape (lines,): the special kind of each line's own member (see `Members`); −1 for the grand total."""
        found = np.full(self.count, -1, dtype=np.int8)
        for k, level in enumerate(self.levels):
            here = self.lines_at(k + 1)
            found[here] = level.members.special[self.path[here, k]]
        return found

    def locate(self, codes: Codes, depth: int, count: int) -> Places:
        """The line of `depth`, counted within it, of each of `count` records; −1 for none.

        `codes` holds the member at each of the first `depth` levels, shape (count,) each.
        """
        at: Places = np.zeros(count, dtype=np.int64)
        for step, level_codes in zip(self.steps[:depth], codes, strict=False):
            keys = at.astype(np.int64) * step.size + level_codes
            if len(level_codes) and level_codes.min() < 0:
                keys = np.where(level_codes < 0, -1, keys)
            if len(at) and at.min() < 0:
                keys = np.where(at < 0, -1, keys)
            at = step.locate(keys)
        return at

    def beyond(self, other: "Axis") -> NDArray[np.bool_]:
        """Shape (lines,): True for lines that another axis of the same levels does not have."""
        result = np.zeros(self.count, dtype=bool)
        for depth in range(1, len(self.offsets) - 1):
            here = self.lines_at(depth)
            result[here] = other.locate([*self.path[here, :depth].T], depth, here.stop - here.start) < 0
        return result

    def ancestor(self, depth: int) -> Index:
        """Shape (leaves,): the line of `depth`, counted within it, above each innermost line."""
        sizes = self.leaf_count[self.lines_at(depth)]
        return np.repeat(np.arange(len(sizes)), sizes)

    def rolled_up(self, ufunc: Any, leaves: Array, depth: int) -> Array:
        """Values of the innermost lines (along the first dimension) combined for each line of `depth`."""
        here = self.lines_at(depth)
        starts, sizes = self.first_leaf[here], self.leaf_count[here]
        if not len(leaves):
            return np.zeros((len(sizes), *leaves.shape[1:]), dtype=leaves.dtype)
        filled = np.flatnonzero(sizes)
        result = np.zeros((len(sizes), *leaves.shape[1:]), dtype=leaves.dtype)
        result[filled] = ufunc.reduceat(leaves, starts[filled], axis=0)
        return result


Always = Callable[[NDArray[np.int32], int], tuple[Index, Index]]


def axis(levels: Sequence[Level], sets: Sequence[tuple[Codes, int]], always: Always | None = None) -> Axis:
    """The axis whose lines are the paths that occur in any of `sets`: codes by level, and the number of records.

    `always(paths, k)` gives further lines of level k that are shown though empty: positions in `paths`, the lines
    above, shape (lines, k), and the member under each.
    """
    at = [np.zeros(count, dtype=np.int32) for _, count in sets]
    complete = [_complete(codes) for codes, _ in sets]
    parts = [_Part(i, here, complete[i]) for i, (_, count) in enumerate(sets) for here in pieces(count)]
    steps: list[Step] = []
    parents = 1
    paths = np.zeros((1, 0), dtype=np.int32)
    for k, level in enumerate(levels):
        size = max(1, level.size)
        keys_of = _keys(k, sets, at, size, np.int32 if parents * size <= INT32_MOST else np.int64)
        above, member = (None, None) if always is None else always(paths, k)
        more = None if above is None or member is None else above * size + member
        step = _step(parts, keys_of, more, parents, size)
        each(_placed(step, keys_of, at), parts, sum(part.count for part in parts))
        steps.append(step)
        parents = len(step.keys)
        paths = np.column_stack([paths[step.keys // size], (step.keys % size).astype(np.int32)])
    return _assembled(tuple(levels), tuple(steps), tuple(at))


@dataclass(frozen=True)
class _Part:
    """A slice of a set's records; `whole`: each record of the set has a member at every level."""

    set: int
    here: slice
    whole: bool

    @property
    def count(self) -> int:
        return int(self.here.stop - self.here.start)


def _keys(
    k: int, sets: Sequence[tuple[Codes, int]], at: Sequence[NDArray[np.int32]], size: int, dtype: DTypeLike
) -> Callable[[_Part], Places]:
    """A function from the lines above, `at`, to the keys of a part at level k; −1 without a member or a line."""

    def keys_of(part: _Part) -> Places:
        codes = sets[part.set][0][k][part.here]
        above = at[part.set][part.here]
        key: Places = np.multiply(above, size, dtype=dtype) + codes if k else codes
        return key if part.whole else np.where((codes < 0) | (above < 0), -1, key)

    return keys_of


def _placed(step: Step, keys_of: Callable[[_Part], Places], at: Sequence[NDArray[np.int32]]) -> Callable[[_Part], None]:
    """Moves a part's records from the lines above to those of the step."""

    def place(part: _Part) -> None:
        keys = keys_of(part)
        at[part.set][part.here] = step.known(keys) if part.whole else step.locate(keys)

    return place


def _complete(codes: Codes) -> bool:
    """True if every record has a member at every level."""
    return all(not len(level_codes) or int(level_codes.min()) >= 0 for level_codes in codes)


def _assembled(levels: tuple[Level, ...], steps: tuple[Step, ...], found: tuple[Places, ...]) -> Axis:
    counts = [1, *(len(step.keys) for step in steps)]
    offsets = tuple(np.cumsum([0, *counts]).tolist())
    path = np.full((offsets[-1], len(levels)), -1, dtype=np.int32)
    parent = np.full(offsets[-1], -1, dtype=np.int64)
    for d, step in enumerate(steps, start=1):
        here, above = slice(offsets[d], offsets[d + 1]), offsets[d - 1]
        up = step.keys // step.size + above
        parent[here] = up
        path[here] = path[up]
        path[here, d - 1] = step.keys % step.size
    sizes = np.zeros(offsets[-1], dtype=np.int64)
    sizes[offsets[-2] :] = 1
    for d in range(len(steps), 0, -1):
        np.add.at(sizes, parent[offsets[d] : offsets[d + 1]], sizes[offsets[d] : offsets[d + 1]])
    if len(steps):
        sizes[0] = counts[-1]
    first = np.concatenate([_running_starts(sizes[offsets[d] : offsets[d + 1]]) for d in range(len(counts))])
    depth = np.repeat(np.arange(len(counts), dtype=np.int32), counts)
    return Axis(levels, steps, offsets, depth, parent, path, first, sizes, found)


def _running_starts(sizes: Index) -> Index:
    return np.cumsum(sizes) - sizes


@dataclass(frozen=True, eq=False)
class Frame:
    """The lines and the columns of a sheet; cells are arrays of shape (lines.count, columns.count)."""

    lines: Axis
    columns: Axis

    @property
    def shape(self) -> tuple[int, int]:
        return self.lines.count, self.columns.count

    @property
    def crossings(self) -> list[tuple[int, int]]:
        """Every pair of a depth down and a depth across."""
        return [(d, a) for d in range(len(self.lines.steps) + 1) for a in range(len(self.columns.steps) + 1)]

    def block(self, crossing: tuple[int, int]) -> tuple[slice, slice]:
        """The slices of a crossing's cells in a cell array."""
        return self.lines.lines_at(crossing[0]), self.columns.lines_at(crossing[1])

    def block_shape(self, crossing: tuple[int, int]) -> tuple[int, int]:
        """The number of lines and columns of a crossing."""
        down, across = self.block(crossing)
        return down.stop - down.start, across.stop - across.start

    def cells_above(self, crossing: tuple[int, int], most: int) -> Places | None:
        """Shape (innermost cells,): the cell of a crossing, counted within it, above each innermost cell; None if there
        are more than `most` innermost cells."""
        if self.lines.leaves * self.columns.leaves > most:
            return None
        width = self.block_shape(crossing)[1]
        lines, columns = self.lines.ancestor(crossing[0]), self.columns.ancestor(crossing[1])
        return np.add.outer(lines * width, columns).astype(np.int32).ravel()
