"""Trees, buckets, ages, periods: which member a record falls in, and the members' order."""

from datetime import date, timedelta
from decimal import Decimal
from typing import Any

import pytest

from kalendor.core.values.columns import Records, number_column
from kalendor.errors import DefinitionError
from tests.core.build import column_of, records, report, sheet, table

TREE = {
    "kalendor": 1, "kind": "tree", "name": "T", "levels": ["Top", "Leaf"],
    "roots": [
        {"label": "B", "under": [{"value": "b2", "label": "Second"}, {"value": "b1"}]},
        {"label": "A", "rule": "value LIKE 'a%'", "under": [{"value": "a9"}]},
        {"value": "alone", "label": "Alone"},
    ],
}  # fmt: skip
SUM = {"name": "sum", "take": "sum", "of": "amount"}


def test_a_tree_keeps_its_own_order_and_what_a_rule_caught_stands_after_what_is_named() -> None:
    data = records(v=["a2", "b1", "b2", "a9", "a10", "alone", "zzz", None])
    rows = table(data, TREE, down=[{"category": "v", "tree": "T"}])
    leaves = [(r["Top"], r["Leaf"]) for r in rows if r["down_level"] == "Leaf"]
    assert leaves == [
        ("B", "Second"), ("B", "b1"), ("A", "a9"), ("A", "a2"), ("A", "a10"), ("Alone", "Alone"),
        ("Not placed", "zzz"), ("(blank)", "(blank)"),
    ]  # fmt: skip
    tie = sheet(data, TREE, down=[{"category": "v", "tree": "T"}]).tie_out
    assert (tie.not_placed, tie.blank) == (1, 1)


def test_values_bear_the_names_they_are_given_and_those_of_one_name_are_one_line() -> None:
    data = records(v=["b", "a", "c", "d", None], amount=["1", "2", "4", "8", "16"])
    called = {"category": "v", "labels": {"a": "Zed", "c": "d", "(blank)": "none"}}
    rows = table(data, down=[called], figures=[SUM])
    assert [(row["v"], row["sum"]) for row in rows] == [
        ("b", "1"),
        ("d", "12"),
        ("Zed", "2"),
        ("(blank)", "16"),
        ("", "31"),
    ]
    side = sheet(data, down=[called], figures=[SUM]).lines
    assert dict(zip(side.labels.tolist(), side.values.tolist(), strict=True)) == {
        "Total": None, "b": "b", "d": None, "Zed": "a", "(blank)": None,
    }  # fmt: skip
    numbers = table(records(v=[10, 9, 9], amount=["1", "2", "4"]), down=[{"category": "v", "labels": {"9": "nine"}}])
    assert column_of(numbers, "v") == ["10", "nine", ""]
    with pytest.raises(DefinitionError, match="goes without"):
        table(data, TREE, down=[{**called, "tree": "T"}])


def test_a_level_of_a_tree_may_be_left_out() -> None:
    rows = table(records(v=["b1", "a9"]), TREE, down=[{"category": "v", "tree": "T", "levels": ["Leaf"]}])
    assert column_of(rows, "Leaf") == ["b1", "a9", ""]


def test_a_dated_value_sits_where_it_sat_on_the_day() -> None:
    moved = {"kalendor": 1, "kind": "tree", "name": "T", "levels": ["Top", "Leaf"], "roots": [
        {"label": "Old", "under": [{"value": "v"}]}, {"label": "New", "under": [{"value": "v", "since": "2026-01-01"}]},
    ]}  # fmt: skip
    data = records(v=["v"])
    now = table(data, moved, down=[{"category": "v", "tree": "T"}])
    then = table(data, moved, down=[{"category": "v", "tree": "T", "placed": "2025-12-31"}])
    assert (now[0]["Top"], then[0]["Top"]) == ("New", "Old")


MOVED = {
    "kalendor": 1, "kind": "tree", "name": "t", "levels": ["Home", "Value"],
    "roots": [
        {"label": "Old", "under": [{"value": "v"}, {"value": "w"}]},
        {"label": "New", "under": [{"value": "v", "since": "2026-01-01"}, {"value": "x", "since": "2026-02-01"}]},
    ],
}  # fmt: skip


