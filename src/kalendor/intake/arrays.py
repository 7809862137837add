"""Converts arrays of texts to columns and words, and to amounts if they are plainly written."""

from collections.abc import Sequence

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
from numpy.typing import NDArray

from kalendor.core.values.columns import Column, Kind
from kalendor.core.values.cores import each, pieces
from kalendor.core.values.words import Words
from kalendor.intake.room import array_of, joined

FEW_WORDS = 4096


def codes_of(indices: pa.Array) -> NDArray[np.int32]:
    """Positions in a dictionary, shape (n,); -1 for none."""
    return np.asarray(indices.fill_null(-1).to_numpy(zero_copy_only=False)).astype(np.int32)


def coded_column(parts: Sequence[NDArray[np.int32]], dictionary: pa.Array) -> Column:
    """Codes into a dictionary, one part after another, as a text column; -1 and empty texts are blank. Consumes the
    parts."""
    codes = parts[0] if len(parts) == 1 else joined(parts, np.int32)
    empty = pc.index(dictionary, pa.scalar("", dictionary.type)).as_py()
    blank = array_of(len(codes), bool)

    def look(piece: slice) -> None:
        here = codes[piece]
        blank[piece] = (here == empty) | (here < 0) if empty >= 0 else here < 0
        here[here < 0] = 0

    each(look, pieces(len(codes)), len(codes))
    return Column(Kind.TEXT, codes, blank, words=as_words(dictionary) or ("",))


def encoded_column(texts: pa.Array) -> Column:
    """Texts as a text column; null and empty are blank."""
    found = texts.dictionary_encode()
    return coded_column([codes_of(found.indices)], found.dictionary)


def joined_texts(parts: Sequence[pa.LargeStringArray]) -> pa.LargeStringArray:
    """Arrays of texts without nulls concatenated, in a `Room`'s memory."""
    bounds = [_bounds(part) for part in parts]
    count = sum(len(part) for part in parts)
    ends, data = array_of(count + 1, np.int64), array_of(sum(int(b[-1] - b[0]) for b in bounds), np.uint8)
    ends[0] = row = at = 0
    for part, bound in zip(parts, bounds, strict=True):
        size = int(bound[-1] - bound[0])
        np.add(bound[1:], at - bound[0], out=ends[row + 1 : row + 1 + len(part)])
        if size:
            data[at : at + size] = np.frombuffer(part.buffers()[2], dtype=np.uint8)[bound[0] : bound[-1]]
        row, at = row + len(part), at + size
    return pa.LargeStringArray.from_buffers(count, pa.py_buffer(ends), pa.py_buffer(data))


def _bounds(texts: pa.LargeStringArray) -> NDArray[np.int64]:
    """The offsets of each text in the array's bytes, and of the end, shape (n + 1,)."""
    offsets = texts.buffers()[1]
    if offsets is None or not len(texts):
        return np.zeros(1, dtype=np.int64)
    return np.frombuffer(offsets, dtype=np.int64)[texts.offset : texts.offset + len(texts) + 1]


def most_places(texts: pa.Array) -> int:
    """The most digits behind a point; 0 where there is no text."""
    point = pc.find_substring(texts, ".")
    after = pc.if_else(pc.less(point, 0), 0, pc.subtract(pc.subtract(pc.binary_length(texts), point), 1))
    return int(pc.max(after).as_py() or 0)


def units_of(texts: pa.Array, places: int) -> NDArray[np.int64]:
    """Units of 10**-places of plainly written amounts, through 128-bit decimals, of which only the low half is
    non-zero."""
    exact = pc.cast(texts, pa.decimal128(30, places))
    return np.frombuffer(exact.buffers()[1], dtype=np.int64)[2 * exact.offset :: 2][: len(texts)]


def as_words(texts: pa.Array) -> Sequence[str]:
    """An array of texts as words: a tuple where they are few."""
    if len(texts) <= FEW_WORDS:
        return tuple(texts.to_pylist())
    large = texts.cast(pa.large_string())
    _, offsets, data = large.buffers()
    ends = np.frombuffer(offsets, dtype=np.int64)[large.offset : large.offset + len(large) + 1]
    return Words(np.frombuffer(data, dtype=np.uint8), ends)


def as_array(words: Sequence[str]) -> pa.Array:
    """Words as an array of texts, without copying where they are many."""
    if not isinstance(words, Words):
        return pa.array(words, pa.string())
    offsets = np.ascontiguousarray(words.offsets)
    return pa.LargeStringArray.from_buffers(len(words), pa.py_buffer(offsets), pa.py_buffer(words.data))
