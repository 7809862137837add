"""A nearly unique column is read directly as amounts exactly if its different texts would be read the same."""

from typing import Any

import numpy as np
import pyarrow as pa
import pytest
from hypothesis import given
from hypothesis import strategies as st

from kalendor.core.values.columns import Column
from kalendor.definitions.recipe import ColumnReading
from kalendor.intake.findings import Finding, find
from kalendor.intake.loose import Loose

AMOUNT = st.one_of(
    st.integers(-(10**14), 10**14).map(str),
    st.decimals(-(10**6), 10**6, allow_nan=False, places=2).map(str),
    st.decimals(-10, 10, allow_nan=False, places=9).map(str),
    st.sampled_from(
        ["", "0", "-0.00", "007", "00.5", ".5", "5.", "-", ".", "1.2.3", "1-2", "1e3", "nan", "(4.50)", "£3"]
    ),
    st.sampled_from(["1,234.50", "1.234,50", "20260704", "2026-07-04", "04.07.2026", "12:30", "+3", "-007", "yes"]),
)
TOLD = st.sampled_from(
    [
        ColumnReading(),
        ColumnReading(type="decimal", places=2),
        ColumnReading(type="decimal", places=9),
        ColumnReading(type="whole"),
        ColumnReading(type="text"),
        ColumnReading(type="decimal", decimal_mark=","),
        ColumnReading(type="approximate"),
        ColumnReading(type="date", format="%Y%m%d"),
    ]
)


def failures(found: Finding) -> list[bool]:
    return [False] * len(found.column) if found.failed is None else found.failed.tolist()


def said(found: Finding | None) -> Any:
    if found is None:
        return None
    column: Column = found.column
    items = [column.item(i) for i in range(len(column))]
    return column.kind, column.places, items, failures(found), found.reading, found.rival


@given(st.lists(AMOUNT, min_size=1, max_size=20), TOLD, st.booleans())
def test_straight_or_by_way_of_the_different_texts(texts: list[str], told: ColumnReading, strict: bool) -> None:
    loose = Loose(pa.array(texts, pa.large_string()))
    assert said(find(loose, told, strict)) == said(find(loose.coded, told, strict))


@given(st.lists(st.decimals(-(10**8), 10**8, allow_nan=False, places=4), min_size=1))
def test_amounts_are_exact(amounts: list[Any]) -> None:
    found = Loose(pa.array([str(a) for a in amounts], pa.large_string())).numbers()
    assert found is not None
    assert [found.item(i) for i in range(len(found))] == amounts


@pytest.mark.parametrize("texts", [["007"], ["1234567890123456"], ["1.2.3"], ["1e5"], ["nan"], ["-"], ["1 000"]])
def test_what_is_not_written_plainly_is_left_to_the_slower_way(texts: list[str]) -> None:
    assert Loose(pa.array(texts, pa.large_string())).numbers() is None


def test_texts_are_taken_and_looked_at() -> None:
    loose = Loose(pa.array(["a", "", "b", "c"], pa.large_string())).take(np.array([True, True, False, True]))
    assert [loose.item(i) for i in range(len(loose))] == ["a", None, "c"]
    assert loose.blanks.tolist() == [False, True, False]
    assert loose.first_different(2) == ["a"]
    part = Loose(pa.array(["7", "8", "9"], pa.large_string())[1:])
    numbers = part.numbers()
    assert numbers is not None
    assert numbers.values.tolist() == [8, 9]
