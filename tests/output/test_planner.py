"""The page planner: for any sheet, nothing is lost, clipped, or set too small."""

from datetime import date
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from kalendor.output.paging.needs import GAP, PADDING, ColumnNeed, Needs, needs_of
from kalendor.output.paging.planner import Around, PagePlan, Paper, planned
from kalendor.output.typeset import typeset
from tests.core.build import records, sheet

papers = st.builds(
    Paper,
    st.sampled_from(["a4", "letter"]),
    st.sampled_from(["fits", "upright", "across"]),
    st.sampled_from(["plain", "board"]),
)


def needs(labels: list[float], columns: list[ColumnNeed], begins: tuple[int, ...] = ()) -> Needs:
    rows = len(labels)
    starts = np.zeros(rows, dtype=bool)
    starts[list(begins)] = True
    own = np.stack([np.array(labels, dtype=float), np.zeros(rows)], axis=1)
    none = np.zeros(rows, dtype=bool)
    return Needs((own,), (3.0,), (), tuple(columns), none, none, starts, 2)


@st.composite
def any_needs(draw: st.DrawFn) -> Needs:
    years, months = draw(st.integers(0, 6)), draw(st.integers(1, 14))
    em = draw(st.floats(1, 12))
    columns = [
        ColumnNeed(
            em * draw(st.floats(0.5, 1.5)), 4.0, (f"y{y}", f"m{m}", "f"), opens=m == 0 and y > 0,
            empty=draw(st.integers(0, 9)) == 0, wraps=draw(st.integers(0, 9)) == 0,
        )
        for y in range(years) for m in range(months)
    ]  # fmt: skip
    labels = draw(st.lists(st.floats(1, 80), min_size=1, max_size=60))
    begins = draw(st.lists(st.integers(0, len(labels) - 1), max_size=2))
    return needs(labels, columns, tuple(begins))


def wide(found: Needs, plan: PagePlan, panel: tuple[int, ...]) -> float:
    return sum(plan.widths[k] + (GAP if found.columns[k].opens and k != panel[0] else 0) for k in panel)


@given(any_needs(), papers)
def test_every_column_is_set_once_and_nothing_is_cut_off(found: Needs, paper: Paper) -> None:
    plan = planned(found, paper)
    wanted = [k for k, column in enumerate(found.columns) if not column.empty] or list(range(len(found.columns)))
    assert [k for panel in plan.panels for k in panel] == wanted
    assert plan.size >= (10 if paper.type == "board" else 8)
    assert all(label <= plan.room / 3 + 1e-6 for label in plan.labels)
    left = plan.room - sum(plan.labels)
    for panel in plan.panels:
        assert wide(found, plan, panel) <= left + 1e-6
        for k in panel:
            enough = min(found.columns[k].em * plan.size + PADDING, plan.room / 3 if found.columns[k].wraps else left)
            assert plan.widths[k] >= enough - 1e-6
    assert plan.across == (paper.way == "across") or paper.way == "fits"
    assert plan.pages >= 1
    assert 0 < plan.used <= 1.001


@given(any_needs())
def test_years_that_fit_on_a_page_are_not_cut(found: Needs) -> None:
    plan = planned(found, Paper(way="across"))
    left = plan.room - sum(plan.labels)
    for year in dict.fromkeys(column.path[0] for column in found.columns):
        own = tuple(k for k, column in enumerate(found.columns) if column.path[0] == year and k in plan.widths)
        if (
            own
            and sum(found.columns[k].em * plan.size + PADDING for k in own) <= left
            and not any(found.columns[k].wraps for k in own)
        ):
            assert sum(any(k in panel for k in own) for panel in plan.panels) == 1


def test_few_lines_stand_under_each_other_and_many_do_not() -> None:
    columns = [
        ColumnNeed(5.0, 4.0, (f"y{y}", f"m{m}", "f"), opens=m == 0 and y > 0) for y in range(4) for m in range(12)
    ]
    few, many = (planned(needs([8.0] * n, columns), Paper()) for n in (4, 200))
    assert len(few.panels) == 4
    assert few.stacked
    assert few.pages == 1
    assert not many.stacked
    assert many.pages >= len(many.panels)


def test_larger_type_wins_where_it_takes_no_more_pages() -> None:
    narrow = [ColumnNeed(6.0, 4.0, ("f",))] * 3
    assert planned(needs([8.0] * 20, narrow), Paper()).size == 9.0
    assert planned(needs([8.0] * 20, narrow), Paper(type="board")).size == 11.0
    assert planned(needs([8.0] * 5_000, narrow), Paper()).size < 9.0


def test_what_stands_around_a_sheet_counts() -> None:
    narrow = [ColumnNeed(6.0, 4.0, ("f",))]
    plain = planned(needs([8.0] * 50, narrow), Paper(way="upright"))
    told = planned(
        needs([8.0] * 50, narrow), Paper(way="upright"), Around(headline=200.0, chart=300.0, under=(90.0,) * 12)
    )
    assert told.pages > plain.pages


@pytest.mark.parametrize(("empty", "printed"), [("b", ["a"]), ("", ["a", "b"])])
def test_a_column_without_a_number_is_not_printed(empty: str, printed: list[str]) -> None:
    figures: list[dict[str, Any]] = [{"name": "a", "take": "sum", "of": "v"}, {"name": "b", "take": "mean", "of": "v"}]
    if empty:
        figures[1]["where"] = "v > 100"
    set_ = typeset(sheet(records(k=["x", "y"], v=[1, 2]), down=[{"category": "k"}], figures=figures))
    found = needs_of(set_, [set_.shown(column) for column in set_.columns])
    panels = planned(found, Paper()).panels
    assert [set_.figure(set_.columns[k]).name for panel in panels for k in panel] == printed


def test_months_without_years_are_cut_by_twelve() -> None:
    days = [f"{2023 + m // 12}-{m % 12 + 1:02}-15" for m in range(48)]
    data = records(on=[date.fromisoformat(day) for day in days], k=["x"] * 48, v=[12345.5] * 48)
    found = sheet(data, down=[{"category": "k"}], across=[{"period": "on", "grains": ["month"]}], figures=[
        {"name": "s", "take": "sum", "of": "v"}], totals={"grand_across": "none"})  # fmt: skip
    set_ = typeset(found)
    plan = planned(needs_of(set_, [set_.shown(column) for column in set_.columns]), Paper(way="across"))
    assert [len(panel) for panel in plan.panels] == [12, 12, 12, 12]
