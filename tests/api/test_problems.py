"""Error responses: problem documents, revisions, and never an internal error."""

import errno
import itertools
import json
import os
import shutil
import threading
from datetime import datetime
from typing import Any

import pytest
from fastapi.testclient import TestClient
from hypothesis import given, settings
from hypothesis import strategies as st

from kalendor.api.app import create_app
from kalendor.core.values import interruption
from kalendor.desk import sheets
from kalendor.desk.desk import Desk
from kalendor.errors import LeftError
from tests.api.test_api import brought, saved

REPORT: dict[str, Any] = {
    "kalendor": 1, "kind": "report", "title": "R", "source": "Sales", "figures": [{"name": "n", "take": "count"}],
}  # fmt: skip


@pytest.fixture
def api(desk: Desk) -> TestClient:
    return TestClient(create_app(desk), raise_server_exceptions=True)


def test_a_report_bears_its_revision_and_a_change_to_an_older_one_is_refused(api: TestClient) -> None:
    brought(api)
    made = api.post("/api/reports", json={"source": "Sales"})
    id, document = made.json()["id"], made.json()["document"]
    assert made.headers["etag"] == '"1"'
    first = api.put(f"/api/reports/{id}", json={**document, "title": "Mine"}, headers={"If-Match": '"1"'})
    assert (first.status_code, first.headers["etag"]) == (200, '"2"')
    late = api.put(f"/api/reports/{id}", json={**document, "title": "Late"}, headers={"If-Match": '"1"'})
    assert (late.status_code, late.headers["content-type"]) == (412, "application/problem+json")
    assert "was changed since" in late.json()["detail"]
    assert api.get(f"/api/reports/{id}").json()["document"]["title"] == "Mine"
    for method, path in (("POST", "undo"), ("POST", "redo"), ("DELETE", "")):
        answer = api.request(method, f"/api/reports/{id}/{path}".rstrip("/"), headers={"If-Match": '"1"'})
        assert answer.status_code == 412
    assert api.put(f"/api/reports/{id}", json=document, headers={"If-Match": "*"}).status_code == 200
    assert api.put(f"/api/reports/{id}", json=document, headers={"If-Match": "nonsense"}).status_code == 412


def test_a_grouping_bears_its_revision_likewise(api: TestClient) -> None:
    tree = {"kalendor": 1, "kind": "tree", "name": "T", "levels": ["L"], "roots": []}
    made = api.post("/api/groupings", json=tree)
    path = f"/api/groupings/{made.json()['id']}"
    again = {**tree, "levels": ["M"]}
    assert api.put(path, json=again, headers={"If-Match": made.headers["etag"]}).headers["etag"] == '"2"'
    assert api.put(path, json=tree, headers={"If-Match": made.headers["etag"]}).status_code == 412


def test_lines_of_a_sheet_that_is_no_more_are_refused_and_not_taken_from_another(api: TestClient, desk: Desk) -> None:
    brought(api)
    view = saved(api, down=[{"category": "route"}])
    path = f"/api/reports/{view['id']}"
    key = api.get(f"{path}/sheet").json()["key"]
    saved_again = {**view["document"], "down": []}
    api.put(path, json=saved_again)
    desk.sheets.clear()
    desk.plans.clear()
    answer = api.post(f"{path}/sheets/{key}/lines", json={"lines": [0, 1]})
    assert (answer.status_code, "changed" in answer.json()["detail"]) == (409, True)


WRONG: list[tuple[Any, str]] = [
    ({"figures": [{"name": "a", "take": "summm", "of": "x"}]}, "figures[0].take: 'summm' is not a take; there are sum, count"),
    ({"down": [{"period": "d", "grains": ["fortnight"]}]}, "down[0].grains[0]: 'fortnight' is not a grain; there are year, half"),
    ({"totals": {"down": "middle"}}, "totals.down: 'middle' does not fit here; there are after, before, none"),
    ({"as_of": "31/07/2026"}, "as_of: '31/07/2026' is not a date; write it as 2026-07-31"),
    ({"figures": [{"name": "a", "compare": "b", "with": "last_year"}]}, "figures[0].with: 'last_year' does not fit here; there are year_earlier, period_before"),
    ({"figures": [{"name": "a", "take": "percentile", "of": "x", "p": 101}]}, "figures[0].p: 101"),
    ({"down": [{"bucket": "x", "cut": [3, 1]}]}, "down[0].cut: cuts must rise"),
    ({"window": {"of": "d", "show": {"from": "2026-01-01", "to": "2026-02-01"}, "each_to_date": True}}, "window: \"each_to_date\" does not go with"),
    ({"figures": []}, "figures"),
    ({"title": 5}, "title: 5 is not text"),
    ({"figures": [{"name": "a", "rank": "n", "largest_first": "maybe"}]}, "figures[0].largest_first: 'maybe' is neither true nor false"),
]  # fmt: skip


