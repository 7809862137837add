"""Rounding that adds up is the same in every format for people; data formats stay exact."""

import io
import re
import zipfile
from decimal import Decimal

import openpyxl
from pypdf import PdfReader

from kalendor.core.placing.material import Material
from kalendor.core.sheet.sheet import Sheet
from kalendor.core.trail.cell import Cell
from kalendor.output.handover import Export, Handover
from kalendor.output.told import sentences
from kalendor.output.writers import write
from tests.core.build import records, report, sheet, traced

FIGURE = {"name": "s", "take": "sum", "of": "v", "format": {"foots": True, "unit": "thousands", "places": 0}}
DATA = records(v=[Decimal(1400), Decimal(1400), Decimal(1400)], k=["a", "b", "c"])
LINES = ["2", "1", "1", "4"]


def three() -> Sheet:
    return sheet(DATA, figures=[FIGURE], down=[{"category": "k"}])


def test_files_that_people_read_show_the_same_rounding() -> None:
    page = write(Handover(three()), "html").decode()
    assert re.findall(r'<td class="num">([^<]*)</td>', page) == LINES
    text = PdfReader(io.BytesIO(write(Handover(three()), "pdf"))).pages[0].extract_text()
    assert [re.findall(rf"{label}\s+(\d)\b", text)[-1] for label in ("a", "b", "c", "Total")] == LINES
    content = zipfile.ZipFile(io.BytesIO(write(Handover(three()), "ods"))).read("content.xml").decode()
    assert re.findall(r'office:value="(\d+)"', content)[:4] == ["2000", "1000", "1000", "4000"]


def test_a_workbook_holds_the_rounded_numbers_and_its_live_totals_add_them_up() -> None:
    book = openpyxl.load_workbook(io.BytesIO(write(Handover(three(), Export(subtotals="live")), "xlsx")))
    values = [cell.value for row in book.worksheets[0].iter_rows() for cell in row if cell.value is not None]
    numbers = [v for v in values if isinstance(v, int)]
    assert numbers == [2000, 1000, 1000]
    assert any(isinstance(v, str) and v.startswith("=SUBTOTAL") for v in values)


def test_files_of_data_hold_the_numbers_themselves() -> None:
    assert write(Handover(three()), "csv").decode().count("1400") == 3


def test_the_explanation_of_a_number_says_what_its_nearest_would_be() -> None:
    found = three()
    document = report(figures=[FIGURE], down=[{"category": "k"}])
    told = [sentences(traced(document, Material(DATA), found, Cell("s", line, 0))) for line in (1, 2)]
    assert "It is rounded so that what is shown adds up; the nearest would be 1." in told[0]
    assert not any("rounded" in sentence for sentence in told[1])
