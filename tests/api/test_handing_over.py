"""Exports over HTTP: files, jobs, previews, headlines, packs and bundles, and the same files from the command line."""

import io
import json
import re
import zipfile
from pathlib import Path
from typing import Any

import openpyxl
import pypdf
import pytest
from fastapi.testclient import TestClient

from kalendor.api.app import create_app
from kalendor.desk.desk import Desk
from kalendor.output.writers import FORMS
from tests.api.test_api import EXPORT, brought, saved
from tests.command import kalendor
from tests.output.standards import unfit

TREE: dict[str, Any] = {
    "kalendor": 1, "kind": "tree", "name": "Sides", "levels": ["Side", "route"],
    "roots": [{"label": "First", "under": [{"value": "A"}]}],
}  # fmt: skip
AXES: dict[str, Any] = {
    "down": [{"category": "route", "tree": "Sides"}],
    "across": [{"period": "sold on", "grains": ["year"]}],
    "as_of": "2026-07-31",
}


@pytest.fixture
def api(desk: Desk) -> TestClient:
    return TestClient(create_app(desk))


def made(api: TestClient, **keys: Any) -> Any:
    brought(api)
    api.post("/api/groupings", json=TREE)
    return saved(api, **{**AXES, **keys})


def finished(api: TestClient, job: Any) -> Any:
    while job["state"] == "working":
        job = api.get(f"/api/jobs/{job['id']}").json()
    assert job["state"] == "done", job
    return api.get(f"/api/jobs/{job['id']}/file")


@pytest.mark.parametrize("form", list(FORMS))
def test_the_screen_a_job_and_the_command_line_give_the_same_bytes(api: TestClient, form: str, tmp_path: Path) -> None:
    view = made(api, export={"chart": True})
    file = api.get(f"/api/reports/{view['id']}/file?format={form}")
    assert file.status_code == 200, file.text
    assert f'filename="sales-summary-2026-07.{form}"' in file.headers["content-disposition"]
    again = finished(api, api.post(f"/api/reports/{view['id']}/files?format={form}").json())
    assert again.content == file.content
    (tmp_path / "bundle.json").write_bytes(api.get(f"/api/reports/{view['id']}/bundle").content)
    (tmp_path / "export.csv").write_bytes(EXPORT)
    asked = ["run", "bundle.json", "--data", "export.csv", "--format", form, "--out", f"out.{form}"]
    done = kalendor(tmp_path, *asked)
    assert done.returncode == 0, done.stderr
    assert (tmp_path / f"out.{form}").read_bytes() == file.content


def test_a_file_says_beforehand_what_it_would_be(api: TestClient) -> None:
    view = made(api)
    address = f"/api/reports/{view['id']}/preview"
    choices = api.get(address, params={"format": "pdf"}).json()["choices"]
    assert [(c["key"], c["value"]) for c in choices] == [
        ("way", "fits"), ("way", "upright"), ("way", "across"), ("type", "plain"), ("type", "board"),
    ]  # fmt: skip
    assert all(c["pages"] >= 1 and c["size"] >= (10 if c["value"] == "board" else 8) for c in choices)
    assert [c["across"] for c in choices[1:3]] == [False, True]
    found = api.get(f"{address}?format=xlsx").json()
    assert (found["name"], found["picture"]) == ("sales-summary-2026-07.xlsx", True)
    assert "groups of Side open and close" in found["facts"]
    assert api.get(f"{address}.png").content.startswith(b"\x89PNG")
    text = api.get(f"{address}?format=csv&shape=sheet").json()
    assert text["text"].startswith("Side · route,2025 › ")
    assert api.get(f"{address}?format=tiff").status_code == 422


def test_a_headline_is_written_by_rules_edited_and_flagged_when_its_numbers_move(api: TestClient) -> None:
    view = made(api, figures=[{"name": "Gross", "take": "sum", "of": "gross"}])
    address = f"/api/reports/{view['id']}"
    found = api.get(f"{address}/headline").json()
    assert found["sentences"][0] == "Gross in 2026 came to 7.75."
    assert not found["own"]
    own = {"sentences": ["A good July."], "given": found["given"]}
    api.put(address, json={**view["document"], "headline": own})
    assert api.get(f"{address}/headline").json() == {
        **found,
        "sentences": ["A good July."],
        "own": True,
        "moved": False,
    }
    assert b"A good July." in api.get(f"{address}/file?format=html").content
    brought(api, b"sold on,route,gross\n2026-07-30,A,5.00\n")
    assert api.get(f"{address}/headline").json()["moved"]