def test_a_wrong_value_is_named_with_its_path_in_the_documents_own_terms(api: TestClient) -> None:
    brought(api)
    made = api.post("/api/reports", json={"source": "Sales"}).json()
    for change, words in WRONG:
        answer = api.put(f"/api/reports/{made['id']}", json={**REPORT, **change})
        assert answer.status_code == 422
        assert answer.json()["detail"].startswith(words), answer.json()["detail"]


ODD = [
    "%00",
    "99999999999999999999999",
    "-1",
    "9223372036854775808",
    "%ff%fe",
    "a%2Fb",
    "..%2f..%2fetc",
    "1%00",
    "\u0661",
]


PATHS = ["/api/reports/{}", "/api/sources/{}", "/api/groupings/{}/file", "/api/intakes/{}/refused", "/api/jobs/{}",
         "/api/waiting/{}", "/api/reports/1/sheets/{}/lines", "/{}", "/assets/{}"]  # fmt: skip


def test_odd_paths_are_refused_and_never_an_error_of_ours(api: TestClient) -> None:
    for path, odd, method in itertools.product(PATHS, ODD, ("GET", "DELETE", "PUT")):
        answer = api.request(method, path.format(odd), json={} if method == "PUT" else None)
        unbuilt = answer.status_code >= 500 and answer.json().get("detail", "").startswith("the page is not built")
        assert answer.status_code < 500 or unbuilt, (method, path, odd, answer.text)


def test_a_malformed_or_foreign_host_is_refused(api: TestClient) -> None:
    for host in ("[::1", "evil.example", "127.0.0.1:x:y", "", "localhost@evil", "[", "a b"):
        answer = api.get("/api/workspace", headers={"Host": host})
        assert answer.status_code in (400, 403), host
        assert answer.headers["content-security-policy"]
    foreign = api.get("/api/workspace", headers={"Origin": "http://[bad"})
    assert foreign.status_code == 403


@pytest.mark.parametrize(
    "body",
    [b"", b"{", b"[" * 20_000, b'{"kalendor": NaN}', b'{"title": "\\ud800"}', b"\xff\xfe", b'{"figures": [{"name": "a", "take": "count", "n": 1e999}]}'],
)  # fmt: skip
def test_odd_bodies_are_refused(shared: TestClient, body: bytes) -> None:
    api = shared
    made = api.post("/api/reports", json={"source": "Sales"}).json()
    answer = api.put(f"/api/reports/{made['id']}", content=body, headers={"Content-Type": "application/json"})
    assert 400 <= answer.status_code < 500, answer.text
    assert answer.headers["content-type"] == "application/problem+json"


@pytest.mark.parametrize(
    "keys",
    [
        {"only": ["\"sold on\" + INTERVAL '99999999' YEAR > DATE '2026-01-01'"]},
        {"only": ["\"sold on\" - INTERVAL '9999' YEAR > DATE '2026-01-01'"]},
        {"down": [{"bucket": "gross", "cut": [-1e18, 1e18]}]},
        {"down": [{"bucket": "gross", "cut": {"from": -1e18, "to": 1e18, "step": 1e15}}]},
        {"window": {"of": "sold on", "show": {"last": 100000, "grain": "year"}}},
        {"window": {"of": "sold on", "show": {"from": "0001-01-01", "to": "9999-12-31"}}},
        {"figures": [{"name": "a", "take": "nth_largest", "of": "gross", "n": 2**62}]},
        {"figures": [{"name": "a", "take": "max", "of": "sold on"}], "controls": [{"figure": "a", "expect": "5"}]},
        {"only": ["route LIKE '" + "%a" * 2000 + "'"]},
        {"only": ["(" * 99 + "gross > 0" + ")" * 99]},
        {"only": ["(" * 101 + "gross > 0" + ")" * 101]},
        {"only": [" OR ".join(f"gross = {n}" for n in range(600))]},
        {"only": ["gross > 0" + " " * 10_001]},
        {"only": ["TRIM(BOTH 'xy' FROM route) = 'a'"]},
        {"only": ["gross BETWEEN SYMMETRIC 1 AND 2"]},
        {"as_of": "0001-01-01"},
        {"as_of": "9999-12-31", "window": {"of": "sold on", "show": {"this": "year"}}},
        {"down": [{"period": "sold on", "grains": ["year"]}], "as_of": "9999-12-31",
         "figures": [{"name": "s", "take": "sum", "of": "gross"}, {"name": "c", "compare": "s", "with": "year_earlier"},
                     {"name": "m", "moving": "s", "periods": 5000}, {"name": "r", "running": "s", "along": "sold on"}]},
    ],
    ids=lambda keys: json.dumps(keys)[:60],
)  # fmt: skip
def test_absurd_reports_are_worked_out_or_refused_in_words(shared: TestClient, keys: Any) -> None:
    api = shared
    made = api.post("/api/reports", json={"source": "Sales"}).json()
    answer = api.put(f"/api/reports/{made['id']}", json={**made["document"], **keys})
    assert answer.status_code in (200, 422), answer.text
    sheet = api.get(f"/api/reports/{made['id']}/sheet")
    assert sheet.status_code in (200, 422), sheet.text
    assert "error of Kalendor's own" not in sheet.text


