"""Gathers texts batch by batch into a column: each distinct text stored once, outer white space removed."""

from typing import TypeAlias

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
from numpy.typing import NDArray

from kalendor.core.values.columns import Column, text_column
from kalendor.intake.arrays import FEW_WORDS, coded_column, codes_of, joined_texts
from kalendor.intake.loose import Loose, RawColumn
from kalendor.intake.room import has_bounds, kept

NEARLY_UNIQUE = 0.5
MANY_WAITING = 1 << 20  # texts of dictionaries that are not united yet
Gathered: TypeAlias = pa.DictionaryArray | pa.LargeStringArray


class Gathering:
    """A text column that grows by batches; null and empty texts are blank.

    A column whose first batch is nearly unique is left uncoded, others are coded batch by batch.
    """

    def __init__(self) -> None:
        self._coded: _Coded | None = None
        self._plain: list[pa.LargeStringArray] = []

    def prepared(self, batch: pa.Array) -> Gathered:
        """Texts in their stored form; once the first batch was added, threads may prepare others."""
        if self._plain:
            return _plain(batch)
        coded = batch.dictionary_encode()
        if self._coded is None and len(coded.dictionary) > max(FEW_WORDS, NEARLY_UNIQUE * len(batch)):
            return _plain(batch)
        trimmed = _trimmed(coded.dictionary)
        if trimmed.equals(coded.dictionary):
            return coded
        again = trimmed.dictionary_encode()
        return pa.DictionaryArray.from_arrays(again.indices.take(coded.indices), again.dictionary)

    def add(self, texts: Gathered) -> None:
        """Add prepared texts, in order."""
        if isinstance(texts, pa.DictionaryArray):
            self._coded = self._coded or _Coded()
            self._coded.add(codes_of(texts.indices), texts.dictionary)
        else:
            self._plain.append(joined_texts([texts]) if has_bounds() else texts)

    def column(self) -> RawColumn:
        """The texts so far; consumes what was gathered."""
        if self._plain:
            plain, self._plain = self._plain, []
            return Loose(joined_texts(plain))
        coded, self._coded = self._coded, None
        return coded.column() if coded is not None else text_column([])


class _Coded:
    """Codes by batches, and the dictionary of the first of them; dictionaries of later ones are united when they are
    many, so that memory grows only with the distinct texts."""

    def __init__(self) -> None:
        self.codes: list[NDArray[np.int32]] = []
        self.words: pa.Array = pa.array([], pa.large_string())
        self.waiting: list[pa.Array] = []
        self.held = 0

    def add(self, codes: NDArray[np.int32], words: pa.Array) -> None:
        self.codes.append(kept(codes))
        self.waiting.append(words.cast(pa.large_string()))
        self.held += len(words)
        if self.held > max(MANY_WAITING, 2 * len(self.words)):
            self._unite()

    def _unite(self) -> None:
        """One dictionary for all batches, in the order in which texts first came."""
        known = [self.words] if len(self.words) else []
        whole = [
            pa.DictionaryArray.from_arrays(pa.array(np.arange(len(w), dtype=np.int32)), w)
            for w in (*known, *self.waiting)
        ]
        parts = pa.chunked_array(whole).unify_dictionaries().chunks
        for codes, part in zip(self.codes[-len(self.waiting) :], parts[len(known) :], strict=True):
            places = codes_of(part.indices)
            if not np.array_equal(places, np.arange(len(places))):  # else the codes stand already
                codes[:] = np.append(places, np.int32(-1))[codes]  # the last entry is also that of -1
        self.words, self.waiting, self.held = parts[-1].dictionary, [], 0

    def column(self) -> Column:
        if len(self.codes) == 1 and self.waiting:
            return coded_column(self.codes, self.waiting[0])
        if self.waiting:
            self._unite()
        return coded_column(self.codes, self.words)


def _trimmed(texts: pa.Array) -> pa.Array:
    return pc.utf8_trim_whitespace(texts)


def _plain(batch: pa.Array) -> pa.LargeStringArray:
    return _trimmed(batch).cast(pa.large_string()).fill_null("")
