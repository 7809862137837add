"""The API from an uploaded file to a sheet, and its error messages."""

import re
import time
from typing import Any

import pytest
from fastapi.testclient import TestClient

from kalendor.api.app import create_app
from kalendor.api.page import page_folder
from kalendor.desk.desk import Desk

EXPORT = b"sold on,route,gross\n2025-07-05,A,1.50\n2026-07-05,B,-2.25\n2026-07-06,A,10.00\n"


@pytest.fixture
def api(desk: Desk) -> TestClient:
    return TestClient(create_app(desk))


def sent(api: TestClient, content: bytes, source: str = "Sales") -> Any:
    """The job that reads an uploaded file."""
    job = api.post("/api/waiting", files={"file": ("export.csv", content)}, data={"source": source}).json()
    while job["state"] == "working":
        job = api.get(f"/api/jobs/{job['id']}").json()
    return job


def brought(api: TestClient, content: bytes = EXPORT, source: str = "Sales") -> Any:
    job = api.post(f"/api/waiting/{sent(api, content, source)['token']}/keep").json()
    for _ in range(100):
        if job["state"] != "working":
            break
        time.sleep(0.1)
        job = api.get(f"/api/jobs/{job['id']}").json()
    assert job["state"] == "done", job
    return api.get(f"/api/sources/{job['source']}").json()


def saved(api: TestClient, **keys: Any) -> Any:
    view = api.post("/api/reports", json={"source": "Sales"}).json()
    return api.put(f"/api/reports/{view['id']}", json={**view["document"], **keys}).json()


def test_a_file_waits_and_nothing_is_kept_until_asked(api: TestClient) -> None:
    waiting = api.get(f"/api/waiting/{sent(api, EXPORT)['token']}").json()
    assert (waiting["records"], waiting["first_day"], waiting["is_new"]) == (3, "2025-07-05", True)
    assert api.get("/api/sources").json() == []
    again = api.put(f"/api/waiting/{waiting['token']}", json={"columns": {"gross": {"type": "text"}}}).json()
    assert again["columns"][2]["kind"] == "text"
    job = api.post(f"/api/waiting/{waiting['token']}/keep").json()
    assert api.get(f"/api/sources/{job['source']}").json()["columns"][2]["kind"] == "text"


def test_from_a_source_to_a_sheet_and_away(api: TestClient) -> None:
    brought(api)
    view = saved(api, down=[{"category": "route"}], across=[{"period": "sold on", "grains": ["year"]}])
    sheet = api.get(f"/api/reports/{view['id']}/sheet").json()
    assert sheet["rows"]["label"] == ["A", "B", "Total"]
    line = sheet["rows"]["line"][1]
    assert sheet["cells"][str(line)] == ["", "0", "(2.25)", "1", "(2.25)", "1"]
    assert sheet["tie_out"]["on_sheet"] == 3
    assert sheet["tie_out"]["footings"][0] == {"figure": "Gross", "total": "9.25"}
    more = api.post(f"/api/reports/{view['id']}/sheets/{sheet['key']}/lines", json={"lines": [line, 999]}).json()
    assert more == {"first": 0, "shown": 3, "cells": {str(line): sheet["cells"][str(line)]}, "cut": {}}
    file = api.get(f"/api/reports/{view['id']}/file?format=csv&shape=sheet")
    assert file.text.splitlines()[0].startswith("route,2025 › Gross")
    assert 'filename="sales-summary-2026-07.csv"' in file.headers["content-disposition"]
    packed = api.get(f"/api/reports/{view['id']}/file?format=parquet")
    assert packed.content[:4] == packed.content[-4:] == b"PAR1"
    assert packed.headers["content-type"] == "application/vnd.apache.parquet"


