"""Texts gathered batch by batch into a column: each different text kept once, outer white space taken off."""

from typing import TypeAlias

import pyarrow as pa
import pyarrow.compute as pc

from kalendor.core.values.columns import text_column
from kalendor.intake.arrays import FEW_WORDS, coded_column
from kalendor.intake.loose import Loose, RawColumn

NEARLY_UNIQUE = 0.5
Gathered: TypeAlias = pa.DictionaryArray | pa.LargeStringArray


class Gathering:
    """A text column that grows by batches; null and empty texts are blank.

    A column whose first batch is nearly unique is left as it is, others are coded batch by batch.
    """

    def __init__(self) -> None:
        self._coded: list[pa.DictionaryArray] = []
        self._plain: list[pa.LargeStringArray] = []

    def prepared(self, batch: pa.Array) -> Gathered:
        """More texts in the form they are kept in; once some are added, threads may prepare others."""
        if self._plain:
            return _plain(batch)
        coded = batch.dictionary_encode()
        if not self._coded and len(coded.dictionary) > max(FEW_WORDS, NEARLY_UNIQUE * len(batch)):
            return _plain(batch)
        trimmed = _trimmed(coded.dictionary)
        if trimmed.equals(coded.dictionary):
            return coded
        again = trimmed.dictionary_encode()
        return pa.DictionaryArray.from_arrays(again.indices.take(coded.indices), again.dictionary)

    def add(self, texts: Gathered) -> None:
        """Texts that were prepared, the next in order."""
        (self._coded if isinstance(texts, pa.DictionaryArray) else self._plain).append(texts)

    def column(self) -> RawColumn:
        """The texts so far; what was gathered is given up."""
        if self._plain:
            plain, self._plain = self._plain, []
            return Loose(pa.concat_arrays(plain))
        coded, self._coded = self._coded, []
        chunks = pa.chunked_array(coded).unify_dictionaries().chunks if len(coded) > 1 else coded
        return coded_column(chunks) if chunks else text_column([])


def _trimmed(texts: pa.Array) -> pa.Array:
    return pc.utf8_trim_whitespace(texts)


def _plain(batch: pa.Array) -> pa.LargeStringArray:
    return _trimmed(batch).cast(pa.large_string()).fill_null("")
