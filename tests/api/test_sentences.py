"""The sentence over HTTP: a report in words, the reading of a typed text, suggestions and completions."""

from typing import Any

import pytest
from fastapi.testclient import TestClient

from kalendor.api import reports
from kalendor.api.app import create_app
from kalendor.desk.desk import Desk
from kalendor.errors import KalendorError
from tests.api.test_api import brought, saved

LINES = b"sold on,route,gross,status\n2026-05-01,A,5.00,sailed\n2026-06-01,B,7.50,refunded\n2025-06-01,B,2.50,sailed\n"


@pytest.fixture
def api(desk: Desk) -> TestClient:
    found = TestClient(create_app(desk), raise_server_exceptions=True)
    brought(found, LINES)
    return found


def heard(api: TestClient, text: str, document: dict[str, Any] | None, source: str = "Sales") -> dict[str, Any]:
    answer = api.post("/api/sentence/read", json={"text": text, "source": source, "document": document})
    assert answer.status_code == 200
    found: dict[str, Any] = answer.json()
    return found


def test_a_report_is_worded_in_pieces_that_join_and_read_back(api: TestClient) -> None:
    view = saved(api, down=[{"category": "route"}], only=["status = 'sailed'"])
    worded = api.post("/api/sentence", json=view["document"]).json()
    shown = "".join(piece["text"] for piece in worded["pieces"])
    assert shown.endswith(", down by route, only where status is sailed.")
    assert [p["kind"] for p in worded["pieces"] if p["kind"]][-2:] == ["down", "only"]
    assert len(worded["full"]) == len(worded["pieces"])
    (offer,) = [
        o
        for o in heard(api, worded["typed"], view["document"], view["document"]["source"])["offers"]
        if o["way"] == "replace"
    ]
    assert offer["whole"]
    assert {piece["state"] for piece in offer["pieces"]} == {"stays"}


def test_a_text_adds_to_a_report_or_takes_its_place(api: TestClient) -> None:
    view = saved(api, down=[{"category": "route"}])
    source = view["document"]["source"]
    add, replace = heard(api, "average gross, excluding refunded", view["document"], source)["offers"]
    assert (add["way"], replace["way"]) == ("add", "replace")
    assert add["document"]["down"][0]["category"] == "route"
    assert add["document"]["only"] == ["status <> 'refunded' OR status IS NULL"]
    assert [p["text"] for p in add["pieces"] if p["state"] == "comes"] == ["Average gross", "status is not refunded"]
    assert replace["document"]["down"] == []
    assert replace["document"]["title"] == view["document"]["title"]
    assert any(p["state"] == "goes" and p["text"] == "route" for p in replace["pieces"])


def test_words_that_are_not_understood_are_placed_with_what_is_near(api: TestClient) -> None:
    view = saved(api)
    answer = heard(api, "gross by route, only refundd", view["document"], view["document"]["source"])
    (unknown,) = answer["offers"][0]["unknown"]
    assert (unknown["text"], unknown["start"], unknown["end"]) == ("refundd", 21, 28)
    assert unknown["near"][0] == {"text": "refunded", "what": "a value of status", "records": 1}
    assert not answer["offers"][0]["whole"]
    assert heard(api, "gross by rou", view["document"], view["document"]["source"])["completions"] == ["route"]


def test_a_new_report_is_called_after_what_it_shows(api: TestClient) -> None:
    source = api.get("/api/sources").json()[0]["name"]
    (offer,) = heard(api, "gross by route", None, source)["offers"]
    assert offer["document"]["title"] == "Gross by route"
    assert api.post("/api/reports", json={"source": source, "document": offer["document"]}).status_code == 201
    assert api.get("/api/reports").json()[-1]["said"] == "Gross, down by route."