def test_saving_undoing_and_redoing(api: TestClient) -> None:
    brought(api)
    view = saved(api, title="Other")
    assert (view["document"]["title"], view["can_undo"]) == ("Other", True)
    assert api.post(f"/api/reports/{view['id']}/undo").json()["document"]["title"] == "Sales summary"
    assert api.post(f"/api/reports/{view['id']}/redo").json()["document"]["title"] == "Other"
    assert api.post(f"/api/reports/{view['id']}/copy").json()["document"]["title"] == "Other, copy"
    assert len(api.get("/api/reports").json()) == 2


def test_undoing_an_intake_changes_the_sheet(api: TestClient) -> None:
    kept = brought(api)
    view = saved(api)
    assert api.get(f"/api/reports/{view['id']}/sheet").json()["tie_out"]["read"] == 3
    api.post(f"/api/intakes/{kept['intakes'][0]['id']}/undo")
    assert api.get(f"/api/reports/{view['id']}/sheet").json()["tie_out"]["read"] == 0


def test_values_of_a_column_the_commonest_first(api: TestClient) -> None:
    kept = brought(api)
    found = api.get(f"/api/sources/{kept['id']}/values?column=route").json()
    assert found == [{"value": "A", "records": 2}, {"value": "B", "records": 1}]


@pytest.mark.parametrize(
    ("keys", "words"),
    [
        ({"figures": [{"name": "n", "take": "sum", "of": "nope"}]}, "there is no column 'nope'"),
        ({"only": ["gross >"]}, "cannot read the formula"),
        ({"down": [{"category": "route", "tree": "T"}]}, "no category tree named 'T'"),
    ],
)
def test_a_report_that_cannot_be_worked_out_says_why(api: TestClient, keys: Any, words: str) -> None:
    brought(api)
    view = saved(api, **keys)
    answer = api.get(f"/api/reports/{view['id']}/sheet")
    assert answer.status_code == 422
    assert words in answer.json()["detail"]


def test_an_unknown_key_is_refused_with_its_path(api: TestClient) -> None:
    brought(api)
    view = saved(api)
    answer = api.put(
        f"/api/reports/{view['id']}",
        json={**view["document"], "figures": [{"name": "n", "take": "count", "colour": "red"}]},
    )
    assert answer.status_code == 422
    assert answer.json()["detail"].startswith("figures[0].colour is not a key that is known here")


def test_a_file_that_is_not_text_is_refused_and_not_held(api: TestClient, desk: Desk) -> None:
    job = sent(api, b"a,b\n\x00\x01")
    assert job["state"] == "failed"
    assert "NUL byte" in job["message"]
    assert list(desk.workspace.files.iterdir()) == []


def test_a_file_that_is_left_is_not_held(api: TestClient, desk: Desk) -> None:
    token = sent(api, EXPORT)["token"]
    assert api.delete(f"/api/waiting/{token}").status_code == 204
    assert list(desk.workspace.files.iterdir()) == []
    assert api.get(f"/api/waiting/{token}").json()["detail"].startswith("this file is no longer waiting")


def test_a_source_in_use_is_not_removed(api: TestClient) -> None:
    kept = brought(api)
    saved(api)
    answer = api.delete(f"/api/sources/{kept['id']}")
    assert "is used by the report" in answer.json()["detail"]


SHUT: list[dict[str, str]] = [
    {"host": "evil.example"}, {"host": "127.0.0.1:9999"}, {"host": "user@127.0.0.1:8765"}, {"host": ""},
    {"origin": "http://evil.example"}, {"origin": "http://127.0.0.1:9999"}, {"origin": "https://127.0.0.1:8765"},
    {"origin": "null"}, {"origin": "http://[bad"}, {"origin": "http://localhost:8765"}, {"sec-fetch-site": "cross-site"},
    {"sec-fetch-site": "same-site"}, {"sec-fetch-site": "cross-site", "sec-fetch-mode": "navigate"},
]  # fmt: skip
OPEN: list[dict[str, str]] = [
    {}, {"origin": "http://127.0.0.1:8765"}, {"sec-fetch-site": "same-origin"}, {"sec-fetch-site": "none"},
    {"host": "localhost:8765", "origin": "http://localhost:8765"}, {"host": "[::1]:8765"},
]  # fmt: skip


