"""Access control: accounts, roles, sessions, tokens, and the token that every change made by a page carries."""

import json
from datetime import timedelta
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from kalendor.api.app import create_app
from kalendor.errors import DefinitionError
from tests.api.people import NOW, PASSWORD, Browser
from tests.api.test_api import brought
from tests.editions.conftest import Office

FOR_ALL = {("get", "/api/session"), ("post", "/api/session"), ("delete", "/api/session")}


def routes(browser: Browser) -> list[tuple[str, str]]:
    document = browser.client.get("/api/openapi.json").json()
    return [(method, path) for path, ways in document["paths"].items() for method in ways]


def filled(path: str) -> str:
    return path.replace("{id}", "1").replace("{secret}", "x").replace("{", "").replace("}", "")


def test_nobody_reaches_anything_without_signing_in(office: Office, ada: Browser) -> None:
    nobody = Browser(office)
    found = nobody.client.get("/api/session").json()
    written = {"decimal": ".", "thousands": ",", "dates": "mixed"}
    assert found == {"accounts": True, "name": "", "role": None, "token": "", "notation": written}
    for method, path in routes(ada):
        answer = nobody.ask(method, filled(path))
        if (method, path) in FOR_ALL:
            continue
        expected = 404 if path.startswith("/api/read/") else 401
        assert answer.status_code in (expected, 422 if expected == 404 else 401), (method, path, answer.status_code)
        assert answer.headers["content-type"] == "application/problem+json"
    assert nobody.client.get("/api/openapi.json").status_code == 401
    assert nobody.client.get("/").status_code in (200, 503)


def test_a_reader_reaches_what_is_issued_and_nothing_else(office: Office, ada: Browser, rita: Browser) -> None:
    before = office.desk.workspace.db.execute("SELECT count(*) FROM definition_revision").fetchone()[0]
    for method, path in routes(ada):
        if path.startswith(("/api/published", "/api/read/", "/api/session")):
            continue
        answer = rita.ask(method, filled(path))
        assert answer.status_code == 403, (method, path, answer.status_code)
    opens = rita.ask("GET", "/api/published").json()
    assert [(one["title"], one["label"]) for one in opens["editions"]] == [("Sales by side", "Jun 2026")]
    base = f"/api/published/editions/{opens['editions'][0]['id']}"
    sheet = rita.ask("GET", f"{base}/sheet").json()
    assert b"30.00" in rita.ask("GET", f"{base}/file?format=csv").content
    trail = rita.ask("GET", f"{base}/sheets/{sheet['key']}/trail?figure=Amount")
    assert trail.status_code == 200
    assert rita.ask("GET", f"{base}/sheets/{sheet['key']}/records?figure=Amount").status_code == 404
    assert office.desk.workspace.db.execute("SELECT count(*) FROM definition_revision").fetchone()[0] == before


@pytest.mark.parametrize(("shown", "trail", "records"), [("nothing", 0, 0), ("numbers", 404, 404), ("words", 200, 404), ("records", 200, 200)])  # fmt: skip
def test_a_report_says_what_readers_see(office: Office, rita: Browser, shown: str, trail: int, records: int) -> None:
    office.report(delivery={"to": [], "readers": shown})
    found = rita.ask("GET", "/api/published").json()["editions"]
    assert bool(found) == (shown != "nothing")
    assert (rita.ask("GET", "/api/published/editions/1").status_code == 200) == bool(found)
    for one in found:
        base = f"/api/published/editions/{one['id']}"
        key = rita.ask("GET", f"{base}/sheet").json()["key"]
        assert rita.ask("GET", f"{base}/sheets/{key}/trail?figure=Amount").status_code == trail
        assert rita.ask("GET", f"{base}/sheets/{key}/records?figure=Amount").status_code == records


