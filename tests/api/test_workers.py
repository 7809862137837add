"""Worker processes: they answer as the server does, write nothing, and one that dies is an error of one request."""

import asyncio
import os
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import httpx
import numpy as np
import pytest
from fastapi.routing import APIRoute
from fastapi.testclient import TestClient

from kalendor.api.app import ROUTERS, create_app
from kalendor.api.resting import Resting
from kalendor.api.workers.marking import MARK, Marked
from kalendor.api.workers.pool import AHEAD, Bounds, Workers, usual_bounds
from kalendor.core.values.keys import key
from kalendor.desk.desk import REST_BYTES, Desk
from tests.api.people import PASSWORD, Browser
from tests.api.pools import WorkersHere
from tests.api.test_api import brought, saved
from tests.conftest import NOW
from tests.editions.conftest import Office

MARKED = Marked.of(ROUTERS)
BOUNDS = Bounds(4 << 30, 1 << 26)
PATIENCE = 60.0


def waited(until: Callable[[], Any]) -> Any:
    end = time.monotonic() + PATIENCE
    while not (found := until()):
        assert time.monotonic() < end
        time.sleep(0.02)
    return found


async def nothing(*_: Any) -> Any:
    """No-op ASGI application, receive and send."""


# -- which requests they take


def test_requests_about_one_report_or_edition_are_about_one_subject() -> None:
    assert MARKED.subject("GET", "/api/reports/7/sheet") == "reports 7"
    assert MARKED.subject("POST", "/api/reports/7/sheets/abc/lines") == "reports 7"
    assert MARKED.subject("GET", "/api/read/a-secret/editions/3/file") == "editions 3"
    assert MARKED.subject("POST", "/api/sentence/read") == ""
    for method, path in (("POST", "/api/reports/7/sheet"), ("PUT", "/api/reports/7"), ("GET", "/api/session")):
        assert MARKED.subject(method, path) is None


def test_no_marked_route_needs_what_the_server_alone_has() -> None:
    """State of the server's own process: jobs, sessions and the caller."""
    for router in ROUTERS:
        for route in router.routes:
            if isinstance(route, APIRoute) and hasattr(route.endpoint, MARK):
                needs = {dependency.call.__name__ for dependency in route.dependant.dependencies if dependency.call}
                assert not needs & {"_jobs", "_sessions", "_caller"}, route.path
                assert route.methods <= {"GET", "POST"}, route.path


# -- what they answer


@pytest.fixture
def both(tmp_path: Path) -> Iterator[tuple[TestClient, TestClient, WorkersHere]]:
    """A server without workers and one with workers, over the same workspace."""
    desk = Desk(tmp_path / "workspace", now=lambda: NOW)
    workers = WorkersHere(tmp_path / "workspace", lambda: NOW)
    with TestClient(create_app(desk)) as alone, TestClient(create_app(desk, workers=workers)) as spread:
        yield alone, spread, workers


def test_they_answer_as_the_server_itself_does(both: tuple[TestClient, TestClient, WorkersHere]) -> None:
    alone, spread, workers = both
    brought(alone)
    report = saved(alone)
    path = f"/api/reports/{report['id']}"
    key = alone.get(f"{path}/sheet").json()["key"]
    figure = report["document"]["figures"][0]["name"]
    for asked in (
        f"{path}/sheet", f"{path}/glance", f"{path}/headline", f"{path}/file?format=csv", f"{path}/sheets/{key}/trail?figure={figure}",
        f"{path}/sheets/{key}/records?figure={figure}", f"{path}/sheets/no-such/trail?figure={figure}", "/api/reports/999/sheet",
        f"{path}/sheet?unknown=1", "/api/board",
    ):  # fmt: skip
        taken = len(workers.taken)
        here, there = alone.get(asked), spread.get(asked)
        assert len(workers.taken) == taken + 1, asked
        assert (there.status_code, there.content) == (here.status_code, here.content), asked
        kept = {k: v for k, v in here.headers.items() if k != "content-length"}
        assert {k: v for k, v in there.headers.items() if k != "content-length"} == kept, asked
    tried = {**report["document"], "title": "Another"}
    for asked, body in ((f"{path}/sheets/{key}/lines", {"lines": [0, 1]}), ("/api/reports/tried/sheet", tried)):
        assert spread.post(asked, json=body).content == alone.post(asked, json=body).content


