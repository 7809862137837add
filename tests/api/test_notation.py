"""The notation of a workspace: texts for people use it; typed input and data for other programs do not."""

import io
import json
import re
import zipfile
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import pytest
from fastapi.testclient import TestClient
from pypdf import PdfReader

from kalendor.api.app import create_app
from tests.editions.conftest import Office

GERMAN = {"decimal": ",", "thousands": ".", "dates": "month"}
READ = re.compile(r"\d,\d{3}(?!\d)|(?<![\d.])\d+\.\d{2}(?![\d.])|\d{1,2} (?:Jan|Feb|Mar|Apr|May|Jun|Jul|Aug) \d{4}")
"""A number or a day in the common notation."""
TYPED = ("brief", "text", "sentence", "condition", "written", "said_as")
"""What a person could type again, or a program reads: one notation everywhere."""


@pytest.fixture(scope="module")
def office(tmp_path_factory: pytest.TempPathFactory) -> Office:
    made = Office(tmp_path_factory.mktemp("notation") / "workspace")
    for month in ("2026-06", "2026-07"):
        lines = (f"{month}-{1 + i % 28:02d},{'kx' if i % 3 else 'ky'},{1234.5 + i:.2f}\n" for i in range(1500))
        made.file(month, "".join(lines), join="replace_dates")
    made.report(
        window=None,
        across=[{"period": "day", "grains": ["month"]}],
        figures=[
            {"name": "Amount", "take": "sum", "of": "amount"},
            {"name": "Sales", "take": "count"},
            {"name": "Change", "compare": "Amount", "with": "period_before", "as": "difference"},
        ],
    )
    return made


@pytest.fixture
def api(office: Office) -> Iterator[TestClient]:
    client = TestClient(create_app(office.desk))
    yield client
    client.put("/api/workspace", json={"notation": {"decimal": ".", "thousands": ",", "dates": "mixed"}})


def write_in(api: TestClient, **notation: str) -> None:
    answer = api.put("/api/workspace", json={"notation": {**GERMAN, **notation}})
    assert answer.status_code == 200, answer.text


def leaves(found: Any, at: tuple[str, ...] = ()) -> Iterator[tuple[tuple[str, ...], str]]:
    """Every text of a JSON document, with its path."""
    if isinstance(found, str):
        yield at, found
    elif isinstance(found, dict):
        for name, inner in found.items():
            yield from leaves(inner, (*at, name))
    elif isinstance(found, list):
        for i, inner in enumerate(found):
            yield from leaves(inner, (*at, str(i)))


def read(api: TestClient, report: int) -> dict[str, Any]:
    """The texts of the screens, by request."""

    def get(path: str) -> Any:
        answer = api.get(path)
        assert answer.status_code == 200, answer.text
        return answer.json()

    found = {"sheet": get(f"/api/reports/{report}/sheet")}
    sheet = f"/api/reports/{report}/sheets/{found['sheet']['key']}"
    for what in (
        "trail?figure=Amount",
        "trail?figure=Change&column=2",
        "drivers?figure=Change&column=2",
        "records?figure=Amount",
    ):
        found[what] = get(f"{sheet}/{what}")
    for what in ("board", "sources/1", f"reports/{report}/periods/2026-06-30"):
        found[what] = get(f"/api/{what}")
    return found


def test_whatever_is_read_is_in_the_notation(api: TestClient, office: Office) -> None:
    report = office.stored.id
    common = read(api, report)
    write_in(api)
    other = read(api, report)
    left = [
        (what, at, text)
        for what, found in common.items()
        for at, text in leaves(found)
        if READ.search(text) and dict(leaves(other[what])).get(at) == text and not any(part in TYPED for part in at)
    ]
    assert left == []
    assert other["sheet"]["tie_out"]["footings"][0]["total"] == "5.952.090,00"
    assert "May 1, 2026 – Jul 31, 2026" in other["trail?figure=Amount"]["said"][0]


