"""Values that occur in several columns: the column is asked for, never guessed."""

import pytest

from kalendor.sentence.names import Column, names
from kalendor.sentence.nearest import nearest
from kalendor.sentence.reading import Read, read
from tests.core.build import TODAY

KNOWN = names(
    [Column("net", "number"), Column("status", "text", 3), Column("pay_status", "text", 3), Column("area", "text", 2)],
    {"status": ["Open", "closed", "late"], "pay_status": ["open", "late", "paid"], "area": ["north", "south"]},
)


def heard(text: str) -> Read:
    return read(text, KNOWN, TODAY)


@pytest.mark.parametrize(
    "text", ["net, only late", "late net by area", "net excluding late", "net by area, for late or paid", "only OPEN"]
)
def test_which_column_is_meant_is_asked(text: str) -> None:
    found = heard(text)
    assert not found.whole
    assert [word.casefold() for word in found.unknown] == ["open" if "OPEN" in text else "late"]


def test_what_is_asked_names_each_column_and_reads() -> None:
    near = nearest("late", KNOWN)
    assert [(one.text, one.value) for one in near] == [("status late", ("status", "late")), ("pay status late", ("pay_status", "late"))]  # fmt: skip
    for one in near:
        found = heard(f"net, excluding {one.text}")
        assert found.whole
        assert found.report is not None
        assert one.value is not None
        assert found.report.only == [f"{one.value[0]} <> 'late' OR {one.value[0]} IS NULL"]


@pytest.mark.parametrize(
    ("text", "only"),
    [
        ("net, only where status is late", ["status = 'late'"]),
        ("net, only where pay status is not late", ["pay_status <> 'late' OR pay_status IS NULL"]),
        ("net, status late", ["status = 'late'"]),
        ("net where pay status is OPEN", ["pay_status = 'open'"]),
        ("net where status is OPEN", ["status = 'Open'"]),
        ("net, only status late or closed", ["status IN ('late', 'closed')"]),
        ("net, only closed and north", ["status = 'closed'", "area = 'north'"]),
    ],
)
def test_a_column_or_a_spelling_that_is_said_decides(text: str, only: list[str]) -> None:
    found = heard(text)
    assert found.whole, (found.unknown, found.why)
    assert found.report is not None
    assert found.report.only == only
