"""Actions on a line or column of the sheet over HTTP: keep only, leave out, ungroup, rename blanks."""

from typing import Any

import pytest
from fastapi.testclient import TestClient

from kalendor.api.app import create_app
from kalendor.desk.desk import Desk
from tests.api.test_api import brought, saved

EXPORT = b"sold on,route,gross\n2025-07-05,A,1.50\n2026-07-05,B,-2.25\n2026-07-06,A,10.00\n2026-08-01,,4.00\n,C,3.00\n"


@pytest.fixture
def api(desk: Desk) -> TestClient:
    return TestClient(create_app(desk))


def sheet_of(api: TestClient, view: Any) -> Any:
    return api.get(f"/api/reports/{view['id']}/sheet").json()


def narrowed(api: TestClient, view: Any, sheet: Any, **asked: Any) -> Any:
    return api.post(f"/api/reports/{view['id']}/sheets/{sheet['key']}/narrowed", json={"depth": 1, **asked})


def test_lines_and_columns_are_kept_or_left_out_and_the_rest_is_counted(api: TestClient) -> None:
    brought(api, EXPORT)
    view = saved(api, down=[{"category": "route"}], across=[{"period": "sold on", "grains": ["year", "month"]}])
    sheet = sheet_of(api, view)
    line = dict(zip(sheet["rows"]["label"], sheet["rows"]["line"], strict=True))
    column = {"|".join(one["names"]): one["id"] for one in sheet["columns"]}
    cases: list[tuple[dict[str, Any], str, int]] = [
        ({"places": [line["A"]], "keep": True}, "route = 'A'", 2),
        ({"places": [line["(blank)"]], "keep": False}, "route IS NOT NULL", 4),
        ({"places": [line["A"], line["(blank)"]], "keep": True}, "route = 'A' OR route IS NULL", 3),
        ({"down": False, "places": [column["2026|Jul 2026"]], "keep": True, "depth": 1},
         "\"sold on\" BETWEEN DATE '2026-01-01' AND DATE '2026-12-31'", 3),
        ({"down": False, "places": [column["2026|Jul 2026"]], "keep": False, "depth": 2},
         "NOT (\"sold on\" BETWEEN DATE '2026-07-01' AND DATE '2026-07-31') OR \"sold on\" IS NULL", 3),
    ]  # fmt: skip
    for asked, sql, left in cases:
        told = narrowed(api, view, sheet, **asked).json()["sql"]
        assert told.replace('"route"', "route") == sql
        tried = api.post("/api/reports/tried/sheet", json={**view["document"], "only": [told]}).json()
        assert tried["tie_out"]["on_sheet"] == left, asked


def test_what_cannot_be_kept_is_said_and_a_sheet_that_changed_is_refused(api: TestClient) -> None:
    brought(api, EXPORT)
    view = saved(api, down=[{"category": "route"}])
    sheet = sheet_of(api, view)
    for places, said in (([0], "no condition says"), ([999], "there is no such line")):
        answer = narrowed(api, view, sheet, places=places, keep=True)
        assert (answer.status_code, said in answer.json()["detail"]) == (422, True)
    api.put(f"/api/reports/{view['id']}", json={**view["document"], "only": ["gross > 0"]})
    assert narrowed(api, view, sheet, places=[1], keep=True).status_code == 409


def test_a_category_is_ungrouped_what_stood_under_it_stays_and_it_is_undone(api: TestClient) -> None:
    brought(api, EXPORT)
    view = saved(api, down=[{"category": "route", "labels": {"A": "Alpha"}}])
    path = f"/api/reports/{view['id']}"
    api.post(f"{path}/gather", json={"entry": 0, "values": ["A"], "label": "First"})
    api.post(f"{path}/gather", json={"entry": 0, "values": ["B", "C"], "label": "Second"})
    one = api.post(f"{path}/ungroup", json={"entry": 0, "path": ["Second"]}).json()
    assert "First" in one["sheet"]["rows"]["label"]
    assert "Second" not in one["sheet"]["rows"]["label"]
    none = api.post(f"{path}/ungroup", json={"entry": 0, "path": ["First"]}).json()
    assert none["sheet"]["rows"]["label"] == ["Alpha", "B", "C", "(blank)", "Total"]
    assert none["report"]["document"]["down"] == [{"category": "route", "labels": {"A": "Alpha"}}]
    odd = api.post(f"{path}/ungroup", json={"entry": 0, "path": ["First"]})
    assert (odd.status_code, odd.json()["detail"]) == (422, "only categories of a tree can be ungrouped")
    back = api.post(f"{path}/edits?step=undo").json()
    assert "First" in back["sheet"]["rows"]["label"]
    value = api.post(f"{path}/ungroup", json={"entry": 0, "path": ["First", "Alpha"]})
    assert (value.status_code, "is not a category" in value.json()["detail"]) == (422, True)


def test_blanks_are_renamed_stay_last_and_share_no_name(api: TestClient) -> None:
    brought(api, EXPORT)
    view = saved(api, down=[{"category": "route"}])
    path = f"/api/reports/{view['id']}/rename"
    made = api.post(path, json={"entry": 0, "path": ["(blank)"], "label": "Counter"}).json()
    assert made["report"]["document"]["down"] == [{"category": "route", "labels": {"": "Counter"}}]
    assert made["sheet"]["rows"]["label"] == ["A", "B", "C", "Counter", "Total"]
    assert made["sheet"]["tie_out"]["blank"] == 2 - 1
    sentence = api.post("/api/sentence", json=made["report"]["document"]).json()
    text = "".join(piece["text"] for piece in sentence["pieces"])
    assert "Counter" in text
    for taken in ("A", "Total"):
        again = api.post(path, json={"entry": 0, "path": ["Counter"], "label": taken}).json()
        assert again["sheet"]["rows"]["label"] == ["A", "B", "C", "(blank)", "Total"]
        api.post(f"/api/reports/{view['id']}/edits?step=undo")