def test_what_is_typed_and_what_programs_read_stays(api: TestClient, office: Office) -> None:
    path = f"/api/reports/{office.stored.id}"
    files = [api.get(f"{path}/file?format={form}").content for form in ("csv", "json", "parquet")]
    write_in(api)
    assert [api.get(f"{path}/file?format={form}").content for form in ("csv", "json", "parquet")] == files
    typed = "amount by kind where amount over 1,250.50"
    heard = api.post("/api/sentence/read", json={"source": "Sales", "text": typed}).json()["offers"][0]["document"]
    assert "1250.5" in json.dumps(heard)
    assert "over 1250.50" in json.dumps(api.post("/api/sentence", json=heard).json()), "a sentence can be typed again"


def test_files_that_people_read_are_in_the_notation(api: TestClient, office: Office) -> None:
    write_in(api)
    path = f"/api/reports/{office.stored.id}/file"
    page = api.get(f"{path}?format=html").text
    assert "5.952.090,00" in page
    assert "as of Jul 31, 2026" in page
    assert not re.search(r"5,952,090", page)
    printed = "".join(p.extract_text() for p in PdfReader(io.BytesIO(api.get(f"{path}?format=pdf").content)).pages)
    assert "5.952.090,00" in printed
    assert "5,952,090" not in printed
    book = zipfile.ZipFile(io.BytesIO(api.get(f"{path}?format=xlsx").content))
    texts = "".join(book.read(name).decode() for name in book.namelist() if name.startswith("xl/worksheets/sheet"))
    assert "Jul 31, 2026" in texts
    assert "5,952,090" not in texts


def test_an_edition_keeps_the_notation_in_which_it_was_issued(api: TestClient, office: Office) -> None:
    issue = f"/api/reports/{office.stored.id}/periods/2026-06-30/issue"
    first = api.post(issue).json()["edition"]["id"]
    before = read_edition(api, first)
    write_in(api)
    assert read_edition(api, first) == before, "what was issued is changed"
    assert api.get(f"/api/editions/{first}").json()["notation"]["decimal"] == "."
    assert api.post(issue).json()["fresh"] is False, "numbers written otherwise are no other numbers"
    later = api.post(issue.replace("06-30", "07-31")).json()["edition"]["id"]
    then = read_edition(api, later)
    write_in(api, decimal=".", thousands="\u2019", dates="year")
    assert read_edition(api, later) == then
    assert "5.952.090,00" in then[0]
    assert "5,952,090.00" not in then[0]


def read_edition(api: TestClient, id: int) -> list[str]:
    """The screens and the page of an edition, as texts."""
    sheet = f"/api/editions/{id}/sheets/{api.get(f'/api/editions/{id}/sheet').json()['key']}"
    asked = (f"/api/editions/{id}/sheet", f"{sheet}/trail?figure=Amount", f"{sheet}/records?figure=Amount")
    return [*(api.get(path).text for path in asked), api.get(f"/api/editions/{id}/file?format=html").text]


@pytest.mark.parametrize(
    "marks", [{"decimal": ",", "thousands": ","}, {"decimal": ";"}, {"thousands": "1"}, {"dates": "never"}]
)
def test_a_notation_that_says_two_things_is_refused(api: TestClient, marks: dict[str, str]) -> None:
    before = api.get("/api/workspace").json()["notation"]
    answer = api.put("/api/workspace", json={"notation": {**GERMAN, **marks}})
    assert answer.status_code == 422
    assert answer.json()["detail"]
    assert api.get("/api/session").json()["notation"] == api.get("/api/workspace").json()["notation"] == before


def test_requests_at_the_same_time_do_not_mix_notations(api: TestClient, office: Office) -> None:
    """One thread reads an edition in the default notation, another a current sheet; the server reuses threads."""
    first = api.post(f"/api/reports/{office.stored.id}/periods/2026-06-30/issue").json()["edition"]["id"]
    write_in(api)
    with ThreadPoolExecutor(4) as people:
        issued = [people.submit(lambda: api.get(f"/api/editions/{first}/sheet").text) for _ in range(12)]
        live = [people.submit(lambda: api.get(f"/api/reports/{office.stored.id}/sheet").text) for _ in range(12)]
    assert all("2,976,041.00" in f.result() for f in issued)
    assert all("5.952.090,00" in f.result() for f in live)
