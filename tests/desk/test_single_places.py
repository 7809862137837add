"""Tests of the desk found by mutation testing."""

from datetime import date, timedelta
from pathlib import Path
from typing import Any, cast

import pytest

from kalendor.core.trail.cell import Cell
from kalendor.core.values.columns import date_column
from kalendor.definitions.kinds import default_calendar, definition
from kalendor.definitions.report import Report
from kalendor.desk.desk import Desk
from kalendor.desk.editions.issuing import opened
from kalendor.desk.editions.parcels import _line
from kalendor.desk.editions.trails import edition_trail
from kalendor.desk.glances import glance
from kalendor.desk.groupings import look_at_calendar
from kalendor.desk.made import tried
from kalendor.desk.profile import BARS, profiled
from kalendor.desk.sheets import sheet_now
from kalendor.errors import DefinitionError
from kalendor.store.definitions import MissingError
from tests.core.build import records, sheet
from tests.desk.test_bringing_in import bring, columns
from tests.editions.conftest import Office


def report(**keys: Any) -> Report:
    document = {"kalendor": 1, "kind": "report", "title": "T", "source": "S", **keys}
    return cast(Report, definition(document, "test"))


def test_a_source_that_is_not_there_is_refused_with_those_that_are(desk: Desk) -> None:
    asked = report(source="X", figures=[{"name": "n", "take": "count"}])
    with pytest.raises(DefinitionError, match="none yet"):
        sheet_now(desk, asked)
    bring(desk, "a\nx\n", "f.csv", "First")
    bring(desk, "a\nx\n", "g.csv", "Second")
    with pytest.raises(DefinitionError, match="known: First, Second"):
        sheet_now(desk, asked)


def test_a_calendars_year_has_so_many_weeks() -> None:
    years, _, _ = look_at_calendar(default_calendar(), None, date(2026, 8, 4))
    assert [(year.name, year.days, year.weeks) for year in years] == [("2026", 365, 53)]


def test_the_bars_of_many_months_are_gathered() -> None:
    days = [date(2020, 1, 1) + timedelta(days=31 * n) for n in range(2 * BARS + 5)]
    bars = profiled("on", date_column(days)).spread
    assert BARS // 2 < len(bars) <= BARS
    assert max(bars) == 1.0


def test_a_glance_says_how_the_report_moved(desk: Desk) -> None:
    bring(desk, "on,v\n2025-05-01,100\n2026-05-01,150\n")
    figures = [
        {"name": "v", "take": "sum", "of": "v"},
        {"name": "n", "take": "count"},
        {"name": "moved", "compare": "v", "with": "year_earlier", "as": "percent"},
    ]
    found = glance(desk, report(across=[{"period": "on", "grains": ["year"]}], figures=figures))
    assert (found.figure, found.number, found.moved) == ("v", "150", "+50.0% on a year earlier")


def test_an_edition_of_a_deleted_source_says_that_its_records_are_gone(tmp_path: Path) -> None:
    office = Office(tmp_path / "w")
    id = office.issue("2026-06").edition.id
    source = office.desk.sources.named("Sales")
    assert source is not None
    office.desk.sources.remove(source)
    with pytest.raises(MissingError, match="no longer here"):
        edition_trail(office.desk, opened(office.desk, id), Cell("Amount", 0, 0))


def test_a_column_is_looked_up_whatever_the_case_of_its_sources_name(desk: Desk) -> None:
    bring(desk, "kind,rate\nkx,3\nky,4\n", "rates.csv", "Rates")
    bring(desk, "kind,v\nkx,1\nky,2\n")
    source = desk.sources.named("S")
    assert source is not None
    (made,) = columns({"name": "rate", "lookup": {"source": "rates", "match": {"kind": "kind"}, "take": "rate"}})
    _, found = tried(desk, source, (), made)
    assert [found.item(i) for i in range(2)] == [3, 4]
    desk.sources.save_made(source, [made])
    _, shown = sheet_now(desk, report(figures=[{"name": "r", "take": "sum", "of": "rate"}]))
    assert shown.figures[0].cells.item(0) == 7


def test_a_member_of_several_lines_is_refused_with_the_first_three() -> None:
    found = sheet(records(area=list("abcd"), kind=["k"] * 4), down=[{"category": "area"}, {"category": "kind"}])
    with pytest.raises(DefinitionError, match="there are 4 lines 'k'") as refused:
        _line(found, "kind", "k")
    assert str(refused.value).count(" or ") == 2
