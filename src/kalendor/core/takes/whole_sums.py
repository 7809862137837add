"""Exact sums of whole numbers by group."""

import numpy as np
from numpy.typing import NDArray

from kalendor.core.values.columns import INT64_MOST, Array

EXACT_IN_FLOAT = 2**53
PIECE = 26


def exact_sums(ids: NDArray[np.signedinteger], units: Array, count: int) -> Array:
    """The sum of int64 `units` in each group, shape (count,): int64 where it fits, else Python integers."""
    most = max(abs(int(units.min())), abs(int(units.max()))) if len(units) else 0
    if count == 1 and most * len(units) <= INT64_MOST:
        return np.array([units.sum()], dtype=np.int64)
    if most * len(units) < EXACT_IN_FLOAT:
        return np.bincount(ids, weights=units, minlength=count).astype(np.int64)
    low = (1 << PIECE) - 1
    pieces = [units & low, (units >> PIECE) & low, units >> 2 * PIECE]
    sums = [np.bincount(ids, weights=piece, minlength=count) for piece in pieces]
    if most * len(units) <= INT64_MOST:
        whole = [s.astype(np.int64) for s in sums]
        return whole[0] + (whole[1] << PIECE) + (whole[2] << 2 * PIECE)
    wide = [np.array([int(x) for x in s], dtype=object) for s in sums]
    total: Array = wide[0] + wide[1] * (1 << PIECE) + wide[2] * (1 << 2 * PIECE)
    return total
