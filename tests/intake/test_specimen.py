"""A specimen contains every value that occurs, with counts over all records, for any partitions."""

import itertools
from dataclasses import replace
from datetime import date
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from kalendor.core.values.columns import column_days
from kalendor.definitions.recipe import Recipe
from kalendor.desk.linked.work import specimen_from_bytes, specimen_to_bytes
from kalendor.intake import specimen
from kalendor.intake.reading import read_bytes
from kalendor.intake.specimen import Days, Facts, put_together, specimen_of
from kalendor.intake.typed import Reading

rows = st.lists(
    st.tuples(
        st.sampled_from(["North", "South", "", "Éast"]),
        st.sampled_from(["", *map(str, (date(2025, 1, 31), date(2025, 2, 1), date(2026, 12, 31)))]),
        st.one_of(st.just(""), st.integers(-999, 999).map(str)),
    ),
    min_size=3,
    max_size=40,
)


def reading_of(records: list[tuple[str, ...]]) -> Reading:
    head = [("North", "2025-01-31", "7"), ("South", "2026-12-31", "-3")]  # so that kinds are known
    text = "\n".join(["place,on,n", *(",".join(r) for r in [*head, *records])])
    return read_bytes(text.encode(), "r.csv", Recipe(foot_lines=0))


def part(whole: Reading, a: int, b: int) -> Reading:
    at = np.arange(a, b)
    return replace(whole, records=whole.records.take(at), lines=whole.lines[a:b], empty=1)


def values(column: Any) -> set[Any]:
    return {column.item(i) for i in range(len(column))} - {None}


@given(rows, st.lists(st.integers(0, 42), max_size=4))
def test_however_cut_it_shows_and_counts_the_same(records: list[tuple[str, ...]], cuts: list[int]) -> None:
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(specimen, "FIRST", 2)
        whole = reading_of(records)
        count = whole.records.count
        bounds = [0, *sorted(min(c, count) for c in cuts), count]
        parts = [specimen_of(part(whole, a, b)) for a, b in itertools.pairwise(bounds)]
        found = specimen_from_bytes(specimen_to_bytes(put_together(parts)))
        columns = whole.records.columns
        assert found.facts == replace(specimen_of(whole).facts, empty=len(parts))
        assert found.facts.records == count
        assert values(found.records.columns["place"]) == values(columns["place"])
        assert column_days(found.records.columns["on"]) == column_days(columns["on"])
        numbers = values(columns["n"])
        assert {min(numbers), max(numbers)} <= values(found.records.columns["n"])
        lines = dict(zip(whole.lines.tolist(), range(count), strict=True))
        for row, line in enumerate(found.lines.tolist()):
            there = whole.records.take(np.array([lines[line]]))
            assert [c.item(row) for c in found.records.columns.values()] == [c.item(0) for c in there.columns.values()]


def test_days_too_far_apart_are_not_counted_one_by_one() -> None:
    far = Facts(1, days={"on": Days(0, (1,))}) + Facts(1, days={"on": Days(50_000, (1,))})
    assert (far.records, far.days) == (2, {})
    assert Facts.from_json(Facts(3, 1, 2, {"on": 1}, {"on": Days(5, (1, 0, 2))}).as_json()).spanned == (
        "1970-01-06",
        "1970-01-08",
    )
