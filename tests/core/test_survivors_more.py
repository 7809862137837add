"""Further tests found by mutation testing, one for each mutant."""

import statistics
from datetime import date
from itertools import pairwise
from typing import Any

import numpy as np
import pytest

from kalendor.core.formulas.formulas import holds
from kalendor.core.formulas.scope import Scope
from kalendor.core.groupings.cadence_periods import civil_span, grain_named
from kalendor.core.groupings.calendars import calendar, years_of
from kalendor.core.groupings.ground import groupings
from kalendor.core.placing.material import Material
from kalendor.core.placing.windows import window_span
from kalendor.core.plan import planned
from kalendor.core.sheet.tieout import FootingError, footed
from kalendor.core.trail.cell import found_cell
from kalendor.core.values.columns import Column, Kind, day_number, day_of, number_column, text_column
from kalendor.core.values.interruption import EVERY, LEFT, checked
from kalendor.core.values.keys import key
from kalendor.definitions.kinds import default_calendar, definition
from kalendor.errors import DefinitionError
from kalendor.output.dependence import resting_on_others
from kalendor.output.told import told
from tests.core.build import SUM, TODAY, LeftAfter, compared, records, report, sheet, table, traced

CIVIL = calendar(default_calendar())
MONTH = [{"period": "on", "grains": ["month"]}]


def test_work_is_checked_on_between_some_thousands_of_items() -> None:
    left = LeftAfter(EVERY)
    token = LEFT.set(left)
    try:
        assert sum(checked(range(2 * EVERY + 1))) == sum(range(2 * EVERY + 1))
    finally:
        LEFT.reset(token)
    assert left.asked == 3


@pytest.mark.parametrize(
    ("show", "first", "last"),
    [
        ({"last": 3, "grain": "month"}, "2026-06-01", "2026-08-04"),
        ({"this": "quarter"}, "2026-07-01", "2026-08-04"),
        ({"to_date": "year"}, "2026-01-01", "2026-08-04"),
        ({"previous": "month"}, "2026-07-01", "2026-07-31"),
    ],
)
def test_a_window_begins_with_its_first_period(show: dict[str, Any], first: str, last: str) -> None:
    window = report(window={"of": "on", "show": show}).window
    span = window_span(window, CIVIL, day_number(TODAY))
    assert (day_of(span.first).isoformat(), day_of(span.last).isoformat()) == (first, last)


def test_a_pattern_without_wildcards_is_the_whole_text() -> None:
    scope = Scope({"t": text_column(["ab", "abc", "b"])}, 3)
    assert holds("t LIKE 'ab'", scope).tolist() == [True, False, False]
    assert holds("t LIKE 'a_'", scope).tolist() == [True, False, False]


def test_between_is_unknown_only_where_neither_side_decides() -> None:
    scope = Scope(
        {"v": number_column([1, 5, 9]), "low": number_column([None, None, None]), "high": number_column([4, 6, 8])}, 3
    )
    assert holds("v BETWEEN low AND high", scope).tolist() == [False, False, False]
    assert holds("NOT (v BETWEEN low AND high)", scope).tolist() == [False, False, True]
    assert holds("NOT (v BETWEEN high AND low)", scope).tolist() == [True, True, False]


def test_an_item_opened_on_the_as_of_day_is_open() -> None:
    opened = [date(2026, 8, 3), date(2026, 8, 4), date(2026, 8, 5)]
    data = records(due=[date(2026, 8, 1)] * 3, opened=opened, closed=[None, None, None], v=[1, 10, 100])
    age = {"age": "due", "cut": [0, 30], "opened": "opened", "closed": "closed"}
    assert (
        table(
            data.with_column("closed", Column(Kind.DATE, np.zeros(3, np.int32), np.ones(3, bool))),
            down=[age],
            figures=[SUM],
            as_of="2026-08-04",
        )[-1]["s"]
        == "11"
    )


@pytest.mark.parametrize("take", ["variance", "stdev", "variance_pop", "stdev_pop"])
def test_variances_are_those_of_the_sample_and_of_the_population(take: str) -> None:
    values = [3, 7, 7, 19]
    want = {"variance": statistics.variance, "stdev": statistics.stdev, "variance_pop": statistics.pvariance,
            "stdev_pop": statistics.pstdev}[take](values)  # fmt: skip
    (row,) = table(records(v=values), figures=[{"name": "s", "take": take, "of": "v"}])
    assert float(row["s"]) == pytest.approx(want)


