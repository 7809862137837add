"""Derived figures, as the semantics define them, on records few enough to check by hand."""

from datetime import date
from typing import Any

import numpy as np
import pytest

from kalendor.core.figures.bases import MARK_WORDS
from kalendor.core.takes import sums
from kalendor.core.takes.groups import Groups
from kalendor.core.values.columns import Column, Kind
from kalendor.errors import DefinitionError
from tests.core.build import column_of, records, sheet, table

SUM = {"name": "sum", "take": "sum", "of": "amount"}
MONTHS = [{"period": "on", "grains": ["month"]}]
FISCAL = {
    "kalendor": 1,
    "kind": "calendar",
    "name": "FY",
    "months": {"start_month": 11},
    "year_name": {"prefix": "FY", "digits": 2},
}


def days(*texts: str) -> list[date]:
    return [date.fromisoformat(t) for t in texts]


def compared(as_: str, **more: Any) -> dict[str, Any]:
    return {"name": "c", "compare": "sum", "with": "year_earlier", "as": as_, **more}


def test_share_of_a_zero_total_is_blank_and_the_grand_totals_share_of_its_parent_is_one() -> None:
    data = records(a=["x", "x", "y"], amount=["1.00", "-1.00", "5.00"])
    figures = [SUM, {"name": "s", "share": "sum", "of_total": "parent"}]
    rows = table(data, down=[{"category": "a"}], figures=figures)
    assert column_of(rows, "s") == ["0", "1", "1"]
    zero = table(records(a=["x", "y"], amount=["1.00", "-1.00"]), down=[{"category": "a"}], figures=figures)
    assert column_of(zero, "s") == ["", "", ""]


def test_rank_gives_equal_values_one_rank_and_skips_the_next() -> None:
    data = records(a=["p", "q", "r", "s"], amount=["5.0", "9.0", "5.0", "1.0"])
    rows = table(data, down=[{"category": "a"}], figures=[SUM, {"name": "place", "rank": "sum"}])
    assert column_of(rows, "place") == ["2", "1", "2", "4", ""]


def test_special_lines_and_totals_have_no_rank_and_push_nobody_down() -> None:
    data = records(a=["p", "q", None, "r", "s"], amount=["5.0", "9.0", "99.0", "1.0", "1.0"])
    top = {"top": 2, "by": "sum", "order": {"by": "sum", "desc": True}}
    rows = table(data, down=[{"category": "a", **top}], figures=[SUM, {"name": "place", "rank": "sum"}])
    assert column_of(rows, "a", "place") == [("q", "1"), ("p", "2"), ("Other (2)", ""), ("(blank)", ""), ("", "")]


def test_a_ratio_is_worked_out_again_at_each_level() -> None:
    data = records(a=["x", "x", "y"], amount=["10.00", "20.00", "30.00"], n=[1, 3, 2])
    figures = [SUM, {"name": "n", "take": "sum", "of": "n"}, {"name": "r", "formula": '"sum" / "n"'}]
    rows = table(data, down=[{"category": "a"}], figures=figures)
    assert column_of(rows, "r") == ["7.5", "15", "10"]


def test_percent_marks_new_gone_and_not_meaningful() -> None:
    on = days("2024-05-01", "2024-05-02", "2024-05-03", "2025-05-01", "2025-05-02", "2025-05-03")
    data = records(
        a=["gone", "neg", "old", "new", "neg", "old"], on=on, amount=["1.0", "-2.0", "4.0", "3.0", "5.0", "5.0"]
    )
    found = sheet(
        data,
        down=[{"category": "a"}],
        across=[{"period": "on", "grains": ["year"]}],
        figures=[SUM, compared("percent")],
    )
    figure = found.figures[1]
    assert figure.marks is not None
    width = found.columns.count
    names = {found.lines.labels[i]: i for i in range(found.lines.count)}
    at = {found.columns.heading(i).split(" ·")[0]: i for i in range(width)}
    words = {n: MARK_WORDS[figure.marks[names[n] * width + at["2025"]]] for n in ("gone", "neg", "new", "old")}
    assert words == {"gone": "gone", "neg": "n/m", "new": "new", "old": ""}
    assert figure.cells.item(names["old"] * width + at["2025"]) == 0.25


