"""Accessibility: every screen works by keyboard and with a screen reader."""

from pathlib import Path
from typing import Any

import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import Page
from tests.browser.test_page import made_report

AXE = Path(__file__).parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js"


def serious(page: Page) -> list[str]:
    """The findings of axe-core on the screen (WCAG 2.2 A and AA), of any severity."""
    page.driver.execute_script(AXE.read_text())
    found: list[dict[str, Any]] = page.driver.execute_async_script(
        "const done = arguments[0]; axe.run(document, {runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa']})"
        ".then(r => done(r.violations))"
    )
    return [f"{v['id']}: {v['nodes'][0]['html'][:160]}" for v in found]


@pytest.mark.parametrize(
    ("path", "there"),
    [
        ("/reports", ".report-line"), ("/sources", ".list-line"), ("/groupings", ".groupings, main"), ("/board", ".will-say"),
        ("/editions/23", ".moved-list button"), ("/history", ".history td"), ("/mail", ".say"), ("/schedules", ".say"),
        ("/reports/7/editions", ".edition-list td"),
    ],
)  # fmt: skip
def test_lists_have_no_serious_finding(page: Page, demo: str, path: str, there: str) -> None:
    page.open(demo + path)
    page.find(there)
    assert serious(page) == []


def test_the_report_screen_has_no_serious_finding(page: Page, demo: str) -> None:
    page.open(f"{demo}/reports")
    page.click(".report-line-main", "Net fare by sea area")
    page.find(".sheet-table td.num")
    assert serious(page) == []
    page.driver.find_elements(By.CSS_SELECTOR, "tr.leaf td.num")[0].click()
    page.find(".margin-number")
    assert serious(page) == []
    page.click(".add-phrase")
    page.find(".offers li")
    assert serious(page) == []


def test_the_report_screen_has_no_finding_whatever_is_open(page: Page, demo: str) -> None:
    page.open(f"{demo}/reports")
    page.click(".report-line-main", "Net fare by sea area")
    page.find(".sheet-table td.num")
    page.driver.execute_script("document.querySelector('.sheet-table').focus()")
    page.press(Keys.ARROW_DOWN, "m")
    page.find("[role=menuitem]", "Leave out")
    assert serious(page) == []
    page.press(Keys.ESCAPE)
    for phrase in range(len(page.driver.find_elements(By.CSS_SELECTOR, ".brief .phrase"))):
        page.driver.find_elements(By.CSS_SELECTOR, ".brief .phrase")[phrase].click()
        page.find(".editor .foot")
        assert serious(page) == []
        page.close_editor()
    for tool, there in (("chart", ".chart svg"), ("find", ".find"), ("note", "[role=dialog] textarea")):
        page.click(".tool", tool)
        page.find(there)
        assert serious(page) == []
    page.press(Keys.ESCAPE)
    page.wait(lambda: not page.driver.find_elements(By.CSS_SELECTOR, "[role=dialog]"), "it stays open")
    page.click(".actions button", "Export")
    page.find(".formats")
    assert serious(page) == []
    page.press(Keys.ESCAPE)
    page.wait(lambda: not page.driver.find_elements(By.CSS_SELECTOR, "[role=dialog]"), "it stays open")
    page.click(".tie button", "adds up to")
    page.find(".MuiPopover-paper, [role=dialog]")
    assert serious(page) == []


def test_new_reports_and_groupings_have_no_finding(page: Page, demo: str) -> None:
    page.open(f"{demo}/reports")
    page.find(".report-line")
    page.press("n")
    page.find(".proposal")
    assert serious(page) == []
    page.press(Keys.ESCAPE, Keys.ESCAPE)
    page.open(f"{demo}/groupings")
    page.find(".groupings .side a")
    sides = [text.splitlines()[0] for text in page.texts(".groupings .side a")]
    assert len(sides) > 3
    for name in sides:
        page.click(".groupings .side a", name)
        page.find("h1, .plain-title", name)
        assert serious(page) == []


@pytest.mark.parametrize("link", ["Ticket sales", "Freight invoices"])
def test_a_source_has_no_serious_finding(page: Page, demo: str, link: str) -> None:
    page.open(f"{demo}/sources")
    page.click(".list-main", link)
    page.find("h1", link)
    assert serious(page) == []


def test_the_welcome_has_no_serious_finding(page: Page, empty: str) -> None:
    page.open(empty)
    page.find(".welcome")
    assert serious(page) == []


def test_a_whole_report_is_made_by_keyboard_alone(page: Page, shop: str) -> None:
    made_report(page, shop)
    page.open(f"{shop}/reports")
    page.find(".report-line")
    page.press("n")
    page.find("[role=dialog] button", "Create")
    page.press(Keys.ENTER)
    page.find(".brief", "Gross and Records")

    def phrase(typed: str, wanted: str) -> None:
        page.press("/")
        field = page.find(".offers textarea")
        field.send_keys(typed)
        page.find(".offers li", wanted)
        page.find(".offers li.on, .say-reading .comes")
        page.press(Keys.ENTER)
        page.wait(lambda: not page.driver.find_elements(By.CSS_SELECTOR, ".offers"), "the offers stay")

    phrase("down area", "down by area")
    phrase("down route", "down by route")
    phrase("across year", "across by year of sold on")
    page.wait(lambda: page.lines()["North total"][0] == "30.50", "the sheet does not follow")
    page.driver.execute_script("document.querySelector('.sheet-table').focus()")
    page.press(Keys.ARROW_DOWN, Keys.ARROW_DOWN, Keys.ARROW_RIGHT, Keys.ARROW_RIGHT, Keys.ENTER)
    page.find(".margin-number")
    page.press("s")
    page.wait(lambda: "first" in page.brief, "not sorted")
    page.press(Keys.HOME, Keys.ARROW_UP)
    page.press("m")
    page.find(".MuiMenu-list li", "Leave out")
    page.press(Keys.ESCAPE)
    page.press("1")
    page.wait(lambda: "A-1" not in page.lines(), "not closed to the first level")
    page.press("?")
    page.find("[role=dialog]", "Keys")


@pytest.mark.parametrize(("width", "zoom"), [(1024, 1), (1920, 1), (1280, 2)])
def test_screens_fit_narrow_wide_and_enlarged(page: Page, demo: str, width: int, zoom: int) -> None:
    size = {"width": width // zoom, "height": 800 // zoom, "deviceScaleFactor": zoom, "mobile": False}
    page.driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", size)
    try:
        page.open(f"{demo}/reports")
        for screen, there in (("Reports", ".report-line"), ("Sources", ".list-line"), ("Reports", ".report-line")):
            page.click("nav a", screen)
            page.find(there)
            over = page.driver.execute_script("return document.documentElement.scrollWidth - window.innerWidth")
            assert over <= 0, f"{screen} is {over} pixels wider than the window"
        page.click(".report-line-main", "Net fare by sea area")
        page.find(".sheet-table td.num")
        over = page.driver.execute_script("return document.documentElement.scrollWidth - window.innerWidth")
        assert over <= 0
    finally:
        page.driver.execute_cdp_cmd("Emulation.clearDeviceMetricsOverride", {})
