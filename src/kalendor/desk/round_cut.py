"""Round ranges that cover a column's values."""

import math
from fractions import Fraction

ABOUT = 10


def round_cut(low: float, high: float, whole: bool = False) -> dict[str, float]:
    """About ten equal ranges between round numbers that together contain every value; the step is 1, 2 or 5 times a
    power of ten, and at least 1 for `whole` numbers.

    >>> round_cut(31, 942), round_cut(-3.5, 12.25), round_cut(0.02, 0.31), round_cut(7, 7, whole=True)
    ({'from': 0, 'to': 1000, 'step': 100}, {'from': -4, 'to': 14, 'step': 2}, {'from': 0, 'to': 0.35, 'step': 0.05}, {'from': 7, 'to': 8, 'step': 1})
    """
    wanted = max((high - low) / ABOUT, 1 if whole else 0) or 1
    power = Fraction(10) ** math.floor(math.log10(wanted))
    step = next(size * power for size in (1, 2, 5, 10) if float(size * power) >= wanted * (1 - 1e-9))
    first = math.floor(Fraction(low) / step) * step
    last = (math.floor(Fraction(high) / step) + 1) * step
    return {"from": _number(first), "to": _number(last), "step": _number(step)}


def _number(value: Fraction) -> float:
    return int(value) if value.denominator == 1 else float(value)
