"""No negation, number or date is dropped or inverted: each is used, or named."""

from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from kalendor.sentence.tokens import tokens
from tests.sentence.build import compared, heard

PHRASES = [
    "net", "average net", "records", "net minus cost", "by area", "down by clinic", "then category", "across by quarter", "months across",
    "by fiscal year", "only completed", "north", "excluding cancelled", "where net is over 500", "status is open", "in 2025",
    "since January 2026", "last 3 months", "top 5 clinics", "biggest first", "percent change", "against last year", "share of the total",
    "running total", "without subtotals", "keep areas with net over 1,000", "records by net in ranges of 100 from 0 to 1000",
]  # fmt: skip
LATE = [
    "not",
    "except",
    "excluding",
    "without",
    "7",
    "1,250",
    "2025",
    "2024-02-29",
    "3 March 2025",
    "12%",
    "40k",
    "but not",
    "90th",
    "no",
]


def figures_of(value: Any) -> str:
    """A complete report as one text."""
    return repr(value)


@given(
    st.lists(st.sampled_from(PHRASES), min_size=1, max_size=5),
    st.sampled_from([" ", ", ", " and "]),
    st.sampled_from(LATE),
    st.data(),
)
def test_each_denial_number_and_date_is_used_or_named(
    phrases: list[str], joint: str, late: str, data: st.DataObject
) -> None:
    before = joint.join(phrases)
    words = before.split(" ")
    at = data.draw(st.integers(0, len(words)))
    after = " ".join([*words[:at], late, *words[at:]])
    with_it, without = heard(after), heard(before)
    named = {word.casefold() for text in with_it.unknown for word in text.split()}
    if with_it.report is None or any(part.word in named or part.text.casefold() in named for part in tokens(late)):
        return
    if with_it.unknown or without.unknown or without.report is None:
        return  # named otherwise, and so refused
    assert figures_of(compared(with_it.report)) != figures_of(compared(without.report)), (before, after)


@given(st.sampled_from(["cancelled", "open", "north", "completed and open", "north, south"]), st.sampled_from(
    ["not", "except", "except for", "excluding", "without", "but not", "other than", "apart from", "ignoring", "leave out", "leaving out"]
), st.booleans())  # fmt: skip
def test_what_is_denied_is_never_asked_for(values: str, denial: str, first: bool) -> None:
    found = heard(f"{denial} {values}, net by clinic" if first else f"net by clinic {denial} {values}")
    assert found.whole
    assert found.report is not None
    assert found.report.only
    for condition in found.report.only:
        assert "<>" in condition or "NOT IN" in condition
        assert condition.endswith("IS NULL")
