"""Ordinary wordings over other sources: a rule serves every column."""

from copy import deepcopy
from typing import Any

import pytest

from kalendor.definitions.axis import CategoryEntry
from kalendor.definitions.report import Report
from kalendor.sentence.dictionary import with_report
from kalendor.sentence.names import Column, names
from kalendor.sentence.reading import Read, read
from kalendor.sentence.writing import brief
from tests.core.build import TODAY
from tests.sentence.build import asks, compared, heard, orders

SHIFTS = names(
    [Column("worked_on", "date"), Column("paid_on", "date"), Column("team", "text"), Column("person", "text"), Column("shift_type", "text"),
     Column("hours", "number"), Column("gross_pay", "number"), Column("bonus rate", "number"), Column("branch", "number")],
    {"team": ["Harbour", "Night crew", "Yard"], "person": ["A. Berg", "O'Neil", "Ines"], "shift_type": ["day", "night", "stand by"]},
    trees={"Organisation": ("team", ["Division", "Team"])}, calendars=["Season", "Tax year"], sets={"Days late": None, "Pay bands": "gross_pay"},
    sources=["shifts"],
)  # fmt: skip
PAY, HOURS = {"name": "Gross pay", "take": "sum", "of": "gross_pay"}, {"name": "Hours", "take": "sum", "of": "hours"}


def over(text: str) -> Read:
    return read(text, SHIFTS, TODAY)