IDS = b"id,amount\n" + b"".join(b"%d,4398.046511104\n" % n for n in range(10000000000000005, 10000000000000055))
HUGE = b"id,amount\n" + b"9223372036854775809,9223372036854775807\n18446744073709551617,9223372036854775807\n"


@pytest.mark.parametrize(
    "content", [IDS, HUGE, b"a\n1e308\n-1e308\n", b"a,b\n" + b"5,9000000000000000\n" * 30, b"n\n" + b"9" * 5000 + b"\n"]
)
def test_columns_of_long_numbers_have_profiles_and_sheets(api: TestClient, content: bytes) -> None:
    view = brought(api, content, "Long")
    assert len(view["columns"]) >= 1
    made = api.post("/api/reports", json={"source": "Long"}).json()
    assert api.get(f"/api/reports/{made['id']}/sheet").status_code == 200
    for column in view["columns"]:
        asked = {"kalendor": 1, "kind": "buckets", "name": "B", "cut": [0, 5]}
        answer = api.post("/api/look/buckets", params={"source": "Long", "column": column["name"]}, json=asked)
        assert answer.status_code in (200, 422), answer.text


def test_an_unforeseen_error_is_answered_with_an_id_and_logged_without_records(
    desk: Desk, monkeypatch: pytest.MonkeyPatch, caplog: pytest.LogCaptureFixture
) -> None:
    api = TestClient(create_app(desk), raise_server_exceptions=False)
    brought(api)
    view = saved(api)

    told = " ".join(["a", "secret", "amount"])

    def broken(*_: Any) -> None:
        raise RuntimeError(told)

    monkeypatch.setattr(sheets, "sheet_of", broken)
    desk.sheets.clear()
    desk.plans.clear()
    answer = api.get(f"/api/reports/{view['id']}/sheet")
    assert (answer.status_code, answer.headers["content-type"]) == (500, "application/problem+json")
    assert answer.json()["id"] in caplog.text
    assert "secret" not in answer.text + caplog.text
    assert "Content-Security-Policy".lower() in answer.headers


def test_a_request_that_was_left_ends_at_its_next_step(desk: Desk) -> None:
    left = threading.Event()
    left.set()
    api = TestClient(create_app(desk))
    brought(api)
    report = desk.definitions.one(saved(api, down=[{"category": "route"}])["id"]).body
    desk.sheets.clear()
    desk.plans.clear()
    desk.memory.clear()
    token = interruption.LEFT.set(left)
    try:
        with pytest.raises(LeftError):
            sheets.sheet_now(desk, report)  # type: ignore[arg-type]
    finally:
        interruption.LEFT.reset(token)
    sheets.sheet_now(desk, report)  # type: ignore[arg-type]


json_values: Any = st.recursive(
    st.one_of(st.none(), st.booleans(), st.integers(), st.floats(), st.text(max_size=8), st.sampled_from(["sum", "gross", "route", "sold on"])),
    lambda inner: st.one_of(st.lists(inner, max_size=3), st.dictionaries(st.sampled_from([*REPORT, "take", "of", "period", "grains", "category", "cut", "with", "name", "where"]), inner, max_size=4)),
    max_leaves=12,
)  # fmt: skip


