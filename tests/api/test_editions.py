"""The board, editions, readers and sending over HTTP; no request changes an edition."""

from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from kalendor.api.app import create_app
from kalendor.core.values.keys import key
from kalendor.desk.answers import Answers
from kalendor.desk.editions.inbox import stand_in
from tests.editions.conftest import Office


@pytest.fixture
def office(tmp_path: Path) -> Office:
    return Office(tmp_path / "workspace")


@pytest.fixture
def client(office: Office) -> TestClient:
    return TestClient(create_app(office.desk))


def issued(client: TestClient, office: Office, month_end: str = "2026-06-30") -> dict[str, Any]:
    found = client.post(f"/api/reports/{office.stored.id}/periods/{month_end}/issue")
    assert found.status_code in (200, 201), found.text
    edition: dict[str, Any] = found.json()["edition"]
    return edition


def test_a_month_from_board_to_edition(client: TestClient, office: Office) -> None:
    board = client.get("/api/board").json()
    assert [cell[0]["state"] for cell in board["rows"][0]["cells"][-3:]] == ["late", "late", "due"]
    checked = client.get(f"/api/reports/{office.stored.id}/periods/2026-06-30").json()
    assert (checked["ready"], checked["lines"][0]) == (
        True, {"label": "Total", "value": "30.00", "change": "", "total": True},
    )  # fmt: skip
    first = client.post(f"/api/reports/{office.stored.id}/periods/2026-06-30/issue")
    assert (first.status_code, first.json()["fresh"]) == (201, True)
    again = client.post(f"/api/reports/{office.stored.id}/periods/2026-06-30/issue")
    assert (again.status_code, again.json()["fresh"]) == (200, False)
    id = first.json()["edition"]["id"]
    sheet = client.get(f"/api/editions/{id}/sheet").json()
    assert sheet["cells"]["0"] == ["30.00", "4"]
    key = sheet["key"]
    lines = client.post(f"/api/editions/{id}/sheets/{key}/lines", json={"lines": [0, 1]}).json()
    assert lines["cells"]["0"] == ["30.00", "4"]
    trail = client.get(f"/api/editions/{id}/sheets/{key}/trail?figure=Amount").json()
    assert (trail["number"], trail["first"]["total"]) == ("30.00", 4)
    records = client.get(f"/api/editions/{id}/sheets/{key}/records/file?figure=Amount").text
    assert records.count("sales-2026-06.csv") == 4
    document = client.get(f"/api/editions/{id}/document").content
    assert document == office.desk.editions.text(id)


def test_what_moved_over_http(client: TestClient, office: Office) -> None:
    id = issued(client, office)["id"]
    office.file("2026-06", "2026-06-15,kx,100.00\n", join="replace_dates")
    settled = client.post("/api/board/settled").json()
    assert (settled["pending"], settled["rows"][0]["cells"][-2][0]["moved"]) == (0, True)
    found = client.get(f"/api/editions/{id}/moved").json()
    assert (found["count"], found["later"]) == (6, "now")
    total = next(c for c in found["cells"] if not c["lines"] and c["figure"] == "Amount")
    assert (total["was"], total["now"]) == ("30.00", "130.00")
    cell = client.get(
        f"/api/editions/{id}/moved/cell?figure=Amount&line={total['line']}&column={total['column']}"
    ).json()
    assert (cell["by"], [p["exact"] for p in cell["parts"]]) == ("+100.00", ["100.00", "0.00"])
    causes = client.get(f"/api/editions/{id}/moved/causes").json()
    assert [(c["title"], c["totals"][0]["by"], len(c["listed"]["records"])) for c in causes] == [
        ("Records were corrected", "+100.00", 1), ("The report changed", "–", 0),
    ]  # fmt: skip
    second = issued(client, office)["id"]
    back = client.get(f"/api/editions/{second}/moved?against={id}").json()
    assert [(back["earlier"], back["later"])] == [("Jun 2026", "Jun 2026 · 2nd edition")]
    assert back["cells"][0]["was"] != back["cells"][0]["now"]


def test_all_that_are_ready_and_all_past_periods(client: TestClient, office: Office) -> None:
    found = client.post("/api/board/issue-ready").json()
    assert [(o["label"], o["edition"] is not None) for o in found] == [
        ("May 2026", True), ("Jun 2026", True), ("Jul 2026", False),
    ]  # fmt: skip
    assert found[2]["reason"] == "1 value has no Side yet: kz, 1.00"
    past = client.post(f"/api/reports/{office.stored.id}/past?since=2026-04-10").json()
    assert [o["label"] for o in past] == ["Apr 2026", "Jul 2026"]
    assert client.post(f"/api/reports/{office.stored.id}/past?since=1900-01-01").status_code == 422