def test_a_record_stands_where_its_value_stood_on_its_own_day() -> None:
    data = records(
        k=["v", "v", "v", "w", "x", "x", None],
        on=[date(2025, 12, 31), date(2026, 1, 1), None, date(2026, 5, 1), date(2026, 1, 31), date(2026, 2, 1), date(2026, 1, 1)],
    )  # fmt: skip
    was = {"category": "k", "tree": "t", "placed": "was", "placed_by": "on", "levels": ["Home"]}
    rows = table(data, MOVED, down=[was])
    assert [(r["Home"], r["n"]) for r in rows if r["Home"]] == [
        ("Old", "2"), ("New", "3"), ("Not placed", "1"), ("(blank)", "1"),
    ]  # fmt: skip
    now = table(data, MOVED, down=[{**was, "placed": "now", "placed_by": None}])
    assert [(r["Home"], r["n"]) for r in now if r["Home"]] == [("Old", "1"), ("New", "5"), ("(blank)", "1")]
    assert table(data, MOVED, down=[{**was, "placed_by": None}]) == rows


def test_a_date_is_needed_to_say_where_a_value_was() -> None:
    was = {"category": "k", "tree": "t", "placed": "was"}
    with pytest.raises(DefinitionError, match="placed_by"):
        table(records(k=["v"]), MOVED, down=[was])
    with pytest.raises(DefinitionError, match="not a date"):
        table(records(k=["v"]), MOVED, down=[{**was, "placed_by": "k"}])
    with pytest.raises(DefinitionError, match="goes with"):
        report(down=[{"category": "k", "placed_by": "on"}])


@pytest.mark.parametrize(
    ("values", "parts", "want"),
    [
        ([1, 2, 3, 4, 5, 6, 7, 8], 4, [("Under 3", "2"), ("3 – 4", "2"), ("5 – 6", "2"), ("7 and over", "2")]),
        ([5, 5, 5, 5, 9], 4, [("Under 9", "4"), ("9 and over", "1")]),
        ([7, 7, None], 2, [("7 and over", "2"), ("(blank)", "1")]),
        ([None, None], 3, [("(blank)", "2")]),
        (["1.25", "2.50", "9.75"], 3, [("Under 2.5", "1"), ("2.5 up to 9.75", "1"), ("9.75 and over", "1")]),
    ],
)
def test_quantiles_cut_the_records_into_parts_of_about_as_many(values: list[Any], parts: int, want: Any) -> None:
    data = Records({"v": number_column([None if v is None else Decimal(v) for v in values], 2 if "1.25" in values else 0)}, len(values))  # fmt: skip
    rows = table(data, down=[{"bucket": "v", "cut": {"quantiles": parts}, "empty": "hide"}])
    assert [(r["v"], r["n"]) for r in rows if r["v"]] == want


def test_quantiles_of_ages_part_the_days() -> None:
    days = [date(2026, 8, 4) - timedelta(d) for d in (1, 2, 3, 40, 50, 60)]
    rows = table(records(due=days), down=[{"age": "due", "cut": {"quantiles": 2}}])
    assert [(r["Age"], r["n"]) for r in rows if r["Age"]] == [("Up to 39", "3"), ("Over 39", "3")]


def test_number_ranges_hold_their_lower_cut_and_no_value_is_lost() -> None:
    data = records(amount=["-0.01", "0.00", "9.99", "10.00", "25.00", None])
    rows = table(data, down=[{"bucket": "amount", "cut": [0, 10, 20]}])
    assert column_of(rows, "amount", "n") == [
        ("Under 0", "1"), ("0 up to 10", "2"), ("10 up to 20", "1"), ("20 and over", "1"), ("(blank)", "1"), ("", "6"),
    ]  # fmt: skip


def test_whole_number_ranges_are_labelled_inclusively_and_an_inner_empty_range_is_shown() -> None:
    found = sheet(
        records(n=[5, 205]),
        down=[{"bucket": "n", "cut": [0, 100, 200], "name": "Size"}],
        figures=[{"name": "c", "take": "count"}],
    )
    labels = [found.lines.labels[i] for i in found.lines.shown.filled().tolist()]
    assert labels == ["0 – 99", "100 – 199", "200 and over", "Total"]