def test_a_part_month_is_compared_with_the_same_part_of_the_earlier_one() -> None:
    on = days("2024-07-10", "2024-07-25", "2025-07-05", "2025-07-10")
    data = records(on=on, amount=["1.00", "10.00", "2.00", "3.00"])
    rows = table(data, down=MONTHS, figures=[SUM, compared("base")])
    assert column_of(rows, "sum", "c")[1] == ("5.00", "1.00")
    whole = table(data, down=MONTHS, figures=[SUM, compared("base", to_date=False)])
    assert column_of(whole, "sum", "c")[1] == ("5.00", "11.00")


def test_the_value_side_is_cut_at_the_as_of_date_and_the_figure_itself_is_not() -> None:
    data = records(on=days("2024-07-10", "2025-07-05", "2025-07-20"), amount=["1.00", "2.00", "8.00"])
    rows = table(data, down=MONTHS, figures=[SUM, compared("difference")], as_of="2025-07-15")
    assert column_of(rows, "sum", "c")[1] == ("10.00", "1.00")


@pytest.mark.parametrize("as_of", ["2025-07-15", "2025-07-20", "2026-01-01"])
def test_records_without_a_date_have_no_base(as_of: str) -> None:
    """With or without records after the as-of date, by month and by hour."""
    on = [*days("2024-07-10", "2025-07-05", "2025-07-20"), None]
    data = records(on=on, amount=["1.00", "2.00", "8.00", "5.00"])
    rows = table(data, down=MONTHS, figures=[SUM, compared("difference")], as_of=as_of)
    assert {r["month"]: (r["sum"], r["c"]) for r in rows}["(blank)"] == ("5.00", "")
    noon = [0 if day is None else ((day - date(1970, 1, 1)).days * 24 + 12) * 3_600_000_000 for day in on]
    data = data.with_column("at", Column(Kind.DATETIME, np.array(noon), np.array([day is None for day in on])))
    by_hour = [{"period": "at", "grains": ["hour"]}]
    rows = table(data, down=by_hour, figures=[SUM, compared("difference")], as_of=as_of)
    assert {r["hour"]: (r["sum"], r["c"]) for r in rows}["(blank)"] == ("5.00", "")


def test_the_last_day_of_february_answers_to_the_last_day() -> None:
    data = records(on=days("2024-02-29", "2025-02-28"), amount=["1.00", "2.00"])
    rows = table(data, down=MONTHS, figures=[SUM, compared("base")], as_of="2025-02-28")
    assert column_of(rows, "c")[1] == "1.00"


def test_differences_foot_because_a_missing_side_counts_as_nothing() -> None:
    on = days("2024-05-01", "2024-05-02", "2025-05-01")
    data = records(a=["x", "y", "x"], on=on, amount=["1.00", "2.00", "5.00"])
    rows = table(
        data,
        down=[{"category": "a"}],
        across=[{"period": "on", "grains": ["year"]}],
        figures=[SUM, compared("difference", to_date=False)],
        totals={"grand_across": "none"},
    )
    found = {(r["a"], r["year"]): r["c"] for r in rows}
    assert (found[("x", "2025")], found[("y", "2025")]) == ("4.00", "-2.00")
    assert found[("", "2025")] == "2.00"
    assert found[("x", "2024")] == ""


def test_a_total_over_periods_is_blank_where_a_period_under_it_has_no_base() -> None:
    on = days("2024-05-01", "2025-05-01", "2025-06-01", "2024-06-01")
    data = records(a=["x"] * 4, on=on, amount=["1.00", "2.00", "4.00", "8.00"])
    rows = table(
        data,
        down=[{"category": "a"}],
        across=[{"period": "on", "grains": ["year"]}],
        figures=[SUM, compared("base", to_date=False)],
    )
    assert [(r["year"], r["c"]) for r in rows if r["a"]] == [("2024", ""), ("2025", "9.00"), ("", "")]