def test_every_change_by_a_page_bears_its_sessions_token(office: Office, ada: Browser, rita: Browser) -> None:
    body = {"name": "t", "kind": "tree", "kalendor": 1, "levels": ["A"], "roots": []}
    for token in ("", "x", rita.token, ada.token[:-1]):
        refused = ada.ask("POST", "/api/groupings", body, **{"X-Kalendor-Token": token})
        assert (refused.status_code, "another session" in refused.json()["detail"]) == (403, True)
    assert office.desk.definitions.named("tree", "t") is None
    assert ada.ask("POST", "/api/groupings", body).status_code == 201
    made = office.desk.definitions.revisions()[0]
    assert (made.kind, made.saved_by) == ("tree", "Ada")


def test_where_nobody_signs_in_a_browser_bears_a_token_and_other_programs_need_none(tmp_path: Path) -> None:
    office = Office(tmp_path / "open")
    page = Browser(office)
    body = {"name": "t", "kind": "tree", "kalendor": 1, "levels": ["A"], "roots": []}
    assert page.ask("POST", "/api/groupings", body).status_code == 403
    opened = page.client.get("/api/session")
    assert (opened.json()["accounts"], opened.json()["role"]) == (False, "analyst")
    cookie = opened.headers["set-cookie"].lower()
    assert "httponly" in cookie
    assert "samesite=strict" in cookie
    page.token = opened.json()["token"]
    assert page.ask("POST", "/api/groupings", body).status_code == 201
    again = Browser(office)
    again.client.cookies = page.client.cookies
    again.token = page.token
    assert (
        again.ask("POST", "/api/groupings", {**body, "name": "u"}).status_code == 201
    )  # after the server was started again
    program = TestClient(create_app(office.desk))
    assert program.post("/api/groupings", json={**body, "name": "v"}).status_code == 201


def test_a_token_for_machines_reads_and_changes_nothing(office: Office) -> None:
    accounts = office.desk.accounts
    token, secret = accounts.make_token("Ada", "nightly", None, NOW)
    _, reads = accounts.make_token("Rita", "wall", NOW.date(), NOW)
    _, old = accounts.make_token("Ada", "old", NOW.date() - timedelta(days=1), NOW)
    machine = TestClient(create_app(office.desk), raise_server_exceptions=False)

    def ask(method: str, path: str, given: str = secret) -> int:
        return machine.request(method, path, headers={"Authorization": f"Bearer {given}"}).status_code

    assert ask("GET", "/api/editions/1/file?format=csv") == 200
    assert (
        ask("POST", "/api/board/issue-ready"),
        ask("DELETE", "/api/reports/1"),
        ask("GET", "/api/reports", reads),
    ) == (403, 403, 403)
    assert (
        ask("GET", "/api/published", reads),
        ask("GET", "/api/reports", old),
        ask("GET", "/api/reports", "kal_no"),
    ) == (200, 401, 401)
    accounts.withdraw_token(token.id, NOW)
    assert ask("GET", "/api/reports") == 401
    kept = json.dumps([list(row) for row in office.desk.workspace.db.execute("SELECT * FROM machine_token")])
    assert secret not in kept


def test_who_did_it_is_told_of_intakes_editions_and_revisions(office: Office, ada: Browser) -> None:
    ada.client.headers["X-Kalendor-Token"] = ada.token
    brought(ada.client, b"day,kind,amount\n2026-06-30,kx,5.00\n", "Sales")
    office.now += timedelta(days=1)
    done = ada.ask("POST", f"/api/reports/{office.stored.id}/periods/2026-06-30/issue")
    rows = office.desk.workspace.db.execute
    assert (done.status_code, office.desk.editions.all()[-1].issued_by) == (201, "Ada")
    assert rows("SELECT brought_by FROM intake ORDER BY id DESC").fetchone()[0] == "Ada"


@pytest.mark.parametrize(("name", "role", "password", "said"), [
    ("", "reader", PASSWORD, "not a name"), ("a\nb", "reader", PASSWORD, "not a name"), ("Bo", "owner", PASSWORD, "not a role"),
    ("Bo", "reader", "short", "10 to 1,000"), ("ada", "reader", PASSWORD, "already"),
])  # fmt: skip
def test_an_account_that_cannot_be_is_refused_in_words(
    office: Office, name: str, role: str, password: str, said: str
) -> None:
    with pytest.raises(DefinitionError, match=said):
        office.desk.accounts.add(name, role, password, NOW)