@settings(max_examples=int(os.environ.get("KALENDOR_BODIES", "75")), deadline=None)
@given(
    st.sampled_from(
        [
            "figures",
            "down",
            "across",
            "only",
            "window",
            "keep",
            "totals",
            "columns",
            "as_of",
            "lines",
            "beside",
            "controls",
        ]
    ),
    json_values,
)
def test_any_json_in_a_report_is_saved_or_refused(shared: TestClient, key: str, value: Any) -> None:
    try:
        body = json.dumps({**REPORT, key: value}).encode()
    except UnicodeEncodeError:
        return
    answer = shared.put("/api/reports/1", content=body, headers={"Content-Type": "application/json"})
    assert answer.status_code in (200, 422, 400), answer.text
    sheet = shared.get("/api/reports/1/sheet")
    assert sheet.status_code in (200, 422), (body, sheet.text)


@pytest.fixture(scope="module")
def shared(tmp_path_factory: pytest.TempPathFactory) -> TestClient:
    desk = Desk(tmp_path_factory.mktemp("fuzz") / "w", now=lambda: datetime(2026, 8, 4))
    api = TestClient(create_app(desk))
    brought(api)
    api.post("/api/reports", json={"source": "Sales"})
    return api


def test_percentages_stay_percentages_from_the_file_to_the_sheet_and_from_the_rows(api: TestClient, desk: Desk) -> None:
    source = brought(api, b"route,rate\nA,11%\nA,12.5%\nB,7%\n", "Rates")
    assert [(c["name"], c["lowest"], c["highest"]) for c in source["columns"]][1] == ("rate", "7%", "12.5%")
    made = api.post("/api/reports", json={"source": "Rates"}).json()
    figures = [
        {"name": "mean", "take": "mean", "of": "rate"},
        {"name": "most", "take": "max", "of": "rate"},
        {"name": "n", "take": "count"},
    ]
    api.put(
        f"/api/reports/{made['id']}", json={**made["document"], "down": [{"category": "route"}], "figures": figures}
    )
    want = {"1": ["11.8%", "12.5%", "2"], "2": ["7.0%", "7.0%", "1"], "0": ["10.2%", "12.5%", "3"]}
    assert api.get(f"/api/reports/{made['id']}/sheet").json()["cells"] == want
    shutil.rmtree(desk.workspace.cache)
    desk.workspace.cache.mkdir()
    desk.sources._opened.clear()
    desk.memory.clear()
    desk.sheets.clear()
    desk.plans.clear()
    assert api.get(f"/api/reports/{made['id']}/sheet").json()["cells"] == want


def test_a_definition_of_another_kind_is_refused_by_every_route(api: TestClient) -> None:
    brought(api)
    report = saved(api)["id"]
    tree = {"kalendor": 1, "kind": "tree", "name": "T", "levels": ["a"], "roots": []}
    grouping = api.post("/api/groupings", json=tree).json()["id"]
    paths = api.get("/api/openapi.json").json()["paths"]
    for path, methods in paths.items():
        for method in methods:
            for prefix, other in (("/api/reports/{id}", grouping), ("/api/groupings/{id}", report)):
                if path.startswith(prefix):
                    address = path.replace("{id}", str(other)).replace("{key}", "0" * 40)
                    body = {"json": {}} if method in ("put", "post", "patch") else {}
                    answer = api.request(method, address, params={"figure": "x", "name": "n", "step": "undo"}, **body)
                    assert 400 <= answer.status_code < 500, (method, path, answer.status_code, answer.text[:200])
    assert api.get(f"/api/reports/{report}").status_code == api.get(f"/api/groupings/{grouping}").status_code == 200


@pytest.mark.parametrize("path", ["/" + "a" * 300, "/assets/" + "a" * 300, "/api/" + "a" * 300, "/" + "a/" * 3000])
def test_a_path_longer_than_the_disk_takes_is_answered(shared: TestClient, path: str) -> None:
    answer = shared.get(path)
    assert answer.status_code in (200, 404, 503)
    assert "longer" not in answer.text


def test_a_full_disk_at_an_upload_is_said_in_words(api: TestClient, monkeypatch: pytest.MonkeyPatch) -> None:
    def full(*_: Any) -> Any:
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr("kalendor.api.waiting.hold", full)
    answer = api.post("/api/waiting", files={"file": ("a.csv", b"a\n1\n")})
    assert answer.status_code == 503
    assert "the disk is full" in answer.json()["detail"]
    assert api.get("/api/sources").status_code == 200