@pytest.mark.parametrize(
    ("text", "wanted"),
    [
        ("pay by team", {"figures": [PAY], "down": [{"category": "team"}]}),
        ("hours per person per month", {"figures": [HOURS], "down": [{"category": "person"}, {"period": "worked_on", "grains": ["month"]}]}),
        ("gross pay divided by hours by team", {"figures": [
            {**PAY, "hide": True}, {**HOURS, "hide": True}, {"name": "Gross pay per hours", "formula": '"Gross pay" / "Hours"'}], "down": [{"category": "team"}]}),
        ("rate = pay / hours by team", {"figures": [
            {**PAY, "hide": True}, {**HOURS, "hide": True}, {"name": "rate", "formula": '"Gross pay" / "Hours"'}], "down": [{"category": "team"}]}),
        ("hours and rate = pay / hours by team", {"figures": [
            HOURS, {**PAY, "hide": True}, {"name": "rate", "formula": '"Gross pay" / "Hours"'}], "down": [{"category": "team"}]}),
        ("profit and loss = pay - hours by team", {"figures": [
            {**PAY, "hide": True}, {**HOURS, "hide": True}, {"name": "profit and loss", "formula": '"Gross pay" - "Hours"'}], "down": [{"category": "team"}]}),
        ("hours by person for shift type day, night", {"figures": [HOURS], "down": [{"category": "person"}], "only": ["\"shift_type\" IN ('day', 'night')"]}),
        ("hours by person for team Harbour, Yard", {"figures": [HOURS], "down": [{"category": "person"}], "only": ["\"team\" IN ('Harbour', 'Yard')"]}),
        ("Harbour hours by person, only day, only Yard", {
            "figures": [HOURS], "down": [{"category": "person"}], "only": ["\"team\" IN ('Harbour', 'Yard')", "\"shift_type\" = 'day'"]}),
        ("difference between pay and hours by team", {"figures": [
            {**PAY, "hide": True}, {**HOURS, "hide": True}, {"name": "Gross pay less hours", "formula": '"Gross pay" - "Hours"'}], "down": [{"category": "team"}]}),
        ("hours as % of pay by team", {"figures": [
            {**HOURS, "hide": True}, {**PAY, "hide": True}, {"name": "Hours per gross pay", "formula": '"Hours" / "Gross pay"', "format": {"percent": True}}], "down": [{"category": "team"}]}),
        ("hours by team and person, people as columns", {"figures": [HOURS], "down": [{"category": "team"}], "across": [{"category": "person"}]}),
        ("hours by team in the second quarter of 2026", {
            "figures": [HOURS], "down": [{"category": "team"}], "window": {"of": "worked_on", "show": {"from": "2026-04-01", "to": "2026-06-30"}}}),
        ("hours by team, rounded to whole numbers", {"figures": [{**HOURS, "format": {"places": 0}}], "down": [{"category": "team"}]}),
        ("pay by team, day only", {"figures": [PAY], "down": [{"category": "team"}], "only": ["\"shift_type\" = 'day'"]}),
        ("shifts with a bonus rate over 10% by team", {"figures": [{"name": "Records", "take": "count"}], "down": [{"category": "team"}], "only": ['"bonus rate" > 0.1']}),
        ("shifts per team each month", {"figures": [{"name": "Records", "take": "count"}], "down": [{"category": "team"}, {"period": "worked_on", "grains": ["month"]}]}),
        ("pay to date this year by team", {"figures": [PAY], "down": [{"category": "team"}], "window": {"of": "worked_on", "show": {"to_date": "year"}}}),
        ("pay by team then person, share of its team", {
            "figures": [PAY, {"name": "Share", "share": "Gross pay", "of_total": "parent"}], "down": [{"category": "team"}, {"category": "person"}]}),
        ("how many people by team", {"figures": [{"name": "Different persons", "take": "distinct", "of": "person"}], "down": [{"category": "team"}]}),
        ("shifts by division", {"figures": [{"name": "Records", "take": "count"}], "down": [{"category": "team", "tree": "Organisation", "levels": ["Division"]}]}),
        ("hours by division > team", {"figures": [HOURS], "down": [{"category": "team", "tree": "Organisation", "levels": ["Division", "Team"]}]}),
        ("hours by organisation", {"figures": [HOURS], "down": [{"category": "team", "tree": "Organisation"}]}),
        ("hours by season", {"figures": [HOURS], "down": [{"period": "worked_on", "grains": ["year"], "calendar": "Season"}]}),
        ("hours by tax quarter", {"figures": [HOURS], "down": [{"period": "worked_on", "grains": ["quarter"], "calendar": "Tax year"}]}),
        ("hours by tax year quarter", {"figures": [HOURS], "down": [{"period": "worked_on", "grains": ["quarter"], "calendar": "Tax year"}]}),
        ("hours by paid month", {"figures": [HOURS], "down": [{"period": "paid_on", "grains": ["month"]}]}),
        ("hours by team, a column for each year", {"figures": [HOURS], "down": [{"category": "team"}], "across": [{"period": "worked_on", "grains": ["year"]}]}),
        ("hours by team with people beneath", {"figures": [HOURS], "down": [{"category": "team"}, {"category": "person"}]}),
        ("hours by people in each team", {"figures": [HOURS], "down": [{"category": "team"}, {"category": "person"}]}),
        ("night crew hours by person", {"figures": [HOURS], "down": [{"category": "person"}], "only": ["\"team\" = 'Night crew'"]}),
        ("hours for Harbour and Yard by person", {"figures": [HOURS], "down": [{"category": "person"}], "only": ["\"team\" IN ('Harbour', 'Yard')"]}),
        ("hours by team except O'Neil", {"figures": [HOURS], "down": [{"category": "team"}], "only": ["\"person\" <> 'O''Neil' OR \"person\" IS NULL"]}),
        ("hours by team without a person", {"figures": [HOURS], "down": [{"category": "team"}], "only": ['"person" IS NULL']}),
        ("hours by team with a person", {"figures": [HOURS], "down": [{"category": "team"}], "only": ['NOT "person" IS NULL']}),
        ("hours by team where bonus rate is at least 10%", {"figures": [HOURS], "down": [{"category": "team"}], "only": ['"bonus rate" >= 0.1']}),
        ("hours by team before 1 March 2026", {"figures": [HOURS], "down": [{"category": "team"}], "window": {"of": "worked_on", "show": {"to": "2026-02-28"}}}),
        ("hours by team where paid on is blank", {"figures": [HOURS], "down": [{"category": "team"}], "only": ['"paid_on" IS NULL']}),
        ("pay by team, in thousands", {"figures": [{**PAY, "format": {"unit": "thousands"}}], "down": [{"category": "team"}]}),
        ("pay and shifts by team, in millions with one decimal, rounded to add up", {"figures": [
            {**PAY, "format": {"unit": "millions", "places": 1, "foots": True}}, {"name": "Records", "take": "count"}], "down": [{"category": "team"}]}),
        ("pay divided by hours by team without decimals", {"figures": [
            {**PAY, "hide": True}, {**HOURS, "hide": True}, {"name": "Gross pay per hours", "formula": '"Gross pay" / "Hours"', "format": {"places": 0}}], "down": [{"category": "team"}]}),
        ("pay by pay bands", {"figures": [PAY], "down": [{"bucket": "gross_pay", "set": "Pay bands"}]}),
        ("pay by days past paid on in 0, 7, 30", {"figures": [PAY], "down": [{"age": "paid_on", "cut": [0, 7, 30]}]}),
        ("pay by age of paid on in days late", {"figures": [PAY], "down": [{"age": "paid_on", "set": "Days late"}]}),
        ("hours by team, sorted by pay descending", {"figures": [HOURS, {**PAY, "hide": True}], "down": [{"category": "team", "order": {"by": "Gross pay", "desc": True}}]}),
        ("top 3 people in each team by hours", {"figures": [HOURS], "down": [{"category": "team"}, {"category": "person", "top": 3, "by": "Hours"}]}),
        ("p90 hours by team", {"figures": [{"name": "90th percentile of hours", "take": "percentile", "of": "hours", "p": 90.0}], "down": [{"category": "team"}]}),
        ("hours, pay by month, difference and % change on a year earlier", {"figures": [HOURS, PAY,
            {"name": "Difference", "compare": "Gross pay", "with": "year_earlier", "as": "difference"},
            {"name": "Change", "compare": "Gross pay", "with": "year_earlier", "as": "percent"}], "down": [{"period": "worked_on", "grains": ["month"]}]}),
        ("hours by team vs last year with the base", {"figures": [HOURS, {"name": "Change", "compare": "Hours", "with": "year_earlier", "as": "percent"},
            {"name": "Hours a year earlier", "compare": "Hours", "with": "year_earlier", "as": "base"}], "down": [{"category": "team"}]}),
        ("cumulative hours by month that starts again each year", {"figures": [HOURS,
            {"name": "Hours so far", "running": "Hours", "along": "worked_on", "restart": "year"}], "down": [{"period": "worked_on", "grains": ["month"]}]}),
        ("show me the total hours for each team, please", {"figures": [HOURS], "down": [{"category": "team"}]}),
        ("hours by branch", {"figures": [HOURS], "down": [{"category": "branch"}]}),
        ("a column for each quarter, pay by team", {"figures": [PAY], "down": [{"category": "team"}], "across": [{"period": "worked_on", "grains": ["quarter"]}]}),
        ("how much pay in each team", {"figures": [PAY], "down": [{"category": "team"}]}),
        ("absolute change in pay by team against last month", {"figures": [PAY,
            {"name": "Difference", "compare": "Gross pay", "with": {"back": 1, "grain": "month"}, "as": "difference"}], "down": [{"category": "team"}]}),
        ("pay by team in 2025 compared to 2024", {"figures": [PAY, {"name": "Change", "compare": "Gross pay", "with": "year_earlier", "as": "percent"}],
            "down": [{"category": "team"}], "window": {"of": "worked_on", "show": {"from": "2025-01-01", "to": "2025-12-31"}}}),
        ("2026 vs 2024 pay by team", {"figures": [PAY, {"name": "Change", "compare": "Gross pay", "with": {"back": 2, "grain": "year"}, "as": "percent"}],
            "down": [{"category": "team"}], "window": {"of": "worked_on", "show": {"from": "2026-01-01", "to": "2026-12-31"}}}),
        ("pay in the second half of 2025", {"figures": [PAY], "window": {"of": "worked_on", "show": {"from": "2025-07-01", "to": "2025-12-31"}}}),
        ("pay by team then person, top 2 people", {"figures": [PAY], "down": [{"category": "team"}, {"category": "person", "top": 2, "by": "Gross pay"}]}),
        ("the 3 biggest people by pay in each team", {"figures": [PAY], "down": [{"category": "team"}, {"category": "person", "top": 3, "by": "Gross pay"}]}),
        ("pay over 500 by team", {"figures": [PAY], "down": [{"category": "team"}], "only": ['"gross_pay" > 500']}),
        ("pay share by team", {"figures": [PAY, {"name": "Share", "share": "Gross pay", "of_total": "all"}], "down": [{"category": "team"}]}),
        ("rank people by pay", {"figures": [PAY, {"name": "Rank", "rank": "Gross pay"}], "down": [{"category": "person"}]}),
        ("pay by team without blank paid dates", {"figures": [PAY], "down": [{"category": "team"}], "only": ['NOT "paid_on" IS NULL']}),
        ("pay between 2025-01-01 and 2025-06-30", {"figures": [PAY], "window": {"of": "worked_on", "show": {"from": "2025-01-01", "to": "2025-06-30"}}}),
        ("pay since 2026-01-01", {"figures": [PAY], "window": {"of": "worked_on", "show": {"from": "2026-01-01"}}}),
        ("pay after 1 March 2026", {"figures": [PAY], "window": {"of": "worked_on", "show": {"from": "2026-03-02"}}}),
        ("pay for the month of June 2026", {"figures": [PAY], "window": {"of": "worked_on", "show": {"from": "2026-06-01", "to": "2026-06-30"}}}),
        ("pay by team neither Harbour nor Yard", {"figures": [PAY], "down": [{"category": "team"}], "only": ["NOT \"team\" IN ('Harbour', 'Yard') OR \"team\" IS NULL"]}),
        ("average pay per shift by team", {"figures": [{"name": "Average gross pay", "take": "mean", "of": "gross_pay"}], "down": [{"category": "team"}]}),
        ("rate % = (pay - hours) / pay by team", {"figures": [{**PAY, "hide": True}, {**HOURS, "hide": True},
            {"name": "rate %", "formula": '( "Gross pay" - "Hours" ) / "Gross pay"'}], "down": [{"category": "team"}]}),
        ("pay minus hours as a percentage of pay by team", {"figures": [{**PAY, "hide": True}, {**HOURS, "hide": True},
            {"name": "Gross pay less hours per gross pay", "formula": '( "Gross pay" - "Hours" ) / "Gross pay"', "format": {"percent": True}}], "down": [{"category": "team"}]}),
        ("rate = pay / hours, rate each = rate / hours by team", {"figures": [{**PAY, "hide": True}, {**HOURS, "hide": True},
            {"name": "rate", "formula": '"Gross pay" / "Hours"'}, {"name": "rate each", "formula": '"rate" / "Hours"'}], "down": [{"category": "team"}]}),
        ("which team has the highest pay", {"figures": [PAY], "down": [{"category": "team", "order": {"by": "Gross pay", "desc": True}}]}),
        ("which person has the fewest hours", {"figures": [HOURS], "down": [{"category": "person", "order": {"by": "Hours"}}]}),
        ("pay by person, top 2 by hours", {"figures": [PAY, {**HOURS, "hide": True}], "down": [{"category": "person", "top": 2, "by": "Hours"}]}),
        ("top 2 people by pay, the rest as other", {"figures": [PAY], "down": [{"category": "person", "top": 2, "by": "Gross pay"}]}),
        ("top 2 people by pay without the rest", {"figures": [PAY], "down": [{"category": "person", "top": 2, "by": "Gross pay", "rest": None}]}),
        ("% of hours by team", {"figures": [HOURS, {"name": "Share", "share": "Hours", "of_total": "all"}], "down": [{"category": "team"}]}),
        ("pay by team, hours over 5 only", {"figures": [PAY], "down": [{"category": "team"}], "only": ['"hours" > 5']}),
        ("pay by month, newest to oldest", {"figures": [PAY], "down": [{"period": "worked_on", "grains": ["month"], "order": "date_desc"}]}),
        ("rolling 3 month sum of pay by month", {"figures": [PAY, {"name": "3-period sum", "moving": "Gross pay", "periods": 3, "take": "sum"}],
            "down": [{"period": "worked_on", "grains": ["month"]}]}),
        ("pay by calendar quarter", {"figures": [PAY], "down": [{"period": "worked_on", "grains": ["quarter"]}]}),
        ("sum(pay), avg(hours) by team", {"figures": [PAY, {"name": "Average hours", "take": "mean", "of": "hours"}], "down": [{"category": "team"}]}),
        ("count distinct person by team", {"figures": [{"name": "Different persons", "take": "distinct", "of": "person"}], "down": [{"category": "team"}]}),
        ("how many Harbour shifts by person", {"figures": [{"name": "Records", "take": "count"}], "down": [{"category": "person"}], "only": ["\"team\" = 'Harbour'"]}),
        ("pay total by team for the Harbour only", {"figures": [PAY], "down": [{"category": "team"}], "only": ["\"team\" = 'Harbour'"]}),
        ("pay between 2024 and 2025", {"figures": [PAY], "window": {"of": "worked_on", "show": {"from": "2024-01-01", "to": "2025-12-31"}}}),
        ("pay from 2025", {"figures": [PAY], "window": {"of": "worked_on", "show": {"from": "2025-01-01"}}}),
        ("pay up to 2025", {"figures": [PAY], "window": {"of": "worked_on", "show": {"to": "2025-12-31"}}}),
        ("pay yesterday", {"figures": [PAY], "window": {"of": "worked_on", "show": {"previous": "day"}}}),
        ("hours by team excluding Harbour and night crew, biggest first", {"figures": [HOURS], "down": [{"category": "team", "order": {"by": "Hours", "desc": True}}],
            "only": ["NOT \"team\" IN ('Harbour', 'Night crew') OR \"team\" IS NULL"]}),
    ],
)  # fmt: skip
def test_a_wording_asks_for_what_it_says(text: str, wanted: dict[str, Any]) -> None:
    found = over(text)
    assert found.whole, (found.unknown, found.why)
    assert found.report is not None
    assert compared(found.report) == {"only": [], **wanted}


