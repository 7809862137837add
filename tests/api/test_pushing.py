"""Files pushed by programs: imported once, held as those of drop folders are, with a token that permits nothing
else."""

import threading
from concurrent.futures import ThreadPoolExecutor
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from kalendor.api.app import create_app
from kalendor.desk.drop_folder import DropFolders
from kalendor.desk.dropped_files import folder_state
from kalendor.errors import DefinitionError
from tests.api.people import PASSWORD
from tests.editions.conftest import HEAD, Office

NOW = datetime.now()
AUGUST = HEAD + "2026-08-01,kx,5.00\n2026-08-02,ky,6.00\n"


@pytest.fixture
def office(tmp_path: Path) -> Office:
    return Office(tmp_path / "workspace")


@pytest.fixture
def api(office: Office) -> TestClient:
    return TestClient(create_app(office.desk), raise_server_exceptions=False)


def sent(api: TestClient, text: str, name: str = "august.csv", key: str = "", **headers: str) -> Any:
    more = {"Idempotency-Key": key} if key else {}
    return api.post("/api/sources/1/files", files={"file": (name, text.encode())}, headers={**headers, **more})


def count(office: Office) -> int:
    source = office.desk.sources.named("Sales")
    assert source is not None
    return office.desk.sources.records(source).count


def test_a_file_is_brought_in_and_the_same_key_does_nothing_twice(office: Office, api: TestClient) -> None:
    first = sent(api, AUGUST, key="k1")
    assert (first.status_code, first.json()["state"], first.json()["records"]) == (201, "in", 2)
    again = sent(api, AUGUST, key="k1")
    assert (again.status_code, again.json()) == (201, first.json())
    assert count(office) == 14
    other = sent(api, AUGUST.replace("5.00", "9.00"), key="k1")
    assert (other.status_code, "another content came" in other.json()["detail"]) == (409, True)
    without = sent(api, AUGUST)
    assert (without.status_code, "the same content was brought in" in without.json()["detail"]) == (422, True)
    assert count(office) == 14
    assert not office.desk.waiting


def test_an_answer_that_was_lost_is_given_again(office: Office, api: TestClient) -> None:
    first = sent(api, AUGUST, key="k1").json()
    with office.desk.workspace.change() as db:
        db.execute("DELETE FROM pushed")  # the server was killed before it could note the answer
    assert sent(api, AUGUST, key="k1").json() == first
    assert count(office) == 14


def test_many_at_once_with_one_key_bring_it_in_once(office: Office, api: TestClient) -> None:
    with ThreadPoolExecutor(6) as pool:
        answers = list(pool.map(lambda _: sent(api, AUGUST, key="k1"), range(12)))
    assert {a.status_code for a in answers} <= {201, 409}
    assert len({a.json()["intake"] for a in answers if a.status_code == 201}) == 1
    assert count(office) == 14


def test_what_is_held_waits_for_a_person_with_the_dropped_ones(office: Office, api: TestClient) -> None:
    half = HEAD + "2026-07-01,kx,30.00\n2026-07-10,ky,7.00\n"
    answer = sent(api, half, "half.csv", key="k2")
    assert (answer.status_code, answer.json()["state"], answer.json()["intake"]) == (202, "held", None)
    assert sent(api, half, "half.csv", key="k2").json() == answer.json()
    changed = sent(api, AUGUST.replace("kind", "sort"), "../../sorted.csv", key="k3")
    assert (changed.status_code, changed.json()["file"]) == (202, "sorted.csv")
    state = folder_state(office.desk, "Sales")
    assert state is not None
    assert sorted(one.file for one in state.held) == ["half.csv", "sorted.csv"]
    assert count(office) == 12
    token = api.post("/api/sources/1/dropped/sorted.csv").json()["token"]
    assert api.post(f"/api/waiting/{token}/keep", params={"seen": True}).json()["state"] == "done"
    assert count(office) == 14


def test_many_that_are_held_under_one_name_all_wait_while_the_folder_is_looked_at(
    office: Office, api: TestClient
) -> None:
    half = [
        HEAD + f"2026-07-01,kx,30.00\n2026-07-10,ky,7.00\n{'' if n else '2026-07-21,kz,1.00'}\n" * (n + 1)
        for n in range(6)
    ]
    folders, stop = DropFolders(office.desk), threading.Event()
    folders.make()

    def look() -> None:
        while not stop.is_set():
            folders.look(at_once=True)

    looking = threading.Thread(target=look)
    looking.start()
    with ThreadPoolExecutor(6) as pool:
        answers = list(pool.map(lambda text: sent(api, text, "half.csv"), half))
    stop.set()
    looking.join()
    assert {answer.status_code for answer in answers} == {202}
    state = folder_state(office.desk, "Sales")
    assert state is not None
    assert sorted(one.file for one in state.held) == sorted(answer.json()["file"] for answer in answers)
    assert len({answer.json()["file"] for answer in answers}) == 6
    assert count(office) == 12


def test_what_cannot_be_read_is_refused_and_the_key_is_free(office: Office, api: TestClient) -> None:
    assert sent(api, "no,such\n1,2\n", key="k4").status_code == 422
    assert sent(api, AUGUST, key="k4").status_code == 201
    assert sent(api, AUGUST, key="k" * 300).status_code == 422
    assert api.post("/api/sources/99/files", files={"file": ("a.csv", b"a\n1\n")}).status_code == 404
    assert not [path for path in office.desk.workspace.files.iterdir() if path.name.startswith(".waiting")]


def test_a_token_brings_in_to_one_source_and_does_nothing_else(office: Office, api: TestClient) -> None:
    accounts = office.desk.accounts
    accounts.add("Ada", "analyst", PASSWORD, NOW)
    accounts.add("Rita", "reader", PASSWORD, NOW)
    with pytest.raises(DefinitionError, match="Rita is a reader"):
        accounts.make_token("Rita", "nightly", None, NOW, 1)
    token, secret = accounts.make_token("Ada", "nightly", NOW.date() + timedelta(days=1), NOW, 1)
    bearer = {"Authorization": f"Bearer {secret}"}
    assert sent(api, AUGUST).status_code == 401
    assert sent(api, AUGUST, key="k", **bearer).status_code == 201
    intake = office.desk.workspace.db.execute("SELECT brought_by FROM intake ORDER BY id DESC").fetchone()
    assert intake[0] == "Ada"
    spec = api.get("/api/openapi.json", headers=bearer)
    assert spec.status_code == 403
    for method, path in (
        ("GET", "/api/sources"), ("GET", "/api/sources/1/files"), ("POST", "/api/sources/2/files"), ("GET", "/api/published"),
        ("POST", "/api/sources/1/files/"), ("POST", "/api/waiting"), ("DELETE", "/api/sources/1"), ("PUT", "/api/sources/1/joining"),
        ("GET", "/api/board"), ("POST", "/api/sources/01/files"),
    ):  # fmt: skip
        assert api.request(method, path, headers=bearer).status_code == 403, (method, path)
    _, reads = accounts.make_token("Ada", "reads", None, NOW)
    assert sent(api, AUGUST, Authorization=f"Bearer {reads}").status_code == 403
    accounts.withdraw_token(token.id, NOW)
    assert sent(api, AUGUST, key="k", **bearer).status_code == 401
