"""Columns stored as rows of a records table, whatever the order of their values."""

from datetime import date, datetime, time
from decimal import Decimal
from itertools import pairwise
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from kalendor.core.values.columns import Column, Kind, text_column
from kalendor.core.values.words import Words
from kalendor.store import rows
from kalendor.store.rows import SqlValues, from_sql, to_sql

WORDS = tuple(f"word {i}" for i in range(12))


@given(st.lists(st.integers(0, 11)), st.lists(st.integers(0, 40), max_size=4), st.booleans(), st.integers(0, 12))
def test_texts_part_by_part(codes: list[int], cuts: list[int], in_arrays: bool, most: int) -> None:
    words = Words.of(WORDS) if in_arrays else WORDS
    column = Column(Kind.TEXT, np.array(codes, dtype=np.int32), words=words)
    places = sorted({0, len(codes), *(c for c in cuts if c <= len(codes))})
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(rows, "MOST_WRITTEN", most)
        values = SqlValues(column)
        found = [v for a, b in pairwise(places) for v in values.between(a, b)]
    assert found == [WORDS[c] for c in codes]


def test_codes_whose_ends_are_as_far_apart_as_they_are_many() -> None:
    column = Column(Kind.TEXT, np.array([0, 9, 9, 3], dtype=np.int32), words=WORDS)
    assert to_sql(column) == [WORDS[0], WORDS[9], WORDS[9], WORDS[3]]


COLUMNS: list[tuple[Column, list[Any], list[Any]]] = [
    (text_column(["b", None, "a", "b"]), ["b", None, "a", "b"], ["b", None, "a", "b"]),
    (
        Column(Kind.DATE, np.array([20000, 0, -30000], dtype=np.int32), np.array([False, True, False])),
        ["2024-10-04", None, "1887-11-12"],
        [date(2024, 10, 4), None, date(1887, 11, 12)],
    ),
    (
        Column(Kind.DATETIME, np.array([1_700_000_000_000_000, -1_000_000])),
        ["2023-11-14T22:13:20", "1969-12-31T23:59:59"],
        [datetime(2023, 11, 14, 22, 13, 20), datetime(1969, 12, 31, 23, 59, 59)],
    ),
    (Column(Kind.TIME, np.array([50_700_000_000, 0])), ["14:05:00", "00:00:00"], [time(14, 5), time()]),
    (Column(Kind.YES_NO, np.array([True, False])), [1, 0], [True, False]),
    (
        Column(Kind.DECIMAL, np.array([150, 0]), np.array([False, True]), 2),
        [150, None],
        [Decimal("1.50"), None],
    ),
    (Column(Kind.APPROXIMATE, np.array([0.1, 2.5])), [0.1, 2.5], [0.1, 2.5]),
    (Column(Kind.WHOLE, np.zeros(0, dtype=np.int64)), [], []),
]


@pytest.mark.parametrize(("column", "kept", "items"), COLUMNS, ids=[c.kind for c, _, _ in COLUMNS])
def test_each_kind_goes_and_comes_back(column: Column, kept: list[Any], items: list[Any]) -> None:
    assert to_sql(column) == kept
    back = from_sql(kept, column.kind, column.places)
    assert [back.item(i) for i in range(len(back))] == items