def test_ages_hold_their_upper_cut_and_have_no_negative_bucket() -> None:
    on = [date(2026, 8, 5), date(2026, 7, 31), date(2026, 7, 30), date(2026, 7, 1), date(2026, 6, 30), None]
    rows = table(records(due=on), down=[{"age": "due", "cut": [0, 30]}], as_of="2026-07-31")
    assert column_of(rows, "Age", "n") == [
        ("Not yet due", "2"),
        ("1 – 30", "2"),
        ("Over 30", "1"),
        ("(no date)", "1"),
        ("", "6"),
    ]


def test_open_items_are_those_opened_by_the_day_and_not_closed_by_then() -> None:
    opened = [date(2026, 5, 1), date(2026, 5, 1), date(2026, 6, 15), date(2026, 4, 1)]
    closed = [None, date(2026, 6, 10), None, date(2026, 5, 20)]
    data = records(opened=opened, closed=closed, due=opened)
    entry = {"age": "due", "cut": [0], "opened": "opened", "closed": "closed"}
    found = sheet(data, down=[entry], as_of="2026-05-31").tie_out
    assert (found.on_sheet, found.steps[0].records) == (2, 2)


def test_years_across_stand_side_by_side_with_months_down_as_places_in_the_year() -> None:
    on = [date(2024, 3, 5), date(2025, 3, 6), date(2025, 4, 7)]
    rows = table(
        records(on=on), down=[{"period": "on", "grains": ["month"]}], across=[{"period": "on", "grains": ["year"]}]
    )
    assert [(r["month"], r["month start"], r["year"]) for r in rows][:3] == [
        ("Mar", "2024-03-01", "2024"), ("Mar", "2025-03-01", "2025"), ("Mar", "", ""),
    ]  # fmt: skip


def test_months_of_two_years_are_two_members_and_the_merging_kind_is_one() -> None:
    data = records(on=[date(2024, 3, 5), date(2025, 3, 6)])
    assert column_of(table(data, down=[{"period": "on", "grains": ["month"]}]), "month") == ["Mar 2024", "Mar 2025", ""]
    assert column_of(table(data, down=[{"period": "on", "grains": ["month_of_year"]}]), "month_of_year", "n") == [
        ("Mar", "2"),
        ("", "2"),
    ]


def test_gaps_are_shown_where_asked() -> None:
    data = records(on=[date(2025, 1, 5), date(2025, 4, 6)])
    found = sheet(data, down=[{"period": "on", "grains": ["month"], "empty": "show"}])
    labels = [found.lines.labels[i] for i in found.lines.shown.filled().tolist()]
    assert labels == ["Jan 2025", "Feb 2025", "Mar 2025", "Apr 2025", "Total"]


def test_a_week_that_straddles_two_months_appears_in_both_as_part() -> None:
    data = records(on=[date(2026, 6, 30), date(2026, 7, 1), date(2026, 7, 8)])
    rows = table(data, down=[{"period": "on", "grains": ["month", "week"]}])
    weeks = [(r["month"], r["week"]) for r in rows if r["down_level"] == "week"]
    assert weeks == [("Jun 2026", "2026-W27 (part)"), ("Jul 2026", "2026-W27 (part)"), ("Jul 2026", "2026-W28")]


def test_runs_of_days_from_any_day() -> None:
    data = records(on=[date(2026, 1, 5), date(2026, 1, 11), date(2026, 1, 12)])
    rows = table(data, down=[{"period": "on", "grains": [{"days": 7, "from": "2026-01-05"}]}])
    assert column_of(rows, "run start", "n") == [("2026-01-05", "2"), ("2026-01-12", "1"), ("", "3")]


