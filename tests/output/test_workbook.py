"""Workbooks read by an independent reader: every number, every live total recalculated, and print settings."""

import io
import re
from datetime import date
from decimal import Decimal
from pathlib import Path
from typing import Any

import openpyxl
import pytest
from hypothesis import given, settings
from openpyxl.utils import column_index_from_string
from openpyxl.worksheet.worksheet import Worksheet

from kalendor.core.sheet.sheet import Sheet
from kalendor.definitions.export import Export
from kalendor.errors import DefinitionError
from kalendor.output.delimited import seen
from kalendor.output.handover import Cover, Handover
from kalendor.output.numbers import plain_approximate
from kalendor.output.typeset import typeset
from kalendor.output.workbook import page
from kalendor.output.workbook.book import sheet_workbook, workbook
from tests.core.build import records, sheet
from tests.core.test_any_report import reports, worked
from tests.output.standards import unfit

DIGITS = 15
MOST_CELLS = 20_000  # of a sheet that is read back cell by cell: many small ones tell more than a few large ones


def opened(content: bytes, values: bool = False) -> Any:
    return openpyxl.load_workbook(io.BytesIO(content), data_only=values)


def again(cells: Worksheet, formula: str, row: int, column: int) -> float:
    """A live total calculated from its cells; SUBTOTAL ignores other subtotals, as the standard says."""
    if found := re.fullmatch(r"=SUBTOTAL\(9,([A-Z]+)(\d+):([A-Z]+)(\d+)\)", formula):
        assert column_index_from_string(found[1]) == column_index_from_string(found[3]) == column
        under = [(r, column) for r in range(int(found[2]), int(found[4]) + 1)]
        under = [at for at in under if not str(cells.cell(*at).value).startswith("=SUBTOTAL")]
    else:
        found = re.fullmatch(r"=SUM\((.*)\)", formula)
        assert found, formula
        under = []
        for part in found[1].split(","):
            ends = re.findall(r"([A-Z]+)(\d+)", part)
            assert {int(r) for _, r in ends} == {row}
            first, last = column_index_from_string(ends[0][0]), column_index_from_string(ends[-1][0])
            under += [(row, c) for c in range(first, last + 1)]
    values = [(at, cells.cell(*at).value) for at in under]
    numbers = [again(cells, v, *at) if isinstance(v, str) and v.startswith("=") else v for at, v in values]
    return float(sum(v for v in numbers if isinstance(v, (int, float))))


def check(found: Sheet, export: Export) -> int:
    """Every cell of a workbook equals that of the sheet; returns the number of live totals."""
    content = sheet_workbook(Handover(found, export))
    assert content == sheet_workbook(Handover(found, export))
    book, values = opened(content), opened(content, values=True)
    cells, plain = book.worksheets[0], values.worksheets[0]
    set_ = typeset(found)
    headings, fields = seen(set_, raw=True)
    labels = len(set_.label_heads) + len(set_.listed)
    top = 3 + len(set_.headings)
    live = 0
    for i, row in enumerate(set_.rows):
        for k in range(labels, len(headings)):
            want, got = fields[k][i], plain.cell(top + i + 1, k + 1).value
            own = cells.cell(top + i + 1, k + 1).value
            if isinstance(own, str) and own.startswith("="):
                live += 1
                assert again(cells, own, top + i + 1, k + 1) == pytest.approx(got, rel=1e-12, abs=1e-9)
            assert same(want, got), (headings[k], row, want, got)
        for k in range(len(set_.label_heads)):
            assert (cells.cell(top + i + 1, k + 1).value or "") == row.labels[k]
    return live


def same(want: str, got: Any) -> bool:
    if want == "":
        return got is None
    if isinstance(got, (int, float)) and not isinstance(got, bool):
        return Decimal(want) == Decimal(str(got)) or plain_approximate(got) == want
    return str(got).removesuffix(" 00:00:00") == want or got.isoformat() == want


