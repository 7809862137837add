"""How often each of a range of small numbers occurs."""

import numpy as np
from numpy.typing import NDArray

from kalendor.core.values.cores import pieces

BLOCK = 1 << 20


def occurring(ids: NDArray[np.signedinteger], count: int) -> NDArray[np.int64]:
    """How often each of 0 ≤ id < count occurs, shape (count,); block by block where that avoids widening all ids."""
    if len(ids) <= BLOCK or count > BLOCK:
        return np.bincount(ids, minlength=count)
    found = np.zeros(count, dtype=np.int64)
    for piece in pieces(len(ids), BLOCK):
        found += np.bincount(ids[piece], minlength=count)
    return found