def test_a_base_outside_the_window_is_worked_out_all_the_same() -> None:
    on = days("2023-06-01", "2024-06-01", "2025-06-01")
    data = records(on=on, amount=["1.00", "2.00", "4.00"])
    window = {"of": "on", "show": {"last": 1, "grain": "year"}}
    rows = table(data, down=[{"period": "on", "grains": ["year"]}], figures=[SUM, compared("base")], window=window)
    assert column_of(rows, "year", "sum", "c")[0] == ("2025", "4.00", "2.00")


def test_without_a_period_axis_the_window_itself_is_moved() -> None:
    on = days("2024-06-01", "2024-08-01", "2025-06-01")
    data = records(a=["x"] * 3, on=on, amount=["1.00", "2.00", "4.00"])
    window = {"of": "on", "show": {"to_date": "year"}}
    rows = table(data, down=[{"category": "a"}], figures=[SUM, compared("base")], window=window, as_of="2025-07-01")
    assert column_of(rows, "sum", "c") == [("4.00", "1.00")] * 2


def test_the_period_before_and_n_periods_back() -> None:
    data = records(on=days("2025-01-05", "2025-02-05", "2025-03-05"), amount=["1.00", "2.00", "4.00"])
    before = {"name": "b", "compare": "sum", "with": "period_before", "as": "base", "to_date": False}
    back = {"name": "k", "compare": "sum", "with": {"back": 2, "grain": "month"}, "as": "base", "to_date": False}
    rows = table(data, down=MONTHS, figures=[SUM, before, back])
    assert column_of(rows, "b", "k")[:3] == [("", ""), ("1.00", ""), ("2.00", "1.00")]


def test_week_53_has_no_base_a_year_earlier_but_52_weeks_back_it_has() -> None:
    data = records(on=days("2019-12-30", "2020-12-28", "2019-12-24"), amount=["1.00", "2.00", "5.00"])
    back = {"name": "k", "compare": "sum", "with": {"back": 52, "grain": "week"}, "as": "base", "to_date": False}
    rows = table(
        data, down=[{"period": "on", "grains": ["week"]}], figures=[SUM, compared("base", to_date=False), back]
    )
    assert column_of(rows, "week", "c", "k")[2] == ("2020-W53", "", "1.00")


def test_against_a_member_and_against_another_figure() -> None:
    data = records(a=["x", "y"], amount=["2.00", "6.00"], plan=["4.00", "4.00"])
    figures = [
        SUM,
        {"name": "plan", "take": "sum", "of": "plan"},
        {"name": "m", "compare": "sum", "with": {"member": "x"}, "as": "index"},
        {"name": "p", "compare": "sum", "with": {"figure": "plan"}, "as": "difference"},
    ]
    rows = table(data, down=[{"category": "a"}], figures=figures)
    assert column_of(rows, "m", "p") == [("100", "-2.00"), ("300", "2.00"), ("", "0.00")]


def test_running_counts_periods_that_the_window_does_not_show_and_stops_at_the_as_of_date() -> None:
    on = days("2025-11-05", "2025-12-05", "2026-01-05", "2026-02-05")
    data = records(on=on, amount=["1.00", "2.00", "4.00", "8.00"])
    figures = [SUM, {"name": "run", "running": "sum", "along": "on"}]
    shown = table(
        data,
        down=MONTHS,
        figures=figures,
        window={"of": "on", "show": {"last": 2, "grain": "month"}},
        as_of="2026-01-31",
    )
    assert column_of(shown, "run") == ["3.00", "7.00", "7.00"]
    late = table(data, down=MONTHS, figures=figures, as_of="2026-01-15")
    assert column_of(late, "run") == ["1.00", "3.00", "7.00", "", "7.00"]


