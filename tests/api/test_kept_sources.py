"""Sources over HTTP: summaries, files kept at once, names, and the source that fits a file."""

import threading
import time
from typing import Any

import pytest
from fastapi.testclient import TestClient

from kalendor.api.app import create_app
from kalendor.desk.desk import Desk
from tests.api.test_api import brought, saved


@pytest.fixture
def api(desk: Desk) -> TestClient:
    return TestClient(create_app(desk), raise_server_exceptions=True)


def test_a_summary_is_brought_in_again_only_when_it_changed_and_holds_the_innermost_lines(api: TestClient) -> None:
    brought(api)
    view = saved(api, down=[{"category": "route"}], across=[{"period": "sold on", "grains": ["year"]}])
    kept = api.post(f"/api/reports/{view['id']}/summary", params={"name": "By route"}).json()
    path = f"/api/sources/{kept['id']}"
    first = api.get(path).json()
    assert [c["name"] for c in first["columns"]] == ["route", "year", "year start", "Gross", "Records"]
    assert first["records"] == 3
    for _ in range(3):
        again = api.get(path).json()
        assert [i["id"] for i in again["intakes"]] == [i["id"] for i in first["intakes"]]
    brought(api, b"sold on,route,gross\n2026-08-01,C,5.00\n")
    assert api.get(path).json()["records"] == 4
    document = {**view["document"], "across": [], "figures": [{"name": "mean", "take": "mean", "of": "gross"}]}
    api.put(f"/api/reports/{view['id']}", json=document)
    assert [c["name"] for c in api.get(path).json()["columns"]] == ["route", "mean"]
    intake = api.get(path).json()["intakes"][0]["id"]
    assert api.post(f"/api/intakes/{intake}/undo").status_code == 422
    assert "is made from it" in api.delete(f"/api/reports/{view['id']}").json()["detail"]


def test_a_file_kept_twice_at_once_is_kept_once(api: TestClient, desk: Desk) -> None:
    from tests.api.test_api import EXPORT, sent

    token = sent(api, EXPORT)["token"]
    answers: list[Any] = []
    threads = [
        threading.Thread(target=lambda: answers.append(api.post(f"/api/waiting/{token}/keep"))) for _ in range(4)
    ]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    time.sleep(0.5)
    source = desk.sources.named("Sales")
    assert source is not None
    assert desk.sources.records(source).count == 3


def test_sources_are_renamed_and_removed_where_nothing_uses_them_and_it_is_said_what_does(api: TestClient) -> None:
    source = brought(api)
    report = saved(api, title="By route")
    for answer in (
        api.patch(f"/api/sources/{source['id']}", json={"name": "Other"}),
        api.delete(f"/api/sources/{source['id']}"),
    ):
        assert answer.status_code == 422
        assert "is used by the report 'By route'" in answer.json()["detail"]
    api.delete(f"/api/reports/{report['id']}")
    assert api.patch(f"/api/sources/{source['id']}", json={"name": "Other"}).json()["name"] == "Other"
    assert api.delete(f"/api/sources/{source['id']}").status_code == 204


def test_a_file_is_offered_to_the_source_that_it_fits(api: TestClient) -> None:
    brought(api)
    from tests.api.test_api import sent

    waiting = api.get(
        f"/api/waiting/{sent(api, b'Sold_On,ROUTE,gross,extra' + bytes([10]) + b'2026-09-01,Z,5,x' + bytes([10]), '')['token']}"
    ).json()
    assert (waiting["is_new"], waiting["fits"]) == (True, ["Sales"])


def test_file_names_keep_their_script(api: TestClient) -> None:
    brought(api)
    view = saved(api, title="Fähren, Süd 東京")
    answer = api.get(f"/api/reports/{view['id']}/file")
    assert answer.headers["content-disposition"] == (
        "attachment; filename=\"fahren-sud-2026-08.csv\"; filename*=UTF-8''f%C3%A4hren-s%C3%BCd-%E6%9D%B1%E4%BA%AC-2026-08.csv"
    )
