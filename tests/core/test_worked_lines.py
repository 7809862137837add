"""Lines made from other lines by a formula, and categories with reversed signs."""

from datetime import date
from typing import Any

import pytest

from kalendor.errors import DefinitionError
from tests.core.build import records, sheet, table

LEDGER = records(
    account=["Sales", "Sales", "Cost", "Cost", "Rent", "Sales", None],
    site=["N", "S", "N", "S", "N", "S", "N"],
    on=[date(2025, 5, 1), date(2025, 5, 2), date(2025, 5, 3), date(2025, 6, 1), date(2026, 5, 1), date(2026, 5, 2), date(2026, 5, 3)],
    amount=["100.00", "50.00", "30.00", "20.00", "7.50", "80.00", "1.00"],
)  # fmt: skip
SUM = {"name": "sum", "take": "sum", "of": "amount"}
COUNT = {"name": "n", "take": "count"}
MARGIN = {"name": "Margin", "level": "account", "formula": "Sales - Cost", "after": "Cost"}
BY_ACCOUNT: dict[str, Any] = {"category": "account", "order": {"list": ["Sales", "Cost", "Rent"]}}


def lines(*level_names: str, data: Any = LEDGER, figure: str = "sum", **keys: Any) -> list[tuple[str, ...]]:
    return [(*(r[name] for name in level_names), r[figure]) for r in table(data, **keys)]


def test_a_line_is_made_from_other_lines_and_counts_in_no_total() -> None:
    keys = {"down": [BY_ACCOUNT], "figures": [SUM, COUNT], "lines": [MARGIN]}
    assert lines("account", **keys) == [
        ("Sales", "230.00"), ("Cost", "50.00"), ("Margin", "180.00"), ("Rent", "7.50"), ("(blank)", "1.00"), ("", "288.50"),
    ]  # fmt: skip
    assert lines("account", figure="n", **keys)[2] == ("Margin", "1")
    found = sheet(LEDGER, **keys)
    assert found.tie_out.footings[0].total == "288.50"
    assert found.tie_out.on_sheet == 7


def test_a_line_may_use_one_before_it_and_a_line_that_is_missing_counts_as_nothing() -> None:
    net = {"name": "Net", "level": "account", "formula": 'Margin - Rent - "Wages"'}
    keys = {"down": [BY_ACCOUNT], "figures": [SUM], "lines": [MARGIN, net]}
    assert lines("account", **keys)[4] == ("Net", "172.50")
    assert "Net: there is no line 'Wages' here, and it counts as nothing" in sheet(LEDGER, **keys).notes


def test_a_line_stands_under_each_parent_that_has_its_lines_and_in_each_column() -> None:
    keys: dict[str, Any] = {
        "down": [{"category": "site"}, BY_ACCOUNT],
        "across": [{"period": "on", "grains": ["year"]}],
        "figures": [SUM],
        "lines": [MARGIN],
    }
    found = [(r["site"], r["account"], r["year"], r["sum"]) for r in table(LEDGER, **keys) if r["account"] == "Margin"]
    assert found == [
        ("N", "Margin", "2025", "70.00"),
        ("N", "Margin", "", "70.00"),
        ("S", "Margin", "2025", "30.00"),
        ("S", "Margin", "2026", "80.00"),
        ("S", "Margin", "", "110.00"),
    ]
    only_rent = {**keys, "only": ["account = 'Rent'"]}
    assert not [r for r in table(LEDGER, **only_rent) if r["account"] == "Margin"]


def test_a_line_at_an_outer_level_has_nothing_beneath_it() -> None:
    rows = table(LEDGER, down=[BY_ACCOUNT, {"category": "site"}], figures=[SUM], lines=[MARGIN])
    assert [(r["account"], r["site"], r["sum"]) for r in rows][3:8] == [
        ("Cost", "N", "30.00"), ("Cost", "S", "20.00"), ("Cost", "", "50.00"), ("Margin", "", "180.00"), ("Rent", "N", "7.50"),
    ]  # fmt: skip


def test_figures_from_figures_work_on_a_made_line_as_on_any_other() -> None:
    figures = [
        SUM,
        {"name": "mean", "take": "mean", "of": "amount"},
        COUNT,
        {"name": "each", "formula": "sum / n"},
        {"name": "share", "share": "sum"},
        {"name": "place", "rank": "sum"},
        {"name": "before", "compare": "sum", "with": "year_earlier", "as": "base", "to_date": False},
        {"name": "so far", "running": "sum", "along": "on"},
    ]
    rows = table(
        LEDGER,
        down=[BY_ACCOUNT],
        across=[{"period": "on", "grains": ["year"]}],
        figures=figures,
        lines=[MARGIN],
        as_of="2026-12-31",
    )
    margin = {r["year"]: r for r in rows if r["account"] == "Margin"}
    assert margin["2026"]["sum"] == "80.00"
    assert margin["2026"]["before"] == "100.00"
    assert margin["2026"]["so far"] == "180.00"
    assert margin[""]["each"] == "180"
    assert margin[""]["place"] == ""
    assert margin[""]["mean"] == "51.6666666667"
    sales = next(r for r in rows if r["account"] == "Sales" and r["year"] == "")
    assert sales["place"] == "1"


