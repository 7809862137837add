"""Texts gathered batch by batch into a column: each different text kept once, outer white space taken off."""

from collections.abc import Sequence

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from kalendor.core.columns import Column, Kind, text_column
from kalendor.core.words import Words

FEW_WORDS = 4096
NEARLY_UNIQUE = 0.5


class Gathering:
    """A text column that grows by batches; null and empty texts are blank.

    A column whose first batch is nearly unique is coded once at the end, others batch by batch.
    """

    def __init__(self) -> None:
        self._coded: list[pa.DictionaryArray] = []
        self._plain: list[pa.LargeStringArray] = []

    def extend(self, batch: pa.Array) -> None:
        """More texts."""
        if self._plain:
            self._plain.append(_trimmed(batch).cast(pa.large_string()))
            return
        coded = batch.dictionary_encode()
        if not self._coded and len(coded.dictionary) > max(FEW_WORDS, NEARLY_UNIQUE * len(batch)):
            self._plain.append(_trimmed(batch).cast(pa.large_string()))
            return
        trimmed = _trimmed(coded.dictionary)
        if not trimmed.equals(coded.dictionary):
            again = trimmed.dictionary_encode()
            coded = pa.DictionaryArray.from_arrays(again.indices.take(coded.indices), again.dictionary)
        self._coded.append(coded)

    def column(self) -> Column:
        """The texts so far as a column; what was gathered is given up."""
        if self._plain:
            plain, self._plain = pa.chunked_array(self._plain), []
            chunks = plain.dictionary_encode().chunks
        else:
            coded, self._coded = self._coded, []
            chunks = pa.chunked_array(coded).unify_dictionaries().chunks if len(coded) > 1 else coded
        if not chunks:
            return text_column([])
        dictionary = chunks[-1].dictionary
        codes = np.concatenate([_codes(c.indices) for c in chunks])
        empty = pc.index(dictionary, pa.scalar("", dictionary.type)).as_py()
        blank = codes == empty if empty >= 0 else np.zeros(len(codes), dtype=bool)
        if (codes < 0).any():
            blank |= codes < 0
            codes[codes < 0] = 0
        return Column(Kind.TEXT, codes, blank, words=as_words(dictionary) or ("",))


def _trimmed(texts: pa.Array) -> pa.Array:
    return pc.utf8_trim_whitespace(texts)


def _codes(indices: pa.Array) -> np.ndarray:
    return np.asarray(indices.fill_null(-1).to_numpy(zero_copy_only=False)).astype(np.int32)


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
