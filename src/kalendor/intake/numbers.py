"""Numbers and dates of a file that declares their type; texts are made of them only if requested."""

from datetime import date
from functools import cached_property

import numpy as np
import pyarrow as pa
from numpy.typing import NDArray

from kalendor.core.values.columns import MOST_PLACES, Array, Column, Kind, day_number, magnitude
from kalendor.core.values.cores import each
from kalendor.intake.arrays import joined_texts
from kalendor.intake.loose import Loose

LARGEST, LEAST = 1e10, 1e-6  # beyond these, numbers are written with an exponent
MOST_UNITS = 10.0**15
EARLIEST, LATEST = day_number(date(1000, 1, 1)), day_number(date.max)
FIRST = 1000  # numbers on which decimal places are tried first
DIGITS = 18  # digits of a decimal whose units fit 64 bits
Index = NDArray[np.int64]


class Numbers(Loose):
    """A column of numbers, in parts; nulls are blank."""

    def __init__(self, parts: list[pa.Array]) -> None:
        self.parts = parts

    def __len__(self) -> int:
        return sum(map(len, self.parts))

    @cached_property
    def texts(self) -> pa.LargeStringArray:
        """The numbers as text, empty for blanks."""
        return joined_texts([part.cast(pa.large_string()).fill_null("") for part in self.parts])

    @cached_property
    def blank(self) -> NDArray[np.bool_] | None:
        """Shape (n,): True where there is no number; None where there is one everywhere."""
        if not any(part.null_count for part in self.parts):
            return None
        return np.concatenate([part.is_null().to_numpy(zero_copy_only=False) for part in self.parts])

    def item(self, i: int) -> str | None:
        """The text at `i`, or None."""
        for part in self.parts:
            if i < len(part):
                found: str | None = part[i : i + 1].cast(pa.string())[0].as_py()
                return found
            i -= len(part)
        raise IndexError(i)

    def take(self, index: NDArray[np.int64] | NDArray[np.bool_]) -> Loose:
        """The texts at `index` (int positions or a bool mask)."""
        return Loose(self.texts).take(index)

    def first_words(self, most: int) -> list[str]:
        """The first few distinct texts; fewer if they do not occur at its beginning."""
        first = [part[: 4 * most].cast(pa.string()).fill_null("").to_pylist() for part in self.parts[:1]]
        return list(dict.fromkeys(text for texts in first for text in texts))[:most]

    def first(self, count: int) -> "Numbers":
        """The column's first records."""
        left, kept = count, []
        for part in self.parts:
            kept.append(part[: max(0, left)])
            left -= len(part)
        return Numbers(kept)

    def numbers(self) -> Column | None:
        """Whole numbers or exact decimals; None if one needs an exponent or more digits than are stored exactly."""
        read = each(_units, self.parts, len(self))
        known = [one for one in read if one is not None]
        if len(known) < len(read):
            return None
        most = max((places for _, places in known), default=0)
        if any(len(own) and magnitude(own) * 10 ** (most - places) >= MOST_UNITS for own, places in known):
            return None
        scaled = [own if places == most else own * 10 ** (most - places) for own, places in known]
        found: Array = np.concatenate(scaled) if scaled else np.zeros(0, dtype=np.int64)
        return Column(Kind.DECIMAL if most else Kind.WHOLE, found, self.blank, most)


class Dates(Numbers):
    """A column of dates, in parts; nulls are blank."""

    def first(self, count: int) -> "Dates":
        """The column's first records."""
        return Dates(super().first(count).parts)

    def numbers(self) -> Column | None:
        """None: dates are not numbers."""
        return None

    def dates(self) -> Column | None:
        """The dates; None if there is none, or one has a year of more than four digits."""
        days: Array = np.concatenate(
            [part.cast(pa.int32()).fill_null(0).to_numpy(zero_copy_only=False) for part in self.parts]
        )
        blank = self.blank
        if not len(days) or (blank is not None and blank.all()):
            return None
        if int(days.min()) < EARLIEST or int(days.max()) > LATEST:
            return None
        return Column(Kind.DATE, days, blank)


def _units(part: pa.Array) -> tuple[Index, int] | None:
    """Numbers as units of 10**-places, 0 for nulls, and the fewest places that hold them; None if that cannot be
    decided here."""
    if pa.types.is_integer(part.type):
        return part.cast(pa.int64()).fill_null(0).to_numpy(zero_copy_only=False), 0
    if pa.types.is_decimal128(part.type):
        own = np.frombuffer(part.buffers()[1], dtype=np.int64)[2 * part.offset :: 2][: len(part)]
        there = part.is_valid().to_numpy(zero_copy_only=False) if part.null_count else None
        return (own if there is None else np.where(there, own, 0)), int(part.type.scale)
    floats = _floats(part)
    size = np.abs(floats)
    if not np.isfinite(floats).all() or (size >= LARGEST).any() or ((size < LEAST) & (size > 0)).any():
        return None
    for places in range(MOST_PLACES + 1):
        if len(floats) <= FIRST or _exact(floats[:FIRST], places) is not None:
            units = _exact(floats, places)
            if units is not None:
                return units, places
    return None


def _floats(part: pa.Array) -> NDArray[np.float64]:
    found: NDArray[np.float64] = part.fill_null(0).to_numpy(zero_copy_only=False)
    return found


def _exact(floats: NDArray[np.float64], places: int) -> Index | None:
    """Units of 10**-places that equal these float64 numbers; None if there are none."""
    units = np.rint(floats * 10.0**places)
    if np.abs(units).max(initial=0.0) >= MOST_UNITS or not np.array_equal(units / 10.0**places, floats):
        return None
    return units.astype(np.int64)


def direct(kind: pa.DataType) -> type[Numbers] | None:
    """How values of a type are read without texts; None if they are not."""
    if kind == pa.date32():
        return Dates
    if pa.types.is_decimal128(kind):
        return Numbers if 0 <= kind.scale <= MOST_PLACES and kind.precision <= DIGITS else None
    return Numbers if kind == pa.float64() or (pa.types.is_integer(kind) and kind != pa.uint64()) else None
