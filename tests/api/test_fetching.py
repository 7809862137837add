"""Queries that feed sources, over HTTP: previewed, kept, run again; database addresses are never returned."""

import sqlite3
import time
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from kalendor.api.app import create_app
from kalendor.desk.desk import Desk

FETCHING = {"connection": "till", "query": "SELECT day, net FROM sold", "every": "day", "at": "07:30"}


@pytest.fixture
def api(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> TestClient:
    path = tmp_path / "hidden" / "till.db"
    path.parent.mkdir()
    with sqlite3.connect(path) as db:
        db.execute("CREATE TABLE sold (day TEXT, net REAL)")
        db.executemany("INSERT INTO sold VALUES (?, ?)", [(f"2026-01-{n:02}", n + 0.25) for n in range(1, 20)])
    monkeypatch.setenv("KALENDOR_DATABASE_TILL", f"sqlite:{path}")
    return TestClient(create_app(Desk(tmp_path / "workspace")), raise_server_exceptions=False)


def done(api: TestClient, job: Any) -> dict[str, Any]:
    now: dict[str, Any] = job.json()
    while now["state"] == "working":
        time.sleep(0.05)
        now = api.get(f"/api/jobs/{now['id']}").json()
    return now


def test_a_query_is_looked_at_kept_asked_again_and_let_go(api: TestClient) -> None:
    assert api.get("/api/connections").json() == [{"name": "till", "kind": "SQLite"}]
    looked = done(api, api.post("/api/fetches", json={"source": "Till", "fetching": FETCHING}))
    waiting = api.get(f"/api/waiting/{looked['token']}").json()
    assert (waiting["is_new"], waiting["records"], waiting["join"]) == (True, 19, "replace_all")
    assert api.get("/api/sources").json() == []
    done(api, api.post(f"/api/waiting/{looked['token']}/keep"))
    source = api.get("/api/sources/1").json()
    assert source["intakes"][0]["origin"] == "query"
    assert source["fed"] == {"fetching": FETCHING, "known": True, "asked_at": "", "outcome": "", "reason": ""}
    assert done(api, api.post("/api/sources/1/fetch"))["state"] == "done"
    source = api.get("/api/sources/1").json()
    assert (source["fed"]["outcome"], source["records"]) == ("same", 19)
    wrong = {**FETCHING, "query": "SELECT price FROM sold"}
    assert api.put("/api/sources/1/fetching", json=wrong).status_code == 204
    job = done(api, api.post("/api/sources/1/fetch"))
    assert (job["state"], job["message"]) == ("failed", "till: no such column: price")
    assert api.get("/api/sources").json()[0]["not_fetched"] == "till: no such column: price"
    assert api.delete("/api/sources/1/fetching").status_code == 204
    assert api.get("/api/sources/1").json()["fed"] is None
    assert "hidden" not in api.get("/api/sources/1").text + api.get("/api/connections").text


@pytest.mark.parametrize(
    ("change", "status", "why"),
    [
        ({"connection": "ledger"}, 422, "there is no connection 'ledger' (known: till)"),
        ({"query": ""}, 422, "query"),
        ({"at": "25:00"}, 422, "at"),
        ({"every": "minute"}, 422, "every"),
        ({"url": "sqlite:/etc/passwd"}, 422, "url"),
    ],
)
def test_what_cannot_feed_a_source_is_said(api: TestClient, change: dict[str, str], status: int, why: str) -> None:
    answer = api.post("/api/fetches", json={"source": "Till", "fetching": {**FETCHING, **change}})
    assert answer.status_code == status
    assert why in answer.json()["detail"]
