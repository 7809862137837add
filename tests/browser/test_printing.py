"""The browser's print output read back: the whole sheet, on the planned number of pages, without clipping."""

import base64
import io
import re
from collections import Counter
from pathlib import Path
from typing import Any

import pypdf
import pytest
from bench.odd_sheets import odd_sheets

from kalendor.core.sheet.sheet import Sheet
from kalendor.definitions.export import Export
from kalendor.output.handover import Handover
from kalendor.output.html.document import sheet_html
from kalendor.output.html.printed import print_plan
from kalendor.output.typeset import Typeset, typeset
from tests.browser.conftest import Page
from tests.core.build import records, sheet

NUMBER = re.compile(r"\(?[+−]?\d[\d,]*(?:\.\d+)?%?\)?")
LARGEST = "200 lines in 20 groups, 36 months"
SHEETS: dict[str, Sheet] = {name: one for name, one in odd_sheets() if one.lines.count < 600}


def printed(page: Page) -> list[str]:
    told: Any = page.driver.execute_cdp_cmd("Page.printToPDF", {"printBackground": True, "preferCSSPageSize": True})
    reader = pypdf.PdfReader(io.BytesIO(base64.b64decode(told["data"])))
    return [" ".join(one.extract_text().split()) for one in reader.pages]


def numbers(set_: Typeset) -> Counter[str]:
    """Each number of the sheet, with its number of occurrences."""
    texts = [text for column in set_.columns for text in set_.shown(column)]
    return Counter(text for text in texts if NUMBER.fullmatch(text))


@pytest.mark.parametrize(
    "name", [pytest.param(name, marks=pytest.mark.long if name == LARGEST else ()) for name in SHEETS]
)
def test_a_file_prints_every_number_on_the_pages_that_were_planned(page: Page, tmp_path: Path, name: str) -> None:
    given = Handover(SHEETS[name])
    set_ = typeset(given.sheet)
    (tmp_path / "sheet.html").write_bytes(sheet_html(given))
    page.open(f"file://{tmp_path / 'sheet.html'}")
    pages = printed(page)
    plan = print_plan(set_, given)
    assert abs(len(pages) - plan.pages) <= 1 + plan.pages // 20
    found = Counter(re.findall(NUMBER, " ".join(pages)))
    missing = {text: n for text, n in numbers(set_).items() if found[text] < n}
    assert not missing


def test_a_chart_is_printed_over_the_sheet_and_takes_no_page_of_its_own(page: Page, tmp_path: Path) -> None:
    given = Handover(SHEETS["12 lines, 4 years of months"], Export(chart=True))
    (tmp_path / "sheet.html").write_bytes(sheet_html(given))
    page.open(f"file://{tmp_path / 'sheet.html'}")
    assert "Line 00011" in printed(page)[0]
    assert page.driver.execute_script("return document.querySelectorAll('.printed .p-chart svg').length") == 1


def whole(page: Page) -> list[list[str]]:
    """The printed rows of the sheet: labels and numbers of the blocks that exist while the browser prints."""
    script = """dispatchEvent(new Event('beforeprint'));
      return [...document.querySelectorAll('.printed tbody tr:not(.p-group), .printed tr.p-heading')].map(r => [...r.cells].map(c => c.textContent))"""
    found: list[list[str]] = page.driver.execute_script(script)
    page.driver.execute_script("dispatchEvent(new Event('afterprint'))")
    return found


def test_a_report_and_an_edition_print_the_whole_sheet_whatever_the_screen_shows(page: Page, demo: str) -> None:
    page.open(f"{demo}/reports")
    page.click(".report-line-main", "Tickets by route and month")
    page.click(".depth button", "Total")
    text = " ".join(printed(page))
    rows = whole(page)
    assert len([row for row in rows if row[0] == "Total"]) == 1
    assert any(row[0] == "Skarr – Vole" for row in rows), "closed groups are printed"
    assert "Undo" not in text
    assert all(cell in text for row in rows for cell in row)
    assert page.driver.execute_script("return document.querySelectorAll('.printed').length") == 0
    page.open(f"{demo}/editions/1")
    page.find(".sheet-table")
    text, rows = " ".join(printed(page)), whole(page)
    assert "sealed" in text
    assert rows
    assert all(cell in text for row in rows for cell in row)


def test_a_group_is_named_on_each_page_that_it_goes_on_to(page: Page, tmp_path: Path) -> None:
    many = {"Alpha": 9, "Beta": 130, "Gamma": 70}
    lines = [(group, f"{group} line {n:03}", n) for group, count in many.items() for n in range(count)]
    data = records(group=[one[0] for one in lines], line=[one[1] for one in lines], n=[one[2] for one in lines])
    found = sheet(
        data, down=[{"category": "group"}, {"category": "line"}], figures=[{"name": "N", "take": "sum", "of": "n"}]
    )
    (tmp_path / "sheet.html").write_bytes(sheet_html(Handover(found)))
    page.open(f"file://{tmp_path / 'sheet.html'}")
    pages = printed(page)
    assert len(pages) > 3
    for text in pages:
        for group in many:
            own = f"{group} line" in text
            assert bool(re.search(rf"{group}(?! line| total)", text)) == own, (group, text)
