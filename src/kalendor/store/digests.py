"""Digests of imported values, with which `kalendor check` proves that none has changed."""

import hashlib
from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray

from kalendor.core.values.columns import Column, Kind
from kalendor.core.values.words import hashes_of

BLANK = np.uint64(0x9E3779B97F4A7C15)  # a number with exactly these bits is not distinguished from a blank
PIECE = 1 << 20


def digest_of(parts: Iterable[Column]) -> str:
    """The BLAKE2b digest of a column's values, which may come in parts; the same for the same values and blanks, however
    they are cut and coded. 32 hexadecimal digits."""
    found = hashlib.blake2b(digest_size=16)
    for column in parts:
        hashes = hashes_of(column.words) if column.kind is Kind.TEXT and len(column.words) else None
        for start in range(0, len(column), PIECE):
            numbers = _numbers(column, slice(start, start + PIECE), hashes)
            found.update(numbers.astype("<u8").tobytes())
    return found.hexdigest()


def _numbers(column: Column, here: slice, hashes: NDArray[np.uint64] | None) -> NDArray[np.uint64]:
    """64 bits for each value of a piece: a text's hash, a number's own bits."""
    values = column.values[here]
    if column.kind is Kind.TEXT:
        numbers = np.zeros(len(values), np.uint64) if hashes is None else hashes[values]
    elif column.kind is Kind.APPROXIMATE:
        numbers = values.astype(np.float64).view(np.uint64)
    else:
        numbers = values.astype(np.int64).view(np.uint64)
    return numbers if column.blank is None else np.where(column.blank[here], BLANK, numbers)
