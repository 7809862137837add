"""The English of headlines: sentences for facts, in two lengths."""

from datetime import date
from decimal import Decimal
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kalendor.core.groupings.ground import groupings
from kalendor.core.placing.material import Material
from kalendor.core.report import work_out
from kalendor.core.values.keys import local
from kalendor.output.headline.english import long, short
from kalendor.output.headline.facts import Change, Facts, Move, Said, Total
from kalendor.output.headline.headline import Headline, has_moved, headline
from tests.core.build import TODAY, records, report, traced

NET = Said("331,742.50", "331.7 thousand")
PERCENT, FIVE = Said("7.4%", "7.4%"), Said("5.00", "5")
YEAR = "a year earlier"
ROSE, FELL = (
    Move(("Outer Banks",), "rose", True, Said("12,345.00", "12.3 thousand"), "8.4%"),
    Move(("Brae",), "fell", False, FIVE),
)


def about(change: Change | None = None, when: str = "in July 2026", **more: Any) -> Facts:
    return Facts(Total("Net", NET, change), when, **more)


@pytest.mark.parametrize(
    ("facts", "sentences", "in_short"),
    [
        (about(when=""), ["Net came to 331,742.50."], "Net came to 331.7 thousand."),
        (about(when="in TY26 to 31 July"), ["Net in TY26 to 31 July came to 331,742.50."], "Net in TY26 to 31 July came to 331.7 thousand."),
        (about(Change(YEAR, 1, PERCENT)), ["Net in July 2026 came to 331,742.50, 7.4% more than a year earlier."],
         "Net in July 2026 came to 331.7 thousand, 7.4% more than a year earlier."),
        (about(Change(YEAR, -1, Said("12,345.00", "12.3 thousand"))), ["Net in July 2026 came to 331,742.50, 12,345.00 less than a year earlier."],
         "Net in July 2026 came to 331.7 thousand, 12.3 thousand less than a year earlier."),
        (about(Change(YEAR, 0, PERCENT)), ["Net in July 2026 came to 331,742.50, as much as a year earlier."],
         "Net in July 2026 came to 331.7 thousand, as much as a year earlier."),
        (about(Change("Plan", -1, PERCENT, beside=True)), ["Net in July 2026 came to 331,742.50, 7.4% below Plan."],
         "Net in July 2026 came to 331.7 thousand, 7.4% below Plan."),
        (about(Change("Plan", 0, PERCENT, beside=True)), ["Net in July 2026 came to 331,742.50, the same as Plan."],
         "Net in July 2026 came to 331.7 thousand, the same as Plan."),
        (about(Change(YEAR, lacking="with nothing a year earlier to compare it with")),
         ["Net in July 2026 came to 331,742.50, with nothing a year earlier to compare it with."],
         "Net in July 2026 came to 331.7 thousand, with nothing a year earlier to compare it with."),
        (about(Change(YEAR, 1, PERCENT), moves=(ROSE, FELL)),
         ["Net in July 2026 came to 331,742.50, 7.4% more than a year earlier.", "Outer Banks rose most, by 12,345.00 (8.4%); Brae fell, by 5.00."],
         "Net in July 2026 came to 331.7 thousand, 7.4% more than a year earlier. Outer Banks rose most; Brae fell."),
        (about(moves=(Move(("a", "b"), "rose", True, FIVE),)), ["Net in July 2026 came to 331,742.50.", "a and b rose most, by 5.00 each."],
         "Net in July 2026 came to 331.7 thousand. a and b rose most."),
        (about(moves=(Move(("a", "b", "c", "d"), "went", False, FIVE),)),
         ["Net in July 2026 came to 331,742.50.", "a, b and 2 others are gone, by 5.00 each."], "Net in July 2026 came to 331.7 thousand. a, b and 2 others are gone."),
        (about(moves=(Move(("a",), "above", True, FIVE, base="Plan"), Move(("b",), "below", False, None, base="Plan"))),
         ["Net in July 2026 came to 331,742.50.", "a is most above Plan, by 5.00; b is below Plan."],
         "Net in July 2026 came to 331.7 thousand. a is most above Plan; b is below Plan."),
        (about(moves=(Move(("a",), "came", False),)), ["Net in July 2026 came to 331,742.50.", "a came new."], "Net in July 2026 came to 331.7 thousand. a came new."),
        (about(largest=("x",), largest_amount=FIVE), ["Net in July 2026 came to 331,742.50.", "x is largest, with 5.00."], "Net in July 2026 came to 331.7 thousand."),
        (about(largest=("x", "y"), largest_amount=FIVE), ["Net in July 2026 came to 331,742.50.", "x and y are largest, with 5.00 each."],
         "Net in July 2026 came to 331.7 thousand."),
        (about(others=(Total("Cost", FIVE, Change(YEAR, -1, PERCENT)), Total("Margin", PERCENT, adds=False))),
         ["Net in July 2026 came to 331,742.50.", "Cost came to 5.00, 7.4% less than a year earlier; Margin was 7.4%."], "Net in July 2026 came to 331.7 thousand."),
        (about(not_placed=FIVE, not_placed_level="Area"), ["Net in July 2026 came to 331,742.50.", "5.00 of it has no Area yet."], "Net in July 2026 came to 331.7 thousand."),
        (Facts(Total("Net", Said("0.00", "0"), nothing=True), "in 2026"), ["Net in 2026 came to nothing."], "Net in 2026 came to nothing."),
        (Facts(Total("Mean net", Said("0.00", "0"), adds=False, nothing=True)), ["Mean net was 0.00."], "Mean net was 0."),
    ],
)  # fmt: skip
def test_facts_in_english(facts: Facts, sentences: list[str], in_short: str) -> None:
    assert list(long(facts)) == sentences
    assert short(facts) == in_short