@pytest.mark.parametrize(
    ("text", "unknown"),
    [
        ("hours by teem", ["teem"]), ("ours by team", ["ours"]), ("hours by team only yardd", ["yardd"]), ("hours by", ["by"]),
        ("hours by team not", ["not"]), ("hours by team over 500", ["over", "500"]), (" ,", []), ("hours by team where", ["where"]),
        ("hours by team in 30 February 2026", None), ("hours by team in 2025 compared to 2026", ["compared", "to", "2026"]),
        ("hours by team vs 2025", None), ("hours (Harbour) by team", None), ("hours (average) by team", None), ("hours by team, the rest as other", None), ("people in Harbour, hours", None), ("growth by month of hours", None),
    ],
)  # fmt: skip
def test_what_is_not_understood_is_named(text: str, unknown: list[str] | None) -> None:
    found = over(text)
    assert not found.whole or not text
    if unknown is not None:
        assert list(found.unknown) == unknown or not text


def test_fiscal_without_a_calendar_is_named() -> None:
    bare = names([Column("on", "date"), Column("net", "number")], {})
    assert read("net by fiscal quarter", bare, TODAY).unknown == ["fiscal"]


def test_words_have_the_tone_of_what_they_became() -> None:
    text = "net by area, this fiscal year against last, excluding cancelled and refunds"
    found = heard(text)
    tones = {text[h.start : h.end]: h.tone for h in found.heard}
    assert tones["net"] == "figure"
    assert tones["area"] == "tree"
    assert tones["this fiscal year"] == "period"
    assert tones["refunds"] == "unknown"