def test_no_request_changes_or_deletes_an_edition(client: TestClient, office: Office) -> None:
    id = issued(client, office)["id"]
    before = office.desk.editions.text(id)
    for method in ("PUT", "PATCH", "DELETE", "POST"):
        for path in ("", "/sheet", "/document", "/file", "/moved"):
            assert client.request(method, f"/api/editions/{id}{path}", json={}).status_code == 405
            assert office.desk.editions.text(id) == before


def test_a_source_under_an_edition_is_not_deleted(client: TestClient, office: Office) -> None:
    issued(client, office)
    client.delete(f"/api/reports/{office.stored.id}")
    found = client.delete("/api/sources/1")
    assert found.status_code == 422
    assert "an edition was issued from Sales" in found.json()["detail"]


def linked(client: TestClient, office: Office, **asked: Any) -> dict[str, Any]:
    found = client.post(f"/api/reports/{office.stored.id}/links", json=asked)
    assert found.status_code == 201, found.text
    link: dict[str, Any] = found.json()
    return link


def test_a_reader_reads_what_the_link_opens_and_nothing_else(client: TestClient, office: Office) -> None:
    june, july = issued(client, office)["id"], issued(client, office, "2026-07-31")["id"]
    link = linked(client, office, edition=june, trail="words")
    base = f"/api{link['path']}"
    assert [e["id"] for e in client.get(base).json()["editions"]] == [june]
    sheet = client.get(f"{base}/editions/{june}/sheet").json()
    key = sheet["key"]
    assert sheet["cells"]["0"] == ["30.00", "4"]
    trail = client.get(f"{base}/editions/{june}/sheets/{key}/trail?figure=Amount").json()
    assert (trail["number"], trail["first"]) == ("30.00", None)
    for shut in (f"editions/{june}/sheets/{key}/records", f"editions/{june}/sheets/{key}/records/file"):
        assert client.get(f"{base}/{shut}?figure=Amount").status_code == 404
    for other in ("", "/sheet", "/file", f"/sheets/{key}/trail?figure=Amount"):
        assert client.get(f"{base}/editions/{july}{other}").status_code == 404
    assert client.get(f"{base}/editions/{june}/moved?against={july}").status_code == 404
    assert client.get(f"{base}/editions/{june}/file?format=csv").text.startswith("Side,")


def test_nothing_under_a_link_can_be_written(client: TestClient, office: Office) -> None:
    paths = client.get("/api/openapi.json").json()["paths"]
    ways = {
        (path.removeprefix("/api/read/{secret}"), way)
        for path, found in paths.items()
        for way in found
        if "/read/" in path
    }
    assert {path for path, way in ways if way != "get"} == {
        f"/editions/{{id}}/sheets/{{key}}/{piece}" for piece in ("lines", "listed", "chosen", "like")
    }


def test_a_link_is_withdrawn_or_ends(client: TestClient, office: Office) -> None:
    issued(client, office)
    link = linked(client, office, trail="none", ends_on="2026-08-02")
    base = f"/api{link['path']}"
    assert client.get(base).json()["trail"] == "none"
    key = client.get(f"{base}/editions/1/sheet").json()["key"]
    assert client.get(f"{base}/editions/1/sheets/{key}/trail?figure=Amount").status_code == 404
    office.now = office.now.replace(day=3)
    assert client.get(base).status_code == 404
    office.now = office.now.replace(day=2)
    assert client.delete(f"/api/links/{link['id']}").json()["open"] is False
    assert "withdrawn" in client.get(base).json()["detail"]
    assert client.get("/api/read/nonsense").status_code == 404
    assert client.post(f"/api/reports/{office.stored.id}/links", json={"ends_on": "2020-01-01"}).status_code == 422
    listed = client.get(f"/api/reports/{office.stored.id}/links").json()
    assert ([one["path"] for one in listed], listed[0]["withdrawn_at"]) == ([""], "2026-08-02T09:00:00")


def test_a_link_to_all_editions_opens_later_ones_too(client: TestClient, office: Office) -> None:
    issued(client, office)
    base = f"/api{linked(client, office, trail='records')['path']}"
    july = issued(client, office, "2026-07-31")["id"]
    assert len(client.get(base).json()["editions"]) == 2
    key = client.get(f"{base}/editions/{july}/sheet").json()["key"]
    found = client.get(f"{base}/editions/{july}/sheets/{key}/records?figure=Amount").json()
    assert found["total"] == 4


