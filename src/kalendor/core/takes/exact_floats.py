"""Sums of float64 numbers by group, exact until they are rounded, so that they depend on neither order nor grouping of
the terms.

The numbers are split at a power of two high enough that their upper parts can be added without rounding; what remains
of each is split again, until nothing remains (Rump, Ogita and Oishi, *Accurate floating-point summation*, 2008).
"""

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from math import fsum, isfinite

import numpy as np
from numpy.typing import NDArray

MANTISSA = 52  # bits of a float64's significand after the first
LARGE, SCALE = 2.0**900, 2.0**200  # numbers from LARGE on are added in units of SCALE
SPLITTER = 2.0**27 + 1
Floats = NDArray[np.float64]
Places = NDArray[np.signedinteger]


@dataclass(frozen=True, eq=False)
class FloatSums:
    """Sums by group: the exact sum of `parts`, arrays of shape (groups,) each; `odd`, of that shape, are the sums of
    infinite and NaN terms, 0 where there are none."""

    parts: tuple[Floats, ...]
    odd: Floats

    def rounded(self) -> Floats:
        """The sums as float64, rounded once."""
        if len(self.parts) == 1:
            return self.parts[0] + self.odd
        found = np.fromiter(
            map(_rounded, zip(*(p.tolist() for p in self.parts), strict=True)), np.float64, len(self.odd)
        )
        return found + self.odd

    def exact(self) -> list[Fraction]:
        """The exact sums, without infinite and NaN terms."""
        return [sum(map(Fraction, one), Fraction(0)) for one in zip(*(p.tolist() for p in self.parts), strict=True)]


def float_sums(ids: Places, terms: Sequence[Floats], count: int) -> FloatSums:
    """The exact sum by group of several terms for each record; `ids` and each of `terms` have shape (n,), 0 ≤ id < count. Sums
    beyond the range of float64 are infinite."""
    values = np.concatenate(terms) if len(terms) != 1 else terms[0]
    ids = np.tile(ids, len(terms)) if len(terms) != 1 else ids
    odd: Floats = np.zeros(count)
    size = np.abs(values)
    most = float(size.max(initial=0.0))
    if not np.isfinite(most):
        finite = np.isfinite(values)
        with np.errstate(invalid="ignore"):
            odd = np.asarray(np.bincount(ids[~finite], weights=values[~finite], minlength=count), dtype=np.float64)
        ids, values, size = ids[finite], values[finite], size[finite]
    parts: list[Floats] = []
    if most >= LARGE:
        large = size >= LARGE
        with np.errstate(over="ignore"):
            parts += [part * SCALE for part in _parts(ids[large], values[large] / SCALE, count)]
        ids, values = ids[~large], values[~large]
    parts += _parts(ids, values, count)
    return FloatSums(tuple(parts) or (np.zeros(count),), odd)


def _parts(ids: Places, values: Floats, count: int) -> list[Floats]:
    """Arrays, shape (count,) each, whose exact sum is that of the values by group."""
    found: list[Floats] = []
    room = len(values).bit_length()
    while len(values):
        most = float(np.abs(values).max())
        if not most:
            break
        cut = 1.5 * 2.0 ** (int(np.frexp(most)[1]) + room)
        upper = (cut + values) - cut
        found.append(np.asarray(np.bincount(ids, weights=upper, minlength=count), dtype=np.float64))
        values = values - upper
    return found


def squared(values: Floats) -> tuple[Floats, Floats]:
    """Each square as two float64 numbers, the rounded square and its error (Dekker's product); exact unless either
    leaves the range of float64."""
    with np.errstate(all="ignore"):
        product = values * values
        upper = SPLITTER * values
        high = upper - (upper - values)
        low = values - high
        rest = low * low - ((product - high * high) - 2 * high * low)
    return product, np.where(np.isfinite(rest), rest, 0.0)


def _rounded(terms: tuple[float, ...]) -> float:
    try:
        return fsum(terms)
    except OverflowError:  # beyond the range on the way, if not in the sum
        return as_float(sum(map(Fraction, terms), Fraction(0))) if all(map(isfinite, terms)) else sum(terms)


def as_float(number: Fraction) -> float:
    """A fraction as float64, rounded once; infinite beyond its range."""
    try:
        return float(number)
    except OverflowError:
        return float("inf") if number > 0 else float("-inf")