@pytest.mark.parametrize(
    ("text", "wanted"),
    [
        ("net by month, change on last year in percent", {"compare": "Net", "with": "year_earlier", "as": "percent"}),
        ("net by month, difference on the month before as a percentage", {"compare": "Net", "with": {"back": 1, "grain": "month"}, "as": "percent"}),
        ("net, cost by month, growth in net on last year in %", {"compare": "Net", "with": "year_earlier", "as": "percent"}),
        ("net by clinic, as % of the total", {"share": "Net"}),
        ("net by clinic, as a share of the total", {"share": "Net"}),
    ],
)  # fmt: skip
def test_a_percentage_is_said_before_or_after(text: str, wanted: dict[str, Any]) -> None:
    assert {k: v for k, v in documented(text)["figures"][-1].items() if k != "name"} == wanted


def test_only_amounts_are_shown_in_thousands() -> None:
    text = "net by clinic and month in 2026, share of total, growth, difference, running total, rank, in thousands"
    shown = {f["name"]: f.get("format") for f in documented(text)["figures"]}
    assert {name for name, form in shown.items() if form} == {"Net", "Difference", "Net so far"}, shown
    assert not over("shifts by team, in thousands").whole, "a count alone has no amounts"


def test_a_sentence_adds_to_a_report_or_takes_its_place() -> None:
    base = heard("net by area, months across, only completed").report
    assert base is not None
    document = base.model_dump(mode="json", by_alias=True, exclude_defaults=True)
    added = heard("average cost, excluding north", base=document, add=True).report
    assert added is not None
    assert [f.name for f in added.figures] == ["Net", "Average cost"]
    assert len(added.only) == 2
    assert added.across
    replaced = heard("average cost by clinic", base=document | {"title": "Kept"}).report
    assert replaced is not None
    assert (replaced.title, replaced.across, replaced.only) == ("Kept", [], [])