def test_running_restarts_with_the_fiscal_year_and_is_blank_above_it() -> None:
    data = records(on=days("2025-10-05", "2025-11-05", "2025-12-05"), amount=["1.00", "2.00", "4.00"])
    figures = [SUM, {"name": "run", "running": "sum", "along": "on", "restart": "year"}]
    rows = table(data, FISCAL, down=[{"period": "on", "calendar": "FY", "grains": ["month"]}], figures=figures)
    assert column_of(rows, "run") == ["1.00", "2.00", "6.00", ""]


def test_running_down_the_lines_as_shown() -> None:
    data = records(a=["x", "y", "z"], amount=["1.00", "8.00", "2.00"])
    order = {"by": "sum", "desc": True}
    rows = table(
        data,
        down=[{"category": "a", "order": order}],
        figures=[SUM, {"name": "run", "running": "sum", "along": "lines"}],
    )
    assert column_of(rows, "a", "run") == [("y", "8.00"), ("z", "10.00"), ("x", "11.00"), ("", "11.00")]


def test_moving_mean_waits_for_n_periods_and_counts_a_gap_as_nothing() -> None:
    data = records(on=days("2025-01-05", "2025-02-05", "2025-04-05"), amount=["3.00", "6.00", "9.00"])
    rows = table(data, down=MONTHS, figures=[SUM, {"name": "m", "moving": "sum", "periods": 3}])
    assert column_of(rows, "m") == ["", "", "5", ""]


def test_top_n_folds_the_rest_and_totals_still_count_it() -> None:
    data = records(a=["p", "q", "r", "s", None], amount=["1.00", "9.00", "5.00", "2.00", "50.00"])
    rows = table(data, down=[{"category": "a", "top": 2, "by": "sum"}], figures=[SUM])
    assert column_of(rows, "a", "sum") == [
        ("q", "9.00"),
        ("r", "5.00"),
        ("Other (2)", "3.00"),
        ("(blank)", "50.00"),
        ("", "67.00"),
    ]
    hidden = table(data, down=[{"category": "a", "top": 2, "by": "sum", "rest": None}], figures=[SUM])
    assert column_of(hidden, "a", "sum") == [("q", "9.00"), ("r", "5.00"), ("(blank)", "50.00"), ("", "67.00")]


def test_lines_beneath_other_are_merged_by_label() -> None:
    data = records(a=["p", "q", "r", "r"], b=["u", "u", "u", "v"], amount=["1.00", "9.00", "2.00", "3.00"])
    rows = table(data, down=[{"category": "a", "top": 1, "by": "sum"}, {"category": "b"}], figures=[SUM])
    assert column_of(rows, "a", "b", "sum")[2:5] == [
        ("Other (2)", "u", "3.00"),
        ("Other (2)", "v", "3.00"),
        ("Other (2)", "", "6.00"),
    ]


def test_keep_hides_lines_and_counts_them_unless_totals_are_of_the_kept() -> None:
    data = records(a=["p", "q"], amount=["1.00", "9.00"])
    keep = [{"level": "a", "where": "sum > 5"}]
    rows = table(data, down=[{"category": "a"}], figures=[SUM], keep=keep)
    assert column_of(rows, "a", "sum") == [("q", "9.00"), ("", "10.00")]
    found = sheet(data, down=[{"category": "a"}], figures=[SUM], keep=keep, totals={"totals": "kept"})
    assert found.tie_out.on_sheet == 1
    assert found.tie_out.steps[-1].kind == "keep"


def test_each_figure_may_have_a_condition_of_its_own() -> None:
    data = records(a=["x", "x"], amount=["1.00", "2.00"])
    rows = table(
        data, down=[{"category": "a"}], figures=[{**SUM, "where": "amount > 1"}, {"name": "n", "take": "count"}]
    )
    assert column_of(rows, "sum", "n") == [("2.00", "2")] * 2


