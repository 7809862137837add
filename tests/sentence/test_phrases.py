"""Offered phrases: each reads as it is written, adds to the report, and removes nothing."""

from typing import Any

import pytest

from kalendor.definitions.report import Report
from kalendor.desk.profile import profiles
from kalendor.sentence.dictionary import with_report
from kalendor.sentence.offers.every import matching, phrases
from kalendor.sentence.offers.phrase import Phrase, Subject
from kalendor.sentence.reading import read
from kalendor.sentence.writer import document
from tests.core.build import TODAY
from tests.core.test_any_report import DATA, GROUPINGS
from tests.sentence.any_definition import hostile
from tests.sentence.build import heard, orders
from tests.sentence.test_round_trip import HOSTILE, ORDINARY, _without_what_came


def words(records: Any, name: str) -> list[str]:
    column = records.columns[name]
    return sorted({str(column.words[n]) for n in column.values[column.present]})[:2] if column.kind == "text" else []


def subjects(records: Any) -> list[Subject]:
    return [
        Subject(p.name, p.role, p.summary, p.kind == "datetime", not p.warning, p.blank > 0, words(records, p.name))
        for p in profiles(records)
    ]  # fmt: skip


def of_orders(said: str, typed: str = "") -> tuple[Report, list[Phrase]]:
    report = heard(said).report
    assert report is not None
    return report, phrases(with_report(orders()[2], report), report, subjects(orders()[0]), ["Plan"], typed)


@pytest.mark.parametrize("typed", ["", "top 3 fri", "97"])
@pytest.mark.parametrize(
    "said",
    [
        "net",
        "net and cost by area, down by fiscal quarter",
        "records by region then clinic, months across, this year, without totals",
        "average net by month, % change",
    ],
)
def test_each_phrase_is_read_as_it_stands_and_takes_nothing_away(said: str, typed: str) -> None:
    report, offered = of_orders(said, typed)
    assert len(offered) > 100
    for phrase in offered:
        check(phrase, report, with_report(orders()[2], report))


@pytest.mark.parametrize("names", ["ordinary", "hostile"])
def test_phrases_over_any_names_are_read_as_they_stand(names: str) -> None:
    known = ORDINARY if names == "ordinary" else HOSTILE
    records = DATA if names == "ordinary" else hostile()[0]
    assert GROUPINGS.trees
    first = next(iter(records.columns))
    plain = {"kalendor": 1, "title": "any", "source": "data", "figures": [{"name": "by", "take": "count"}, {"name": "net, not", "take": "distinct", "of": first}], "down": [{"category": first}]}  # fmt: skip
    report = Report.model_validate(plain)
    for phrase in phrases(with_report(known, report), report, subjects(records)):
        check(phrase, report, with_report(known, report))


def check(phrase: Phrase, report: Report, known: Any) -> None:
    if phrase.begin or phrase.makes:
        return
    found = read(phrase.text, known, TODAY, document(report), add=True)
    assert found.whole, (phrase.text, found.unknown, found.why)
    assert found.report is not None
    assert found.report != report, phrase.text
    was = {k: v for k, v in document(report).items() if k != "window" or not phrase.text.startswith("for ")}
    assert _without_what_came(document(found.report), was) == was, phrase.text


def test_what_the_report_has_is_not_offered() -> None:
    _, offered = of_orders("net by area, months across")
    texts = [phrase.text for phrase in offered]
    assert "net" not in texts
    assert "down by area" not in texts
    assert "average net" in texts


def test_phrases_are_found_by_their_words_and_by_everyday_ones() -> None:
    _, offered = of_orders("net by area")
    assert matching(offered, "average net")[0].text == "average net"
    assert matching(offered, "hierarchy region")[0].text == "down by Regions"
    assert matching(offered, "ytd")[0].text.startswith(("for this year", "running total"))
    assert matching(offered, "zeppelin") == []


def test_a_calendar_that_is_not_there_is_made_with_its_phrase() -> None:
    report = heard("net").report
    assert report is not None
    known = with_report(ORDINARY, report)
    known.calendars = ()
    made = [p for p in phrases(known, report, [Subject("on", "period")], typed="fis") if p.makes]
    assert made[0].text == 'across by year › quarter of "on" in Fiscal year from April'
    assert made[0].makes is not None
    assert made[0].makes["months"] == {"start_month": 4}
