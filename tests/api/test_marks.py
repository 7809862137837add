"""A user's own marks on reports: private, ordered, and deleted only by their owner."""

import pytest
from fastapi.testclient import TestClient

from kalendor.api.app import create_app
from kalendor.desk.desk import Desk
from kalendor.store.workspace import WHO
from tests.api.test_api import brought, saved


@pytest.fixture
def api(desk: Desk) -> TestClient:
    return TestClient(create_app(desk))


def test_marks_are_put_replaced_and_refused_in_words(api: TestClient) -> None:
    brought(api)
    id = saved(api)["id"]
    assert api.put(f"/api/reports/{id}/marks", json={"names": [" month-end ", "board", "board"]}).status_code == 204
    assert api.get("/api/reports").json()[0]["marks"] == ["board", "month-end"]
    api.put(f"/api/reports/{id}/marks", json={"names": ["board"]})
    assert api.get("/api/reports").json()[0]["marks"] == ["board"]
    for names in ([""], ["x" * 41], [str(i) for i in range(21)]):
        assert api.put(f"/api/reports/{id}/marks", json={"names": names}).status_code == 422
    assert api.put("/api/reports/999/marks", json={"names": []}).status_code == 404
    assert api.get("/api/reports").json()[0]["marks"] == ["board"]


def test_nobody_sees_the_marks_of_another(desk: Desk) -> None:
    for who, names in (("ida", ["mine"]), ("jon", ["his", "board"])):
        token = WHO.set(who)
        desk.marks.put(1, names)
        WHO.reset(token)
    for who, names in (("ida", ["mine"]), ("jon", ["board", "his"]), ("", None)):
        token = WHO.set(who)
        assert desk.marks.all().get(1) == names
        WHO.reset(token)
