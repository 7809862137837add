"""Records in groups: their counts, and a stable order by group."""

from collections.abc import Callable
from dataclasses import dataclass, field
from functools import partial
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from kalendor.core.values.columns import Array, Mask
from kalendor.core.values.keys import NO_KEY, Key, Keyed, Memo, key, local
from kalendor.core.values.occurrences import occurring

Index = NDArray[np.int64]
Places = NDArray[np.signedinteger]
V = TypeVar("V")


@dataclass(frozen=True, eq=False)
class Groups:
    """Records in groups: `ids`, shape (n,), 0 ≤ id < count; `rows` are their positions in the columns (None: all).

    Values computed from them for more than one take are cached in `memo` under keys that begin with `key`.
    """

    ids: Places
    count: int
    rows: Index | None
    key: Key = NO_KEY
    memo: Memo = field(default_factory=local, repr=False)

    def remembered(self, kind: str, part: Keyed, make: Callable[[], V]) -> V:
        """The cached value of a kind for these groups and `part`, or the one computed now."""
        return self.memo(key(kind, self.key, part), make)

    def pick(self, values: Array) -> Array:
        """The grouped records' part of an array over all records."""
        return values if self.rows is None else values[self.rows]

    def where(self, mask: Mask | None) -> "Groups":
        """The same groups with the records for which `mask` (over all records) is True."""
        if mask is None:
            return self
        picked = np.flatnonzero(self.pick(mask))
        return Groups(self.ids[picked], self.count, picked if self.rows is None else self.rows[picked])


def counts(groups: Groups) -> Array:
    """How many records each group has."""
    if groups.count == 1:
        return np.array([len(groups.ids)], dtype=np.int64)
    return groups.remembered("counts", None, partial(occurring, groups.ids, groups.count))


def stable_order(ids: Places, count: int) -> Index:
    """The order that sorts `ids`, stable, by 16 bits at a time (radix sort)."""
    order: Index | None = None
    for shift in range(0, max(1, int(count - 1).bit_length()), 16):
        digit = ((ids if order is None else ids[order]) >> shift & 0xFFFF).astype(np.uint16)
        next_order = np.argsort(digit, kind="stable")
        order = next_order if order is None else order[next_order]
    assert order is not None
    return order