def test_sending_over_http(client: TestClient, office: Office) -> None:
    id = issued(client, office)["id"]
    assert client.get("/api/mail").json()["host"] == ""
    refused = client.post(f"/api/editions/{id}/send", json={"only_to": "me@x.example"})
    assert "no mail server is set" in refused.json()["detail"]
    set_ = client.put("/api/mail", json={"host": "mail.x.example", "port": 587, "sender": "r@x.example"})
    assert set_.json()["security"] == "starttls"
    assert client.put("/api/mail", json={"host": "", "sender": "r@x.example"}).status_code == 422
    queued = client.post(f"/api/editions/{id}/send", json={"only_to": "me@x.example"})
    assert (queued.status_code, queued.json()[0]["state"]) == (202, "waiting")
    assert client.get(f"/api/editions/{id}/sendings").json()[0]["address"] == "me@x.example"
    assert client.get("/api/inbox").json() == []


def test_periods_and_editions_that_are_not_there_are_said(client: TestClient, office: Office) -> None:
    id = office.stored.id
    assert "no month of Civil year ends on" in client.get(f"/api/reports/{id}/periods/2026-06-29").json()["detail"]
    assert "has not ended yet" in client.post(f"/api/reports/{id}/periods/2026-08-31/issue").json()["detail"]
    assert client.get("/api/editions/99").status_code == 404
    assert client.get("/api/editions/99/moved").status_code == 404
    issued(client, office)
    for query in ("figure=Amount&line=99", "figure=None", "figure=Amount&column=77"):
        assert client.get(f"/api/editions/1/moved/cell?{query}").status_code == 422
    office.report(cadence=None)
    assert "has no cadence" in client.get(f"/api/reports/{id}/periods/2026-06-30").json()["detail"]


def test_a_pack_is_sent_over_http(client: TestClient, office: Office) -> None:
    controller = stand_in(office.desk)
    office.report(down=[{"category": "kind"}])
    id = issued(client, office)["id"]
    asked = {
        "title": "June", "editions": [id], "format": "csv", "text": "",
        "to": [{"address": "a@x.example"}, {"address": "b@x.example", "member": "kx"}],
    }  # fmt: skip
    queued = client.post("/api/editions/pack/send", json=asked).json()
    assert [(one["address"], one["member"], one["state"]) for one in queued] == [
        ("a@x.example", "", "waiting"), ("b@x.example", "kx", "waiting"),
    ]  # fmt: skip
    tried = client.post("/api/editions/pack/send", json={**asked, "only_to": "me@x.example"}).json()
    assert {one["address"] for one in tried} == {"me@x.example"}
    refused = client.post("/api/editions/pack/send", json={**asked, "to": [{"address": "b@x.example", "member": "kq"}]})
    assert (refused.status_code, "'kq'" in refused.json()["detail"]) == (422, True)
    controller.stop()


def test_an_answer_about_an_edition_is_kept_and_says_what_may_be_seen(client: TestClient, office: Office) -> None:
    id = issued(client, office)["id"]
    paths = {
        trail: client.post(f"/api/reports/{office.stored.id}/links", json={"trail": trail}).json()["path"]
        for trail in ("none", "words", "records")
    }
    for _ in range(2):  # as it is made, and as it is kept
        firsts = {}
        for trail, path in paths.items():
            base = f"/api{path}/editions/{id}"
            sheet = client.get(f"{base}/sheet")
            assert sheet.status_code == 200
            told = client.get(f"{base}/sheets/{sheet.json()['key']}/trail?figure=Amount")
            firsts[trail] = None if told.status_code == 404 else told.json()["first"] is not None
        assert firsts == {"none": None, "words": False, "records": True}
    own = client.get(f"/api/editions/{id}/sheets/x/trail?figure=Amount").json()
    assert own == client.get(f"/api/editions/{id}/sheets/x/trail?figure=Amount").json()
    assert client.get(f"/api/editions/{id}/sheets/x/trail?figure=Sales").json() != own


def test_what_is_kept_has_a_bound() -> None:
    answers = Answers(10)
    assert answers(key("a"), lambda: b"12345") == b"12345"
    assert answers(key("a"), lambda: b"other") == b"12345"
    answers(key("b"), lambda: b"1234567")
    assert answers(key("a"), lambda: b"again") == b"again"
