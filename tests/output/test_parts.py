"""Long documents typeset in parts: joined, they have the content of a document typeset at once, and no page ends early
without need."""

import errno
import io
import signal
import subprocess
from functools import lru_cache
from itertools import zip_longest
from pathlib import Path
from typing import Any

import pikepdf
import pypdf
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from kalendor.core.values.columns import Records
from kalendor.definitions.export import Export
from kalendor.errors import StoreError
from kalendor.output.handover import Handover
from kalendor.output.pdf import pdf as setting
from kalendor.output.pdf import process
from kalendor.output.pdf.pages import document
from kalendor.output.pdf.parts import parted, share
from kalendor.output.watching import WATCHER
from tests.core.build import records, sheet
from tests.core.test_any_report import reports, worked
from tests.output.standards import unfit


def lines(many: int) -> Records:
    """Records of a number of lines, in routes and areas; one name in ninety is so long that it wraps."""
    long = " with a name so long that it is broken in two or even three"
    return records(
        area=[f"Area {n // 300}" for n in range(many)], route=[f"Route {n // 45:02d}" for n in range(many)],
        line=[f"Line {n:03d}{'' if n % 90 else long}" for n in range(many)], kind=["aye" if n % 2 else "bee" for n in range(many)],
        net=[f"{(n * 7919) % 90_000 - 20_000}.{n % 100:02d}" for n in range(many)],
    )  # fmt: skip


DATA, SOME, FEW = lines(900), lines(450), lines(150)
NET = [{"name": "Net", "take": "sum", "of": "net"}, {"name": "Share", "share": "Net"}]
NESTED: dict[str, Any] = {"down": [{"category": "area"}, {"category": "route"}, {"category": "line"}], "figures": NET}
FLAT: dict[str, Any] = {"down": [{"category": "line"}], "figures": NET}
WIDE: dict[str, Any] = {
    "down": [{"category": "route"}, {"category": "line"}], "across": [{"category": "kind"}],
    "figures": [*NET, *({"name": f"Figure {n}", "take": "sum", "of": "net"} for n in range(3))],
}  # fmt: skip
PAGED: dict[str, Any] = {**NESTED, "layout": {"levels": {"area": {"page_break": True}}}}
COLUMNS: dict[str, Any] = {**NESTED, "layout": {"lines": "columns", "labels": "once"}}
KINDS = {"nested": NESTED, "flat": FLAT, "wide": WIDE, "paged": PAGED, "columns": COLUMNS}
LETTER = Export(paper="letter", way="across", chart=True)
SET = [
    ("nested", Export(), 450),
    ("paged", LETTER, 450),
    ("wide", Export(), 600),
    ("flat", LETTER, 450),
    ("columns", Export(), 450),
]


@lru_cache(maxsize=4)
def read(content: bytes) -> tuple[list[str], list[tuple[str, int]]]:
    """The text of each page, and each bookmark with its page; nested bookmarks begin with a dash."""
    reader = pypdf.PdfReader(io.BytesIO(content))

    def marks(items: list[Any], under: str = "") -> list[tuple[str, int]]:
        found: list[tuple[str, int]] = []
        for item in items:
            if isinstance(item, list):
                found += marks(item, under + "-")
            else:
                found.append((under + str(item.title), int(reader.get_destination_page_number(item) or 0)))
        return found

    return [" ".join(page.extract_text().split()) for page in reader.pages], marks(reader.outline)


def differ(one: list[str], other: list[str]) -> list[tuple[int, str, str]]:
    """The first few differences between two lists."""
    return [(n, a, b) for n, (a, b) in enumerate(zip_longest(one, other, fillvalue="")) if a != b][:5]


def said(pages: list[str], told: list[str]) -> str:
    """The text of all pages without what each page repeats: headings, names of continued groups, footers."""
    whole = " ".join(pages)
    for repeated in told:
        whole = whole.replace(repeated, " ")
    return " ".join(whole.split())


