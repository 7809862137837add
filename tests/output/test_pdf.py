"""PDF files read by an independent reader: every number, repeated headings, page breaks, bookmarks, tags and fonts."""

import io
import re
from pathlib import Path
from typing import Any

import pypdf
import pytest
from bench.odd_sheets import odd_sheets

from kalendor.core.sheet.sheet import Sheet
from kalendor.definitions.export import Export
from kalendor.output.handover import Cover, Handover
from kalendor.output.pdf.pdf import first_page, pdf, sheet_pdf
from kalendor.output.typeset import SetColumn, Typeset, typeset
from tests.core.build import records, sheet
from tests.output.standards import unfit

AREAS, EACH = 6, 40
ROWS = [(f"Area {a}", f"Line {a}-{i:02d}") for a in range(AREAS) for i in range(EACH)]
LONG = records(
    area=[area for area, _ in ROWS], line=[line for _, line in ROWS],
    net=[f"{(n * 7919) % 90_000 - 20_000}.{n % 100:02d}" for n in range(len(ROWS))],
    month=[f"M{n % 3}" for n in range(len(ROWS))],
)  # fmt: skip
DOWN: dict[str, Any] = {
    "down": [{"category": "area"}, {"category": "line"}],
    "figures": [{"name": "Net", "take": "sum", "of": "net"}, {"name": "Share", "share": "Net"}],
}


def pages(content: bytes) -> list[str]:
    return [" ".join(page.extract_text().split()) for page in pypdf.PdfReader(io.BytesIO(content)).pages]


def rows_of(set_: Typeset, columns: tuple[SetColumn, ...]) -> list[str]:
    """The label and numbers of each row as one text."""
    shown = [set_.shown(column) for column in columns]
    rows = [[*row.labels, *(column[i] for column in shown)] for i, row in enumerate(set_.rows)]
    return [" ".join(" ".join(text for text in row if text).split()) for row in rows]


def test_every_number_is_on_the_pages_and_what_belongs_together_stays_together() -> None:
    found = sheet(LONG, **DOWN)
    set_ = typeset(found)
    read = pages(sheet_pdf(Handover(found)))
    assert len(read) > 3
    whole = " ".join(read)
    for row in rows_of(set_, set_.columns):
        assert row in whole, row
    for n, page in enumerate(read, 1):
        assert f"page {n} of {len(read)}" in page
        assert "area · line Net Share" in page, "headings are repeated"
        lines = re.findall(r"Line (\d)-\d\d", page)
        if lines:
            assert f"Area {lines[0]} " in page.split(f"Line {lines[0]}-")[0], "the group's name is repeated"
        for area in re.findall(r"Area (\d) total", page):
            assert f"Line {area}-{EACH - 1:02d}" in page, "a subtotal stands with its last line"
        for area in re.findall(r"Area (\d) (?!total)", page):
            assert f"Line {area}-" in page, "no group's name stands alone"
    assert re.search(r"Area 5 total .*Total ", read[-1])


@pytest.mark.parametrize("name", ["12 lines, 4 years of months", "200 lines, 8 figures", "12 months down"])
def test_a_chart_leaves_room_for_lines_under_it(name: str) -> None:
    found = next(one for other, one in odd_sheets() if other == name)
    first = pages(sheet_pdf(Handover(found, Export(chart=True))))[0]
    assert len(re.findall(r"\d\.\d\d", first)) > 12


@pytest.mark.parametrize(("type_", "least"), [("plain", 8), ("board", 10)])
@pytest.mark.parametrize("name", ["12 lines, 4 years of months", "6 lines, 300 columns", "names in many scripts"])
def test_no_type_is_smaller_than_the_least(name: str, type_: Any, least: float) -> None:
    found = next(one for other, one in odd_sheets() if other == name)
    content = sheet_pdf(Handover(found, Export(type=type_), headline=("All is well.",)))
    sizes: list[float] = []

    def seen(text: str, cm: Any, tm: Any, _: Any, size: float) -> None:
        if text.strip() and not text.strip().startswith("page"):
            sizes.append(round(size * abs(tm[3]) * abs(cm[3]), 2))

    for page in pypdf.PdfReader(io.BytesIO(content)).pages:
        page.extract_text(visitor_text=seen)
    assert min(sizes) >= least


