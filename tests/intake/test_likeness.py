"""Matching the headings of a changed export to columns: by values and names, certain only if nothing else is
possible."""

from datetime import date, timedelta

import pytest

from kalendor.core.values.columns import Column, date_column, number_column, text_column
from kalendor.intake.likeness import likeness, names_alike, paired

FARES = text_column(["adult", "child", "dog", "adult", None] * 20)
CODES = text_column([f"T-{n}" for n in range(100)])
NEXT_CODES = text_column([f"T-{n}" for n in range(500, 600)])
AMOUNTS = number_column([f"{n}.25" for n in range(10, 110)], 2)  # type: ignore[list-item]
DAYS = date_column([date(2026, 1, 1) + timedelta(days=n) for n in range(100)])
LATER = date_column([date(2026, 5, 1) + timedelta(days=n % 30) for n in range(100)])


@pytest.mark.parametrize(
    ("name", "known", "heading", "came", "like", "sure"),
    [
        ("fare type", FARES, "tariff", FARES, True, True),
        ("ticket", CODES, "ticket no", NEXT_CODES, True, True),
        ("ticket", CODES, "customer", NEXT_CODES, True, False),
        ("ticket", CODES, "fare", FARES, False, False),
        ("gross", AMOUNTS, "gross amount", AMOUNTS, True, True),
        ("gross", AMOUNTS, "tax", AMOUNTS, True, False),
        ("gross", AMOUNTS, "year", number_column([2026] * 100), False, False),
        ("sold on", DAYS, "sold", LATER, True, True),
        ("sold on", DAYS, "paid on", date_column([date(1999, 1, 1)] * 100), False, False),
        ("sold on", DAYS, "gross", AMOUNTS, False, False),
        ("branch", text_column(["101", "102", "103"] * 30), "shop", number_column([101, 102, 103] * 30), True, True),
        ("note", text_column([None, None]), "remark", FARES, False, False),
    ],
)
def test_a_column_is_known_again(name: str, known: Column, heading: str, came: Column, like: bool, sure: bool) -> None:
    found = likeness(name, known, heading, came)
    assert (bool(paired({name: known}, {heading: came})), found.sure) == (like, sure), found


def test_each_heading_is_taken_once_and_two_that_fit_are_in_doubt() -> None:
    found = paired({"fare type": FARES}, {"tariff": FARES, "fare class": FARES})
    assert [(name, heading, like.sure) for name, (heading, like) in found.items()] == [
        ("fare type", "fare class", False)
    ]
    both = paired({"from": FARES, "to": FARES}, {"origin": FARES})
    assert len(both) == 1
    assert not next(iter(both.values()))[1].sure


def test_names_are_alike_by_their_letters_or_their_words() -> None:
    assert names_alike("Sold on", "sold_ON") == 1
    assert names_alike("amount", "amount in GBP") > 0.8 > names_alike("amount", "customer")
