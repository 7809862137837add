"""Invariants of groupings over any records."""

from datetime import date
from decimal import Decimal
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from kalendor.core.groupings.buckets import cuts_of, ranges
from kalendor.core.groupings.entries import grouped
from kalendor.core.groupings.ground import Ground, groupings
from kalendor.core.values.columns import day_number, number_column
from kalendor.definitions.kinds import definition
from tests.core.build import records, report, table

quick = settings(max_examples=60, deadline=None)
days = st.lists(st.one_of(st.none(), st.dates(date(2015, 1, 1), date(2035, 12, 31))), min_size=1, max_size=40)
calendars = st.one_of(
    st.builds(lambda m, d: {"months": {"start_month": m, "start_day": d}}, st.integers(1, 12), st.integers(1, 28)),
    st.builds(
        lambda p, e, w, m: {"weeks": {"pattern": p, "ends": e, "weekday": w, "month": m}},
        st.sampled_from(["4-4-5", "4-5-4", "5-4-4", "13x4"]), st.sampled_from(["last", "nearest"]),
        st.sampled_from(["monday", "saturday", "sunday"]), st.integers(1, 12),
    ),
)  # fmt: skip


def levels_of(on: list[Any], calendar: dict[str, Any], grains: list[str]) -> list[Any]:
    on = [on[0] or date(2026, 1, 1), *on[1:]]
    document = definition({"kalendor": 1, "kind": "calendar", "name": "C", **calendar}, "t")
    entry = report(down=[{"period": "on", "calendar": "C", "grains": grains}]).down
    ground = Ground(records(on=on), groupings([document]), day_number(date(2026, 8, 4)))  # type: ignore[list-item]
    return list(grouped(ground, entry, []).down)


@quick
@given(days, calendars)
def test_every_record_falls_in_one_period_and_periods_stand_in_order(on: list[Any], calendar: dict[str, Any]) -> None:
    for level in levels_of(on, calendar, ["year", "half", "quarter", "month", "week"]):
        assert (level.codes >= 0).all()
        assert (level.codes < level.size).all()
        starts = level.members.starts[: len(level.period.numbers)]
        assert (np.diff(starts) > 0).all()


@quick
@given(days, calendars)
def test_coarser_periods_hold_their_finer_ones(on: list[Any], calendar: dict[str, Any]) -> None:
    year, half, quarter, month = levels_of(on, calendar, ["year", "half", "quarter", "month"])
    for coarse, fine in ((year, half), (half, quarter), (quarter, month), (year, month)):
        pairs = {(int(f), int(c)) for f, c in zip(fine.codes, coarse.codes, strict=True)}
        assert len({f for f, _ in pairs}) == len(pairs), "a finer period lies in two coarser ones"


@quick
@given(
    st.lists(st.decimals(-1000, 1000, places=2), min_size=1, max_size=8, unique=True),
    st.lists(st.decimals(-2000, 2000, places=2), min_size=1, max_size=40),
)
def test_ranges_cover_the_line_without_gap_or_overlap(cuts: list[Decimal], values: list[Decimal]) -> None:
    cut = [float(c) for c in sorted(cuts)]
    codes, members = ranges(number_column(values, 2), "v", cut, None)
    exact = cuts_of(cut)
    for value, code in zip(values, codes.tolist(), strict=True):
        low = exact[code - 1] if code > 0 else None
        high = exact[code] if code < len(exact) else None
        assert low is None or low <= value
        assert high is None or value < high
    assert len(members) == len(cut) + 1
    assert len(set(members.labels)) == len(members)


@quick
@given(
    st.lists(
        st.tuples(st.sampled_from(["a", "b", "c", None]), st.sampled_from(["x", "y"]), st.decimals(-99, 99, places=2)),
        min_size=1,
        max_size=40,
    ),
    st.integers(1, 3),
)
def test_the_sum_over_members_is_the_total_also_with_a_top_and_other(rows: list[Any], top: int) -> None:
    a, b, amount = (list(c) for c in zip(*rows, strict=True))
    a[0] = "a"
    figures = [{"name": "s", "take": "sum", "of": "amount"}, {"name": "n", "take": "count"}]
    found = table(
        records(a=a, b=b, amount=amount),
        down=[{"category": "b"}, {"category": "a", "top": top, "by": "n"}],
        figures=figures,
    )
    leaves = [r for r in found if r["down_level"] == "a"]
    groups = [r for r in found if r["down_level"] == "b"]
    (total,) = [r for r in found if r["down_level"] == "Total"]
    for name in ("s", "n"):
        assert sum(Decimal(r[name] or 0) for r in leaves) == Decimal(total[name] or 0)
        for group in groups:
            inside = [Decimal(r[name] or 0) for r in leaves if r["b"] == group["b"]]
            assert sum(inside) == Decimal(group[name] or 0)
    for group in groups:
        ordinary = [
            r["a"] for r in leaves if r["b"] == group["b"] and r["a"] != "(blank)" and not r["a"].startswith("Other")
        ]
        assert len(ordinary) <= top
