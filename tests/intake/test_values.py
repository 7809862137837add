"""Numbers as people write them, read back to the last digit."""

from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kalendor.core.values.columns import Kind
from kalendor.intake.values import plain_number, read_numbers

amounts = st.decimals(min_value=-(10**9), max_value=10**9, places=2)


def english(n: Decimal) -> str:
    return f"{n:,.2f}"


def continental(n: Decimal) -> str:
    return english(n).translate(str.maketrans(",.", ".,"))


WAYS = {
    "plain": (lambda n: f"{n:.2f}", "."),
    "english": (english, "."),
    "continental": (continental, ","),
    "parentheses": (lambda n: f"({english(abs(n))})" if n < 0 else english(n), "."),
    "trailing minus": (lambda n: f"{english(abs(n))}-" if n < 0 else english(n), "."),
    "pounds": (lambda n: f"{'-' if n < 0 else ''}£{english(abs(n))}", "."),
    "spaces": (lambda n: english(n).replace(",", "\u00a0"), "."),
}


@pytest.mark.parametrize("way", WAYS)
@given(st.lists(amounts, min_size=1, max_size=20))
def test_a_column_written_in_one_way_reads_back_exactly(way: str, numbers: list[Decimal]) -> None:
    write, mark = WAYS[way]
    read = read_numbers([write(n) for n in numbers], mark)
    assert not read.failed.any()
    assert [Decimal(int(v)).scaleb(-read.places) for v in read.values] == numbers


@pytest.mark.parametrize("text", ["", "-", "1,23", "1.2.3", "12a", "--5", "(5", "1,2345", "£", "NaN", "inf", "0x1F"])
def test_what_is_no_number(text: str) -> None:
    assert plain_number(text, ".") is None


def test_more_than_nine_places_or_64_bits_is_approximate_and_says_so() -> None:
    assert read_numbers(["0.1234567891"], ".").kind is Kind.APPROXIMATE
    assert read_numbers(["99999999999999999999"], ".").kind is Kind.APPROXIMATE
    assert read_numbers(["0.123456789", "1"], ".").places == 9