def test_a_ratio_stands_unrounded_beside_amounts() -> None:
    keys = {
        "down": [BY_ACCOUNT],
        "figures": [SUM],
        "lines": [{"name": "Part", "level": "account", "formula": "Cost / Sales"}],
    }
    assert ("Part", "0.217391304348") in lines("account", **keys)


def test_a_running_figure_down_the_lines_passes_over_made_lines() -> None:
    figures = [SUM, {"name": "so far", "running": "sum", "along": "lines"}]
    rows = lines("account", figure="so far", down=[BY_ACCOUNT], figures=figures, lines=[MARGIN])
    assert rows[2:4] == [("Margin", ""), ("Rent", "287.50")]


@pytest.mark.parametrize(
    ("line", "word"),
    [
        ({**MARGIN, "level": "acount"}, "no level 'acount' among the lines; there are account"),
        ({**MARGIN, "name": "Sales"}, "has a line of that name already"),
        ({**MARGIN, "formula": "Sales -"}, "line 'Margin': cannot read the formula"),
        ({**MARGIN, "formula": "Margin + Sales"}, "made from itself"),
        ({**MARGIN, "formula": "UPPER(Sales)"}, "line 'Margin': in 'UPPER.Sales"),
    ],
)
def test_a_line_that_cannot_be_made_says_why(line: dict[str, Any], word: str) -> None:
    with pytest.raises(DefinitionError, match=word):
        table(LEDGER, down=[BY_ACCOUNT], figures=[SUM], lines=[line])


def test_a_line_is_not_made_among_periods() -> None:
    with pytest.raises(DefinitionError, match="lines of categories"):
        table(LEDGER, down=[{"period": "on", "grains": ["year"]}], lines=[{**MARGIN, "level": "year"}])


TREE: dict[str, Any] = {
    "kalendor": 1, "kind": "tree", "name": "T", "levels": ["Group", "Account"],
    "roots": [
        {"label": "In", "under": [{"value": "Sales"}]},
        {"label": "Out", "sign": -1, "under": [{"value": "Cost"}, {"value": "Rent", "sign": -1}]},
    ],
}  # fmt: skip


def test_a_sign_turns_the_amounts_of_a_category_at_every_level() -> None:
    keys: dict[str, Any] = {"down": [{"category": "account", "tree": "T"}], "figures": [SUM, COUNT]}
    rows = [(r["Group"], r["Account"], r["sum"], r["n"]) for r in table(LEDGER, TREE, **keys)]
    assert rows == [
        ("In", "Sales", "230.00", "3"), ("In", "", "230.00", "3"),
        ("Out", "Cost", "-50.00", "2"), ("Out", "Rent", "7.50", "1"), ("Out", "", "-42.50", "3"),
        ("(blank)", "(blank)", "1.00", "1"), ("(blank)", "", "1.00", "1"), ("", "", "188.50", "7"),
    ]  # fmt: skip


def test_a_sign_may_stand_in_the_report_and_other_takes_follow_it() -> None:
    figures = [
        SUM,
        {"name": "least", "take": "min", "of": "amount"},
        {"name": "middle", "take": "median", "of": "amount"},
        {"name": "apart", "take": "distinct", "of": "amount"},
        {"name": "weighed", "take": "weighted_mean", "of": "amount", "weight": "amount"},
    ]
    entry = {**BY_ACCOUNT, "signs": {"Cost": -1, "Sales": 1}}
    rows = {r["account"]: r for r in table(LEDGER, down=[entry], figures=figures)}
    cost = rows["Cost"]
    assert (cost["sum"], cost["least"], cost["middle"], cost["apart"], cost["weighed"]) == (
        "-50.00", "-30.00", "-25", "2", "-26",
    )  # fmt: skip
    assert rows[""]["sum"] == "188.50"
    assert rows[""]["least"] == "-30.00"


def test_a_sheet_says_what_counts_negative() -> None:
    down = {"category": "account", "tree": "T", "signs": {"Sales": -1, "In": 1}}
    assert sheet(LEDGER, TREE, down=[down]).notes == ("Sales, Out, Rent count negative",)
    assert sheet(LEDGER, down=[{**BY_ACCOUNT, "signs": {"Cost": -1}}]).notes == ("Cost counts negative",)


