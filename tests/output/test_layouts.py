"""Layouts of a sheet: indented or one column a level, records under lines, hidden lines, names of totals."""

import csv
import io
import json
from datetime import date
from typing import Any

import pytest

from kalendor.errors import DefinitionError
from kalendor.output.delimited import sheet_delimited
from kalendor.output.handover import Handover
from kalendor.output.json_files import sheet_json
from tests.core.build import SUM, records, sheet

DATA = records(
    area=["North", "South", "North", "South", None],
    route=["a", "c", "b", "c", "a"],
    on=[date(2026, 1, 3), date(2026, 1, 2), None, date(2026, 1, 1), date(2026, 2, 1)],
    v=[1, 2, 4, 8, 16],
)
DOWN = [{"category": "area"}, {"category": "route"}]


def rows(**keys: Any) -> list[str]:
    """The rows of a sheet with their fields joined."""
    made = sheet(DATA, figures=[SUM], down=DOWN, **keys)
    return ["|".join(row) for row in csv.reader(io.StringIO(sheet_delimited(Handover(made)).decode()))]


def test_lines_stand_indented_under_their_groups() -> None:
    assert rows() == [
        "area · route|s", "North|", "  a|1", "  b|4", "North total|5", "South|", "  c|10", "South total|10",
        "(blank)|", "  a|16", "(blank) total|16", "Total|31",
    ]  # fmt: skip


@pytest.mark.parametrize(
    ("labels", "second", "blank"), [("once", "|b|4", "(blank)|a|16"), ("each", "North|b|4", "(blank)|a|16")]
)
def test_a_column_a_level_has_labels_once_or_on_each_line(labels: str, second: str, blank: str) -> None:
    assert rows(layout={"lines": "columns", "labels": labels}) == [
        "area|route|s", "North|a|1", second, "North total||5", "South|c|10", "South total||10",
        blank, "(blank) total||16", "Total||31",
    ]  # fmt: skip


def test_the_grand_total_has_words_of_its_own() -> None:
    assert rows(layout={"grand": "All areas"})[-1] == "All areas|31"


def test_records_stand_under_the_lowest_level_in_order() -> None:
    assert rows(records={"columns": ["on", "v"], "order": ["on"]}, only=["area IS NOT NULL"]) == [
        "area · route|on|v|s",
        "North|||", "  a|||", "|2026-01-03|1|", "  a total|||1", "  b|||", "||4|", "  b total|||4", "North total|||5",
        "South|||", "  c|||", "|2026-01-01|8|", "|2026-01-02|2|", "  c total|||10", "South total|||10", "Total|||15",
    ]  # fmt: skip


def test_records_under_lines_without_totals_and_all_columns() -> None:
    totals = {"down": "none", "grand_down": "none"}
    found = rows(records={}, only=["route = 'c'"], totals=totals)
    assert found[0] == "area · route|area|route|on|v|s"
    assert found[3:] == ["|South|c|2026-01-02|2|", "|South|c|2026-01-01|8|"]


def test_an_unknown_column_of_records_is_named() -> None:
    with pytest.raises(DefinitionError, match="records: there is no column 'ticket'; there are area, route, on, v"):
        rows(records={"columns": ["ticket"]})


def test_lines_out_of_sight_are_counted_and_said() -> None:
    made = sheet(DATA, figures=[SUM], down=DOWN, out_of_sight={"lines": [["North", "a"], ["South"], ["West"]]})
    assert "3 lines are out of sight" not in made.notes
    assert "2 lines are out of sight and still counted in totals" in made.notes
    assert rows(out_of_sight={"lines": [["North", "a"], ["South"]]})[1:] == [
        "North|", "  b|4", "North total|5", "(blank)|", "  a|16", "(blank) total|16", "Total|31",
    ]  # fmt: skip


def test_columns_out_of_sight_are_counted_and_said() -> None:
    across = [{"category": "area"}]
    made = sheet(DATA, figures=[SUM], across=across, out_of_sight={"columns": [["South"]]})
    assert made.notes == ("1 column is out of sight and still counted in totals",)
    assert sheet_delimited(Handover(made)).decode().splitlines() == [
        "test,North › s,(blank) › s,Total › s",
        "Total,5,16,31",
    ]


def test_labels_of_levels_are_a_list_in_json() -> None:
    made = sheet(DATA, figures=[SUM], down=DOWN, layout={"lines": "columns", "labels": "each"})
    document = json.loads(sheet_json(Handover(made)))
    assert document["rows"][1]["labels"] == ["North", "b"]
