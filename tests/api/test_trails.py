"""Trails over HTTP: the explanation of a number, its records in pages, and the drivers of a change."""

import csv
import io
from decimal import Decimal
from typing import Any

import pytest
from fastapi.testclient import TestClient

from kalendor.api.app import create_app
from kalendor.desk.desk import Desk
from tests.api.test_api import brought, saved

FIRST = b"sold on,route,kind,gross\n2025-07-05,A,adult,1.50\n2025-07-06,A,child,2.00\n2025-07-07,B,adult,8.00\n"
SECOND = b"sold on,route,kind,gross\n2026-07-05,A,adult,4.50\n2026-07-06,A,child,1.00\n2026-07-06,A,=cmd,10.00\n2026-07-07,,adult,-3.25\n"
CHANGE = {"name": "Change", "compare": "Gross", "with": "year_earlier", "as": "difference"}


@pytest.fixture
def api(desk: Desk) -> TestClient:
    return TestClient(create_app(desk))


@pytest.fixture
def report(api: TestClient) -> Any:
    brought(api, FIRST)
    brought(api, SECOND)
    figures = [{"name": "Gross", "take": "sum", "of": "gross"}, CHANGE]
    years = [{"period": "sold on", "grains": ["year"]}]
    return saved(api, down=[{"category": "route"}], across=years, figures=figures)


def place(api: TestClient, report: Any, line: str, column: str) -> tuple[str, dict[str, int]]:
    """The URL of a cell's trail, by its labels."""
    sheet = api.get(f"/api/reports/{report['id']}/sheet").json()
    rows, columns = sheet["rows"], sheet["columns"]
    at = rows["line"][rows["label"].index(line)]
    across = next(c["id"] for c in columns if c["labels"][0].startswith(column))
    return f"/api/reports/{report['id']}/sheets/{sheet['key']}", {"line": at, "column": across}


def test_a_number_is_explained_with_its_records_and_bars(api: TestClient, report: Any) -> None:
    address, cell = place(api, report, "A", "2026")
    found = api.get(f"{address}/trail", params={"figure": "Change", **cell}).json()
    assert found["number"] == "+12.00"
    assert found["sides"] == [
        {"name": "value", "figure": "Gross", "number": "15.50"}, {"name": "base", "figure": "Gross", "number": "3.50"},
    ]  # fmt: skip
    assert [part["records"] for part in found["parts"]] == [3, 2]
    assert found["first"]["records"][0]["file"] == "export.csv"
    assert [bar["value"] for bar in found["bars"]["bars"]] == [4.5, 11.0]
    assert [bar["base"] for bar in found["bars"]["bars"]] == [1.5, 2.0]
    assert found["driven"]


def test_of_a_number_that_has_gone_the_bases_records_are_shown(api: TestClient, report: Any) -> None:
    address, cell = place(api, report, "B", "2026")
    found = api.get(f"{address}/trail", params={"figure": "Change", **cell}).json()
    assert (found["number"], [part["records"] for part in found["parts"]]) == ("(8.00)", [0, 1])
    assert (found["first"]["part"], found["first"]["total"]) == ("base", 1)
    assert found["first"]["records"][0]["amount"] == "8.00"


def test_a_page_of_records_is_sorted_and_searched(api: TestClient, report: Any) -> None:
    address, cell = place(api, report, "Total", "Total")
    asked = {"figure": "Gross", **cell}

    def page(**more: Any) -> list[str]:
        found = api.get(f"{address}/records", params={**asked, **more}).json()
        return [record["amount"] for record in found["records"]]

    assert page() == ["1.50", "2.00", "8.00", "4.50", "1.00", "10.00", "(3.25)"]
    assert page(sort="amount", desc=True, count=2) == ["10.00", "8.00"]
    assert page(sort="route", start=5) == ["8.00", "(3.25)"]
    assert page(search="CHILD") == ["2.00", "1.00"]
    assert page(search="2026-07-07") == ["(3.25)"]
    lines = api.get(f"{address}/records", params=asked).json()["records"]
    assert [record["line"] for record in lines] == [2, 3, 4, 2, 3, 4, 5]
    refused = api.get(f"{address}/records", params={**asked, "sort": "nothing"})
    assert (refused.status_code, "sort by" in refused.json()["detail"]) == (422, True)


def test_the_records_are_taken_away_and_add_up(api: TestClient, report: Any) -> None:
    address, cell = place(api, report, "A", "2026")
    file = api.get(f"{address}/records/file", params={"figure": "Change", **cell})
    rows = list(csv.DictReader(io.StringIO(file.text)))
    value, base = (sum(Decimal(r["amount"]) for r in rows if r["part"] == part) for part in ("value", "base"))
    assert value - base == Decimal("12.00")
    assert "'=cmd" in [row["kind"] for row in rows]


def test_what_drove_a_change_is_offered_by_column_and_adds_up(api: TestClient, report: Any) -> None:
    address, cell = place(api, report, "A", "2026")
    found = api.get(f"{address}/drivers", params={"figure": "Change", **cell}).json()
    by_kind = next(one for one in found if one["name"] == "kind")
    assert [(m["label"], m["difference"]) for m in by_kind["movers"]] == [
        ("=cmd", "+10.00"), ("adult", "+3.00"), ("child", "(1.00)"),
    ]  # fmt: skip
    assert by_kind["sentence"] == "=cmd brought 83% of the rise. child moved against it."
    assert api.get(f"{address}/drivers", params={"figure": "Gross", **cell}).json() == []


def test_a_trail_of_another_sheet_is_refused(api: TestClient, report: Any) -> None:
    address, cell = place(api, report, "A", "2026")
    odd = api.get(f"{address}/trail", params={"figure": "Gross", "line": 99, "column": 0})
    assert (odd.status_code, odd.json()["detail"]) == (422, "there is no such line or column on the sheet")
    brought(api, b"sold on,route,kind,gross\n2026-07-08,A,adult,1.00\n")
    gone = api.get(f"{address}/trail", params={"figure": "Gross", **cell})
    assert gone.status_code == 409


def test_records_of_a_file_undone_come_from_those_that_stand(api: TestClient, report: Any) -> None:
    intake = api.get("/api/sources/1").json()["intakes"][-1]["id"]
    api.post(f"/api/intakes/{intake}/undo")
    address, cell = place(api, report, "Total", "2026")
    found = api.get(f"{address}/records", params={"figure": "Gross", **cell}).json()
    assert [(record["line"], record["amount"]) for record in found["records"]] == [
        (2, "4.50"), (3, "1.00"), (4, "10.00"), (5, "(3.25)"),
    ]  # fmt: skip