def test_an_edit_is_saved_by_the_server_and_its_sheet_worked_out_by_a_worker(
    both: tuple[TestClient, TestClient, WorkersHere],
) -> None:
    alone, spread, workers = both
    brought(alone)
    report = saved(alone)
    path = f"/api/reports/{report['id']}"
    first = {"If-Match": f'"{report["revision"]}"'}
    changed = {**report["document"], "title": "Edited"}
    answer = spread.post(f"{path}/edits?columns=3", json=changed, headers=first)
    assert workers.taken == [f"reports {report['id']}"]
    assert answer.headers["etag"] == f'"{report["revision"] + 1}"'
    assert answer.json()["report"]["document"]["title"] == "Edited"
    assert answer.json()["sheet"] == alone.get(f"{path}/sheet?columns=3").json()
    assert spread.post(f"{path}/edits", json=changed, headers=first).status_code == 412
    assert alone.get(path).json()["revision"] == report["revision"] + 1
    undone = spread.post(f"{path}/edits?step=undo")
    assert undone.json()["report"]["document"] == report["document"]
    assert undone.json()["sheet"]["key"] == alone.get(f"{path}/sheet").json()["key"]


def test_what_needs_writing_comes_back_to_the_server(both: tuple[TestClient, TestClient, WorkersHere]) -> None:
    """A source made from a report's sheet is imported again when the sheet has changed."""
    alone, spread, workers = both
    brought(alone)
    report = saved(alone)
    path = f"/api/reports/{report['id']}"
    alone.post(f"{path}/summary?name=Summary").raise_for_status()
    over = alone.post("/api/reports", json={"source": "Summary"}).json()
    more = [*report["document"]["figures"], {"name": "how many", "take": "count"}]
    alone.put(path, json={**report["document"], "figures": more}).raise_for_status()
    taken = len(workers.taken)
    found = spread.get(f"/api/reports/{over['id']}/sheet")
    assert len(workers.taken) == taken + 1
    assert found.status_code == 200
    assert found.json() == alone.get(f"/api/reports/{over['id']}/sheet").json()
    again = spread.get(f"/api/reports/{over['id']}/sheet")  # now by a worker
    assert again.json() == found.json()


def test_who_may_not_ask_the_server_may_not_ask_a_worker(office: Office) -> None:
    workers = WorkersHere(office.desk.workspace.folder, lambda: office.now)
    strange, reader = Browser(office, workers=workers), Browser(office, workers=workers)
    reader.sign_in("Rita")
    path = f"/api/reports/{office.stored.id}/sheet"
    assert strange.client.get(path).status_code == 401
    assert reader.client.get(path).status_code == 403
    assert workers.taken == []


# -- processes


@pytest.fixture(scope="module")
def started(tmp_path_factory: pytest.TempPathFactory) -> Iterator[tuple[TestClient, Workers, int]]:
    """A server with two worker processes, and a report; shared by all tests of this file."""
    folder = tmp_path_factory.mktemp("started") / "workspace"
    desk = Desk(folder)
    workers = Workers(folder, 2, BOUNDS)
    try:
        with pytest.MonkeyPatch.context() as patch, TestClient(create_app(desk, workers=workers)) as api:
            patch.setenv("KALENDOR_TODAY", NOW.date().isoformat())  # for the processes, too
            brought(api)
            report = int(saved(api)["id"])
            workers.start()
            yield api, workers, report
    finally:
        workers.close()


@pytest.fixture
def running(started: tuple[TestClient, Workers, int]) -> tuple[TestClient, Workers, int]:
    """That server, once both workers are ready and idle."""
    _, workers, _ = started
    waited(lambda: len(workers._workers) == 2 and all(one.ready for one in workers._workers))
    for one in workers._workers:
        one.requests.clear()
    return started


def test_a_worker_that_ends_is_an_error_of_the_request_that_it_had(
    running: tuple[TestClient, Workers, int],
) -> None:
    api, workers, report = running
    path = f"/api/reports/{report}/sheet"
    before = api.get(path)
    assert before.status_code == 200
    worker = workers._usual[f"reports {report}"]
    os.kill(worker.process.pid, signal.SIGSTOP)
    answers: list[httpx.Response] = []
    asking = [threading.Thread(target=lambda: answers.append(api.get(path))) for _ in range(2)]
    asking[0].start()
    waited(lambda: len(worker.requests) == 1)
    asking[1].start()
    waited(lambda: len(worker.requests) == 2)
    os.kill(worker.process.pid, signal.SIGKILL)
    for thread in asking:
        thread.join()
    refused, answered = sorted(answers, key=lambda answer: -answer.status_code)
    assert refused.status_code == 503
    assert "ended; ask again" in refused.json()["detail"]
    assert answered.content == before.content
    waited(lambda: len(workers._workers) == 2 and all(one.ready for one in workers._workers))
    assert worker not in workers._workers
    assert api.get(path).content == before.content