@pytest.fixture
def listening(desk: Desk) -> TestClient:
    """A server that knows its own port."""
    return TestClient(create_app(desk, {"127.0.0.1"}, 8765), base_url="http://127.0.0.1:8765")


@pytest.mark.parametrize("headers", SHUT)
@pytest.mark.parametrize("method", ["GET", "POST"])
def test_other_hosts_ports_schemes_and_sites_are_turned_away(
    listening: TestClient, method: str, headers: dict[str, str]
) -> None:
    assert listening.request(method, "/api/workspace", headers=headers).status_code == 403


@pytest.mark.parametrize("headers", OPEN)
def test_its_own_page_is_answered(listening: TestClient, headers: dict[str, str]) -> None:
    assert listening.get("/api/workspace", headers=headers).status_code == 200


def test_a_link_from_elsewhere_opens_the_page_and_nothing_else(listening: TestClient) -> None:
    headers = {"sec-fetch-site": "cross-site", "sec-fetch-mode": "navigate"}
    assert listening.get("/read/abc", headers=headers).status_code in (200, 503)
    assert listening.post("/read/abc", headers=headers).status_code == 403


def test_what_is_not_there_is_said(api: TestClient) -> None:
    assert api.get("/api/reports/99").status_code == 404
    assert api.get("/api/nothing").status_code == 404
    for path, status in (("/api/workspace", 200), ("/api/nothing", 404), ("/", 200), ("/assets/none.js", 404)):
        answer = api.get(path)
        policy = answer.headers["Content-Security-Policy"]
        assert answer.status_code in (status, 503)
        assert ("unsafe" in policy, "default-src 'none'" in policy) == (False, True)
    if (page_folder() / "index.html").is_file():
        nonces = {re.search(r"nonce-([^']+)'", api.get("/").headers["Content-Security-Policy"]) for _ in range(2)}
        assert len({found.group(1) for found in nonces if found}) == 2


def test_a_file_that_counts_twice_is_kept_once_it_was_seen(desk: Desk) -> None:
    api = TestClient(create_app(desk))
    brought(api, b"sold on,route,gross\n2026-05-01,A,5.00\n2026-05-02,B,7.50\n2026-05-03,B,1.50\n")
    source = api.get("/api/sources").json()[0]
    half = b"sold on,route,gross\n2026-05-01,A,5.00\n2026-05-02,B,7.50\n"
    token = api.post("/api/waiting", files={"file": ("half.csv", half)}, data={"source": source["name"]}).json()[
        "token"
    ]
    waiting = api.get(f"/api/waiting/{token}").json()
    assert waiting["outcome"]["held"] == ["2 of its 2 records stand already, every column the same"]
    assert [(m["month"], m["now"], m["leave"], m["come"]) for m in waiting["outcome"]["months"]] == [
        ("May 2026", 3, 0, 2)
    ]
    refused = api.post(f"/api/waiting/{token}/keep").json()
    assert (refused["state"], "held, nothing was brought in" in refused["message"]) == ("failed", True)
    assert api.get("/api/sources").json()[0]["records"] == 3
    assert api.post(f"/api/waiting/{token}/keep", params={"seen": True}).json()["state"] == "done"
    assert api.get("/api/sources").json()[0]["records"] == 5


