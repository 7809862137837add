"""Texts of a nearly unique column, uncoded: amounts are parsed from them directly, without a dictionary."""

from collections.abc import Sequence
from dataclasses import replace
from functools import cached_property
from itertools import islice
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
from numpy.typing import NDArray

from kalendor.core.values.columns import MOST_PLACES, Array, Column, Kind, Mask
from kalendor.core.values.cores import each, pieces
from kalendor.intake.arrays import encoded_column, joined_texts, most_places
from kalendor.intake.room import array_of, picked

PLAIN = b"0123456789.-"
ZERO, POINT = b"0."
FLOAT_DIGITS = 15


class Loose:
    """Trimmed texts, an empty one for blanks; `coded` converts them to a text column.

    `texts`, shape (n,), is one array without nulls.
    """

    def __init__(self, texts: pa.LargeStringArray) -> None:
        self.texts = texts

    def __len__(self) -> int:
        return len(self.texts)

    @cached_property
    def blank(self) -> NDArray[np.bool_] | None:
        """Shape (n,): True where there is no text; None where there is one everywhere."""
        found: NDArray[np.bool_] = array_of(len(self), bool)
        for place in pieces(len(self)):
            found[place] = pc.binary_length(self.texts[place]).to_numpy(zero_copy_only=False) == 0
        return found if found.any() else None

    @property
    def blanks(self) -> NDArray[np.bool_]:
        """Shape (n,): True where there is no text."""
        return np.zeros(len(self), dtype=bool) if self.blank is None else self.blank

    def item(self, i: int) -> str | None:
        """The text at `i`, or None."""
        return self.texts[i].as_py() or None

    def take(self, index: NDArray[np.int64] | NDArray[np.bool_]) -> "Loose":
        """The texts at `index` (int positions or a bool mask)."""
        if index.dtype == bool:
            return Loose(joined_texts([self.texts[p].filter(pa.array(index[p])) for p in pieces(len(self))]))
        return Loose(joined_texts([self.texts.take(pa.array(index[p])) for p in pieces(len(index))]))

    def first(self, count: int) -> "Loose":
        """The column's first records, not copied."""
        return Loose(self.texts[:count])

    @cached_property
    def coded(self) -> Column:
        """The same as a text column."""
        return encoded_column(self.texts)

    def first_different(self, most: int) -> list[str]:
        """The first few different texts that are not blank."""
        return [text for text in self.first_words(most) if text]

    def first_words(self, most: int) -> list[str]:
        """The first few words of the future coded column; fewer if they do not occur at its beginning."""
        return list(islice(dict.fromkeys(self.texts[: 4 * most].to_pylist()), most))

    @property
    def longest(self) -> int:
        """The most bytes that a text has."""
        return max((int(pc.max(pc.binary_length(piece)).as_py() or 0) for piece in self._pieces()), default=0)

    def numbers(self) -> Column | None:
        """Whole numbers or exact decimals if every text is digits, with a point or a leading minus, and short enough to
        be parsed exactly through floats; else None, as for a code such as 007, which would lose its zeros."""
        parts = self._pieces()
        found = each(_plain_places, parts, len(self))
        places = max((here for here in found if here is not None), default=0)
        if None in found or places > MOST_PLACES:
            return None
        whole = array_of(len(self), np.int64)

        def lay(place: slice) -> bool:
            units = _units(self.texts[place], places)
            if units is not None:
                whole[place] = units
            return units is not None

        if not all(each(lay, pieces(len(self)), len(self))):
            return None
        return Column(Kind.DECIMAL if places else Kind.WHOLE, whole, self.blank, places)

    def _pieces(self) -> list[pa.LargeStringArray]:
        """The texts part by part, so that temporary arrays stay small."""
        return [self.texts[place] for place in pieces(len(self))]


