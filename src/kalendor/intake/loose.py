"""Texts of a nearly unique column as they came: amounts are read from them straight, without a dictionary."""

from collections.abc import Sequence
from functools import cached_property
from itertools import islice
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
from numpy.typing import NDArray

from kalendor.core.values.columns import MOST_PLACES, Array, Column, Kind, Mask
from kalendor.core.values.cores import each
from kalendor.intake.arrays import coded_column, most_places

PLAIN = b"0123456789.-"
ZERO, POINT = b"0."
FLOAT_DIGITS = 15
PIECE = 1 << 18


class Loose:
    """Trimmed texts, an empty one where blank; `coded` are the same as a text column.

    `texts`, shape (n,), is one array without nulls.
    """

    def __init__(self, texts: pa.LargeStringArray) -> None:
        self.texts = texts

    def __len__(self) -> int:
        return len(self.texts)

    @cached_property
    def blank(self) -> NDArray[np.bool_] | None:
        """Shape (n,): True where there is no text; None where there is one everywhere."""
        each_blank = [pc.binary_length(piece).to_numpy(zero_copy_only=False) == 0 for piece in self._pieces()]
        found: NDArray[np.bool_] = np.concatenate([*each_blank, np.zeros(0, dtype=bool)])
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
        picked = pa.array(index)
        return Loose(self.texts.filter(picked) if picked.type == pa.bool_() else self.texts.take(picked))

    @cached_property
    def coded(self) -> Column:
        """The same as a text column."""
        return coded_column([self.texts.dictionary_encode()])

    def first_different(self, most: int) -> list[str]:
        """The first few different texts that are not blank."""
        return [text for text in self.first_words(most) if text]

    def first_words(self, most: int) -> list[str]:
        """The first few of what will be the words of the coded column, fewer where they are not at its beginning."""
        return list(islice(dict.fromkeys(self.texts[: 4 * most].to_pylist()), most))

    @property
    def longest(self) -> int:
        """The most bytes that a text has."""
        return max((int(pc.max(pc.binary_length(piece)).as_py() or 0) for piece in self._pieces()), default=0)

    def numbers(self) -> Column | None:
        """Whole numbers or exact decimals where every text is digits, with a point or a minus in front, and few enough
        to go by way of floats exactly; else None, as for a code such as 007, which a number would lose."""
        pieces = self._pieces()
        found = each(_plain_places, pieces, len(self))
        places = max((here for here in found if here is not None), default=0)
        if None in found or places > MOST_PLACES:
            return None
        units = each(lambda piece: _units(piece, places), pieces, len(self))
        if any(part is None for part in units):
            return None
        whole = np.concatenate([part for part in units if part is not None] or [np.zeros(0, dtype=np.int64)])
        return Column(Kind.DECIMAL if places else Kind.WHOLE, whole, self.blank, places)

    def _pieces(self) -> list[pa.LargeStringArray]:
        """The texts a part at a time, so that what is made of them on the way stays small."""
        return [self.texts[start : start + PIECE] for start in range(0, len(self), PIECE)]


def _plain_places(texts: pa.LargeStringArray) -> int | None:
    """The most places of texts that are all digits with a point or a minus in front; None where one is not, or has zeros
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
    """Units of 10**-places by way of floats, 0 where there is no text; None where one is no number or has too many digits."""
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
    """A text column made of such texts when its codes or words are first asked for; the texts are then given up.

    One like it but for a part, as `dataclasses.replace` makes it, is a plain column.
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
        """The column that it becomes."""
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


def made(column: Column) -> Column:
    """A column with its codes at hand."""
    return column.plain if isinstance(column, Uncoded) else column
