"""Fuzzing of every route: no response is an internal error, and every refusal is a problem document."""

import json
import os
import re
from pathlib import Path
from typing import Any

import pytest
from fastapi.routing import APIRoute
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from starlette.routing import Match

from kalendor.api.app import create_app
from tests.editions.conftest import Office

EXAMPLES = int(os.environ.get("KALENDOR_BODIES", "100"))
WORDS = st.sampled_from(
    ["", "Sales", "Amount", "1", "0", "-1", "99", "2026-06-30", "2026-13-45", "month", "csv", "pdf", "flat", "x" * 300, "é", "9" * 30, "%00", "null"]
)  # fmt: skip
VALUES: Any = st.recursive(
    st.one_of(st.none(), st.booleans(), st.integers(-(2**70), 2**70), WORDS),
    lambda inner: st.one_of(st.lists(inner, max_size=3), st.dictionaries(WORDS, inner, max_size=3)),
    max_leaves=6,
)


@pytest.fixture(scope="module")
def served(
    tmp_path_factory: pytest.TempPathFactory,
) -> tuple[TestClient, list[tuple[str, str, dict[str, Any]]], str]:
    office = Office(tmp_path_factory.mktemp("routes") / "workspace")
    office.issue("2026-06")
    client = TestClient(create_app(office.desk), raise_server_exceptions=False)
    document = client.get("/api/openapi.json").json()
    schemas = document["components"]["schemas"]
    routes = [
        (
            method,
            path,
            {"parameters": found.get("parameters", []), "body": _keys(found, schemas), "responses": found["responses"]},
        )
        for path, ways in document["paths"].items()
        for method, found in ways.items()
        if path not in ("/api/demo", "/api/reports/{id}/events")  # the events of a report go on for ever
    ]
    link = client.post(f"/api/reports/{office.stored.id}/links", json={"trail": "records"}).json()["path"]
    return client, routes, link.rpartition("/")[2]


def _keys(found: dict[str, Any], schemas: dict[str, Any]) -> list[str]:
    """The keys of a route's body, so that some requests are nearly valid."""
    content = found.get("requestBody", {}).get("content", {}).get("application/json", {}).get("schema", {})
    named = content.get("$ref", "").rpartition("/")[2]
    return list(schemas.get(named, {}).get("properties", {}))


@settings(max_examples=EXAMPLES, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.data())
def test_no_request_is_answered_with_a_fault_of_the_servers_own(
    served: tuple[TestClient, list[tuple[str, str, dict[str, Any]]], str], data: st.DataObject
) -> None:
    client, routes, secret = served
    method, path, told = data.draw(st.sampled_from(routes))
    query = {}
    for parameter in told["parameters"]:
        name = parameter["name"]
        if parameter["in"] == "path":
            known = st.just(secret) if name == "secret" else st.sampled_from(["1", "2", "2026-06-30"])
            path = path.replace(f"{{{name}}}", data.draw(st.one_of(known, known, WORDS.filter(bool))))
        elif parameter["in"] == "query" and data.draw(st.booleans()):
            query[name] = data.draw(WORDS)
    body = data.draw(st.one_of(VALUES, st.fixed_dictionaries(dict.fromkeys(told["body"][:8], VALUES))))
    answer = client.request(method, path, params=query, json=body if method != "get" else None)
    assert answer.status_code < 500, (method, path, query, body, answer.text)
    documented = told["responses"].get(str(answer.status_code)) or told["responses"][f"{answer.status_code // 100}XX"]
    kinds = [kind.partition(";")[0] for kind in documented.get("content", {})]
    if kinds:
        came = answer.headers["content-type"].partition(";")[0]
        assert came in kinds, f"{method} {path} answers {answer.status_code} as {came}"
    if answer.status_code >= 400:
        problem = json.loads(answer.content)
        assert answer.headers["content-type"] == "application/problem+json"
        assert problem["status"] == answer.status_code
        assert problem["detail"]


def test_a_path_that_leads_nowhere_is_a_problem_too(served: Any, tmp_path: Path) -> None:
    client = served[0]
    for path in ("/api/%2e%2e/x", "/api/read/", "/api/nothing"):
        assert client.get(path).status_code in (404, 307, 405), path


def test_no_route_stands_in_the_way_of_another(tmp_path: Path) -> None:
    routes = [one for one in create_app(Office(tmp_path / "w").desk).routes if isinstance(one, APIRoute)]
    for route in routes:
        path = re.sub(r"\{[^}]*\}", "1", route.path)
        for method in route.methods:
            scope = {"type": "http", "path": path, "method": method}
            first = next(one for one in routes if one.matches(scope)[0] is Match.FULL)
            assert first is route, f"{method} {path} is answered by {first.path}"
