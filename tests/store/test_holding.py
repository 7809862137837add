"""The effect of a file by month, against a simple count; and which files are held for review."""

from collections import Counter
from datetime import date, timedelta
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from kalendor.core.values.columns import Records
from kalendor.definitions.recipe import Join
from kalendor.store.holding import Joint, Judged, guessed_key
from kalendor.store.joining import replaced
from kalendor.store.keys import RecordKeys, found_in, repeated
from tests.core.build import records

Row = tuple[date | None, str, int]
MAY, JUNE, JULY = date(2026, 5, 1), date(2026, 6, 1), date(2026, 7, 1)


def table(rows: list[Row]) -> Records:
    more = [*rows, (date(2026, 1, 1), "x", 1)]  # so that the columns have their kinds
    found = records(day=[r[0] for r in more], code=[r[1] for r in more], n=[r[2] for r in more])
    return found.take(np.arange(len(rows)))


def month(first: date, count: int, begin: int = 0) -> list[Row]:
    return [(first + timedelta(days=n % 28), f"T{begin + n:05}", n * 7 % 900) for n in range(count)]


def joined(before: list[Row], after: list[Row], join: Join, by: tuple[str, ...] = (), over: float = 0.2) -> Judged:
    old, new = table(before), table(after)
    return Joint(old, new).judged(replaced(old, new, join, list(by)), over)


days = st.one_of(st.none(), st.dates(date(2026, 1, 1), date(2026, 5, 31)))
rows = st.lists(st.tuples(days, st.sampled_from("abcdef"), st.integers(0, 9)), max_size=40)


def plain(before: list[Row], after: list[Row], join: str) -> list[Row]:
    """The existing rows that a file replaces, by the rule's definition."""
    spoken = [row[0] for row in after if row[0]]
    if not after or join == "add":
        return []
    if join == "replace_all":
        return list(before)
    if join == "update":
        return [row for row in before if row[1] in {r[1] for r in after}]
    if not spoken:
        return []
    if join == "replace_dates":
        return [row for row in before if row[0] and min(spoken) <= row[0] <= max(spoken)]
    counts = Counter((day.year, day.month) for day in spoken)
    about = {m for m, count in counts.items() if count >= 0.2 * max(counts.values())}
    return [row for row in before if row[0] and (row[0].year, row[0].month) in about]


@settings(max_examples=300, deadline=None)
@given(
    rows,
    rows,
    st.sampled_from(["add", "replace_months", "replace_dates", "replace_all", "update"]),
    st.sampled_from([0.0, 0.2, 1.0]),
)
def test_the_strip_is_a_plain_count_by_month(before: list[Row], after: list[Row], join: Any, over: float) -> None:
    found = joined(before, after, join, ("code",) if join == "update" else (), over)
    leave = plain(before, after, join)

    def counted(of: list[Row]) -> Counter[str]:
        return Counter(f"{row[0]:%B %Y}" if row[0] else "without a date" for row in of)

    now, gone, come = counted(before), counted(leave), counted(after)
    told = {line.month: (line.now, line.leave, line.come) for line in found.months}
    assert {m: v for m, v in told.items() if v[1] or v[2]} == {m: (now[m], gone[m], come[m]) for m in {*gone, *come}}
    assert sum(line.after - line.now for line in found.months) == len(after) - len(leave)
    for line in found.months:
        assert line.held == (gone[line.month] > 0 and line.after < line.now * (1 - over))


@settings(max_examples=60, deadline=None)
@given(
    st.integers(60, 400), st.integers(60, 400), st.integers(0, 6), st.sampled_from(["add", "replace_months", "update"])
)
def test_an_ordinary_next_month_is_never_held(may: int, june: int, late: int, join: Any) -> None:
    before = month(MAY, may)
    after = month(JUNE, june, may) + [(MAY, f"L{n}", n) for n in range(late)]
    found = joined(before, after, join, ("code",) if join == "update" else ())
    assert found.reasons == ()
    assert [line.month for line in found.months] == (["May 2026", "June 2026"] if late else ["June 2026"])


def test_a_month_with_late_records_of_another_replaces_its_own_and_adds_those() -> None:
    before = month(MAY, 200) + month(JUNE, 180, 200)
    after = month(JUNE, 190, 200) + [(MAY, f"L{n}", n) for n in range(4)]
    assert joined(before, after, "replace_months").reasons == ()
    assert joined(before, after, "replace_dates").reasons == ("May 2026 would go from 200 records to 4",)


@pytest.mark.parametrize(
    ("before", "after", "join", "why"),
    [
        (month(JUNE, 100), month(JUNE, 200), "add", "100 of its 200 records stand already, every column the same"),
        (month(JUNE, 200), month(JUNE, 100), "add", "100 of its 100 records stand already"),
        (month(JUNE, 200), month(JUNE, 100), "replace_months", "June 2026 would go from 200 records to 100"),
        (month(MAY, 90) + month(JUNE, 90, 90), [*month(JULY, 90, 200), (JULY, "T00003", 1)], "add", "1 of its records have a code that stands already: T00003"),
        (month(MAY, 90), month(JUNE, 80, 100), "replace_all", "May 2026 would go from 90 records to 0"),
    ],
)  # fmt: skip
def test_what_takes_away_or_counts_twice_is_held(before: list[Row], after: list[Row], join: Any, why: str) -> None:
    found = joined(before, after, join)
    assert found.reasons[0].startswith(why)


def test_many_months_are_told_together() -> None:
    before = [(date(2026, m, 1), f"T{m}", m) for m in range(1, 8)]
    found = joined(before, [(date(2026, 9, 1), "x", 1)], "replace_all")
    assert len(found.reasons) == 4
    assert found.reasons[-1] == "4 more months would go from 4 records to 0"


def test_lines_that_are_counted_from_one_are_no_codes() -> None:
    before = records(day=[MAY] * 60, line=list(range(1, 61)))
    after = records(day=[JUNE] * 60, line=list(range(1, 61)))
    assert Joint(before, after).judged(np.zeros(0, np.int64), 0.2).reasons == ()


def test_the_narrowest_key_is_guessed_and_what_repeats_is_named() -> None:
    before = records(shop=["a", "a", "b", "b"], no=[1, 2, 1, 2], n=[5, 5, 5, 5])
    after = records(shop=["a", "c"], no=[1, 1], n=[5, 5])
    assert guessed_key(RecordKeys(before), RecordKeys(after)) == ["shop", "no"]
    assert guessed_key(RecordKeys(before.take(np.array([0, 1]))), RecordKeys(after.take(np.array([0])))) == ["no"]
    assert repeated(before, ["shop"]) == ["a", "b"]
    assert repeated(before, ["shop", "no"]) == []
    assert repeated(records(a=["x", "x"], b=["y", "y"]), ["a", "b"]) == ["x · y"]


@given(st.lists(st.integers(0, 50), max_size=60), st.lists(st.integers(0, 50), max_size=60), st.booleans())
def test_keys_are_found_among_others_whichever_way(some: list[int], others: list[int], many: bool) -> None:
    a, b = (
        np.array(found, dtype=np.uint64) * np.uint64(1 << 22) for found in (some, others)
    )  # all alike in their last bits
    if many:
        a, b = np.tile(a, 400), np.tile(b, 400)
    assert found_in(a, b).tolist() == np.isin(a, b).tolist()
