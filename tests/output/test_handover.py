"""Every sheet can be exported in every format; explanations and headlines by rules."""

import io
import json
import zipfile
from datetime import date
from html.parser import HTMLParser
from pathlib import Path
from typing import Any

import openpyxl
import pytest
from hypothesis import given, settings
from pypdf import PdfReader

from kalendor.core.groupings.ground import groupings
from kalendor.core.placing.material import Material
from kalendor.core.report import work_out
from kalendor.core.values.keys import local
from kalendor.definitions.export import Export
from kalendor.definitions.report import Report
from kalendor.output.handover import Handover, handed
from kalendor.output.html.document import sheet_html
from kalendor.output.html.printed import sheet_print
from kalendor.output.pdf.pdf import sheet_pdf
from kalendor.output.typeset import typeset
from kalendor.output.writers import FORMS, write
from kalendor.sentence.writing import brief
from tests.core.build import records, report, sheet, traced
from tests.core.test_any_report import reports, worked
from tests.output.standards import unfit

TODAY = date(2026, 8, 4)
DATA = records(
    a=["x", "x", "y", "y"], b=["p", "q", "p", "q"], n=[10, 4, 2, 1],
    on=[date(2025, 5, 1), date(2026, 5, 1), date(2025, 6, 1), date(2026, 6, 1)],
)  # fmt: skip
COUNT = {"name": "Records", "take": "count"}
SUM = {"name": "N", "take": "sum", "of": "n"}


@given(reports())
@settings(max_examples=15)
def test_any_sheet_is_set_as_pages_and_as_a_page(report: dict[str, Any]) -> None:
    found = worked(report, None)
    if isinstance(found, str):
        return
    assert brief(Report.model_validate(report)).endswith(".")
    assert sheet_html(Handover(found, Export(chart=True))).endswith(b"</html>\n")
    assert sheet_pdf(Handover(found, Export(chart=True))).startswith(b"%PDF")


TABLED = ("table", "thead", "tbody", "tr", "td", "th")


class Nesting(HTMLParser):
    """Whether each element of a table has its own end tag."""

    def __init__(self) -> None:
        super().__init__()
        self.open: list[str] = []

    def handle_starttag(self, tag: str, attrs: Any) -> None:
        if tag in TABLED:
            self.open.append(tag)

    def handle_endtag(self, tag: str) -> None:
        if tag in TABLED:
            assert self.open.pop() == tag


@given(reports())
@settings(max_examples=15)
def test_any_sheet_is_printed_in_tables_that_are_whole(report: dict[str, Any]) -> None:
    found = worked(report, None)
    if not isinstance(found, str):
        parser = Nesting()
        parser.feed(sheet_print(Handover(found)).decode())
        assert not parser.open


ODD: list[dict[str, Any]] = [
    {
        "figures": [
            {"name": "last b", "take": "last", "of": "b", "by": "on"},
            {"name": "day", "take": "min", "of": "on"},
        ]
    },
    {"figures": [COUNT], "only": ["a = 'none'"], "down": [{"category": "a"}]},
    {"figures": [COUNT]},
    {"figures": [COUNT], "across": [{"category": "a"}], "only": ["a = 'none'"], "totals": {"grand_across": "none"}},
    {"figures": [COUNT], "down": [{"category": "a"}], "only": ["a = 'none'"], "totals": {"grand_down": "none"}},
    {
        "figures": [COUNT],
        "down": [{"category": "a"}],
        "across": [{"category": "b"}],
        "only": ["a = 'none'"],
        "totals": {"grand_down": "none", "grand_across": "none"},
    },
    {
        "figures": [COUNT],
        "down": [{"bucket": "n", "cut": [0, 2, 4]}],
        "across": [{"category": "b"}],
        "only": ["a = 'none'"],
    },
    {
        "figures": [COUNT],
        "across": [{"bucket": "n", "cut": [0, 2, 4]}],
        "down": [{"category": "b"}],
        "only": ["a = 'none'"],
    },
    {"figures": [COUNT], "down": [{"category": "a", "name": f"Level {i}"} for i in range(9)]},
    {"figures": [COUNT], "down": [{"category": "a"}, {"category": "b"}], "records": {}, "layout": {"lines": "columns"}},
    {"figures": [COUNT], "down": [{"category": "a"}], "totals": {"grand_down": "none"}},
    {
        "figures": [{**COUNT, "name": "a name that goes on and on " * 5}],
        "across": [{"period": "on", "grains": ["year", "day"]}],
    },
]


