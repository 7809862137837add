"""Exports from the page: the dialog with its preview, packs, bundles, and the HTML file opened in a browser."""

import json
import re
from pathlib import Path

import pytest
from selenium.webdriver.common.by import By

from kalendor.core.sheet.sheet import Sheet
from kalendor.definitions.export import Export
from kalendor.output.handover import Handover
from kalendor.output.html.document import sheet_html
from kalendor.output.typeset import typeset
from tests.browser.conftest import Page
from tests.browser.test_figures import made_report
from tests.core.build import records, sheet


@pytest.fixture
def report(page: Page, shop: str) -> Page:
    made_report(page, shop, down=[{"category": "area"}, {"category": "route"}])
    page.line("South total")
    return page


def gone(page: Page) -> None:
    page.wait(lambda: not page.driver.find_elements(By.CSS_SELECTOR, "[role=dialog]"), "the dialog stays")


def test_a_sheet_is_exported_with_a_preview_and_choices_that_are_kept(report: Page) -> None:
    report.click("header button", "Export")
    report.find(".preview-page")
    report.find(".preview .say", "groups of area open and close")
    report.find(".headline textarea", "Gross came to 126.25.")
    report.click(".formats button", "Delimited text")
    report.choose("Separator", "semicolon")
    report.wait(lambda: "area · route;Gross;Records" in report.find(".preview-text").text, "no semicolons")
    report.choose("Files", "one for each area, in a zip")
    report.click("[role=dialog] button", "Export")
    gone(report)
    report.click("header button", "Export")
    report.find(".formats button.on", "Delimited text")
    report.find(".preview-text", "area · route;Gross;Records")


def test_a_headline_in_own_words_is_kept_and_written_again(report: Page) -> None:
    report.click("header button", "Export")
    report.find(".headline textarea", "Gross came to 126.25.")
    report.write("Headline, a sentence a line", "A good summer.")
    report.find(".headline .link", "Write it from the numbers again").click()
    report.find(".headline textarea", "Gross came to 126.25.")


def test_packs_and_bundles_go_out_and_in(report: Page, shop: str, tmp_path: Path) -> None:
    title = "Ferry sales summary"
    id = report.driver.current_url.rsplit("/", 1)[1].split("?")[0]
    script = "return fetch(arguments[0]).then(r => r.text())"
    bundle = report.driver.execute_script(script, f"/api/reports/{id}/bundle")
    assert [d["kind"] for d in json.loads(bundle)["documents"]] == ["report", "recipe"]
    (tmp_path / "bundle.json").write_text(bundle)
    report.open(f"{shop}/reports")
    report.click("header button", "Export a pack")
    report.click("[role=dialog] label", title)
    report.click("[role=dialog] button", "Export 1 report")
    gone(report)
    report.click("header button", "Import a definition")
    report.driver.find_element(By.CSS_SELECTOR, "[role=dialog] input[type=file]").send_keys(
        str(tmp_path / "bundle.json")
    )
    report.find("[role=dialog] p", f"The report {title} over Ferry sales")
    report.click("[role=dialog] button", "Import")
    report.wait(lambda: f"{title} 2" in report.driver.page_source, "the second report is not shown")


def test_the_page_and_the_files_read_a_report_out_alike(page: Page, demo: str) -> None:
    page.open(f"{demo}/reports")
    page.find(".report-line-main")
    lines = page.driver.execute_script("return fetch('/api/reports').then(r => r.json())")
    script = "return [...document.querySelectorAll('.report-line-main')].map(e => e.innerText)"
    shown = page.driver.execute_script(script)
    assert len(lines) >= 7
    for line in lines:
        assert any(line["said"] in text for text in shown), (line["said"], shown)


DATA = records(
    area=["N", "N", "S", "S"], route=["<b>a</b>", "b", "a", "שלום"], net=["1.10", "-2.25", "30.00", "4.40"],
    year=["x", "y", "x", "y"],
)  # fmt: skip


def seen_rows(page: Page) -> list[list[str]]:
    script = """return [...document.querySelectorAll('tbody tr')].filter(r => !r.hidden).map(r =>
      [...r.children].filter(c => !c.classList.contains('gap')).map(c =>
        getComputedStyle(c).visibility === 'hidden' ? '' : c.innerText.trim()))"""
    return list(page.driver.execute_script(script))


def expected(found: Sheet) -> list[list[str]]:
    set_ = typeset(found)
    shown = [set_.shown(column) for column in set_.columns]
    return [[row.labels[0], *(column[i] for column in shown)] for i, row in enumerate(set_.rows)]


def test_the_file_for_a_browser_holds_every_number_opens_and_closes_and_finds(page: Page, tmp_path: Path) -> None:
    figures = [{"name": "Net", "take": "sum", "of": "net"}, {"name": "n", "take": "count"}]
    found = sheet(
        DATA, down=[{"category": "area"}, {"category": "route"}], across=[{"category": "year"}], figures=figures
    )
    content = sheet_html(Handover(found, Export(chart=True), headline=("All <i>well</i>.",)))
    (tmp_path / "sheet.html").write_bytes(content)
    page.open(f"file://{tmp_path}/sheet.html")
    assert seen_rows(page) == expected(found)
    assert page.find(".lead").text == "All <i>well</i>."
    assert not page.driver.find_elements(By.CSS_SELECTOR, "tbody b")
    page.find(".chart svg")
    page.click(".toggle", "N")
    rows = seen_rows(page)
    assert rows[0][0] == "N"
    assert rows[0][1:] == next(row[1:] for row in expected(found) if row[0] == "N total"), (
        "a closed group bears its total"
    )
    assert [row[0] for row in rows].count("b") == 0
    page.click("[data-level]", "area")
    assert [row[0] for row in seen_rows(page)] == ["N", "S", "Total"]
    page.find("#find").send_keys("שלום")
    page.find("#found", "1 found")
    assert "שלום" in [row[0] for row in seen_rows(page)]
    page.click("#shade")
    assert page.driver.execute_script("return document.documentElement.className") == "dark"
    assert page.severe() == []


def test_numbers_and_dates_are_written_as_the_workspace_says(report: Page, shop: str) -> None:
    there = report.driver.current_url
    report.open(f"{shop}/board")
    report.click("footer button", "numbers and dates")
    report.choose("Numbers", "1.234,50")
    report.choose("Dates", "Jul 31, 2026")
    report.click("[role=dialog] button", "Save")
    gone(report)
    report.open(there)
    report.shows("South total", ["101,00", "2"])
    report.find(".tie", "126,25")
    assert re.search(r"as of [A-Z][a-z]{2} \d{1,2}, 20", report.find("header", "as of").text)
    report.click(".sheet-table td", "101,00")
    report.find(".margin", "101,00")