def test_a_pack_is_one_workbook_one_pdf_or_a_zip(api: TestClient, tmp_path: Path) -> None:
    first = made(api)
    second = saved(api, title="Second", figures=[{"name": "Records", "take": "count"}])
    asked = {"title": "Month end", "reports": [first["id"], second["id"]]}
    book = finished(api, api.post("/api/packs", json={**asked, "format": "xlsx"}).json())
    assert openpyxl.load_workbook(io.BytesIO(book.content)).sheetnames[:2] == ["Month end", "Sales summary"]
    assert api.get("/api/workspace").json()["organisation"] == ""
    named = api.put("/api/workspace", json={"name": " Northern Ferries ", "accent": "#7A2E5D"}).json()
    assert (named["name"], named["accent"], named["marked"]) == ("Northern Ferries", "#7a2e5d", False)
    booklet = finished(api, api.post("/api/packs", json={**asked, "format": "pdf"}).json())
    pages = pypdf.PdfReader(io.BytesIO(booklet.content))
    assert [one["/Title"] for one in pages.outline if not isinstance(one, list)] == ["Sales summary", "Second"]
    cover = " ".join(pages.pages[0].extract_text().split())
    assert cover.startswith("Northern Ferries Month end")
    assert re.search(r"Sales summary 2 .*Second 3 ", cover), "each report with its page"
    assert "Records came to" in cover, "and with its headline"
    assert pages.pages[1].extract_text().split("\n")[0].startswith("Northern Ferries · Month end"), (
        "a running head says whose it is"
    )
    assert unfit(booklet.content, "pdf", tmp_path) == []
    files = finished(api, api.post("/api/packs", json={**asked, "format": "csv"}).json())
    with zipfile.ZipFile(io.BytesIO(files.content)) as archive:
        assert archive.namelist() == ["sales-summary-2026-07.csv", "second-2026-08.csv"]


def test_each_member_of_a_level_has_a_file_of_its_own(api: TestClient) -> None:
    view = made(api)
    answer = finished(api, api.post(f"/api/reports/{view['id']}/files?format=csv&level=Side").json())
    with zipfile.ZipFile(io.BytesIO(answer.content)) as archive:
        assert archive.namelist() == ["sales-summary-first-2026-07.csv", "sales-summary-not-placed-2026-07.csv"]
        first = archive.read(archive.namelist()[0]).decode()
    assert "First total" in first
    assert "\nTotal," not in first
    job = api.post(f"/api/reports/{view['id']}/files?format=csv&level=nothing").json()
    while job["state"] == "working":
        job = api.get(f"/api/jobs/{job['id']}").json()
    assert (job["state"], "there is no level 'nothing'" in job["message"]) == ("failed", True)