@pytest.mark.parametrize("keys", ODD)
@pytest.mark.parametrize(("form", "shape"), [(form, shape) for form, found in FORMS.items() for shape in found.writers])
def test_odd_sheets_go_out_in_every_format_by_its_standard(
    keys: dict[str, Any], form: str, shape: str, tmp_path: Path
) -> None:
    content = write(Handover(sheet(DATA, **keys), Export(chart=True)), form, shape)
    assert content
    if form in ("pdf", "xlsx", "ods"):
        assert unfit(content, form, tmp_path) == []


def over(**keys: Any) -> tuple[str, ...]:
    """The headline of a report over the data."""
    asked, material, memo = report(**keys), Material(DATA, groupings([]), {}, 0), local()
    found = work_out(asked, material, TODAY, None, memo)
    return handed(asked, found, lambda cell: traced(asked, material, found, cell, memo=memo)).headline


def test_a_headline_says_the_total_its_change_and_what_drove_it() -> None:
    change = {"name": "Change", "compare": "N", "with": "year_earlier", "as": "difference"}
    years: dict[str, Any] = {
        "across": [{"period": "on", "grains": ["year"]}],
        "down": [{"category": "a"}],
        "as_of": "2026-12-31",
    }
    assert over(figures=[SUM, change], **years) == (
        "N in 2026 came to 5, 7 less than a year earlier.",
        "x fell most, by 6.",
    )
    assert over(figures=[SUM], down=[{"category": "a"}]) == ("N came to 17.", "x is largest, with 14.")
    assert over(figures=[{"name": "b", "take": "first", "of": "b", "by": "on"}]) == ()
    own = {"sentences": ["In my words."], "given": []}
    assert over(figures=[SUM], headline=own) == ("In my words.",)
    assert over(figures=[SUM], headline=own, export={"headline": False}) == ()


def test_notes_go_along_in_every_format_that_is_read() -> None:
    notes = [
        {"text": "about x", "line": ["x"]}, {"text": "about a number", "line": ["y"], "column": [], "figure": "N"},
        {"text": "about all"},
    ]  # fmt: skip
    found = sheet(DATA, figures=[SUM, COUNT], down=[{"category": "a"}], notes=notes)
    handed_over = Handover(found, edition="Jul 2026 · 2nd edition, sealed abc")
    set_ = typeset(found)
    assert [row.marked[0] for row in set_.rows] == ["x¹", "y", "Total"]
    assert set_.shown(set_.columns[0]) == ["14", "3²", "17"]
    assert set_.footnotes == ["¹ about x", "² about a number", "³ about all"]
    html = sheet_html(handed_over).decode()
    assert all(words in html for words in ("x¹", "3²", "³ about all", "2nd edition, sealed abc"))
    pdf = "".join(page.extract_text() for page in PdfReader(io.BytesIO(sheet_pdf(handed_over))).pages)
    assert all(words in pdf for words in ("x¹", "about a number", "2nd edition, sealed abc"))
    book = openpyxl.load_workbook(io.BytesIO(write(handed_over, "xlsx")))
    cells = [cell for row in book.worksheets[0].iter_rows() for cell in row]
    assert {"x¹", "³ about all"} <= {cell.value for cell in cells}
    assert [(c.value, c.comment.text.strip()) for c in cells if c.comment] == [(3, "² about a number")]
    assert any(cell.value == handed_over.edition for row in book.worksheets[1].iter_rows() for cell in row)
    assert "³ about all" in zipfile.ZipFile(io.BytesIO(write(handed_over, "ods"))).read("content.xml").decode()
    assert json.loads(write(handed_over, "json", "sheet"))["footnotes"] == set_.footnotes
    assert b"\xc2\xb9" not in write(handed_over, "csv", "sheet") + write(handed_over, "csv", "flat")
