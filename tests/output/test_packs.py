"""Packs typeset in batches and joined have the same content as packs typeset at once."""

import io
import re
from pathlib import Path
from typing import Any

import pypdf
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from kalendor.definitions.export import Export
from kalendor.output.handover import Cover, Handover
from kalendor.output.moves import Moved
from kalendor.output.pdf import pdf as setting
from tests.core.build import records, sheet
from tests.output.standards import unfit
from tests.output.test_parts import FEW, FLAT, NET, SOME, WIDE, differ, read, tags

SHORT: dict[str, Any] = {"down": [{"category": "area"}], "figures": NET}
MOVED = Moved("Net", "Net", "June 2026", "1.00", "2.00", "+1.00", "+100.0%", "Area 0")
COVER = Cover("July 2026", "Northern Ferries", "#7a2e5d", moves=(MOVED,))
MANY_CELLS = 10**9
PLAIN, CHART, ACROSS = Export(), Export(chart=True), Export(way="across", type="board")


def of(document: dict[str, Any], export: Export = PLAIN, title: str = "Net", rows: Any = FEW) -> Handover:
    made = sheet(rows, **document, title=title)
    return Handover(made, export, short=f"{title} came to something.", headline=(f"{title} came to something.",))


REPORTS = [
    of(SHORT, CHART, "Net by area"),
    of(FLAT, title="Net by line", rows=SOME),
    of(WIDE, ACROSS, "Net by route, wide"),
    of(SHORT, Export(paper="letter"), "Net again"),
    of(SHORT, CHART, "Net at last"),
]


def links(content: bytes) -> list[tuple[int, str, int]]:
    """The links of the contents to reports, in order: the page of each, and its target page."""
    reader = pypdf.PdfReader(io.BytesIO(content))
    at = {page.indirect_reference.idnum: n for n, page in enumerate(reader.pages) if page.indirect_reference}
    found = []
    for n, page in enumerate(reader.pages):
        for one in page.get("/Annots", []):
            link = one.get_object()
            there = link["/Dest"] if "/Dest" in link else link["/A"].get("/D", link["/A"].get("/URI"))
            assert isinstance(there, pypdf.generic.ArrayObject), there
            found.append((n, str(link["/Subtype"]), at[there[0].idnum]))
    return found


def titles(content: bytes) -> list[tuple[str, int]]:
    return [(label, page) for label, page in read(content)[1] if not label.startswith("-")]


def numbers(pages: list[str]) -> list[str]:
    """The numbers on pages, without page numbers and those of headings, which each page repeats."""
    bare = (re.sub(r"as of 4 Aug 2026|Figure \d|Route \d+", "", page.rpartition(" page ")[0]) for page in pages)
    words = (word for text in bare for word in text.split())
    return [word for word in words if word[0] in "(0123456789+"]


def hold(made: bytes, whole: bytes, reports: list[Handover]) -> None:
    """Assert that a joined pack has the content of one typeset at once: cover, pages and tags."""
    pages, joined = read(whole)[0], read(made)[0]
    for n, page in enumerate(joined, 1):
        assert page.endswith(f"page {n} of {len(joined)}"), page[-60:]
    begin = [page for label, page in titles(made) if label != "What moved"]
    assert [label for label, _ in titles(made)] == [label for label, _ in titles(whole)]
    assert [page for _, _, page in links(made)] == begin, "the contents lead elsewhere"
    for report, page in zip(reports, begin, strict=True):
        assert report.sheet.title in joined[page]
        assert f"{report.sheet.title} {page + 1} " in joined[0] + " ", joined[0]
    if len(pages) == len(joined):
        assert differ(numbers(pages[1:]), numbers(joined[1:])) == []
    assert tags(made)["/H1"] == tags(whole)["/H1"]
    assert tags(made)["/Link"] == tags(whole)["/Link"] == len(reports)


def test_a_pack_set_in_batches_says_what_it_says_set_at_once(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(setting, "MOST_CELLS", MANY_CELLS)
    whole = setting.pdf(REPORTS, COVER)
    monkeypatch.setattr(setting, "MOST_CELLS", 900)
    made = setting.pdf(REPORTS, COVER)
    hold(made, whole, REPORTS)
    assert "Northern Ferries" in read(made)[0][0]
    assert unfit(made, "pdf", tmp_path) == []


def test_contents_of_many_pages_count_themselves(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """The contents of forty reports take several pages, before those that they refer to."""
    rows = records(area=["North", "South"], net=["1.00", "2.00"])
    reports = [of(SHORT, title=f"Report number {n}", rows=rows) for n in range(40)]
    monkeypatch.setattr(setting, "MOST_CELLS", MANY_CELLS)
    whole = setting.pdf(reports, Cover("All"))
    monkeypatch.setattr(setting, "MOST_CELLS", 50)
    made = setting.pdf(reports, Cover("All"))
    begin = [page for _, page in titles(made)]
    assert begin == [page for _, page in titles(whole)] == [page for _, _, page in links(made)]
    assert begin[0] > 1
    assert unfit(made, "pdf", tmp_path) == []


@settings(max_examples=2, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    chosen=st.lists(st.integers(0, len(REPORTS) - 1), min_size=1, max_size=4, unique=True),
    most=st.integers(200, 4_000),
    moves=st.booleans(),
)
def test_any_reports_in_any_batches(chosen: list[int], most: int, moves: bool) -> None:
    reports = [REPORTS[n] for n in chosen]
    cover = Cover("Any", moves=(MOVED,) if moves else ())
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(setting, "MOST_CELLS", MANY_CELLS)
        whole = setting.pdf(reports, cover)
        patch.setattr(setting, "MOST_CELLS", most)
        hold(setting.pdf(reports, cover), whole, reports)