def documented(text: str) -> dict[str, Any]:
    found = heard(text).report
    assert found is not None
    return found.model_dump(mode="json", by_alias=True, exclude_defaults=True)


@pytest.mark.parametrize(
    ("text", "compared_with"),
    [
        ("net against last year, cost by month", "Net"), ("net, cost against last year by month", "Cost"),
        ("against last year, net by month", "Net"), ("net, difference on last month, average cost by month", "Net"),
    ],
)  # fmt: skip
def test_a_comparison_is_of_the_figure_before_it(text: str, compared_with: str) -> None:
    comparisons = [f["compare"] for f in asks(text)["figures"] if "compare" in f]
    assert comparisons == [compared_with]


@pytest.mark.parametrize(
    ("text", "key"),
    [("biggest first", "down"), ("top 2 areas", "down"), ("subtotals below", "totals"), ("restarting every year", "figures"), ("net by month, north", "only")],
)  # fmt: skip
def test_what_is_added_goes_over_what_stood_and_leaves_the_base_alone(text: str, key: str) -> None:
    base = documented("net by month then area, a to z, running total, subtotals on top")
    before = deepcopy(base)
    added = heard(text, base=base, add=True)
    assert added.whole, (added.unknown, added.why)
    assert added.report is not None
    assert base == before
    assert added.report.model_dump(mode="json", by_alias=True, exclude_defaults=True).get(key) != before.get(key)


