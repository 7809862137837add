"""Bundles: records with the same members and, for figures along the periods, in the same stretch of time.

Additive takes are computed from the bundles, which are few, at every crossing of a sheet.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kalendor.core.placing.frame import DENSE_MOST, INT32_MOST
from kalendor.core.takes.groups import Groups
from kalendor.core.values.columns import INT64_MOST, Array, room_to_add
from kalendor.core.values.cores import each, pieces
from kalendor.core.values.keys import Key, Memo

Index = NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class Bundles:
    """`groups` are the records by bundle, with one more bundle, the last, that is empty; `down` and `across` hold the
    member of each bundle by level (None if bundles do not distinguish it), `stretch`, shape (count,), its stretch."""

    groups: Groups
    down: tuple[Array | None, ...]
    across: tuple[Array | None, ...]
    stretch: Index

    @property
    def count(self) -> int:
        """The number of bundles, without the empty one."""
        return len(self.stretch)


@dataclass(frozen=True, eq=False)
class Gathering:
    """Bundles gathered into groups: `keys` are the rising numbers of the non-empty groups, `order` the positions of the
    bundles by group, of which each group begins at one of `first`."""

    keys: Index
    order: Index
    first: Index

    def combined(self, ufunc: Any, part: Array) -> Array:
        """A part of a take by bundle (see `with_room`), the empty one last, combined by group, the empty one last, shape
        (keys + 1,)."""
        if not len(self.keys):
            return part[-1:]
        return np.append(ufunc.reduceat(part[self.order], self.first), part[-1:])

    def spread(self, ufunc: Any, part: Array, count: int) -> Array:
        """The same for every group, shape (count,); groups without a bundle get the empty one's."""
        found = self.combined(ufunc, part)
        result = np.full(count, found[-1], dtype=found.dtype)
        result[self.keys] = found[:-1]
        return result


def gathered(of: Index) -> Gathering:
    """Bundles by group, given each bundle's group, shape (bundles,), or −1 to leave it out."""
    order = np.argsort(of, kind="stable")
    order = order[np.searchsorted(of[order], 0) :]
    first = np.flatnonzero(np.diff(of[order], prepend=-1))
    return Gathering(of[order][first], order, first)


def with_room(combine: Sequence[Any], parts: Sequence[Array]) -> tuple[Array, ...]:
    """The parts of a take by bundle, those that are added as amounts whose sums do not overflow."""
    return tuple(room_to_add(p) if ufunc is np.add else p for ufunc, p in zip(combine, parts, strict=True))


def few(down: Sequence[Array], across: Sequence[Array]) -> bool:
    """Whether the members of some records can be encoded in a small range of numbers, so that bundling pays off."""
    sizes = [int(codes.max(initial=0)) + 2 for codes in (*down, *across)]
    return math.prod(sizes) <= DENSE_MOST


def bundled(
    down: Sequence[Array | None],
    across: Sequence[Array | None],
    stretch: Index,
    rows: Index | None,
    own: Key,
    memo: Memo,
) -> Bundles:
    """The bundles of records, given their members by level, −1 for none, their stretches, and their positions in the
    columns."""
    number: NDArray[np.signedinteger] = stretch
    space = int(stretch.max(initial=0)) + 1
    for codes in (*down, *across):
        if codes is None:
            continue
        size = int(codes.max(initial=0)) + 2
        if space * size > INT64_MOST:
            different, number = np.unique(number, return_inverse=True)
            space = len(different)
        number, space = _with_codes(number, codes, size, space * size), space * size
    at, one = _renumbered(number, space)
    picked = [tuple(None if codes is None else codes[one] for codes in side) for side in (down, across)]
    return Bundles(Groups(at, len(one) + 1, rows, own, memo), picked[0], picked[1], stretch[one].astype(np.int64))


def _with_codes(number: NDArray[np.signedinteger], codes: Array, size: int, space: int) -> NDArray[np.signedinteger]:
    """number × size + code + 1, in blocks of records."""
    dtype: Any = np.int32 if space <= INT32_MOST else np.int64
    result: Array = np.empty(len(number), dtype=dtype)

    def work(here: slice) -> None:
        np.multiply(number[here], size, out=result[here], casting="unsafe")
        result[here] += codes[here]
        result[here] += 1

    each(work, pieces(len(number)), len(number))
    return result


def _renumbered(number: NDArray[np.signedinteger], space: int) -> tuple[NDArray[np.signedinteger], Index]:
    """The rank of each number, 0 ≤ number < space, among those that occur, and the index of one occurrence of each."""
    if space > DENSE_MOST:
        _, one, at = np.unique(number, return_index=True, return_inverse=True)
        return at, one
    table = np.full(space, -1, dtype=np.int64)
    table[number] = np.arange(len(number))
    keys = np.flatnonzero(table >= 0)
    one = table[keys]
    place = np.zeros(space, dtype=np.int32)
    place[keys] = np.arange(len(keys))
    at = np.empty(len(number), dtype=np.int32)
    each(lambda here: np.take(place, number[here], out=at[here]), pieces(len(number)), len(number))
    return at, one
