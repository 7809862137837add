"""Parallel work gives the same results as work on one core, and values are sorted within their groups."""

import threading
import time
from contextvars import ContextVar
from datetime import date
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from kalendor.core.takes.aggregate import Of
from kalendor.core.takes.groups import Groups
from kalendor.core.takes.order_statistics import sorted_values
from kalendor.core.values import cores
from kalendor.core.values.columns import Column, Kind
from kalendor.core.values.cores import each
from kalendor.core.values.keys import key
from tests.core.build import records, table

SAID: ContextVar[str] = ContextVar("SAID", default="nothing")
EDGES = st.sampled_from([0, 1, -1, 2**31, -(2**31), 2**62, -(2**62), 2**63 - 1, -(2**63)])
VALUES = {
    Kind.WHOLE: (np.int64, st.one_of(st.integers(-4, 4), EDGES)),
    Kind.TEXT: (np.int32, st.integers(0, 5)),
    Kind.DATE: (np.int32, st.integers(-800_000, 3_000_000)),
    Kind.YES_NO: (np.bool_, st.booleans()),
    Kind.APPROXIMATE: (np.float64, st.floats(allow_nan=False, allow_infinity=False)),
}


@given(st.data(), st.sampled_from(list(VALUES)), st.integers(1, 4))
def test_values_are_sorted_within_their_groups(data: st.DataObject, kind: Kind, count: int) -> None:
    dtype, values = VALUES[kind]
    rows = data.draw(st.lists(st.tuples(st.integers(0, count - 1), values, st.booleans()), max_size=12))
    ids = np.array([row[0] for row in rows], dtype=np.int64)
    column = Column(
        kind, np.array([row[1] for row in rows], dtype=dtype), np.array([row[2] for row in rows], dtype=bool), 0, tuple("abcdef")
    )  # fmt: skip
    picked = data.draw(st.none() | st.lists(st.integers(0, max(0, len(rows) - 1)), unique=True).map(sorted))
    chosen = list(range(len(rows))) if picked is None or not rows else picked
    at = None if picked is None or not rows else np.array(picked, dtype=np.int64)
    groups = Groups(ids if at is None else ids[at], count, at, key("g"))
    found = sorted_values(groups, Of(column, None, None, 50.0, 1))
    for g in range(count):
        want = sorted(rows[i][1] for i in chosen if rows[i][0] == g and not rows[i][2])
        start, size = int(found.starts[g]), int(found.sizes[g])
        assert found.values[start : start + size].tolist() == want
    assert found.values.dtype == dtype


def test_parts_are_worked_on_beside_each_other_and_given_in_order(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(cores, "CORES", 2)
    both = threading.Barrier(2, timeout=20)
    SAID.set("from the one who asks")

    def work(part: int) -> tuple[int, str]:
        both.wait()
        return part * part, SAID.get()

    assert each(work, [1, 2, 3, 4], cores.MANY) == [(n * n, "from the one who asks") for n in (1, 2, 3, 4)]


def test_an_error_in_one_part_is_raised_and_the_rest_left(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(cores, "CORES", 2)
    begun: list[int] = []

    def work(part: int) -> int:
        begun.append(part)
        if part == 0:
            raise ValueError("the first")
        time.sleep(0.01)
        return part

    for records_ in (1, cores.MANY):
        with pytest.raises(ValueError, match="the first"):
            each(work, list(range(500)), records_)
    assert len(begun) < 300


def test_a_sheet_is_the_same_on_one_core_and_on_two(monkeypatch: pytest.MonkeyPatch) -> None:
    rng = np.random.default_rng(5)
    n = 3000
    data = records(
        area=[f"a{i}" for i in rng.integers(0, 5, n)], on=[date(2024 + int(i) % 2, 1 + int(i) % 12, 1) for i in rng.integers(0, 24, n)],
        v=[None if i % 11 == 0 else int(i) for i in rng.integers(-50, 50, n)],
    )  # fmt: skip
    how: dict[str, Any] = {
        "down": [{"category": "area"}], "across": [{"period": "on", "grains": ["year", "month"]}],
        "figures": [
            {"name": "d", "take": "distinct", "of": "v"}, {"name": "m", "take": "median", "of": "v"},
            {"name": "x", "take": "variance", "of": "v"}, {"name": "s", "take": "sum", "of": "v"},
            {"name": "b", "compare": "s", "with": "year_earlier", "as": "difference"},
        ],
    }  # fmt: skip
    one = table(data, **how)
    monkeypatch.setattr(cores, "CORES", 2)
    monkeypatch.setattr(cores, "MANY", 1)
    for _ in range(3):
        assert table(data, **how) == one