def test_a_bundle_holds_the_made_columns_that_it_uses_and_says_what_it_needs(api: TestClient, tmp_path: Path) -> None:
    view = made(api)
    bundle = json.loads(api.get(f"/api/reports/{view['id']}/bundle").content)
    source = next(s for s in api.get("/api/sources").json() if s["name"] == bundle["documents"][0]["source"])
    chain = [
        {"name": "twice", "formula": "gross * 2"},
        {"name": "unused", "formula": "gross"},
        {"name": "more", "formula": "twice + 1"},
    ]
    assert api.put(f"/api/sources/{source['id']}/made", json=chain).status_code == 200
    document = {**api.get(f"/api/reports/{view['id']}").json()["document"], "notes": [{"text": "a note"}],
                "delivery": {"to": [{"address": "a@example.org"}]}, "only": ["more > 0 OR \"sold on\" < AS_OF"]}  # fmt: skip
    put = api.put(
        f"/api/reports/{view['id']}",
        json=document,
        headers={"If-Match": api.get(f"/api/reports/{view['id']}").headers["etag"]},
    )
    assert put.status_code == 200, put.text
    sent = api.get(f"/api/reports/{view['id']}/bundle").content
    report = json.loads(sent)["documents"][0]
    assert [column["name"] for column in report["columns"]] == ["twice", "more"]
    assert not {"notes", "delivery"} & report.keys()
    whole = json.loads(api.get(f"/api/reports/{view['id']}/bundle?notes=true&delivery=true").content)["documents"][0]
    assert (whole["notes"], whole["delivery"]["to"]) == ([{"text": "a note"}], [{"address": "a@example.org"}])
    look = api.post("/api/bundles/look", files={"file": ("b.json", sent)}).json()
    assert all(need["here"] for need in look["needs"])
    assert {need["name"] for need in look["needs"] if need["what"] == "column"} >= {"gross", "sold on"}
    assert not {"twice", "more", "AS_OF"} & {need["name"] for need in look["needs"]}
    back = api.post("/api/bundles", files={"file": ("b.json", sent)}).json()
    assert "columns" not in api.get(f"/api/reports/{back['id']}").json()["document"], (
        "the source here makes them in the same way"
    )
    fresh = TestClient(create_app(Desk(tmp_path / "other")))
    needs = fresh.post("/api/bundles/look", files={"file": ("b.json", sent)}).json()["needs"]
    assert ("source", report["source"], False) in [(n["what"], n["name"], n["here"]) for n in needs]
    (tmp_path / "b.json").write_bytes(sent)
    (tmp_path / "d.csv").write_bytes(EXPORT)
    run = kalendor(tmp_path, "run", "b.json", "--data", "d.csv")
    assert run.returncode == 0, run.stderr


def test_a_bundle_goes_out_and_comes_in_with_its_clashes_resolved(api: TestClient, tmp_path: Path) -> None:
    view = made(api)
    bundle = api.get(f"/api/reports/{view['id']}/bundle").content
    kinds = [document["kind"] for document in json.loads(bundle)["documents"]]
    assert kinds == ["report", "tree", "recipe"]
    sent = {"file": ("b.json", bundle)}
    assert api.post("/api/bundles/look", files=sent).json()["clashes"] == []
    tree = api.get("/api/groupings").json()[0]
    api.put(f"/api/groupings/{tree['id']}", json={**TREE, "roots": []})
    look = api.post("/api/bundles/look", files=sent).json()
    assert look["clashes"] == [{"kind": "tree", "name": "Sides", "used": 1}]
    assert look["here"]
    kept = api.post("/api/bundles", files=sent).json()
    assert kept["title"] == "Sales summary 2"
    renamed = api.post("/api/bundles", files=sent, data={"rename": ["Sides"]}).json()
    document = api.get(f"/api/reports/{renamed['id']}").json()["document"]
    assert document["down"][0]["tree"] == "Sides (2)"
    assert [g["name"] for g in api.get("/api/groupings").json()] == ["Sides", "Sides (2)"]
    api.post("/api/bundles", files=sent, data={"replace": ["Sides"]})
    assert api.post("/api/bundles/look", files=sent).json()["clashes"] == []
    fresh = TestClient(create_app(Desk(tmp_path / "other")))
    assert fresh.post("/api/bundles", files=sent).status_code == 201
    bad = api.post("/api/bundles", files={"file": ("b.json", b'{"kalendor": 1, "kind": "bundle", "documents": []}')})
    assert (bad.status_code, "b.json: documents" in bad.json()["detail"]) == (422, True)


def test_the_organisation_stands_at_the_head_of_each_page(api: TestClient, tmp_path: Path) -> None:
    view = made(api, layout={"levels": {"route": {"page_break": True}}})
    path = f"/api/reports/{view['id']}/file"
    bare = api.get(f"{path}?format=pdf").content
    api.put("/api/workspace", json={"name": "Northern & Sons"})
    named = api.get(f"{path}?format=pdf").content
    heads = [page.extract_text().split("\n")[0] for page in pypdf.PdfReader(io.BytesIO(named)).pages]
    assert heads[0] == "Northern & Sons"
    assert all(head.startswith("Northern & Sons · Sales summary") for head in heads[1:])
    assert unfit(named, "pdf", tmp_path) == []
    book = openpyxl.load_workbook(io.BytesIO(api.get(f"{path}?format=xlsx").content))
    assert book.worksheets[0].oddHeader.left.text == "Northern && Sons"
    api.put("/api/workspace", json={"name": ""})
    assert api.get(f"{path}?format=pdf").content == bare