@pytest.mark.parametrize("by", ["start", "end"])
def test_a_civil_year_is_named_alike_by_its_start_and_its_end(by: str) -> None:
    document: dict[str, Any] = {
        "kalendor": 1,
        "kind": "calendar",
        "name": "C",
        "months": {"start_month": 1},
        "year_name": {"by": by},
    }
    found = calendar(definition(document, "c"))  # type: ignore[arg-type]
    days = day_number(date(2025, 12, 31)), day_number(date(2026, 1, 1))
    assert [name for name, _, _ in years_of(found, *days)] == ["2025", "2026"]


def test_two_things_of_one_name_are_told_apart_in_the_refusal() -> None:
    for down, words in (
        ([{"category": "s"}], "a level and a figure"),
        ([{"category": "a"}, {"category": "a"}], "a level and another level"),
    ):
        with pytest.raises(DefinitionError, match=words):
            sheet(records(a=["x"], s=["y"], v=[1]), down=down, figures=[SUM])


def test_one_figure_that_rests_on_others_takes_those_made_of_it_along() -> None:
    figures = [SUM, {"name": "part", "share": "s"}, {"name": "twice", "formula": "part * 2"}]
    assert resting_on_others(report(figures=figures)) == ["part", "twice"]


def test_a_line_of_the_base_alone_stands_under_the_first_of_its_parents() -> None:
    data = records(
        a=["a", "a", "b"], b=["p", "q", "p"], on=[date(2026, 5, 1), date(2025, 5, 1), date(2026, 5, 1)], v=[1, 2, 4]
    )
    keys: dict[str, Any] = {
        "window": {"of": "on", "show": {"this": "year"}},
        "figures": [SUM, compared("base", to_date=False)],
    }
    rows = table(data, down=[{"category": "a"}, {"category": "b"}], as_of="2026-12-31", **keys)
    assert [(r["a"], r["b"], r["c"]) for r in rows if r["b"] == "q"] == [("a", "q", "2")]


def test_a_balance_without_keys_is_the_last_value() -> None:
    data = records(on=[date(2026, 5, 1), date(2026, 5, 9)], v=[5, 7])
    (row,) = table(data, figures=[{"name": "s", "take": "balance", "of": "v", "by": "on"}])
    assert row["s"] == "7"


def test_lines_that_do_not_add_up_to_their_total_are_refused_at_every_depth() -> None:
    data = records(a=["x", "x", "y"], b=["p", "q", "p"], v=[1, 2, 3])

    plan = planned(
        report(down=[{"category": "a"}, {"category": "b"}], figures=[SUM]), Material(data, groupings([])), TODAY
    )
    cells, frame = plan.reckoner.cells("s"), plan.reckoner.frame
    total = number_column([6])
    footed("s", cells, frame, total)
    for at in range(len(cells)):
        wrong = cells.values.copy()
        wrong[at] += 1
        with pytest.raises(FootingError):
            footed("s", Column(cells.kind, wrong, cells.blank, cells.places), frame, total)


def test_keys_tell_mappings_apart_by_names_and_values() -> None:
    told = [key({"a": 1}), key({"a": 2}), key({"b": 1}), key({"a": 1, "b": 2}), key({})]
    assert len(set(told)) == len(told)
    assert key({"a": 1}) == key({"a": 1})


def test_the_rest_of_a_top_says_how_many_stand_under_each_parent() -> None:
    data = records(a=["x"] * 4 + ["y"] * 3, b=list("pqrspqr"), v=[9, 8, 7, 6, 5, 4, 3])
    found = sheet(data, down=[{"category": "a"}, {"category": "b", "top": 1, "by": "s"}], figures=[SUM])
    assert [label for label in found.lines.labels.tolist() if str(label).startswith("Other")] == [
        "Other (3)",
        "Other (2)",
    ]