def test_a_wide_sheet_is_cut_between_groups_of_columns_with_its_labels_repeated() -> None:
    wide = records(a=["x", "y"] * 30, c=[f"Column {i // 2:02d}" for i in range(60)], n=list(range(60)))
    found = sheet(wide, down=[{"category": "a"}], across=[{"category": "c"}], figures=[
        {"name": "Sum", "take": "sum", "of": "n"}, {"name": "Count", "take": "count"}])  # fmt: skip
    set_ = typeset(found)
    read = pages(sheet_pdf(Handover(found, Export(way="across"))))
    whole = " ".join(read)
    blocks = int(re.findall(r"Columns, part 1 of (\d+)", whole)[0])
    assert blocks >= 3
    assert len(read) < blocks, "blocks of few lines stand under each other"
    assert all(whole.count(f"Columns, part {n} of {blocks}") == 1 for n in range(1, blocks + 1))
    assert whole.count(" x ") == whole.count(" y ") == blocks, "labels are repeated"
    for column in {c.labels for c in set_.columns}:
        here = [page for page in read if column[-1] in page]
        assert here, column
    numbers = sum(len(re.findall(r"(?<![\d.])\d[\d,]*(?![\d.])", page)) for page in read)
    assert numbers >= sum(bool(t) for c in set_.columns for t in set_.shown(c))


def test_pages_break_before_a_level_and_groups_are_bookmarked(tmp_path: Path) -> None:
    layout = {"levels": {"area": {"page_break": True}}}
    content = sheet_pdf(
        Handover(sheet(LONG, **DOWN, layout=layout), Export(paper="letter", chart=True), headline=("All is well.",))
    )
    reader = pypdf.PdfReader(io.BytesIO(content))
    titles = [one["/Title"] for level in reader.outline for one in (level if isinstance(level, list) else [level])]
    assert titles == ["test", *(f"Area {a}" for a in range(AREAS))]
    assert float(reader.pages[0].mediabox.width) == pytest.approx(612)
    read = pages(content)
    assert "All is well." in read[0]
    starts = [i for i, page in enumerate(read) for a in range(AREAS) if f"Line {a}-00" in page]
    assert len(set(starts)) == AREAS
    assert unfit(content, "pdf", tmp_path) == []


def test_the_file_is_tagged_titled_and_its_fonts_embedded() -> None:
    found = sheet(LONG, **DOWN)
    content = sheet_pdf(Handover(found))
    assert content == sheet_pdf(Handover(found))
    reader = pypdf.PdfReader(io.BytesIO(content))
    root: Any = reader.trailer["/Root"]
    assert root["/MarkInfo"]["/Marked"]
    assert (root["/Lang"], "/StructTreeRoot" in root) == ("en", True)
    assert root["/ViewerPreferences"]["/DisplayDocTitle"]
    assert reader.metadata is not None
    assert reader.metadata.title == "test"
    assert "pdfuaid" in root["/Metadata"].get_data().decode()
    fonts: Any = reader.pages[0]["/Resources"]["/Font"]
    names = [font.get_object()["/BaseFont"] for font in fonts.values()]
    assert any("KalendorSans" in name for name in names)
    assert all("+" in name for name in names), "every font is embedded, as a subset"


def test_names_in_every_script_and_texts_that_look_like_markup_survive() -> None:
    names = [
        "Ærø–Łódź",
        "Καλημέρα",
        "東京",
        "한국어",
        "*not bold* #let x = 1",
        "$x^2$",
        "=1+1",
        "_a_ @ref <label>",
        "é" * 400,
    ]
    data = records(a=names, n=list(range(len(names))))
    whole = " ".join(pages(sheet_pdf(Handover(sheet(data, down=[{"category": "a"}], figures=[
        {"name": "n", "take": "sum", "of": "n"}], title="#panic() *x*")))))  # fmt: skip
    plain = whole.replace(" ", "").replace("\u200b", "")  # where a long word may be broken
    for name in names:
        assert name.replace(" ", "") in plain, name[:30]
    assert "#panic()" in whole
    right_to_left = sheet(
        records(a=["שלום", "مرحبا"], n=[1, 2]),
        down=[{"category": "a"}],
        figures=[{"name": "n", "take": "sum", "of": "n"}],
    )
    assert len(pages(sheet_pdf(Handover(right_to_left)))) == 1


def test_a_pack_has_contents_and_the_first_page_can_be_seen_beforehand(tmp_path: Path) -> None:
    given = [Handover(sheet(LONG, **DOWN, title="First")), Handover(sheet(LONG, **DOWN, title="Second"))]
    content = pdf(given, Cover("Month end"))
    assert unfit(content, "pdf", tmp_path) == []
    read = pages(content)
    assert read[0].startswith("Month end")
    assert re.search(r"First.*2", read[0])
    assert first_page(given[0]).startswith(b"\x89PNG")


def test_records_and_labels_in_columns_are_set_as_on_screen() -> None:
    found: Sheet = sheet(
        LONG, **DOWN, layout={"lines": "columns", "labels": "each"}, records={"columns": ["line", "net"]}
    )
    read = " ".join(pages(sheet_pdf(Handover(found))))
    set_ = typeset(found)
    total = rows_of(set_, set_.columns)[-1]
    assert total in read
    assert read.count("Line 3-07") >= 2
