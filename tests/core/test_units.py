"""Changes of scale: exact as far as they fit, approximate beyond, never wrapped."""

from decimal import ROUND_HALF_UP, Context, Decimal
from fractions import Fraction
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from kalendor.core.values import arithmetic as ar
from kalendor.core.values.columns import EXACT, Column, Kind, brought_to, concat, number_column
from kalendor.intake.values import read_percentages
from tests.core.build import SUM, records, sheet, table

MOST = 2**63 - 1
wholes = st.one_of(st.integers(-MOST, MOST), st.sampled_from([0, 1, -1, MOST, -MOST, 10**18, 2**53 + 1, 10**9]))
numbers = st.tuples(wholes, st.integers(0, 9))


def made(number: tuple[int, int]) -> Column:
    units, places = number
    return number_column([Decimal(units).scaleb(-places, Context(prec=60))], places)


def value(number: tuple[int, int]) -> Fraction:
    return Fraction(number[0], 10 ** number[1])


def holds(column: Column, want: Fraction) -> None:
    """A column's only value is the expected one: exactly if the column is exact, else to the last bits of a float64."""
    got = column.item(0)
    assert got is not None
    if column.kind in EXACT and column.unrounded is None:
        assert Fraction(got) == want
    else:
        assert abs(Fraction(float(got)) - want) <= abs(want) * Fraction(1, 2**50)


@given(numbers, st.integers(0, 9))
def test_units_at_more_places_are_the_same_number_or_refused(number: tuple[int, int], more: int) -> None:
    places = max(more, number[1])
    units = brought_to(made(number), places)
    if units is None:
        assert abs(number[0]) * 10 ** (places - number[1]) > MOST
    else:
        assert Fraction(int(units[0]), 10**places) == value(number)


@given(numbers, numbers)
def test_sums_differences_and_products_are_the_numbers_themselves(a: tuple[int, int], b: tuple[int, int]) -> None:
    left, right = made(a), made(b)
    holds(ar.add(left, right), value(a) + value(b)) if abs(value(a) + value(b)) * 2**40 > abs(value(a)) else None
    holds(ar.multiply(left, right), value(a) * value(b))
    if b[0]:
        holds(ar.divide(left, right), value(a) / value(b)) if abs(value(a) / value(b)) < 2**46 else None


@given(numbers, st.integers(-20, 9))
def test_rounding_is_half_away_from_zero_and_never_wraps(number: tuple[int, int], places: int) -> None:
    exact = Decimal(number[0]).scaleb(-number[1], Context(prec=60))
    step = Decimal(1).scaleb(-places)
    want = (exact / step).quantize(Decimal(1), ROUND_HALF_UP, Context(prec=60)) * step
    holds(ar.rounded(made(number), places), Fraction(want))


@given(numbers, numbers)
def test_the_remainder_has_the_sign_of_the_dividend(a: tuple[int, int], b: tuple[int, int]) -> None:
    if not b[0]:
        return
    found = ar.modulo(made(a), made(b))
    if found.kind in EXACT:
        quotient = abs(value(a)) // abs(value(b))
        rest = abs(value(a)) - quotient * abs(value(b))
        assert Fraction(found.item(0)) == (-rest if a[0] < 0 else rest)


def test_the_remainder_of_numbers_beyond_64_bits() -> None:
    wide = number_column([2**70, -(2**70)])
    assert [ar.modulo(wide, number_column([7, 7])).item(i) for i in (0, 1)] == [2**70 % 7, -(2**70 % 7)]


@given(st.lists(numbers, min_size=2, max_size=5))
def test_columns_of_several_places_one_after_another(parts: list[tuple[int, int]]) -> None:
    whole = concat([Column(Kind.DECIMAL, np.array([u]), None, p) for u, p in parts])
    for i, part in enumerate(parts):
        holds(whole.take(np.array([i])), value(part))


@pytest.mark.parametrize("text", ["100000000000000000%", "9223372036854775807%", "12.345678%", "-50%"])
def test_percentages_are_a_hundredth_of_what_stands_there(text: str) -> None:
    read = read_percentages([text], ".")
    want = Fraction(text[:-1]) / 100
    holds(Column(read.kind, read.values, None, read.places), want)


def test_a_quotient_too_large_for_a_double_shows_its_true_digits() -> None:
    data = records(a=["x", "y"], v=["9007199254740993.00", "3.00"])
    mean = {"name": "m", "take": "mean", "of": "v"}
    rows = table(data, down=[{"category": "a"}], figures=[mean], totals={"grand_down": "none"})
    assert [r["m"] for r in rows] == ["9007199254740993.00", "3"]
    cells = sheet(data, down=[{"category": "a"}], figures=[mean]).figures[0].cells
    assert cells.item(0) == Decimal("4503599627370498.00")  # the half of ...996 is whole


def test_products_of_large_sums_are_approximate_in_lines_too() -> None:
    data = records(a=["x", "y"], v=["100000000000.00", "200000000000.00"])
    line = {"name": "Product", "level": "a", "formula": "x * y * x"}
    rows = table(data, down=[{"category": "a"}], figures=[SUM], lines=[line])
    assert [float(r["s"]) for r in rows] == [1e11, 2e11, 2e33, 3e11]
    assert rows[0]["s"] == "100000000000.00"


def test_a_formula_over_a_line_made_unrounded_uses_it_unrounded() -> None:
    data = records(a=["x", "y"], v=[3, 18])
    figures: list[Any] = [SUM, {"name": "double", "formula": "s * 2 + 1"}]
    line = {"name": "ratio", "level": "a", "formula": "x / y"}
    rows = table(data, down=[{"category": "a"}], figures=figures, lines=[line])
    assert [r["double"] for r in rows] == ["7", "37", "1.33333333333", "43"]


def test_approximate_debits_and_credits_foot_within_the_error_of_their_size() -> None:
    amounts = [f"{n}.{n % 7}123456789" for n in range(1, 400)]
    v = [*amounts, *(f"-{a}" for a in amounts)]
    data = records(a=[f"k{n % 13}" for n in range(len(v))], v=[Decimal(x).quantize(Decimal("0.1")) for x in v])
    floats = Column(Kind.APPROXIMATE, np.array([float(x) * 1e6 for x in v]))
    rows = table(data.with_column("v", floats), down=[{"category": "a"}], figures=[SUM])
    assert abs(float(rows[-1]["s"])) < 1e-3


def test_the_least_and_largest_text_of_a_group() -> None:
    data = records(a=["x", "x", "y", "y"], t=["pear", "Apple", None, "fig"])
    figures = [{"name": n, "take": n, "of": "t"} for n in ("min", "max")]
    rows = table(data, down=[{"category": "a"}], figures=figures)
    assert [(r["min"], r["max"]) for r in rows] == [("Apple", "pear"), ("fig", "fig"), ("Apple", "pear")]
