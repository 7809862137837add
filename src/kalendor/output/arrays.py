"""Converts whole columns to text at once."""

import numpy as np
import pyarrow as pa

from kalendor.core.values.columns import Column, Kind
from kalendor.output.numbers import texts

MOST_PLACES = 6  # with more places, a small number would be written with an exponent


def as_text(column: Column) -> pa.Array:
    """A column's texts as in `numbers.texts`, null for blanks; text with unpaired surrogates raises UnicodeError."""
    own = column.values
    if column.unrounded is not None:
        return labels(texts(column))
    if column.kind is Kind.WHOLE and own.dtype != object:
        return pa.array(own.astype(np.int64), pa.int64(), mask=column.blanks).cast(pa.string())
    if column.kind is Kind.DECIMAL and own.dtype != object and 0 < column.places <= MOST_PLACES:
        return as_decimals(column).cast(pa.string())
    return labels(texts(column))


def labels(found: list[str]) -> pa.Array:
    """Texts, null for empty ones."""
    return pa.array([text or None for text in found], pa.string())


def as_decimals(column: Column) -> pa.Array:
    """Units as 128-bit decimals, without a Python loop over them."""
    low = column.values.astype(np.int64)
    wide = np.empty((len(low), 2), dtype="<i8")
    wide[:, 0], wide[:, 1] = low, low >> 63
    there = None if column.blank is None else pa.py_buffer(np.packbits(~column.blanks, bitorder="little"))
    kind = pa.decimal128(38, column.places)
    return pa.Array.from_buffers(kind, len(low), [there, pa.py_buffer(wide)])
