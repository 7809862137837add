"""Proposed ranges are round, few and cover every value."""

import math
from fractions import Fraction

from hypothesis import given
from hypothesis import strategies as st

from kalendor.desk.round_cut import round_cut

NUMBERS = st.floats(-1e9, 1e9, allow_subnormal=False).map(lambda x: round(x, 4))


@given(NUMBERS, NUMBERS, st.booleans())
def test_every_value_is_in_a_range_and_the_numbers_are_round(one: float, other: float, whole: bool) -> None:
    low, high = sorted((math.floor(one), math.floor(other)) if whole else (one, other))
    cut = {name: Fraction(str(value)) for name, value in round_cut(low, high, whole).items()}
    assert cut["from"] <= Fraction(str(low))
    assert Fraction(str(high)) < cut["to"]
    assert (cut["to"] - cut["from"]) / cut["step"] <= 12
    assert cut["from"] % cut["step"] == cut["to"] % cut["step"] == 0
    digits = str(cut["step"].numerator * 10**12 // cut["step"].denominator).rstrip("0")
    assert digits in ("1", "2", "5")
    assert not whole or cut["step"] >= 1
