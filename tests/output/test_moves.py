"""The moves between two sheets of a report, as a line of a pack's table."""

import io
from dataclasses import astuple
from typing import Any

import openpyxl

from kalendor.core.sheet.sheet import Sheet
from kalendor.output.handover import Cover, Handover
from kalendor.output.moves import Moved, moved_since
from kalendor.output.pdf.pdf import pdf
from kalendor.output.workbook.book import workbook
from tests.core.build import records, sheet
from tests.output.test_pdf import pages

N = {"name": "N", "take": "sum", "of": "n"}


def of(areas: list[str], numbers: list[int], **keys: Any) -> Sheet:
    return sheet(records(a=areas, n=numbers), title="Report", **{"figures": [N], "down": [{"category": "a"}], **keys})


def test_the_total_and_the_line_that_moved_most() -> None:
    then = of(["x", "y", "z"], [1_000, 50, 7])
    now = of(["x", "y", "w"], [1_010, 20, 500])
    assert moved_since(now, then, "June 2026") == Moved(
        "Report", "N", "June 2026", "1,057", "1,530", "+473", "+44.7%", "w +500"
    )
    assert moved_since(of(["x"], [5]), of(["x", "y"], [5, 3]), "") == Moved(
        "Report", "N", "", "8", "5", "(3)", "−37.5%", "y (3)"
    )
    assert moved_since(then, then, "") == Moved("Report", "N", "", "1,057", "1,057", "0", "+0.0%", "")
    assert moved_since(now, of(["x"], [-5]), "") == Moved("Report", "N", "", "(5)", "1,530", "+1,535", "", "x +1,015")


def test_sheets_without_a_number_in_common_have_no_line() -> None:
    other = of(["x"], [1], figures=[{"name": "M", "take": "sum", "of": "n"}])
    assert moved_since(of(["x"], [1]), other, "") is None
    text = of(["x"], [1], figures=[{"name": "N", "take": "first", "of": "a", "by": "n"}])
    assert moved_since(of(["x"], [1]), text, "") is None
    assert moved_since(of(["x"], [1], down=[]), of(["x"], [2], down=[]), "") == Moved(
        "Report", "N", "", "2", "1", "(1)", "−50.0%", ""
    )


def test_a_pack_has_a_page_of_what_moved() -> None:
    line = Moved("Report", "N", "June 2026", "1,057", "1,530", "+473", "+44.7%", "w +500")
    read = pages(pdf([Handover(of(["x"], [1]))], Cover("July", "Ferries", moves=(line,))))
    assert len(read) == 3
    assert "What moved" in read[1]
    assert all(part in read[1] for part in ("N, since June 2026", "1,057", "1,530", "+473", "+44.7%", "most: w +500"))
    assert len(pages(pdf([Handover(of(["x"], [1]))], Cover("July")))) == 2
    book = openpyxl.load_workbook(io.BytesIO(workbook([Handover(of(["x"], [1]))], Cover("July", moves=(line,)))))
    assert book.sheetnames[:3] == ["July", "What moved", "Report"]
    assert [cell.value for cell in book["What moved"][4]] == list(astuple(line))
