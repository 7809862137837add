"""Linked folders over HTTP: what may be linked, sheets as jobs, rescans, and refusals."""

import os
import threading
import time
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from kalendor.api.app import create_app
from kalendor.desk.desk import Desk
from kalendor.desk.linked import looking, sheets, spread
from kalendor.desk.linked.watching import Watch
from tests.desk.test_linked import by_threads, put
from tests.desk.test_partitioned import lines

DOCUMENT: dict[str, Any] = {
    "kalendor": 1, "kind": "report", "title": "Net", "source": "Sales", "down": [{"category": "store"}],
    "figures": [{"name": "Net", "take": "sum", "of": "net"}, {"name": "Records", "take": "count"}],
}  # fmt: skip


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    for at in range(3):
        put(tmp_path / "exports", f"{at}.csv", lines(20, at))
    return tmp_path / "exports"


@pytest.fixture
def client(desk: Desk, folder: Path) -> TestClient:
    desk.link_from, desk.spread_over = (folder.parent,), by_threads
    return TestClient(create_app(desk))


def ended(client: TestClient, job: dict[str, Any]) -> dict[str, Any]:
    while job["state"] == "working":
        time.sleep(0.01)
        job = client.get(f"/api/jobs/{job['id']}").json()
    return job


def linked(client: TestClient, folder: Path, name: str = "Sales") -> int:
    job = ended(client, client.post("/api/linked", json={"name": name, "folder": str(folder)}).json())
    assert job["state"] == "done", job
    return int(job["source"])


def test_a_folder_is_linked_looked_at_again_and_said_of(client: TestClient, folder: Path) -> None:
    id = linked(client, folder)
    source = client.get(f"/api/sources/{id}").json()
    assert (source["records"], source["files"], source["linked"], source["link"]["said"]) == (60, 3, True, "")
    assert source["drop_folder"] is None
    client.put(f"/api/sources/{id}/made", json=[{"name": "double", "formula": "net * 2"}])
    made = client.get(f"/api/sources/{id}").json()["columns"][-1]
    assert (made["name"], made["summary"], made["different"], made["spread"]) == ("double", "not counted", 0, [])
    blanks = {column["name"]: column["blank"] for column in source["columns"]}
    assert blanks["net"] == sum(
        "," + "" + "," in line and line.split(",")[-2] == "" for at in range(3) for line in lines(20, at)
    )
    assert {value["records"] for value in client.get(f"/api/sources/{id}/values?column=store").json()} == {None}
    put(folder, "3.csv", lines(5, 9))
    (folder / "0.csv").unlink()
    assert client.get(f"/api/sources/{id}").json()["link"]["said"] == "1 file came, 1 went"
    assert [f["state"] for f in client.get(f"/api/sources/{id}/files").json()] == ["gone", "same", "same"]
    ended(client, client.post(f"/api/sources/{id}/look").json())
    source = client.get(f"/api/sources/{id}").json()
    assert (source["records"], [i["records"] for i in source["intakes"]], source["intakes"][0]["reason"]) == (
        45, [45, 60], "1 file came, 1 went",
    )  # fmt: skip


def test_columns_are_renamed_and_the_source_removed(client: TestClient, folder: Path) -> None:
    id = linked(client, folder)
    made = client.post("/api/reports", json={"source": "Sales", "title": "Net", "document": DOCUMENT}).json()
    before = client.get(f"/api/reports/{made['id']}/sheet").json()["tie_out"]
    client.patch(f"/api/sources/{id}/columns", json={"column": "net", "name": "Amount"})
    after = client.get(f"/api/reports/{made['id']}/sheet").json()
    assert after["tie_out"] == before
    records = client.get(f"/api/reports/{made['id']}/sheets/{after['key']}/records?figure=Net&count=2").json()
    assert records["columns"] == ["store", "on", "Amount", "qty"]
    put(folder, "4.csv", lines(5, 9))
    assert ended(client, client.post(f"/api/sources/{id}/look").json())["state"] == "done"
    assert client.get(f"/api/reports/{made['id']}/sheet").json()["tie_out"]["on_sheet"] == 65
    (folder / "0.csv").unlink()
    ended(client, client.post(f"/api/sources/{id}/look").json())
    assert client.delete(f"/api/sources/{id}").status_code == 422
    client.delete(f"/api/reports/{made['id']}", headers={"If-Match": "*"})
    assert client.delete(f"/api/sources/{id}").status_code == 204
    assert linked(client, folder) != 0


