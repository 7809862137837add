"""Digests of the values that an intake brought, by which `kalendor check` proves that none has changed."""

import hashlib
from collections.abc import Iterable

import numpy as np

from kalendor.core.values.columns import Column, Kind
from kalendor.core.values.words import hashes_of

BLANK = np.uint64(0x9E3779B97F4A7C15)


def digest_of(parts: Iterable[Column]) -> str:
    """The BLAKE2b digest of a column's values, which may come in parts; the same for the same values and blanks, however
    they are cut and coded. 32 hexadecimal digits."""
    found = hashlib.blake2b(digest_size=16)
    for column in parts:
        found.update(_numbers(column).astype("<u8").tobytes())
        found.update(column.blanks.tobytes())
    return found.hexdigest()


def _numbers(column: Column) -> np.ndarray:
    """64 bits for each value: those of a text are its hash, those of a number its own."""
    if column.kind is Kind.TEXT:
        numbers = hashes_of(column.words)[column.values] if len(column.words) else np.zeros(len(column), np.uint64)
    elif column.kind is Kind.APPROXIMATE:
        numbers = column.values.astype(np.float64).view(np.uint64)
    else:
        numbers = column.values.astype(np.int64).view(np.uint64)
    return np.where(column.blanks, BLANK, numbers)
