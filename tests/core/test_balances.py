"""Balances: a key counts once in a period, at its last record, and is carried forward on request."""

from datetime import date
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from tests.core.build import records, table

days = st.dates(date(2026, 1, 1), date(2026, 4, 30))
moves = st.lists(st.tuples(days, st.sampled_from("abc"), st.sampled_from("xyz"), st.integers(-9, 99)), min_size=1, max_size=25)  # fmt: skip
MONTHS = {"period": "on", "grains": ["month"]}


def balance(carry: bool) -> dict[str, Any]:
    return {"name": "closing", "take": "balance", "of": "v", "by": "on", "keys": ["key"], "carry": carry}


def reckoned(rows: list[tuple[date, str, str, int]], carry: bool, month: int | None, line: str | None) -> str:
    """The sum over a line's keys of each one's last record in a month (up to its end, if carried)."""
    last = {}
    for on, key, area, value in sorted(rows, key=lambda r: r[0]):
        if month is None or on.month == month or (carry and on.month < month):
            last[key] = (area, value)
    mine = [value for area, value in last.values() if line in (None, area)]
    return str(sum(mine)) if mine else ""


@given(moves, st.booleans(), st.booleans())
def test_balances_are_what_a_plain_reckoning_says(
    rows: list[tuple[date, str, str, int]], carry: bool, window: bool
) -> None:
    on, key, area, v = (list(part) for part in zip(*rows, strict=True))
    data = records(on=on, key=key, area=area, v=v)
    more: dict[str, Any] = (
        {"window": {"of": "on", "show": {"from": "2026-03-01", "to": "2026-04-30"}}} if window else {}
    )
    found = table(data, down=[{"category": "area"}], across=[MONTHS], figures=[balance(carry)], **more)
    kept = [r for r in rows if not window or r[0].month >= 3]
    for row in found:
        month = int(row["month start"][5:7]) if row["month start"] else None
        want = reckoned(rows if carry else kept, carry, month, row["area"] or None)
        assert row["closing"] == want, row


def test_lines_add_up_where_a_key_moves_to_another_line() -> None:
    data = records(
        on=[date(2026, 1, 5), date(2026, 1, 20), date(2026, 1, 9)],
        key=["k", "k", "m"],
        area=["x", "y", "x"],
        v=[5, 7, 1],
    )
    rows = table(data, down=[{"category": "area"}], across=[MONTHS], figures=[balance(False)])
    assert {(r["area"], r["month"]): r["closing"] for r in rows}[("x", "Jan 2026")] == "1"
    assert {(r["area"], r["month"]): r["closing"] for r in rows}[("", "Jan 2026")] == "8"


def test_a_balance_takes_the_last_of_each_key_and_adds_the_keys_never_over_time() -> None:
    on = [date(2026, 1, 5), date(2026, 1, 20), date(2026, 1, 10), date(2026, 2, 3), date(2026, 2, 1)]
    data = records(pier=["H", "H", "B", "H", "B"], on=on, stock=[5, 7, 10, 4, None])
    balance = {"name": "closing", "take": "balance", "of": "stock", "by": "on", "keys": ["pier"]}
    rows = table(data, down=[{"period": "on", "grains": ["month"]}], across=[{"category": "pier"}], figures=[balance])
    assert {(r["month"], r["pier"]): r["closing"] for r in rows} == {
        ("Jan 2026", "B"): "10", ("Jan 2026", "H"): "7", ("Jan 2026", ""): "17",
        ("Feb 2026", "B"): "", ("Feb 2026", "H"): "4", ("Feb 2026", ""): "4", ("", "B"): "10", ("", "H"): "4", ("", ""): "14",
    }  # fmt: skip
