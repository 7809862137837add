"""Lines and columns kept or left out by a condition: in any report, exactly their records stay, or the others."""

from dataclasses import replace
from datetime import date
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from kalendor.core.formulas.meeting import rows_where
from kalendor.core.groupings.levels import OTHER, WORKED
from kalendor.core.placing.material import Material
from kalendor.core.plan import Plan, planned
from kalendor.core.report import narrowing
from kalendor.definitions.kinds import definition
from kalendor.errors import DefinitionError
from tests.core.build import TODAY, records, report
from tests.core.test_any_report import MATERIAL, reports


def plan_of(body: dict[str, Any]) -> Plan | None:
    try:
        return planned(definition(body, "test"), replace(MATERIAL, stamp="narrowing"), TODAY)  # type: ignore[arg-type]
    except DefinitionError:
        return None


@given(reports(), st.data())
def test_what_is_kept_and_what_is_left_out_are_all_records(body: dict[str, Any], data: st.DataObject) -> None:
    plan = plan_of({key: value for key, value in body.items() if key != "beside"})
    down = data.draw(st.booleans())
    axis = None if plan is None else plan.reckoner.frame.lines if down else plan.reckoner.frame.columns
    if plan is None or axis is None or axis.count < 2:
        return
    depth = data.draw(st.integers(1, len(axis.levels)))
    there = np.flatnonzero(axis.depth >= depth).tolist()
    if not there:
        return
    places = data.draw(st.lists(st.sampled_from(there), min_size=1, max_size=3))
    kept, left = (narrowing(plan, down, places, depth, keep) for keep in (True, False))
    level = axis.levels[depth - 1]
    mine = [k for k in range(depth) if axis.levels[k].entry == level.entry]
    special = {int(axis.levels[k].members.special[axis.path[place, k]]) for place in places for k in mine}
    if special & {OTHER, WORKED}:
        assert kept is left is None
        return
    if level.kind == "category":
        assert kept is not None or left is not None or not plan.ground.records.count, "nothing is said of a category"
    wanted = np.zeros(plan.ground.records.count, dtype=bool)
    for place in places:
        wanted |= np.logical_and.reduce([axis.levels[k].codes == axis.path[place, k] for k in mine])
    for condition, rows in ((kept, np.flatnonzero(wanted)), (left, np.flatnonzero(~wanted))):
        if condition is not None:
            assert np.array_equal(rows_where([condition], plan.ground.records, plan.ground.as_of), rows)


SMALL = records(
    area=["North", "South", None, "North", "Far", "South"],
    on=[date(2025, 2, 3), date(2026, 2, 9), date(2026, 1, 31), None, date(2026, 3, 9), date(2026, 3, 1)],
    v=[1, 12, None, 9, 45, 30],
)
BY_AREA: dict[str, Any] = {"down": [{"category": "area"}]}
MONTHS: dict[str, Any] = {"down": [{"period": "on", "grains": ["year", "month"]}]}


@pytest.mark.parametrize(
    ("keys", "labels", "depth", "keep", "want"),
    [
        (BY_AREA, ["North"], 1, True, "\"area\" = 'North'"),
        (BY_AREA, ["North"], 1, False, "\"area\" <> 'North' OR \"area\" IS NULL"),
        (BY_AREA, ["(blank)"], 1, True, '"area" IS NULL'),
        (BY_AREA, ["(blank)"], 1, False, '"area" IS NOT NULL'),
        (BY_AREA, ["North", "South"], 1, True, "\"area\" IN ('North', 'South')"),
        (BY_AREA, ["North", "(blank)"], 1, False, "\"area\" <> 'North'"),
        (MONTHS, ["2026"], 1, True, "\"on\" BETWEEN DATE '2026-01-01' AND DATE '2026-12-31'"),
        (MONTHS, ["Feb 2026"], 2, False,
         "NOT (\"on\" BETWEEN DATE '2026-02-01' AND DATE '2026-02-28') OR \"on\" IS NULL"),
        (MONTHS, ["Feb 2026"], 1, True, "\"on\" BETWEEN DATE '2026-01-01' AND DATE '2026-12-31'"),
        ({"down": [{"period": "on", "grains": ["month_of_year"]}]}, ["Feb"], 1, True, 'EXTRACT(MONTH FROM "on") = 2'),
        ({"down": [{"bucket": "v", "cut": [0, 10, 30]}]}, ["0 – 9"], 1, False,
         'NOT ("v" >= 0 AND "v" < 10) OR "v" IS NULL'),
        ({"down": [{"age": "on", "cut": [0, 30, 60]}], "as_of": "2026-03-09"}, ["1 – 30"], 1, True,
         'AS_OF - "on" BETWEEN 1 AND 30'),
    ],
)  # fmt: skip
def test_the_condition_that_keeps_or_leaves_out(
    keys: dict[str, Any], labels: list[str], depth: int, keep: bool, want: str
) -> None:
    material = Material(SMALL)
    plan = planned(report(**keys), material, TODAY)
    axis = plan.reckoner.frame.lines
    named = {
        axis.levels[int(axis.depth[i]) - 1].members.labels[axis.path[i, int(axis.depth[i]) - 1]]: i
        for i in range(1, axis.count)
    }
    assert narrowing(plan, True, [named[label] for label in labels], depth, keep) == want


def test_totals_and_what_a_top_leaves_over_have_no_condition() -> None:
    keys = {"down": [{"category": "area", "top": 1, "by": "s"}], "figures": [{"name": "s", "take": "count"}]}
    plan = planned(report(**keys), Material(SMALL), TODAY)
    axis = plan.reckoner.frame.lines
    other = next(i for i in range(1, axis.count) if axis.levels[0].members.special[axis.path[i, 0]] == OTHER)
    assert narrowing(plan, True, [other], 1, True) is None
    assert narrowing(plan, True, [0], 1, True) is None
