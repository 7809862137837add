"""OpenDocument spreadsheets read by an independent reader."""

import io
import re
import zipfile
from decimal import Decimal
from pathlib import Path
from typing import Any

import odf.table
import pytest
from hypothesis import given, settings
from odf.opendocument import load

from kalendor.core.sheet.sheet import Sheet
from kalendor.definitions.export import Export
from kalendor.output.handover import Handover
from kalendor.output.opendocument import sheet_ods
from kalendor.output.typeset import typeset
from tests.core.build import records, sheet
from tests.core.test_any_report import reports, worked
from tests.output.standards import unfit
from tests.output.test_workbook import AXES, DATA


def cells(content: bytes) -> list[list[Any]]:
    table = load(io.BytesIO(content)).spreadsheet.getElementsByType(odf.table.Table)[0]
    return [list(row.childNodes) for row in table.getElementsByType(odf.table.TableRow)]


def check(found: Sheet) -> int:
    """Every cell equals that of the sheet, to the last digit; returns the number of live totals."""
    content = sheet_ods(Handover(found))
    assert content == sheet_ods(Handover(found))
    set_ = typeset(found)
    rows = cells(content)[3 + len(set_.headings) :]
    lead = len(set_.label_heads) + len(set_.listed)
    live = 0
    for k, column in enumerate(set_.columns):
        plain, numeric = set_.plain(column)
        for i in range(len(set_.rows)):
            cell = rows[i][lead + k]
            value = cell.getAttribute("value")
            live += bool(cell.getAttribute("formula"))
            if numeric[i] and plain[i]:
                assert Decimal(value) == Decimal(plain[i])
            else:
                assert (cell.getAttribute("stringvalue") or "") == plain[i]
    return live


@given(reports())
@settings(max_examples=30)
def test_any_sheet_is_in_its_spreadsheet_whole(report: dict[str, Any]) -> None:
    found = worked(report, None)
    if not isinstance(found, str):
        check(found)


def test_groups_and_live_totals() -> None:
    found = sheet(DATA, **AXES)
    assert check(found) > 5
    content = sheet_ods(Handover(found))
    table = load(io.BytesIO(content)).spreadsheet.getElementsByType(odf.table.Table)[0]
    assert len(table.getElementsByType(odf.table.TableRowGroup)) == 2
    values = cells(sheet_ods(Handover(found, Export(subtotals="values"))))
    assert not any(cell.getAttribute("formula") for row in values for cell in row if cell.qname[1] == "table-cell")


def test_texts_of_every_kind_survive() -> None:
    names = ["=1+1", "<b>&amp;", "שלום", "東京", "👩‍👩‍👧‍👦", "a\x07b", '"quoted"']
    found = sheet(records(a=names, n=[123456789012345678] * len(names)), down=[{"category": "a"}], figures=[
        {"name": "n", "take": "sum", "of": "n"}])  # fmt: skip
    check(found)
    said = {
        cell.getAttribute("stringvalue")
        for row in cells(sheet_ods(Handover(found)))
        for cell in row
        if cell.qname[1] == "table-cell"
    }
    assert {"=1+1", "<b>&amp;", "שלום", "東京", "a␇b"} <= said


@pytest.mark.parametrize(
    ("form", "signed", "styles"),
    [
        ({}, False, ("# ", "# ", "(#)")),
        ({"negative": "minus"}, False, ("#", "#", "\u2212#")),
        ({"zero": "dash"}, False, ("# ", "– ", "(#)")),
        ({"currency": "€"}, True, ("+€# ", "€# ", "(€#)")),
    ],
)
def test_numbers_are_formatted_as_on_the_screen(
    form: dict[str, Any], signed: bool, styles: tuple[str, ...], tmp_path: Path
) -> None:
    """The formats of positive, negative and zero numbers; a space takes the place of a bracket, so that digits
    align."""
    number = {"name": "N", "take": "sum", "of": "n", "format": form}
    change = {"name": "C", "compare": "N", "with": {"figure": "M"}, "format": form}
    figures = [number, {"name": "M", "take": "sum", "of": "m"}, change]
    content = sheet_ods(
        Handover(sheet(records(a=["x", "y"], n=[5, -5], m=[1, 0]), down=[{"category": "a"}], figures=figures))
    )
    with zipfile.ZipFile(io.BytesIO(content)) as archive:
        text = archive.read("content.xml").decode()
    name = "n2" if signed else "n0"
    found = [
        re.search(rf'<number:number-style style:name="{name}{part}".*?</number:number-style>', text)
        for part in ("P0", "P1", "")
    ]
    plain = [re.sub(r"<number:number .*?/>", "#", one[0]) for one in found if one]
    assert tuple(re.sub(r"<.*?>", "", one) for one in plain) == styles
    assert unfit(content, "ods", tmp_path) == []