@pytest.mark.parametrize(
    ("keys", "words"),
    [
        ({"figures": [{"name": "f", "formula": '"g" + 1'}]}, "there is no figure named 'g'"),
        ({"figures": [{"name": "f", "formula": '"f" + 1'}]}, "rests on itself"),
        ({"figures": [{"name": "f", "take": "sum", "of": "a"}]}, "needs a number column"),
        ({"down": [{"category": "nope"}]}, "there is no column 'nope'"),
        ({"down": [{"category": "a"}, {"category": "a"}]}, "named 'a'"),
        ({"down": [{"category": "a", "tree": "T"}]}, "no category tree named 'T'"),
        ({"only": ["amount"]}, "is not a condition"),
        ({"only": ["amount >"]}, "cannot read the formula"),
        ({"down": [{"period": "a", "grains": ["month"]}]}, "not a date"),
        ({"keep": [{"level": "z", "where": "n > 1"}]}, "no level 'z'"),
        ({"totals": {"levels": {"z": "none"}}}, "totals: there is no level 'z'"),
    ],
)
def test_what_is_wrong_is_said_by_name(keys: dict[str, Any], words: str) -> None:
    with pytest.raises(DefinitionError, match=words):
        table(records(a=["x"], amount=["1.00"]), **keys)


def test_sums_beyond_64_bits_and_2_to_the_53_are_exact() -> None:
    big = [2**62, 2**62, 2**62, -1]
    assert column_of(table(records(a=["x"] * 4, amount=big), figures=[SUM]), "sum") == [str(3 * 2**62 - 1)]
    odd = [2**53, 1, 1, 1]
    assert column_of(table(records(a=["x"] * 4, amount=odd), figures=[SUM]), "sum") == [str(2**53 + 3)]


def test_the_heading_says_to_which_day_a_period_is_compared_or_cut() -> None:
    data = records(
        on=days("2024-07-10", "2024-09-01", "2025-07-05", "2025-07-10"), amount=["1.00", "2.00", "4.00", "8.00"]
    )
    years = [{"period": "on", "grains": ["year"]}]
    found = sheet(data, across=years, figures=[SUM, compared("percent")])
    assert [found.columns.heading(i) for i in found.columns.shown.filled().tolist()] == [
        "2024",
        "2025 · to 10 Jul",
        "Total",
    ]
    window = {"of": "on", "show": {"last": 2, "grain": "year"}, "each_to_date": True}
    cut = sheet(data, down=years, figures=[SUM], window=window)
    assert [cut.lines.heading(i) for i in cut.lines.shown.filled().tolist()] == [
        "2024 · to 10 Jul",
        "2025 · to 10 Jul",
        "Total",
    ]
    assert column_of(table(data, down=years, figures=[SUM], window=window), "year", "sum")[0] == ("2024", "1.00")


def test_control_totals_are_held_against_the_grand_total() -> None:
    data = records(a=["x", "y"], amount=["1.50", "2.00"])
    controls = [{"figure": "sum", "expect": "3.5"}, {"figure": "sum", "expect": "4.00"}]
    found = sheet(data, down=[{"category": "a"}], figures=[SUM], controls=controls).tie_out.controls
    assert [(c.found, c.agrees) for c in found] == [("3.50", True), ("3.50", False)]


def test_many_records_are_summed_by_blocks_as_at_once(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(sums, "BLOCK", 8)
    rng = np.random.Generator(np.random.PCG64(3))
    ids, units = rng.integers(0, 5, 100), rng.integers(-(2**62), 2**62, 100)
    column = Column(Kind.DECIMAL, units, places=2)
    for rows in (None, np.flatnonzero(units > 0)):
        picked = slice(None) if rows is None else rows
        found = sums.sums(Groups(ids[picked], 5, rows), column)
        want = [sum(int(u) for u, i in zip(units[picked], ids[picked], strict=True) if i == g) for g in range(5)]
        assert found.tolist() == want