def _plain_places(texts: pa.LargeStringArray) -> int | None:
    """The most places of texts that are all digits with a point or a leading minus; None if one is not, or has zeros
    that a number would lose."""
    _, offsets, bytes_ = texts.buffers()
    ends = np.frombuffer(offsets, dtype=np.int64)[texts.offset : texts.offset + len(texts) + 1]
    data = np.frombuffer(bytes_, dtype=np.uint8) if bytes_ is not None else np.zeros(0, dtype=np.uint8)
    sizes = np.diff(ends)
    if sizes.max(initial=0) > FLOAT_DIGITS or data[ends[0] : ends[-1]].tobytes().translate(None, PLAIN):
        return None
    longer = sizes > 1
    starts, lasts = ends[:-1][longer], ends[1:][longer] - 1
    if np.any((data[starts] == ZERO) & (data[starts + 1] >= ZERO)) or np.any(data[lasts] == POINT):
        return None
    return most_places(texts)


def _units(texts: pa.LargeStringArray, places: int) -> NDArray[np.int64] | None:
    """Units of 10**-places, parsed through floats, 0 for no text; None if one is not a number or has too many digits."""
    empty = pc.equal(pc.binary_length(texts), 0)
    try:
        floats = pc.cast(pc.if_else(empty, "0", texts) if pc.any(empty).as_py() else texts, pa.float64())
    except pa.ArrowInvalid:
        return None
    floats = floats.to_numpy(zero_copy_only=False) * 10.0**places
    if np.abs(floats).max(initial=0.0) >= 10.0**FLOAT_DIGITS:
        return None
    units: NDArray[np.int64] = np.rint(floats).astype(np.int64)
    return units


class Uncoded(Column):
    """A text column that is coded from such texts when its codes or words are first used; the texts are then released.

    A modified copy, as made by `dataclasses.replace`, is an ordinary column.
    """

    kind = Kind.TEXT
    places = 0
    percent = False
    _held: "Loose | Column"

    def __new__(cls, *given: Any, **parts: Any) -> Any:
        return Column(*given, **parts) if parts else super().__new__(cls)

    def __init__(self, loose: Loose) -> None:
        object.__setattr__(self, "_held", loose)

    @property
    def plain(self) -> Column:
        """The coded column."""
        held = coded(self._held)
        object.__setattr__(self, "_held", held)
        return held

    @property
    def values(self) -> Array:
        """Shape (n,): codes into the words."""
        return self.plain.values

    @property
    def words(self) -> Sequence[str]:
        """The different texts."""
        return self.plain.words

    @property
    def blank(self) -> Mask | None:
        """Shape (n,): True where there is no text; None where there is one everywhere."""
        return self._held.blank

    def __len__(self) -> int:
        return len(self._held)

    def item(self, i: int) -> str | None:
        """The text at `i`, or None."""
        found: str | None = self._held.item(i)
        return found

    def take(self, index: Array) -> Column:
        """The texts at `index` (int positions or a bool mask)."""
        return Uncoded(self._held.take(index)) if isinstance(self._held, Loose) else self._held.take(index)

    def broadcast(self, n: int) -> Column:
        """This column with `n` values; a single value is repeated."""
        return self if len(self) == n else self.plain.broadcast(n)


RawColumn = Column | Loose


def coded(column: RawColumn) -> Column:
    """A column of texts as codes into its different texts."""
    return column.coded if isinstance(column, Loose) else column


def first_words(column: RawColumn, most: int) -> Sequence[str]:
    """The first few different texts of a column."""
    return column.first_words(most) if isinstance(column, Loose) else column.words[:most]


def made(column: Column) -> Column:
    """A column with its codes computed."""
    return column.plain if isinstance(column, Uncoded) else column


def taken(column: RawColumn, kept: NDArray[np.bool_]) -> Any:
    """The column's records that are kept, taken in blocks; an uncoded column stays uncoded."""
    if isinstance(column, Loose | Uncoded):
        return column.take(kept)
    blank = None if column.blank is None else picked(column.blank, kept)
    return replace(column, values=picked(column.values, kept), blank=blank)


def first_of(column: RawColumn, count: int) -> RawColumn:
    """The column's first records, not copied."""
    if isinstance(column, Loose):
        return column.first(count)
    blank = None if column.blank is None else column.blank[:count]
    return replace(column, values=column.values[:count], blank=blank)