def test_a_figure_said_by_what_it_is_keeps_the_name_and_format_that_the_report_gave_it() -> None:
    base = documented("net by month, change on a year earlier")
    base["figures"][1] |= {"name": "vs last year", "format": {"places": 3}}
    report = Report.model_validate(base)
    names = with_report(orders()[2], report)
    assert brief(report, names) == "Net with change on a year earlier, down by month."
    assert read(brief(report, names), names, TODAY, base).report == report


@pytest.mark.parametrize("text", ["net, cost by month", "cost by month", "margin = net - cost, cost by month"])
def test_a_figure_that_was_hidden_is_shown_where_it_is_said_by_itself(text: str) -> None:
    base = documented("margin = net - cost by month")
    assert [f["name"] for f in base["figures"] if f.get("hide")] == ["Net", "Cost"]
    names = with_report(orders()[2], Report.model_validate(base))
    found = read(text, names, TODAY, base).report
    assert found is not None
    assert "Cost" in [f.name for f in found.figures if not f.hide]
    assert ("Net" in [f.name for f in found.figures if f.hide]) == ("margin" in text)


def test_a_column_goes_before_the_source_that_is_called_like_it() -> None:
    branches = names([Column("branch", "text"), Column("net", "number")], {"branch": ["Oslo"]}, sources=["branches"])
    kept = read("branches with net over 600", branches, TODAY).report
    assert kept is not None
    assert [entry.category for entry in kept.down if isinstance(entry, CategoryEntry)] == ["branch"]
    assert [(k.level, k.where) for k in kept.keep] == [("branch", "Net > 600")]
    ranked = read("rank branches by net", branches, TODAY).report
    assert ranked is not None
    assert [figure.name for figure in ranked.figures] == ["Net", "Rank"], "not taken for the rank of records"