def test_a_look_that_another_came_before_changes_nothing(
    client: TestClient, folder: Path, desk: Desk, monkeypatch: pytest.MonkeyPatch
) -> None:
    id = linked(client, folder)
    put(folder, "4.csv", lines(5, 9))
    counted = looking._with_specimens

    def overtaken(*given: Any) -> Any:
        monkeypatch.setattr(looking, "_with_specimens", counted)
        looking._LOOKING.clear()  # as another process would
        monkeypatch.setattr(spread, "_ONE_AT_A_TIME", threading.Lock())
        looking.look(desk, desk.sources.one(id))
        return counted(*given)

    monkeypatch.setattr(looking, "_with_specimens", overtaken)
    job = ended(client, client.post(f"/api/sources/{id}/look").json())
    assert (job["state"], "was looked at meanwhile" in job["message"]) == ("failed", True)
    assert client.get(f"/api/sources/{id}").json()["records"] == 65


def test_a_sheet_that_takes_much_reading_is_a_job_however_many_ask(
    client: TestClient, folder: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    linked(client, folder)
    monkeypatch.setattr(sheets, "SOON_BYTES", 0)
    made = client.post("/api/reports", json={"source": "Sales", "title": "Net", "document": DOCUMENT}).json()
    path = f"/api/reports/{made['id']}"
    assert client.post("/api/reports/tried/sheet", json=DOCUMENT).status_code == 409
    assert client.post("/api/reports/tried", json=DOCUMENT).json() == {"fault": ""}
    edit = client.post(
        f"{path}/edits", json={**DOCUMENT, "title": "Sums"}, headers={"If-Match": f'"{made["revision"]}"'}
    ).json()
    assert (edit["sheet"], edit["fault"]) == (None, "Sales has to be read for this sheet first")
    asked = client.get(f"{path}/sheet")
    assert (asked.status_code, asked.headers["retry-after"]) == (503, "1")
    assert ended(client, client.get(f"/api/jobs/{asked.json()['job']}").json())["state"] == "done"
    sheet = client.get(f"{path}/sheet").json()
    assert sheet["tie_out"]["on_sheet"] == 60
    found = client.get(f"{path}/sheets/{sheet['key']}/records/file?figure=Records").text
    assert found.count("\n") == 61 + found.count('\nand east"')


def test_a_stop_stops_and_what_was_read_is_kept(
    client: TestClient, folder: Path, desk: Desk, monkeypatch: pytest.MonkeyPatch
) -> None:
    linked(client, folder)
    monkeypatch.setattr(sheets, "SOON_BYTES", 0)
    monkeypatch.setattr(spread, "HERE_BYTES", 0)
    made = client.post("/api/reports", json={"source": "Sales", "title": "Net", "document": DOCUMENT}).json()
    with spread._ONE_AT_A_TIME:  # another reading goes on
        job = client.get(f"/api/reports/{made['id']}/sheet").json()["job"]
        assert client.get(f"/api/reports/{made['id']}/sheet").json()["job"] == job
        assert client.post(f"/api/jobs/{job}/stop").json()["state"] == "stopped"
    again = client.get(f"/api/reports/{made['id']}/sheet").json()["job"]
    assert again != job
    assert ended(client, client.get(f"/api/jobs/{again}").json())["state"] == "done"
    assert client.get(f"/api/reports/{made['id']}/sheet").status_code == 200


@pytest.mark.parametrize(
    ("asked", "said"),
    [
        ({"folder": "/"}, "it lies beneath none of"),
        ({"folder": "{root}/../elsewhere"}, "it lies beneath none of"),
        ({"folder": "{root}/nowhere"}, "there is no such folder"),
        ({"pattern": "../*"}, "is no pattern of files in a folder"),
        ({"pattern": "*.parquet"}, "there is no file that matches"),
        ({"name": "Sales"}, "there is already a source named"),
    ],
)
def test_what_cannot_be_linked_is_refused_in_words(
    client: TestClient, folder: Path, asked: dict[str, str], said: str
) -> None:
    linked(client, folder)
    body = {"name": "More", "folder": str(folder), **{k: v.format(root=folder.parent) for k, v in asked.items()}}
    job = ended(client, client.post("/api/linked", json=body).json())
    assert job["state"] == "failed"
    assert said in job["message"]
    assert len(client.get("/api/sources").json()) == 1


def test_a_server_started_without_folders_links_none_and_follows_those_that_are(
    client: TestClient, desk: Desk, folder: Path
) -> None:
    id = linked(client, folder)
    desk.link_from = ()
    assert client.get("/api/folders").json() == []
    assert "--link-from" in client.get("/api/folders/at?path=/").json()["detail"]
    put(folder, "4.csv", lines(5, 9))
    assert ended(client, client.post(f"/api/sources/{id}/look").json())["state"] == "done"
    folder.rename(folder.with_name("elsewhere"))
    assert "there is no such folder now" in ended(client, client.post(f"/api/sources/{id}/look").json())["message"]


def _damage(folder: Path) -> None:
    (folder / "1.csv").write_bytes(b"\x00\x01PAR")


def _other_columns(folder: Path) -> None:
    (folder / "1.csv").write_text("shop,on,net,qty\nN,2024-01-01,1.00,1\n")


def _other_kinds(folder: Path) -> None:
    (folder / "1.csv").write_text("store,on,net,qty\nN,2024-01-01,dear,1\n")


def _all_gone(folder: Path) -> None:
    for path in folder.iterdir():
        path.unlink()


@pytest.mark.parametrize(
    ("change", "said"),
    [
        (_damage, "1.csv"),
        (_other_columns, "All files of a source are read in one way; put others into a folder"),
        (_other_kinds, "1.csv"),
        (_all_gone, "there is no file that matches"),
    ],
)
def test_a_look_that_cannot_be_read_changes_nothing(
    client: TestClient, folder: Path, desk: Desk, change: Any, said: str
) -> None:
    id = linked(client, folder)
    made = client.post("/api/reports", json={"source": "Sales", "title": "Net", "document": DOCUMENT}).json()
    before = client.get(f"/api/reports/{made['id']}/sheet").json()
    change(folder)
    job = ended(client, client.post(f"/api/sources/{id}/look").json())
    assert job["state"] == "failed"
    assert said in job["message"]
    assert client.get(f"/api/reports/{made['id']}/sheet").json() == before
    desk.plans.clear(), desk.sheets.clear()
    assert client.get(f"/api/reports/{made['id']}/sheet").json() == before, "what was kept of the files tells it still"


def test_a_file_that_changed_under_a_sheet_is_named(client: TestClient, folder: Path, desk: Desk) -> None:
    linked(client, folder)
    put(folder, "1.csv", lines(7, 5))
    made = client.post("/api/reports", json={"source": "Sales", "title": "Net", "document": DOCUMENT}).json()
    refused = client.get(f"/api/reports/{made['id']}/sheet")
    assert refused.status_code == 422
    assert "1.csv was changed since Sales was looked at; look at the folder again" in refused.json()["detail"]
    os.utime(folder / "1.csv", (0, 0))
    (folder / "2.csv").unlink()
    watch = Watch(desk)
    assert watch.look() == []
    assert watch.look() == ["Sales"], "the folder stood still for two looks"
    assert client.get(f"/api/reports/{made['id']}/sheet").json()["tie_out"]["on_sheet"] == 27


def test_its_records_are_the_files_alone(client: TestClient, folder: Path, desk: Desk) -> None:
    """A linked source cannot be imported into, adjusted, undone, looked up from or put beside another; each is refused
    by name."""
    id = linked(client, folder)
    other = client.post(
        "/api/waiting", files={"file": ("o.csv", "store,on,net,qty\nN,2024-01-01,1.00,1\n")}, data={"source": "Other"}
    )
    client.post(f"/api/waiting/{ended(client, other.json())['token']}/keep")
    (intake,) = client.get(f"/api/sources/{id}").json()["intakes"]
    lookup = {"name": "n", "lookup": {"source": "Sales", "match": {"store": "store"}, "take": "net"}}
    beside = {**DOCUMENT, "source": "Other", "beside": [{"source": "Sales", "match": {"store": "store"}}]}
    pushed = client.post(
        f"/api/sources/{id}/files", files={"file": ("p.csv", "store,on,net,qty\nN,2024-01-01,1.00,1\n")}
    )
    answers = [
        pushed,
        client.post(f"/api/intakes/{intake['id']}/undo"),
        client.put(f"/api/sources/{id}/joining", json={"join": "add", "join_by": [], "held_over": 0.2}),
        client.post(f"/api/sources/{id}/adjustments", json={"lines": [{"store": "N", "net": "1"}], "reason": "r"}),
        client.post("/api/reports/tried/sheet", json=beside),
        client.post("/api/reports/tried/sheet", json={**DOCUMENT, "source": "Other", "columns": [lookup]}),
    ]
    assert [(a.status_code, "linked" in a.json()["detail"]) for a in answers] == [(422, True)] * len(answers)
    assert client.get(f"/api/sources/{id}").json()["records"] == 60