@pytest.mark.parametrize(
    ("order", "want"),
    [
        ("label", ["a", "b9", "b10"]),
        ("label_desc", ["b10", "b9", "a"]),
        ("first_seen", ["b10", "a", "b9"]),
        ({"list": ["b9"]}, ["b9", "a", "b10"]),
        ({"by": "sum", "desc": True}, ["b9", "a", "b10"]),
    ],
)
def test_orders(order: Any, want: list[str]) -> None:
    data = records(a=["b10", "a", "b9", None], amount=["1.00", "2.00", "3.00", "9.00"])
    rows = table(data, down=[{"category": "a", "order": order}], figures=[SUM])
    assert column_of(rows, "a") == [*want, "(blank)", ""]


def test_totals_before_after_and_none() -> None:
    data = records(a=["x", "x"], b=["u", "v"])
    axes = {"down": [{"category": "a"}, {"category": "b"}]}
    assert column_of(table(data, **axes, totals={"down": "before"}), "down_level") == ["a", "b", "b", "Total"]
    assert column_of(table(data, **axes, totals={"levels": {"a": "none"}, "grand_down": "before"}), "down_level") == [
        "Total",
        "b",
        "b",
    ]


def test_a_sheet_with_no_records_has_a_total_of_nothing() -> None:
    found = sheet(records(a=["x"]), down=[{"category": "a"}], only=["a = 'y'"])
    assert found.tie_out.on_sheet == 0


def test_rules_that_cannot_be_read_name_their_category() -> None:
    bad = {**TREE, "roots": [{"label": "A", "rule": "value LIKE"}]}
    with pytest.raises(DefinitionError, match="rule of A"):
        table(records(v=["a"]), bad, down=[{"category": "v", "tree": "T"}])


SITES = {"site": ["a", "b", "c", "d", "a", "b"], "kind": ["x", "x", "y", "y", "y", "x"], "n": [1, 5, 3, 2, 4, 1]}


def test_the_top_of_columns_and_the_rest_of_them_as_one() -> None:
    across = {"category": "site", "top": 2, "by": "n"}
    rows = table(
        records(**SITES),
        down=[{"category": "kind"}],
        across=[across],
        figures=[{"name": "n", "take": "sum", "of": "n"}],
    )
    assert [(r["kind"], r["site"], r["n"]) for r in rows if r["kind"]] == [
        ("x", "b", "6"), ("x", "a", "1"), ("x", "", "7"),
        ("y", "a", "4"), ("y", "Other (2)", "5"), ("y", "", "9"),
    ]  # fmt: skip
    hidden = table(
        records(**SITES), across=[{**across, "rest": None}], figures=[{"name": "n", "take": "sum", "of": "n"}]
    )
    assert [(r["site"], r["n"]) for r in hidden] == [("b", "6"), ("a", "5"), ("", "16")]


def test_columns_in_the_order_of_a_figure_in_a_line() -> None:
    figures = [{"name": "n", "take": "sum", "of": "n"}]
    by_line = {"category": "site", "order": {"by": "n", "desc": True, "column": ["y"]}}
    rows = table(records(**SITES), down=[{"category": "kind"}], across=[by_line], figures=figures)
    assert [r["site"] for r in rows if r["kind"] == "" and r["site"]] == ["a", "c", "d", "b"]
    by_total = {"category": "site", "order": {"by": "n"}}
    rows = table(records(**SITES), across=[by_total], figures=figures)
    assert [r["site"] for r in rows] == ["d", "c", "a", "b", ""]


def test_a_value_that_reads_as_a_special_label_stands_in_quotation_marks() -> None:
    values = ["Total", "(blank)", None, "Other (3)", "Not placed", '"Total"', "Other", "plain"]
    data = records(a=values, v=[1] * len(values))
    top = {"category": "a", "top": 7, "by": "n", "rest": "Rest"}
    rows = table(data, down=[{"category": "a"}])
    labels = [r["a"] for r in rows]
    want = {'"(blank)"', '"Not placed"', '"Other (3)"', '"Total"', '""Total""', "Other", "plain", "(blank)"}
    assert set(labels[:-1]) == want
    assert len(labels[:-1]) == len(want)
    assert len({r["a"] for r in table(data, down=[top])[:-1]}) == 8
    listed = table(data, down=[{"category": "a", "order": {"list": ["plain", '"Total"']}}])
    assert listed[0]["a"] == "plain"