DATA = records(
    on=[date(y, m, 1) for y in (2025, 2026) for m in (3, 4, 5)], a=["x", "y", "z", "x", "y", "z"],
    n=[Decimal(n) for n in ("100000", "4", "5", "120000.5", "4", "6")], plan=[0, 0, 0, 130_000, 4, 6],
)  # fmt: skip
N = {"name": "N", "take": "sum", "of": "n"}
YEARS: dict[str, Any] = {
    "across": [{"period": "on", "grains": ["year"]}],
    "down": [{"category": "a"}],
    "as_of": "2026-12-31",
}
CHANGE = {"name": "Change", "compare": "N", "with": "year_earlier", "as": "percent"}


def over(**keys: Any) -> Headline:
    asked, material, memo = report(**keys), Material(DATA, groupings([]), {}, 0), local()
    found = work_out(asked, material, TODAY, None, memo)
    return headline(asked, found, lambda cell: traced(asked, material, found, cell, memo=memo))


@pytest.mark.parametrize(
    ("keys", "sentences", "in_short"),
    [
        ({"figures": [N, CHANGE], **YEARS},
         ("N in 2026 came to 120,010.5, 20.0% more than a year earlier.", "x rose most, by 20,000.5 (20.0%)."),
         "N in 2026 came to 120 thousand, 20.0% more than a year earlier. x rose most."),
        ({"figures": [N, {"name": "Plan", "take": "sum", "of": "plan"}, {**CHANGE, "with": {"figure": "Plan"}}], **YEARS},
         ("N in 2026 came to 120,010.5, 7.7% below Plan.", "x is below Plan, by 9,999.5.", "Plan came to 130,010."),
         "N in 2026 came to 120 thousand, 7.7% below Plan. x is below Plan."),
        ({"figures": [N, CHANGE], **YEARS, "as_of": "2026-04-15"},
         ("N in 2026 came to 120,010.5; to 15 April, it was 20.0% more than a year earlier.", "x rose, by 20,000.5 (20.0%)."),
         "N in 2026 came to 120 thousand; to 15 April, it was 20.0% more than a year earlier. x rose."),
        ({"figures": [N, CHANGE], **YEARS, "only": ["a = 'y'"]}, ("N in 2026 came to 4.0, as much as a year earlier.",), "N in 2026 came to 4, as much as a year earlier."),
        ({"figures": [{**N, "format": {"unit": "thousands"}}], "down": [{"category": "a"}]},
         ("N came to 220.0 thousand.", "x is largest, with 220.0 thousand."), "N came to 220 thousand."),
        ({"figures": [N], "down": [{"category": "a"}], "only": ["n < 0"]}, (), ""),
    ],
)  # fmt: skip
def test_a_sheet_in_english(keys: dict[str, Any], sentences: tuple[str, ...], in_short: str) -> None:
    found = over(**keys)
    assert (found.sentences, found.short) == (sentences, in_short)


SAID = st.builds(Said, st.sampled_from(["1,234.50", "−5", "0.00"]), st.sampled_from(["1.2 thousand", "−5", "0"]))
CHANGES = st.none() | st.builds(
    Change,
    st.just(YEAR),
    st.sampled_from([-1, 0, 1]),
    SAID,
    st.booleans(),
    st.sampled_from(["", "with nothing to compare it with"]),
)
TOTALS = st.builds(Total, st.sampled_from(["Net", "Cost"]), SAID, CHANGES, st.booleans(), st.booleans())
MOVES = st.builds(
    Move, st.lists(st.sampled_from("abcde"), min_size=1, max_size=5, unique=True).map(tuple), st.sampled_from(["rose", "fell", "came", "went", "above", "below"]),
    st.booleans(), st.none() | SAID, st.sampled_from(["", "8.4%"]), st.just("Plan"),
)  # fmt: skip


@given(st.builds(
    Facts, TOTALS, st.sampled_from(["", "in 2026"]), st.lists(TOTALS, max_size=2).map(tuple), st.lists(MOVES, max_size=2).map(tuple),
    st.sampled_from([(), ("x",), ("x", "y")]), st.none() | SAID, st.none() | SAID, st.just("Area"),
))  # fmt: skip
def test_any_facts_are_whole_sentences(facts: Facts) -> None:
    for sentence in (*long(facts), short(facts)):
        assert sentence.endswith(".")
        assert not sentence.endswith("..")
        assert not any(odd in sentence for odd in ("  ", " ,", "()", " .", ", ."))
    assert short(facts).startswith(f"{facts.total.name} ")


def test_a_headline_has_moved_where_its_numbers_have() -> None:
    assert not has_moved(["N in Jul 2026 came to 5.00."], ["N in July 2026 came to 5.00, 2% more than a year earlier."])
    assert has_moved(["N came to 5.00."], ["N came to 6.00."])