@given(reports())
@settings(max_examples=settings.default.max_examples // 2)
def test_any_sheet_is_in_its_workbook_whole(report: dict[str, Any]) -> None:
    found = worked(report, None)
    if isinstance(found, str) or found.lines.count * found.columns.count * len(found.figures) > MOST_CELLS:
        return
    check(found, Export())
    assert check(found, Export(subtotals="values")) == 0


DATA = records(
    area=["N", "N", "S", "S", "S"], route=["a", "b", "a", "c", "d"], on=[date(2026, m, 3) for m in (1, 1, 2, 2, 3)],
    net=["1.10", "-2.25", "30.00", "4.40", "5.05"],
)  # fmt: skip
AXES: dict[str, Any] = {
    "down": [{"category": "area"}, {"category": "route"}],
    "across": [{"period": "on", "grains": ["month"]}],
    "figures": [
        {"name": "Net", "take": "sum", "of": "net"},
        {"name": "Mean", "take": "mean", "of": "net"},
        {"name": "Records", "take": "count"},
    ],
}


def test_subtotals_are_live_for_what_adds_up_and_values_for_the_rest() -> None:
    found = sheet(DATA, **AXES)
    assert check(found, Export()) > 10
    cells = opened(sheet_workbook(Handover(found))).worksheets[0]
    formulas = {c.coordinate: c.value for row in cells.iter_rows() for c in row if str(c.value).startswith("=")}
    heads = {c.column for c in cells[5] if c.value == "Mean"}
    assert heads
    assert not any(cells[place].column in heads for place in formulas)
    kept = sheet(DATA, **AXES, keep=[{"level": "route", "where": "Net > 2"}])
    assert check(kept, Export()) < len(formulas), "a total that counts hidden lines is a value"
    check(sheet(DATA, **AXES, totals={"down": "before", "grand_down": "before"}), Export())


def test_groups_open_and_close_and_the_page_is_set_up() -> None:
    layout = {"levels": {"area": {"page_break": True}}, "widths": {"Net": 30}}
    book = opened(
        sheet_workbook(Handover(sheet(DATA, **AXES, layout=layout), Export(chart=True, paper="letter"), brief="Net."))
    )
    cells = book.worksheets[0]
    levels = {str(cells.cell(r, 1).value): cells.row_dimensions[r].outlineLevel for r in range(6, cells.max_row + 1)}
    assert (levels["N"], levels["a"], levels["N total"], levels["Total"]) == (1, 1, 0, 0)
    assert cells.sheet_properties.outlinePr.summaryBelow is not False
    assert (cells.freeze_panes, cells.print_title_rows, cells.print_title_cols) == ("B6", "$4:$5", "$A:$A")
    setup = cells.page_setup
    assert (setup.paperSize, setup.orientation, setup.fitToHeight) == (1, "landscape", None)
    assert 80 <= setup.scale <= 90, "type of 8 to 9 points"
    assert [b.id for b in cells.row_breaks.brk] == [9]
    assert cells["B7"].number_format == "#,##0.00_);(#,##0.00);#,##0.00_)"
    assert cells["B8"].border.bottom.style is None
    total = next(r for r in range(6, cells.max_row + 1) if cells.cell(r, 1).value == "Total")
    assert (cells.cell(total, 2).border.top.style, cells.cell(total, 2).border.bottom.style) == ("thin", "double")
    assert cells.column_dimensions["B"].width > 30
    assert book.sheetnames == ["test", "About", "Chart"]
    said = [str(c.value) for row in book["About"].iter_rows() for c in row]
    assert {"Net.", "Records read", "5"} <= set(said)
    assert len(book["Chart"]._charts) == 1


def test_texts_of_every_kind_survive_and_none_is_run(tmp_path: Path) -> None:
    evil = ["=1+1", "@x", "-cmd", "\tx", "+SUM(A1)", "  =2", '=HYPERLINK("http://x")']
    names = ["Ærø–Łódź", "Καλημέρα", "שלום", "مرحبا", "東京", "한국어", "ไทย", "👩‍👩‍👧‍👦", "a\x07b", "é" * 32_767]
    data = records(a=[*evil, *names], n=list(range(len(evil) + len(names))))
    found = sheet(data, down=[{"category": "a"}], figures=[{"name": "=n", "take": "sum", "of": "n"}])
    content = sheet_workbook(Handover(found))
    assert unfit(content, "xlsx", tmp_path) == []
    cells = opened(content).worksheets[0]
    got = {cells.cell(r, 1).value: cells.cell(r, 1) for r in range(5, cells.max_row + 1)}
    for text in found.lines.labels.tolist()[1:]:
        assert text.replace("\x07", "_x0007_") in got or text in got, text[:20]
    risky = [cell for text, cell in got.items() if str(text).strip().startswith(("=", "@", "-c", "+"))]
    assert len(risky) >= 6
    assert all(cell.data_type == "s" and cell.quotePrefix for cell in risky)


def test_a_pack_has_contents_with_links_and_names_that_fit(tmp_path: Path) -> None:
    title = "A [long]: title/with * what? no name may hold, and more than it may"
    given = [Handover(sheet(DATA, **AXES, title=title)), Handover(sheet(DATA, **AXES, title=title))]
    content = workbook(given, Cover("Month end", "Northern Ferries"))
    assert unfit(content, "xlsx", tmp_path) == []
    book = opened(content)
    assert book.sheetnames[0] == "Month end"
    assert len(set(book.sheetnames)) == 5
    assert all(len(name) <= 31 for name in book.sheetnames)
    links = [book["Month end"].cell(r, 1).hyperlink.location for r in (5, 6)]
    assert book["Month end"]["A2"].value == "Northern Ferries"
    assert [link.strip("'").split("'!")[0] for link in links] == [book.sheetnames[1], book.sheetnames[3]]


def test_what_a_workbook_cannot_hold_is_said(monkeypatch: pytest.MonkeyPatch) -> None:
    wide = records(n=[123456789012345678, 1], a=["x", "y"])
    found = sheet(wide, down=[{"category": "a"}], figures=[{"name": "n", "take": "sum", "of": "n"}])
    book = opened(sheet_workbook(Handover(found)))
    assert book.worksheets[0]["B5"].value == "123456789012345678"
    assert any("more than 15 digits" in str(c.value) for row in book["About"].iter_rows() for c in row)
    monkeypatch.setattr(page, "MOST_ROWS", 10)
    with pytest.raises(DefinitionError, match="a workbook holds 10"):
        sheet_workbook(Handover(found))


def test_a_wide_worksheet_prints_year_by_year_with_its_labels_repeated() -> None:
    days = [date(2023 + m // 12, m % 12 + 1, 15) for m in range(48)]
    data = records(
        on=days, k=["A name that goes on for quite a while, as names of cost centres do"] * 48, v=[1234567.5] * 48
    )
    across = [{"period": "on", "grains": ["year", "month"]}]
    found = sheet(data, down=[{"category": "k"}], across=across, figures=[{"name": "s", "take": "sum", "of": "v"}])
    cells = opened(sheet_workbook(Handover(found, Export(way="across")))).worksheets[0]
    starts = [one.id for one in cells.col_breaks.brk]
    years = [
        i
        for i, cell in enumerate(next(r for r in cells.iter_rows() if any(c.value == "2024" for c in r)))
        if cell.value
    ]
    assert set(years[1:4]) <= set(starts), "each year begins a page"
    assert cells.page_setup.scale >= 80
    assert cells.print_title_cols == "$A:$A"
    assert cells.column_dimensions["A"].width <= 35
    named = next(cell for cell in cells["A"] if str(cell.value).startswith("A name"))
    assert named.alignment.wrap_text
    assert cells.row_dimensions[named.row].height >= 30


def test_a_workbook_opens_at_the_latest_period_and_names_its_figures() -> None:
    days = [date(2023 + m // 12, m % 12 + 1, 15) for m in range(24)]
    data = records(on=days, k=["x"] * 24, v=list(range(24)))
    figures = [{"name": "Net fare", "take": "sum", "of": "v"}, {"name": "Q1", "take": "count"}]
    across = [{"period": "on", "grains": ["month"]}]
    found = sheet(data, down=[{"category": "k"}], across=across, figures=figures)
    content = sheet_workbook(Handover(found))
    cells = opened(content).worksheets[0]
    pane = cells.sheet_view.pane
    assert pane.topLeftCell.startswith("AQ"), "Dec 2024 is in view, beside the months before it"
    assert {one.activeCell for one in cells.sheet_view.selection} >= {"AV6"}
    names = cells.defined_names
    assert set(names) >= {"Net_fare", "Q1_"}
    first, *others = names["Net_fare"].attr_text.split(",")
    assert first == f"'{cells.title}'!$B$6:$B$7"
    assert len(others) == 24