def test_a_worker_that_ends_while_it_has_nothing_to_do_is_replaced(running: tuple[TestClient, Workers, int]) -> None:
    api, workers, report = running
    path = f"/api/reports/{report}/sheet"
    assert api.get(path).status_code == 200
    idle = next(one for one in workers._workers if one is not workers._usual[f"reports {report}"])
    os.kill(idle.process.pid, signal.SIGKILL)
    idle.process.wait()
    assert api.get(path).status_code == 200
    waited(lambda: len(workers._workers) == 2 and all(one.ready for one in workers._workers))
    assert idle not in workers._workers


def test_requests_about_a_report_go_to_its_worker_unless_that_is_much_busier(
    running: tuple[TestClient, Workers, int],
) -> None:
    _, workers, _ = running
    first = workers.chosen("reports 1")
    assert first is not None
    first.requests.append("one")
    other = workers.chosen("reports 2")
    assert other is not first
    first.requests += ["more"] * (AHEAD - 1)
    assert workers.chosen("reports 1") is first
    first.requests.append("too many")
    assert workers.chosen("reports 1") is other
    assert workers.chosen("reports 1") is other


def test_work_that_nobody_waits_for_ends(running: tuple[TestClient, Workers, int]) -> None:
    """When the client disconnects, the connection to the worker is closed, which cancels the work there."""
    api, workers, report = running
    path = f"/api/reports/{report}/sheet"
    assert api.get(path).status_code == 200
    worker = workers._usual[f"reports {report}"]
    os.kill(worker.process.pid, signal.SIGSTOP)

    async def left() -> None:
        sent: list[Any] = []
        messages = iter([{"type": "http.request", "body": b"", "more_body": False}, {"type": "http.disconnect"}])

        async def receive() -> Any:
            return next(messages)

        async def send(message: Any) -> None:
            sent.append(message)

        headers = [(b"host", b"testserver")]
        scope = {"type": "http", "method": "GET", "path": path, "raw_path": path.encode(), "query_string": b"",
                 "headers": headers, "scheme": "http", "client": ("testclient", 1), "root_path": ""}  # fmt: skip
        await api.app(scope, receive, send)
        assert sent == []

    assert api.portal is not None
    api.portal.call(left)
    assert worker.requests == []
    os.kill(worker.process.pid, signal.SIGCONT)
    assert api.get(path).status_code == 200


def test_without_workers_that_can_answer_the_server_does_all_itself(tmp_path: Path) -> None:
    desk = Desk(tmp_path / "workspace", now=lambda: NOW)
    workers = Workers(tmp_path / "workspace", 2, BOUNDS)
    with TestClient(create_app(desk, workers=workers)) as api:  # none was started
        brought(api)
        assert api.get(f"/api/reports/{saved(api)['id']}/sheet").status_code == 200
    workers.close()


def test_workers_end_with_their_server_however_it_ends(tmp_path: Path) -> None:
    code = (
        "import sys, time; from pathlib import Path; from kalendor.api.workers.pool import Workers\n"
        "if __name__ == '__main__':\n"
        "    w = Workers(Path(sys.argv[1]), 1); w.start()\n"
        "    while not (w._workers and w._workers[0].ready): time.sleep(0.02)\n"
        "    print(w._workers[0].process.pid, flush=True); time.sleep(60)\n"
    )
    Desk(tmp_path / "workspace")
    with subprocess.Popen([sys.executable, "-c", code, str(tmp_path / "workspace")], stdout=subprocess.PIPE) as server:
        assert server.stdout is not None
        worker = int(server.stdout.readline())
        server.kill()
    waited(lambda: not Path(f"/proc/{worker}").exists() or "Z" in Path(f"/proc/{worker}/stat").read_text().split()[2])


def test_memory_is_shared_out_among_workers() -> None:
    one, four = usual_bounds(1), usual_bounds(4)
    assert four.remembers <= one.remembers
    assert four.memory >= 2 << 30


def test_a_desk_at_rest_keeps_little_and_answers_the_same(both: tuple[TestClient, TestClient, WorkersHere]) -> None:
    alone, spread, workers = both
    brought(alone)
    path = f"/api/reports/{saved(alone)['id']}/sheet"
    before = spread.get(path).content
    for desk in workers.desks:
        desk.memory.put(key("large"), np.zeros(REST_BYTES + 1, dtype=np.uint8))
        asyncio.run(Resting(nothing, desk, after=0.01)({"type": "http"}, nothing, nothing))
        waited(lambda desk=desk: desk.memory.held <= REST_BYTES)
    assert spread.get(path).content == before


def test_accounts_sign_in_where_workers_are(office: Office) -> None:
    workers = WorkersHere(office.desk.workspace.folder, lambda: office.now)
    browser = Browser(office, workers=workers)
    assert browser.client.post("/api/session", json={"name": "Ada", "password": PASSWORD}).status_code == 200
    assert browser.client.get(f"/api/reports/{office.stored.id}/sheet").status_code == 200
    assert workers.taken == [f"reports {office.stored.id}"]