def test_a_sign_across_and_one_down_turn_twice() -> None:
    down = {**BY_ACCOUNT, "signs": {"Cost": -1}}
    across = {"category": "site", "signs": {"S": -1}}
    rows = {(r["account"], r["site"]): r["sum"] for r in table(LEDGER, down=[down], across=[across], figures=[SUM])}
    assert rows["Cost", "S"] == "20.00"
    assert rows["Cost", "N"] == "-30.00"
    assert rows["Sales", "S"] == "-130.00"


def test_a_line_that_reaches_back_counts_lines_with_nothing_in_its_own_period() -> None:
    """The running total of 2026 includes the cost of 2025, though 2026 has none, whichever axis the year is on."""
    figures = [
        SUM,
        {"name": "so far", "running": "sum", "along": "on", "restart": "never"},
        {"name": "two years", "moving": "sum", "periods": 2, "take": "sum"},
        {"name": "best", "rank": "so far"},
    ]
    year = {"period": "on", "grains": ["year"]}
    keys: dict[str, Any] = {"figures": figures, "lines": [MARGIN]}
    stacked = {(r["year"], r["account"]): r for r in table(LEDGER, down=[year, BY_ACCOUNT], **keys)}
    beside = table(LEDGER, down=[BY_ACCOUNT], across=[year], **keys)
    for r in beside:
        other = stacked.get((r["year"], r["account"]))
        if other is not None and r["year"]:
            assert [other[n] for n in ("sum", "so far", "two years")] == [r[n] for n in ("sum", "so far", "two years")]
    assert stacked["2026", "Margin"]["so far"] == "180.00"
    assert stacked["2026", "Margin"]["two years"] == "180.00"
    assert ("2026", "Cost") not in stacked
    assert stacked["2026", "Sales"]["best"] == "1"
    assert stacked["2026", "Rent"]["best"] == "2"
    shown = {"window": {"of": "on", "show": {"this": "year"}}, "as_of": "2026-06-30"}
    for entries in ({"down": [year, BY_ACCOUNT]}, {"down": [BY_ACCOUNT], "across": [year]}):
        (margin,) = [r for r in table(LEDGER, **entries, **keys, **shown) if r["account"] == "Margin" and r["year"]]
        assert (margin["sum"], margin["so far"], margin["two years"]) == ("80.00", "180.00", "180.00")


def test_lines_that_stand_only_for_others_are_in_no_count_and_in_no_rest() -> None:
    """The same lines are shown, hidden, and part of a top's rest with or without a figure that reaches back."""
    along = {"name": "so far", "running": "sum", "along": "on", "restart": "never"}
    year = {"period": "on", "grains": ["year"]}
    for more in (
        {"keep": [{"level": "account", "where": "sum > 60"}]},
        {"keep": [{"level": "account", "where": "sum > 60"}], "totals": {"totals": "kept"}},
        {"down": [year, {"category": "account", "top": 1, "by": "sum"}]},
        {"down": [year, {"category": "account", "top": 1, "by": "sum", "rest": None}]},
    ):
        keys: dict[str, Any] = {"down": [year, BY_ACCOUNT], "lines": [MARGIN], **more}
        without, with_ = (sheet(LEDGER, figures=[SUM, *f], **keys) for f in ([], [along]))
        shown = [
            [(r["year"], r["account"], r["sum"]) for r in table(LEDGER, figures=[SUM, *f], **keys)]
            for f in ([], [along])
        ]
        assert shown[0] == shown[1]
        assert with_.notes == without.notes
        assert with_.tie_out == without.tie_out


def test_what_a_tops_rest_has_taken_in_does_not_stand_for_a_made_line() -> None:
    """Materials are part of the rest of 2026: the made line counts them as nothing there, whether or not 2025 shows
    them."""
    data = records(
        account=["Sales", "Cost", "Sales", "Cost", "Rent"],
        on=[date(2025, 5, 1), date(2025, 5, 2), date(2026, 5, 1), date(2026, 5, 2), date(2026, 5, 3)],
        amount=["10.00", "40.00", "30.00", "1.00", "20.00"],
    )
    along = {"name": "so far", "running": "sum", "along": "on", "restart": "never"}
    down = [{"period": "on", "grains": ["year"]}, {"category": "account", "top": 2, "by": "sum"}]
    found = {(r["year"], r["account"]): r for r in table(data, down=down, figures=[SUM, along], lines=[MARGIN])}
    assert ("2026", "Other (1)") in found
    assert found["2025", "Margin"]["so far"] == "-30.00"
    assert found["2026", "Margin"]["sum"] == "30.00"
    assert found["2026", "Margin"]["so far"] == found["2026", "Sales"]["so far"] == "40.00"
