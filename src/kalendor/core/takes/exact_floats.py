"""Sums of float64 numbers by group, exact until they are rounded, so that neither order nor grouping of the terms shows."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import isfinite
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kalendor.core.takes.whole_sums import exact_sums
from kalendor.core.values.columns import Array

MANTISSA = 53  # bits of a float64
SHIFT = 10  # bits by which a mantissa can be moved within 64
SPLITTER = 2.0**27 + 1
Floats = NDArray[np.float64]
Places = NDArray[np.signedinteger]


@dataclass(frozen=True, eq=False)
class FloatSums:
    """`whole`, shape (groups,): the sums as Python integers in units of 2**`exponent`; `odd`, of that shape, the sums of terms that
    are infinite or no number, 0 where there are none."""

    whole: Array
    exponent: int
    odd: Floats

    def rounded(self) -> Floats:
        """The sums as float64, rounded once."""
        found: Floats = np.array([_as_float(n, self.exponent) for n in self.whole.tolist()], dtype=np.float64)
        return found + self.odd

    def in_units(self, power: int) -> list[int]:
        """The sums in units of 2**`power`, at most `exponent`."""
        return [n << (self.exponent - power) for n in self.whole.tolist()]

    def expanded(self) -> tuple[Floats, ...]:
        """float64 arrays whose sum at each place is the exact sum; the first is the rounded one."""
        parts: list[Floats] = []
        left = self.whole.tolist()
        while not parts or any(left):
            found = [_as_float(n, self.exponent) for n in left]
            left = [n - _in_units(f, self.exponent) if isfinite(f) else 0 for n, f in zip(left, found, strict=True)]
            parts.append(np.array(found, dtype=np.float64))
        return parts[0] + self.odd, *parts[1:]


def float_sums(ids: Places, terms: Sequence[Floats], count: int) -> FloatSums:
    """The exact sum by group of several terms for each record; `ids` and each of `terms` have shape (n,), 0 ≤ id < count."""
    values = np.concatenate(terms) if len(terms) != 1 else terms[0]
    ids = np.tile(ids, len(terms)) if len(terms) != 1 else ids
    odd: Floats = np.zeros(count)
    finite = np.isfinite(values)
    if not finite.all():
        with np.errstate(invalid="ignore"):
            odd = np.asarray(np.bincount(ids[~finite], weights=values[~finite], minlength=count), dtype=np.float64)
        ids, values = ids[finite], values[finite]
    mantissa, exponents = np.frexp(values)
    whole = np.ldexp(mantissa, MANTISSA).astype(np.int64)
    there = whole != 0
    if not there.all():
        ids, whole, exponents = ids[there], whole[there], exponents[there]
    if not len(whole):
        return FloatSums(np.zeros(count, dtype=object), 0, odd)
    low = int(exponents.min())
    step, within = np.divmod(exponents - low, SHIFT)
    units = whole << within.astype(np.int64)
    total: Array = np.zeros(count, dtype=object)
    steps = np.flatnonzero(np.bincount(step)).tolist()
    for one in steps:
        here = slice(None) if len(steps) == 1 else step == one
        total = total + exact_sums(ids[here], units[here], count).astype(object) * (1 << SHIFT * one)
    return FloatSums(total, low - MANTISSA, odd)


def squared(values: Floats) -> tuple[Floats, Floats]:
    """Each square as two float64 numbers, the rounded one and what it leaves off (Dekker's product); exact where neither passes
    the range of float64."""
    with np.errstate(all="ignore"):
        product = values * values
        upper = SPLITTER * values
        high = upper - (upper - values)
        low = values - high
        rest = low * low - ((product - high * high) - 2 * high * low)
    return product, np.where(np.isfinite(rest), rest, 0.0)


def _as_float(units: int, exponent: int) -> float:
    """An integer in units of 2**exponent as float64, rounded once; infinite beyond its range."""
    return quotient(units, 1, exponent)


def quotient(over: int, under: int, power: int) -> float:
    """over / under × 2**power as float64, rounded once; infinite beyond its range."""
    try:
        return (over << power) / under if power >= 0 else over / (under << -power)
    except OverflowError:
        return float("inf") if over > 0 else float("-inf")


def _in_units(number: float, exponent: int) -> int:
    """A float64, a multiple of 2**exponent, as an integer in these units."""
    over, under = number.as_integer_ratio()
    found: Any = (over << -exponent) // under if exponent < 0 else over // (under << exponent)
    return int(found)