def test_the_column_that_the_as_of_date_falls_in_is_known_by_hours_too() -> None:
    hours = [(day_number(date(2026, 8, 4)) * 24 + h) * 3_600_000_000 for h in (0, 1)]
    data = records(v=[1, 2]).with_column("at", Column(Kind.DATETIME, np.array(hours)))
    found = sheet(data, across=[{"period": "at", "grains": ["hour"]}], figures=[SUM], as_of="2026-08-04")
    assert found.columns.labels[found.current] == "2026-08-04 00:00"


def test_a_minute_under_its_hour_is_selected_by_the_minute() -> None:
    start = day_number(date(2026, 1, 1)) * 86_400_000_000
    moments = [start + (3 * 60 + m) * 60_000_000 for m in (5, 5, 6)]
    material = Material(records(v=[1, 2, 4]).with_column("at", Column(Kind.DATETIME, np.array(moments))), groupings([]))
    document = report(down=[{"period": "at", "grains": ["hour", "minute"]}], figures=[SUM])
    found = sheet(material.records, down=[{"period": "at", "grains": ["hour", "minute"]}], figures=[SUM])
    hour, minute = found.lines.labels[1], found.lines.labels[2]
    trail = traced(document, material, found, found_cell(found, "s", [hour, minute], []))
    assert trail.operand.condition == "\"at\" >= TIMESTAMP '2026-01-01 03:05' AND \"at\" < TIMESTAMP '2026-01-01 03:06'"


def test_the_years_of_a_stretch_follow_one_another() -> None:
    found = years_of(CIVIL, day_number(date(2024, 6, 1)), day_number(date(2026, 2, 1)))
    assert [name for name, _, _ in found] == ["2024", "2025", "2026"]
    assert all(after[1] == before[2] + 1 for before, after in pairwise(found))


@pytest.mark.parametrize(
    ("text", "grain"), [("2026", "year"), ("2026-Q3", "quarter"), ("2026-07", "month"), ("2026-W27", "week")]
)
def test_a_periods_text_names_its_grain(text: str, grain: str) -> None:
    assert grain_named(text) == grain


def test_texts_and_dates_do_not_stand_in_one_column() -> None:
    day = Column(Kind.DATE, np.array([20_000], dtype=np.int32))
    scope = Scope({"t": text_column(["a"]), "d": day, "yes": number_column([1])}, 1)
    with pytest.raises(DefinitionError, match="in one column"):
        holds("CASE WHEN yes = 1 THEN t ELSE d END = t", scope)


def test_a_hidden_figure_is_told_by_its_own_format() -> None:
    data = records(a=["x", "y"], v=["1.50", "2.50"])
    figures = [{**SUM, "hide": True, "format": {"places": 1}}, {"name": "f", "formula": "s * 2"}]
    document = report(down=[{"category": "a"}], figures=figures)
    material = Material(data, groupings([]))
    found = sheet(data, down=[{"category": "a"}], figures=figures)
    said = told(traced(document, material, found, found_cell(found, "f", ["x"], [])))
    assert said[1] == "Worked out as s * 2, where s is 1.5."


@pytest.mark.parametrize(
    ("text", "first", "last"),
    [
        ("2026-02", "2026-02-01", "2026-02-28"),
        ("2026-Q4", "2026-10-01", "2026-12-31"),
        ("2026", "2026-01-01", "2026-12-31"),
    ],
)
def test_a_civil_periods_text_is_its_days(text: str, first: str, last: str) -> None:
    found = civil_span(text)
    assert found is not None
    assert [day_of(day).isoformat() for day in found] == [first, last]


def test_a_first_line_of_the_base_alone_stands_as_far_as_it_has_members() -> None:
    on = [date(2025, 5, 1), date(2025, 2, 3), date(2025, 2, 3), date(2026, 5, 1)]
    data = records(a=list("baab"), z=list("mnnn"), on=on, v=[1, 2, 4, 8])
    rows = table(
        data, down=[{"category": "a"}, *MONTH], across=[{"category": "z"}], as_of="2026-12-31",
        window={"of": "on", "show": {"this": "year"}}, totals={"grand_across": "none"},
        figures=[SUM, compared("base", to_date=False)],
    )  # fmt: skip
    assert [(r["z"], r["s"], r["c"]) for r in rows if (r["a"], r["down_level"]) == ("a", "a")] == [("n", "", "6")]
    assert [(r["z"], r["c"]) for r in rows if r["down_level"] == "Total"] == [("m", "1"), ("n", "6")]
