"""The sentence as the screen shows it, and conditions in words."""

from typing import Any

import pytest

from kalendor.sentence.examples import examples
from kalendor.sentence.labels import labels
from kalendor.sentence.names import Column, names
from kalendor.sentence.nearest import Named, completions, nearest
from kalendor.sentence.writing import brief, condition_words, say, title
from tests.core.build import report
from tests.sentence.build import orders

SUM = {"name": "Net fare", "take": "sum", "of": "net"}
AREAS = {"category": "route", "tree": "Sea areas", "levels": ["Sea area", "Route"]}
COMPARED = {"name": "Change", "compare": "Net fare", "with": "year_earlier", "as": "percent"}
NONE = dict.fromkeys(("down", "across", "grand_down", "grand_across"), "none")


@pytest.mark.parametrize(
    ("keys", "want"),
    [
        ({}, "Net fare."),
        ({"figures": [SUM, COMPARED]}, "Net fare with change on a year earlier."),
        ({"figures": [SUM, COMPARED, {"name": "Share", "share": "Net fare", "of_total": "parent"}]}, "Net fare with change on a year earlier and share of the group."),
        ({"figures": [SUM, {**COMPARED, "with": {"back": 2, "grain": "month"}, "as": "difference"}]}, "Net fare with difference on 2 months back."),
        ({"figures": [SUM, {**COMPARED, "with": {"back": 1, "grain": "month"}}]}, "Net fare with change on the month before."),
        ({"figures": [SUM, {**COMPARED, "with": {"figure": "Plan"}}]}, "Net fare with change against Plan."),
        ({"figures": [SUM, {"name": "So far", "running": "Net fare", "along": "day", "restart": "year"}]}, "Net fare with running total starting again each year."),
        ({"figures": [SUM, {"name": "M", "moving": "Net fare", "periods": 3}]}, "Net fare with 3-period average."),
        ({"figures": [{"name": "Average net", "take": "mean", "of": "net"}]}, "Average net."),
        ({"down": [AREAS]}, "Net fare, down by Sea area › Route."),
        ({"down": [{"category": "area", "top": 5, "by": "Net fare"}]}, "Net fare, down by the top 5 of area by Net fare."),
        ({"across": [{"period": "sold", "grains": ["year", "month"]}]}, "Net fare, across by year › month."),
        ({"across": [{"period": "sold", "calendar": "Timetable year", "grains": ["year"]}]}, "Net fare, across by Timetable year."),
        ({"down": [{"period": "sold", "grains": [{"days": 14, "from": "2026-01-01"}]}]}, "Net fare, down by run of 14 days from 1 Jan 2026."),
        ({"down": [{"bucket": "net", "set": "Fare size"}]}, "Net fare, down by Fare size."),
        ({"window": {"of": "sold", "show": {"last": 12, "grain": "month"}}}, "Net fare, for the last 12 months."),
        ({"window": {"of": "sold", "show": {"this": "year"}, "each_to_date": True}}, "Net fare, for this year, each to date."),
        ({"window": {"of": "sold", "show": {"from": "2026-01-01", "to": "2026-03-31"}}}, "Net fare, for 1 Jan 2026 to 31 Mar 2026."),
        ({"window": {"of": "sold", "show": {"from": "2026-01-01"}}}, "Net fare, from 1 Jan 2026 on."),
        ({"only": ["status = 'sailed'", "fare IN ('adult', 'child')"]}, "Net fare, only where status is sailed, and where fare is adult or child."),
        ({"only": ["paid_late IS NULL"]}, "Net fare, only where paid late is blank."),
        ({"keep": [{"level": "Route", "where": '"Net fare" > 10000'}]}, "Net fare, keep Route where Net fare is over 10,000."),
        ({"totals": NONE}, "Net fare, without totals."),
        ({"totals": {"grand_down": "none"}}, "Net fare, without a grand total."),
        ({"totals": {"down": "before", "levels": {"Area": "none"}}}, 'Net fare, subtotals on top, without totals of the level "Area".'),
        ({"figures": [SUM, {**COMPARED, "hide": True}]}, "Net fare with change on a year earlier (hidden)."),
        ({"down": [{"category": "fare_type", "order": {"by": "Net fare", "desc": True}}]}, "Net fare, down by fare type, largest Net fare first."),
        ({"down": [{"age": "due_date", "cut": [0, 30]}]}, "Net fare, down by age of due date cut at 0, 30 days."),
        ({"records": {"columns": ["sold", "net"]}}, "Net fare, listing the records with sold, net."),
        ({"silenced": [{"only": "status = 'void'"}]}, "Net fare, disabled (only where status is void)."),
    ],
)  # fmt: skip
def test_a_report_is_said_in_one_sentence(keys: dict[str, Any], want: str) -> None:
    assert brief(report(**{"figures": [SUM], **keys})) == want