def test_conditions_that_are_each_said_in_full_must_all_hold() -> None:
    found = over("hours by person, only where team is Harbour, and where team is Yard").report
    assert found is not None
    assert len(found.only) == 2


def test_a_share_of_a_level_that_the_report_has_not_is_named() -> None:
    assert not over("pay by person, share of team").whole


@pytest.mark.parametrize(
    ("said", "first", "last"),
    [
        ("from March to May 2025", "2025-03-01", "2025-05-31"), ("between March and May 2025", "2025-03-01", "2025-05-31"),
        ("March - May 2025", "2025-03-01", "2025-05-31"), ("in March and April 2025", "2025-03-01", "2025-04-30"),
        ("from March 2025 to May", "2025-03-01", "2025-05-31"), ("from November 2024 to February", "2024-11-01", "2025-02-28"),
        ("from November to February 2025", "2024-11-01", "2025-02-28"), ("from Q1 to Q3 2025", "2025-01-01", "2025-09-30"),
        ("in Q1 and Q2 of 2025", "2025-01-01", "2025-06-30"), ("from 1 March to 15 May 2025", "2025-03-01", "2025-05-15"),
        ("in 2024 or 2025", "2024-01-01", "2025-12-31"), ("in the third quarter of 2025", "2025-07-01", "2025-09-30"),
        ("from March 2024 to May 2025", "2024-03-01", "2025-05-31"),
    ],
)  # fmt: skip
def test_a_year_is_said_once_for_both_ends_of_a_window(said: str, first: str, last: str) -> None:
    assert documented(f"net by month {said}")["window"]["show"] == {"from": first, "to": last}


@pytest.mark.parametrize("text", ["net by month in March and May 2025", "pay by team, day minus night"])
def test_what_is_no_window_and_no_denial_is_named(text: str) -> None:
    assert not (over(text) if "pay" in text else heard(text)).whole


@pytest.mark.parametrize(
    ("text", "of"),
    [
        ("running total, pay by month", "Gross pay"),
        ("rank, hours by team", "Hours"),
        ("running total by month", "Records"),
    ],
)
def test_what_is_said_before_its_figure_is_of_the_one_that_follows(text: str, of: str) -> None:
    found = over(text).report
    assert found is not None
    assert [getattr(f, "running", None) or getattr(f, "rank", None) for f in found.figures][-1] == of


def test_what_is_said_of_no_figure_is_named() -> None:
    assert not over("cumulative share of pay by team").whole
    assert documented("net from last week by clinic")["window"]["show"] == {"previous": "week"}