def test_a_report_is_tried_as_it_is_typed_and_nothing_is_kept(api: TestClient) -> None:
    view = saved(api)
    document = {**view["document"], "down": [{"category": "status"}]}
    seen = api.post("/api/reports/tried/sheet", params={"at": 0, "open": 9, "first": 0, "columns": 9}, json=document)
    assert seen.status_code == 200
    assert api.get(f"/api/reports/{view['id']}").json()["revision"] == view["revision"]


def test_examples_and_labels_are_told(api: TestClient) -> None:
    source = api.get("/api/sources").json()[0]["name"]
    assert api.get("/api/sentence/examples", params={"source": source}).json()[0] == "gross by route, months across"
    assert api.get("/api/sentence/examples", params={"source": "none of them"}).json() == []
    assert api.get("/api/sentence/labels").json()["grain"]["day_of_week"] == "day of week"
    assert heard(api, "anything", None, "none of them")["offers"][0]["unknown"][0]["text"] == "anything"


def test_phrases_that_answer_a_text_are_read_as_they_stand(api: TestClient) -> None:
    view = saved(api, down=[{"category": "route"}])
    document = view["document"]
    found = api.post("/api/sentence/phrases", json={"text": "refunded", "document": document}).json()
    assert found[0]["text"] == "only where status is refunded"
    (added, _) = heard(api, found[0]["text"], document, document["source"])["offers"]
    assert added["document"]["only"] == ["status = 'refunded'"]
    everything = api.post("/api/sentence/phrases", json={"text": "", "document": document}).json()
    assert "average gross" in [phrase["text"] for phrase in everything]
    assert "down by gross" not in [phrase["text"] for phrase in everything]
    lost = api.post("/api/sentence/phrases", json={"text": "", "document": {**document, "source": "gone"}})
    assert lost.json() == []


def test_a_condition_goes_to_a_form_and_back(api: TestClient) -> None:
    sql = "status = 'sailed' AND gross > 5"
    clauses = api.post("/api/sentence/clauses", json={"sql": sql}).json()
    assert [clause["test"] for clause in clauses["clauses"]] == ["among", "over"]
    assert api.post("/api/sentence/condition", json=clauses).json() == {"sql": sql}
    assert api.post("/api/sentence/clauses", json={"sql": "gross + 1 > 5"}).json() is None
    empty = api.post("/api/sentence/condition", json={"any": False, "clauses": [{"column": "gross", "test": "over", "kind": "number"}]})  # fmt: skip
    assert empty.status_code == 422
    assert "gross" in empty.json()["detail"]


def test_whole_numbers_of_few_values_are_offered_as_groups(desk: Desk) -> None:
    api = TestClient(create_app(desk))
    brought(api, b"on,branch,gross\n2026-05-01,12,5.00\n2026-06-01,14,7.50\n2025-06-01,12,2.50\n")
    document = saved(api, figures=[{"name": "Gross", "take": "sum", "of": "gross"}])["document"]
    found = api.post("/api/sentence/phrases", json={"text": "branch", "document": document}).json()
    texts = [phrase["text"] for phrase in found]
    assert "down by branch" in texts
    assert any(text.startswith("down by branch in ranges") for text in texts)
    (added, _) = heard(api, "down by branch", document, document["source"])["offers"]
    assert added["document"]["down"][0]["category"] == "branch"


def test_an_edit_answers_with_its_sentence_and_stands_where_there_are_no_words(
    api: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    view = saved(api)
    path = f"/api/reports/{view['id']}/edits"
    made = api.post(path, json={**view["document"], "down": [{"category": "route"}]}).json()
    said = api.post("/api/sentence", json=made["report"]["document"]).json()
    assert (made["sentence"]["pieces"], made["sentence"]["full"]) == (said["pieces"], said["full"])

    def unreadable(*_: object) -> None:
        raise KalendorError("the source cannot be read")

    monkeypatch.setattr(reports, "shown", unreadable)
    kept = api.post(path, json=view["document"]).json()
    assert (kept["sentence"], kept["report"]["document"]) == (None, view["document"])
