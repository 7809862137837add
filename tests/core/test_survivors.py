"""Regression tests found by mutation testing: rules that a small change could break unnoticed."""

from datetime import date, datetime
from decimal import Decimal

import numpy as np
import pytest

from kalendor.core.formulas.formulas import evaluate, holds
from kalendor.core.formulas.scope import Scope
from kalendor.core.values.columns import Column, Kind, concat, date_column, number_column
from kalendor.errors import DefinitionError
from tests.core.build import SUM, column_of, compared, records, table

EPOCH = datetime(1970, 1, 1)


def moments(*values: datetime) -> Column:
    micro = [int((value - EPOCH).total_seconds()) * 1_000_000 for value in values]
    return Column(Kind.DATETIME, np.array(micro))


def test_a_base_of_a_year_that_is_not_shown_stands_on_no_other_years_lines() -> None:
    data = records(a=["x", "x", "x"], on=[date(2023, 5, 1), date(2024, 5, 1), date(2026, 5, 1)], v=[1, 2, 4])
    down = [{"period": "on", "grains": ["year"]}, {"category": "a"}]
    window = {"of": "on", "show": {"last": 3, "grain": "year"}}
    totals = {"down": "none", "grand_down": "none"}
    rows = table(data, down=down, figures=[SUM, compared()], window=window, totals=totals)
    assert column_of(rows, "year", "s", "c") == [("2024", "2", "1"), ("2026", "4", "")]


@pytest.mark.parametrize("take", ["mean", "median", "max"])
def test_a_difference_of_what_does_not_add_up_is_blank_where_nothing_is_to_be_compared_with(take: str) -> None:
    data = records(on=[date(2025, 5, 1), date(2026, 5, 1)], v=[1, 4])
    figures = [{**SUM, "take": take}, compared("difference")]
    rows = table(data, across=[{"period": "on", "grains": ["year"]}], figures=figures)
    assert [(row["year"], float(row["c"]) if row["c"] else None) for row in rows[:2]] == [("2025", None), ("2026", 3.0)]


def test_a_moving_figure_of_records_without_dates_is_blank() -> None:
    data = records(a=["x", "y"], on=[None, None], v=[1, 2]).with_column("on", date_column([None, None]))
    moving = {"name": "m", "moving": "s", "periods": 2, "take": "sum"}
    down = [{"category": "a"}, {"period": "on", "grains": ["month"]}]
    assert {row["m"] for row in table(data, down=down, figures=[SUM, moving])} == {""}


@pytest.mark.parametrize(
    ("condition", "want"),
    [
        ("d IN ('2026-01-02', '2026-01-04')", [False, True]),
        ("d NOT IN ('2026-01-02')", [True, False]),
        ("t IN ('a', 'b')", [True, False]),
        ("n IN (1, 3.0)", [True, True]),
    ],
)
def test_a_list_holds_dates_texts_and_numbers(condition: str, want: list[bool]) -> None:
    data = records(d=[date(2026, 1, 1), date(2026, 1, 2)], t=["a", "c"], n=[1, 3])
    assert holds(condition, Scope(data.columns, 2)).tolist() == want


def test_a_running_total_by_the_hour_goes_on_through_the_as_of_day() -> None:
    at = moments(datetime(2026, 1, 1, 9), datetime(2026, 1, 2, 10), datetime(2026, 1, 2, 15))
    data = records(v=[1, 2, 4]).with_column("at", at)
    running = {"name": "r", "running": "s", "along": "at"}
    down = [{"period": "at", "grains": ["hour"]}]
    rows = table(data, down=down, figures=[SUM, running], as_of="2026-01-02", totals={"grand_down": "none"})
    assert column_of(rows, "r") == ["1", "3", "7"]


def test_a_moment_is_moved_by_months_and_keeps_its_time() -> None:
    scope = Scope({"at": moments(datetime(2026, 1, 31, 23, 30))}, 1)
    assert evaluate("at + INTERVAL '1' MONTH", scope).item(0) == datetime(2026, 2, 28, 23, 30)
    assert evaluate("at - INTERVAL '2' DAY", scope).item(0) == datetime(2026, 1, 29, 23, 30)


def test_a_sum_of_texts_is_refused_with_the_figures_name() -> None:
    with pytest.raises(DefinitionError, match="figure s: sum needs a number column, and 'v' is text"):
        table(records(v=["a", "b"]), figures=[SUM])


def test_a_name_that_no_column_has_is_refused_where_there_is_an_as_of_date() -> None:
    with pytest.raises(DefinitionError, match=r"there is no .aa. here"):
        holds("aa = 1", Scope(records(n=[1]).columns, 1, 20_000))


def test_both_conditions_failing_fail_together() -> None:
    data = records(n=[1, 2, 1], m=[1, 2, 2])
    assert holds("NOT (n = 1 AND m = 1)", Scope(data.columns, 3)).tolist() == [False, True, True]


def test_numbers_of_other_places_are_put_under_each_other_at_the_finer_scale() -> None:
    joined = concat([number_column([Decimal("3.0")], 1), number_column([Decimal("0.25")], 2)])
    assert [joined.item(0), joined.item(1)] == [Decimal("3.00"), Decimal("0.25")]


def test_an_hour_at_the_days_end_has_the_base_of_its_own_day() -> None:
    data = records(v=[1, 2]).with_column("at", moments(datetime(2025, 1, 2, 10), datetime(2026, 1, 1, 23)))
    down = [{"period": "at", "grains": ["hour"]}]
    rows = table(data, down=down, figures=[SUM, compared("percent")], totals={"grand_down": "none"})
    assert [row.get("c mark", "") for row in rows] == ["", ""]


def test_a_place_in_the_year_starts_where_its_year_has_it_at_every_depth() -> None:
    days = [date(2025, 1, 9), date(2025, 2, 5), date(2026, 2, 7)]
    data = records(a=["z", "x", "y"], on=days, v=[4, 1, 2])
    down = [{"period": "on", "grains": ["month"]}, {"category": "a"}]
    rows = table(data, down=down, across=[{"period": "on", "grains": ["year"]}], figures=[SUM])
    found = {(row["a"], row["year"]): row["month start"] for row in rows if row["down_level"] == "a"}
    assert found[("x", "2025")] == "2025-02-01"
    assert found[("y", "2026")] == "2026-02-01"