@lru_cache(maxsize=4)
def tags(content: bytes) -> dict[str, int]:
    """The number of structure elements of each kind; asserts that each one's parent is the one that lists it."""
    found: dict[str, int] = {}
    with pikepdf.open(io.BytesIO(content)) as opened:
        root = opened.Root.StructTreeRoot
        stack = [(one, root) for one in root.K]
        while stack:
            element, parent = stack.pop()
            assert element.P.objgen == parent.objgen
            kind = str(element.S)
            found[kind] = found.get(kind, 0) + 1
            inner: Any = element.get("/K", [])
            stack += [(one, element) for one in inner if isinstance(one, pikepdf.Dictionary) and "/S" in one]
    return found


@pytest.mark.parametrize(("kind", "export", "most"), SET)
def test_a_document_set_in_parts_says_what_it_says_set_at_once(
    kind: str, export: Export, most: int, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    given = Handover(sheet(FEW if kind == "wide" else SOME, **KINDS[kind]), export, headline=("All is well.",))
    told = document(given, None, 0)
    parts = parted(told, share(told, most, setting.AT_ONCE))
    assert len(parts) > 2
    whole = setting.sheet_pdf(given)
    monkeypatch.setattr(setting, "MOST_CELLS", most)
    joined = setting.sheet_pdf(given)
    assert kind != "flat" or joined == setting.sheet_pdf(given)  # it is the same each time
    (pages, marks), (joined_pages, joined_marks) = read(whole), read(joined)
    for n, page in enumerate(joined_pages, 1):
        assert page.endswith(f"page {n} of {len(joined_pages)}")
    feet = [f"page {n} of {len(p)}" for p in (pages, joined_pages) for n in range(1, len(p) + 1)]
    feet.append("as of 4 Aug 2026")
    heads = [
        *(f"Route {n:02d}" for n in range(20)),
        *(f"Area {n}" for n in range(3)),
        *(f"Figure {n}" for n in range(3)),
    ]
    numbers, joined_numbers = (
        [word for word in said(p, [*feet, *heads]).split() if word[0] in "(0123456789"] for p in (pages, joined_pages)
    )
    assert differ(numbers, joined_numbers) == []
    assert differ([label for label, _ in marks], [label for label, _ in joined_marks]) == []
    assert all(label.lstrip("-") in joined_pages[page] for label, page in joined_marks)
    assert len(joined_pages) - len(pages) <= 1 + len(parts) // 5, "pages end early"
    counted, joined_counted = tags(whole), tags(joined)
    assert joined_counted["/H1"] == counted["/H1"] == 1
    if kind != "columns":  # where a row of totals may stand in a table's body or after it
        more = joined_counted["/TD"] - counted["/TD"]
        assert more in range(len(parts)), "a cell for bookmarks where lines are cut in two"
    assert unfit(joined, "pdf", tmp_path) == []


@pytest.mark.parametrize("kind", ["nested", "flat"])
@pytest.mark.parametrize("most", [700, 1_600])
def test_no_page_ends_early_without_need(kind: str, most: int, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(setting, "MOST_CELLS", most)
    pages, _ = read(setting.sheet_pdf(Handover(sheet(DATA, **KINDS[kind]))))
    each = [page.count("Line ") for page in pages[:-1]]
    assert min(each) >= 0.65 * max(each), each


def test_a_typesetter_that_starts_slowly_is_waited_for_and_looked_after(monkeypatch: pytest.MonkeyPatch) -> None:
    given = Handover(sheet(DATA, **FLAT))
    made = setting.sheet_pdf(given)
    looks: list[int] = []
    monkeypatch.setattr(process, "LOOK", 0.001)  # far less than it takes to read what is set
    token = WATCHER.set(lambda done, total: looks.append(total))
    try:
        assert setting.sheet_pdf(given) == made
    finally:
        WATCHER.reset(token)
    assert len(looks) > 5
    assert set(looks) == {901}


def test_nobody_waiting_ends_the_setting_of_all_parts(monkeypatch: pytest.MonkeyPatch) -> None:
    begun: list[subprocess.Popen[bytes]] = []

    class Noted(subprocess.Popen[bytes]):
        def __init__(self, *args: Any, **more: Any) -> None:
            super().__init__(*args, **more)
            begun.append(self)

    class Left(Exception):
        pass

    def left(done: int, total: int) -> None:
        raise Left

    monkeypatch.setattr(setting, "MOST_CELLS", 900)
    monkeypatch.setattr(process, "LOOK", 0.01)
    monkeypatch.setattr(subprocess, "Popen", Noted)
    token = WATCHER.set(left)
    try:
        with pytest.raises(Left):
            setting.sheet_pdf(Handover(sheet(DATA, **FLAT)))
    finally:
        WATCHER.reset(token)
    assert begun
    assert {one.returncode for one in begun} == {-signal.SIGKILL}


def under(panels: list[dict[str, Any]]) -> list[tuple[tuple[str, ...], Any]]:
    """Each row with the names of the groups above it."""
    found: list[tuple[tuple[str, ...], Any]] = []
    for panel in panels:
        for items in panel["parts"]:
            named: tuple[str, ...] = ()
            for item in items:
                if item["kind"] == "group":
                    named = (*named[: item["depth"] - 1], item["label"])
                found += [(named, row) for row in item.get("rows", ())]
    return found


def test_each_part_begins_where_the_one_before_ended_with_its_groups_named() -> None:
    report = document(Handover(sheet(DATA, **NESTED)), None, 0)
    parts = parted(report, 500)
    assert len(parts) > 3
    for part in parts:
        (panel,) = part["panels"]
        (items,) = panel["parts"]
        assert [item["depth"] for item in items[:2]] == [1, 2], "the first line stands under both of its groups"
        assert items[-1]["kind"] != "group", "no group's name stands alone"
    assert [row for part in parts for row in under(part["panels"])] == under(report["panels"])
    assert parted(report, 10**9)[0]["panels"] == report["panels"]


def test_a_full_disk_is_said(monkeypatch: pytest.MonkeyPatch) -> None:
    def full(self: Path, content: bytes) -> int:
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(setting, "MOST_CELLS", 900)
    monkeypatch.setattr(Path, "write_bytes", full)
    with pytest.raises(StoreError, match=r"cannot be kept there \(No space left on device\); make room"):
        setting.sheet_pdf(Handover(sheet(DATA, **FLAT)))


def hold(whole: dict[str, Any], most: int) -> int:
    """Assert that a document's parts are complete and in order; returns their number."""
    parts = parted(whole, most)
    rows: list[Any] = []
    captions: list[str] = []
    marks: list[Any] = []
    tables = 0
    for n, part in enumerate(parts):
        assert (part["begins"], part["ends"], part["tables"]) == (n == 0, n == len(parts) - 1, tables)
        tables += sum(len(panel["parts"]) for panel in part["panels"])
        rows += under(part["panels"])
        captions += [panel["caption"] for panel in part["panels"] if panel["caption"]]
        marks += marked(part["panels"])[part["again"] :]
    assert rows == under(whole["panels"])
    assert captions == [panel["caption"] for panel in whole["panels"] if panel["caption"]]
    assert marks == marked(whole["panels"])
    return len(parts)


@given(reports(), st.integers(1, 300))
@settings(max_examples=40)
def test_any_documents_parts_are_all_of_it_in_order(report: dict[str, Any], most: int) -> None:
    found = worked(report, None)
    if not isinstance(found, str):
        hold(document(Handover(found), None, 0), most)


@pytest.mark.parametrize("kind", KINDS)
def test_however_a_document_is_cut_its_parts_are_all_of_it_in_order(kind: str) -> None:
    whole = document(Handover(sheet(DATA, **KINDS[kind])), None, 0)
    assert max(hold(whole, most) for most in range(1, 3_000, 53)) > 4


def marked(panels: list[dict[str, Any]]) -> list[Any]:
    """The bookmarks of panels, in order."""
    return [m for panel in panels for items in panel["parts"] for item in items for m in item.get("marks", ())]


@given(st.integers(1, 400), st.integers(1, 200), st.integers(1, 3))
def test_parts_are_alike_and_none_is_left_over(rows: int, most: int, beside: int) -> None:
    panel = {"many": 2, "parts": [[{"rows": [0] * rows}]]}
    found = share({"panels": [panel]}, most, beside)
    assert 0 < found <= most
    parts = -(-2 * rows // found)
    assert parts == 1 or parts <= -(-2 * rows // (most * beside)) * beside