def test_a_changed_export_is_seen_side_by_side_and_kept_once_it_is_seen(desk: Desk) -> None:
    api = TestClient(create_app(desk))
    lines = "".join(f"2026-05-{n + 1:02},{'AB'[n % 2]},{n}.25\n" for n in range(20))
    brought(api, f"sold on,route,gross\n{lines}".encode())
    changed = f"sold on,line,gross\n{lines.replace('-05-', '-06-')}".encode()
    token = api.post("/api/waiting", files={"file": ("june.csv", changed), "source": (None, "Sales")}).json()["token"]
    seen = api.get(f"/api/waiting/{token}").json()
    (one,) = seen["changes"]["columns"]
    assert (one["name"], one["what"], one["heading"], one["sure"], seen["sure"]) == (
        "route",
        "renamed",
        "line",
        True,
        True,
    )
    assert [fresh["heading"] for fresh in seen["changes"]["fresh"]] == ["line"]
    refused = api.post(f"/api/waiting/{token}/keep").json()
    assert (refused["state"], "route is now line" in refused["message"]) == ("failed", True)
    blank = api.put(
        f"/api/waiting/{token}", json={"pairs": {"route": None}, "columns": {"line": {"skip": True}}}
    ).json()
    assert ([c["heading"] for c in blank["columns"] if c["name"] == "route"], blank["ignored"]) == ([""], ["line"])
    assert api.put(f"/api/waiting/{token}", json={"pairs": {"route": "nope"}}).status_code == 422
    assert api.put(f"/api/waiting/{token}", json={"pairs": {"nope": "line"}}).status_code == 422
    back = api.put(f"/api/waiting/{token}", json={"pairs": {"route": "line"}}).json()
    assert [c["heading"] for c in back["columns"] if c["name"] == "route"] == ["line"]
    assert api.post(f"/api/waiting/{token}/keep", params={"seen": True}).json()["state"] == "done"
    id = api.get("/api/sources").json()[0]["id"]
    values = api.get(f"/api/sources/{id}/values", params={"column": "route"}).json()
    assert {v["value"]: v["records"] for v in values} == {"A": 20, "B": 20}


def test_a_column_is_called_and_read_otherwise(desk: Desk) -> None:
    api = TestClient(create_app(desk))
    brought(api, b"sold on,route,gross\n2026-05-01,7,5.00\n2026-05-02,8,7.50\n")
    url = f"/api/sources/{api.get('/api/sources').json()[0]['id']}/columns"
    view = api.patch(url, json={"column": "route", "name": "line"}).json()
    assert [c["name"] for c in view["columns"]] == ["sold on", "line", "gross"]
    assert api.patch(url, json={"column": "line", "name": "gross"}).status_code == 422
    assert api.patch(url, json={"column": "route", "name": "x"}).status_code == 422
    done = api.post(url, json={"column": "line", "reading": {"type": "text"}}).json()
    assert done["state"] == "done"
    assert [c["kind"] for c in api.get(url.removesuffix("/columns")).json()["columns"]] == ["date", "text", "decimal"]
    failed = api.post(url, json={"column": "gross", "reading": {"type": "whole"}}).json()
    assert (failed["state"], "'7.50' on line 3" in failed["message"]) == ("failed", True)


def test_how_files_join_is_said_for_the_next_ones(desk: Desk) -> None:
    api = TestClient(create_app(desk))
    brought(api, b"sold on,route,gross\n2026-05-01,A,5.00\n2026-05-02,B,7.50\n")
    id = api.get("/api/sources").json()[0]["id"]
    view = api.put(
        f"/api/sources/{id}/joining", json={"join": "replace_months", "join_by": [], "held_over": 0.5}
    ).json()
    assert (view["join"], view["held_over"], view["held"], view["not_read"]) == ("replace_months", 0.5, 0, 0)
    assert (
        api.put(f"/api/sources/{id}/joining", json={"join": "sideways", "join_by": [], "held_over": 2}).status_code
        == 422
    )
    for asked in (
        {"join": "update", "join_by": []},
        {"join": "update", "join_by": ["nope"]},
        {"join": "replace_dates", "join_by": ["route"]},
    ):
        assert api.put(f"/api/sources/{id}/joining", json={**asked, "held_over": 0.2}).status_code == 422
    assert api.post(f"/api/sources/{id}/dropped/none.csv").status_code == 404
    assert api.delete(f"/api/sources/{id}/dropped/none.csv").status_code == 404