@pytest.mark.parametrize(
    ("condition", "want"),
    [
        ("status = 'sailed'", "status is sailed"),
        ("(route <> 'HAL' OR route IS NULL)", "route is not HAL"),
        ("route <> 'HAL'", "route is neither blank nor HAL"),
        ("sold >= DATE '2026-01-01'", "sold is on or after 1 Jan 2026"),
        ("sold BETWEEN DATE '2026-01-01' AND DATE '2026-03-31'", "sold is between 1 Jan 2026 and 31 Mar 2026"),
        ("sold > AS_OF - INTERVAL '3' MONTH AND sold < AS_OF + INTERVAL '1' DAY", "sold is in the last 3 months"),
        ("gross >= 100 AND status = 'sailed'", "gross is at least 100 and status is sailed"),
        ("gross > 100 OR net < -5", "gross is over 100 or net is under -5"),
        ("pier LIKE '%Bay%'", "pier contains Bay"),
        ("status = 'x' AND net > 1 OR gross = 2", "(status = 'x' AND net > 1 OR gross = 2)"),
        ("UPPER(name) = 'X'", "(UPPER(name) = 'X')"),
        ("name LIKE 'a_b%'", "(name LIKE 'a_b%')"),
        ("net =", "(net =)"),
    ],
)
def test_a_condition_is_said_in_words_or_as_its_sql(condition: str, want: str) -> None:
    assert condition_words(condition) == want


def test_a_sentence_in_full_quotes_what_could_be_something_else_and_names_the_date() -> None:
    odd = report(
        figures=[{"name": "by", "take": "sum", "of": "top 5"}], down=[{"period": "in 2025", "grains": ["month"]}], only=["\"not\" = 'open'"]
    )  # fmt: skip
    assert say(odd) == '"by" (sum of "top 5"), down by month of "in 2025", only where "not" is "open".'


def test_a_report_is_called_after_its_first_figure_and_lines() -> None:
    assert title(report(figures=[SUM], down=[AREAS | {"top": 3, "by": "Net fare"}])) == "Net fare by Sea area › Route"
    assert title(report(figures=[{"name": "Records", "take": "count"}])) == "Records"


def test_what_is_near_to_a_word_and_how_a_word_goes_on() -> None:
    _, _, known = orders()
    assert nearest("completd", known)[0] == Named("completed", "a value of status", ("status", "completed"))
    assert nearest("clinik", known)[0] == Named("clinic", "a column")
    assert nearest("zzzzzz", known) == []
    assert nearest("percent", known) == []  # a word of the language, said of nothing
    assert completions("cat", known)[0] == "category"
    assert completions("", known) == []


def test_examples_are_of_the_columns_at_hand() -> None:
    _, _, known = orders()
    assert examples(known)[0] == "net by area, months across"
    assert examples(names([Column("pier", "text")], {"pier": ["here"]})) == [
        "records by pier",
        "records by pier, biggest first",
    ]
    assert examples(names([], {})) == []


def test_labels_are_the_words_of_the_sentence() -> None:
    assert all(words for of_kind in labels().values() for words in of_kind.values())
