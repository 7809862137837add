"""Arrays of texts to columns and words, and to amounts where they are written plainly."""

from collections.abc import Sequence

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
from numpy.typing import NDArray

from kalendor.core.values.columns import Column, Kind
from kalendor.core.values.words import Words

FEW_WORDS = 4096


def coded_column(chunks: Sequence[pa.DictionaryArray]) -> Column:
    """Coded texts that share one dictionary, the last one's, as a text column; null and empty are blank."""
    dictionary = chunks[-1].dictionary
    codes = np.concatenate([_codes(c.indices) for c in chunks])
    empty = pc.index(dictionary, pa.scalar("", dictionary.type)).as_py()
    blank = codes == empty if empty >= 0 else np.zeros(len(codes), dtype=bool)
    if (codes < 0).any():
        blank |= codes < 0
        codes[codes < 0] = 0
    return Column(Kind.TEXT, codes, blank, words=as_words(dictionary) or ("",))


def _codes(indices: pa.Array) -> NDArray[np.int32]:
    return np.asarray(indices.fill_null(-1).to_numpy(zero_copy_only=False)).astype(np.int32)


def most_places(texts: pa.Array) -> int:
    """The most digits behind a point; 0 where there is no text."""
    point = pc.find_substring(texts, ".")
    after = pc.if_else(pc.less(point, 0), 0, pc.subtract(pc.subtract(pc.binary_length(texts), point), 1))
    return int(pc.max(after).as_py() or 0)


def units_of(texts: pa.Array, places: int) -> NDArray[np.int64]:
    """Units of 10**-places of plainly written amounts, by way of 128-bit decimals, of which the low half is all there
    is."""
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
