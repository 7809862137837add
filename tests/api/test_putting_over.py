"""A report moved to another source, with columns matched side by side, over HTTP."""

import json
from typing import Any

import pytest
from fastapi.testclient import TestClient

from kalendor.api.app import create_app
from kalendor.desk.desk import Desk
from tests.api.test_api import EXPORT, brought, saved

RENAMED = b"Day,line,gross amount\n2025-07-05,A,1.50\n2026-07-05,B,-2.25\n2026-07-06,A,10.00\n"


@pytest.fixture
def api(desk: Desk) -> TestClient:
    return TestClient(create_app(desk))


def report(api: TestClient) -> Any:
    return saved(
        api, only=["gross > -5 AND \"sold on\" IS NOT NULL"], down=[{"category": "route"}],
        across=[{"period": "sold on", "grains": ["year"]}],
        columns=[{"name": "double", "formula": "gross * 2"}],
        figures=[{"name": "Gross", "take": "sum", "of": "gross"}, {"name": "Twice", "take": "sum", "of": "double"}],
    )  # fmt: skip


def test_columns_are_proposed_by_name_and_values_and_the_sheet_is_the_same(api: TestClient) -> None:
    brought(api)
    brought(api, RENAMED, "Moved")
    view = report(api)
    before = api.get(f"/api/reports/{view['id']}/sheet").json()
    found = api.get(f"/api/reports/{view['id']}/over?source=Moved").json()
    assert {one["column"]: one["found"] for one in found} == {
        "gross": "gross amount",
        "sold on": "Day",
        "route": "line",
    }
    pairs = {one["column"]: one["found"] for one in found}
    made = api.post(f"/api/reports/{view['id']}/over", json={"source": "Moved", "columns": pairs}).json()
    document = made["report"]["document"]
    assert (document["source"], document["columns"][0]["formula"]) == ("Moved", '"gross amount" * 2')
    assert [made["sheet"]["cells"], made["sheet"]["rows"]["label"]] == [before["cells"], before["rows"]["label"]]
    back = api.post(f"/api/reports/{view['id']}/edits?step=undo").json()
    assert back["report"]["document"] == view["document"]


def test_two_columns_may_change_places(api: TestClient) -> None:
    brought(api)
    swapped = EXPORT.replace(b"sold on,route,gross", b"gross,route,sold on")
    brought(api, swapped, "Swapped")
    view = report(api)
    before = api.get(f"/api/reports/{view['id']}/sheet").json()
    pairs = {"gross": "sold on", "sold on": "gross", "route": "route"}
    made = api.post(f"/api/reports/{view['id']}/over", json={"source": "Swapped", "columns": pairs}).json()
    assert made["sheet"]["cells"] == before["cells"]


def test_a_column_that_nothing_stands_for_is_named(api: TestClient) -> None:
    brought(api)
    brought(api, b"day,line\n2025-07-05,A\n", "Small")
    view = report(api)
    answer = api.post(f"/api/reports/{view['id']}/over", json={"source": "Small", "columns": {"sold on": "day"}})
    assert answer.status_code == 422
    assert "Small has no column for gross, route" in answer.json()["detail"]
    nowhere = api.get(f"/api/reports/{view['id']}/over?source=Nowhere")
    assert (nowhere.status_code, "no source named 'Nowhere'" in nowhere.json()["detail"]) == (422, True)
    assert api.get(f"/api/reports/{view['id']}").json()["document"] == view["document"]


def test_a_bundle_is_put_over_another_source_as_it_comes_in(api: TestClient) -> None:
    brought(api)
    brought(api, RENAMED, "Moved")
    view = report(api)
    before = api.get(f"/api/reports/{view['id']}/sheet").json()
    sent = {"file": ("b.json", api.get(f"/api/reports/{view['id']}/bundle").content)}
    assert api.post("/api/bundles/look", files=sent).json()["columns"] == []
    look = api.post("/api/bundles/look", files=sent, data={"source": "Moved"}).json()
    pairs = {one["column"]: one["found"] for one in look["columns"]}
    assert pairs == {"gross": "gross amount", "sold on": "Day", "route": "line"}
    asked = {"source": "Moved", "columns": json.dumps(pairs)}
    made = api.post("/api/bundles", files=sent, data=asked).json()
    after = api.get(f"/api/reports/{made['id']}/sheet").json()
    assert [after["cells"], after["rows"]["label"]] == [before["cells"], before["rows"]["label"]]
    for columns, status in ((json.dumps({"gross": "nowhere"}), 422), ("no JSON", 422)):
        refused = api.post("/api/bundles", files=sent, data={"source": "Moved", "columns": columns})
        assert refused.status_code == status
    assert len(api.get("/api/reports").json()) == 2
