"""An edition on a phone and on a tablet: the latest period first, groups opened by touch, a number explained, nothing
cut off."""

import json
import urllib.request
from collections.abc import Iterator

import pytest
from selenium.webdriver.common.by import By

from tests.browser.conftest import Page
from tests.browser.test_access import serious

FITS = "return document.documentElement.scrollWidth <= innerWidth"
SMALL = """return [...document.querySelectorAll('button, a, [role=button]')]
  .filter(e => e.getClientRects().length && e.checkVisibility({ visibilityProperty: true }))
  .filter(e => { const box = e.getBoundingClientRect(); return box.width < 24 || box.height < 24 })
  .map(e => e.outerHTML.slice(0, 90))"""
SWIPE = """const sheet = document.querySelector('.phone-sheet');
const touch = x => new Touch({ identifier: 1, target: sheet, clientX: x, clientY: 400 });
sheet.dispatchEvent(new TouchEvent('touchstart', { bubbles: true, touches: [touch(300)] }));
sheet.dispatchEvent(new TouchEvent('touchend', { bubbles: true, changedTouches: [touch(arguments[0])] }))"""


def link(address: str, title: str) -> str:
    """The link to the editions of a demo report."""
    with urllib.request.urlopen(f"{address}/api/reports") as answer:
        id = next(one["id"] for one in json.load(answer) if one["title"] == title)
    asked = urllib.request.Request(
        f"{address}/api/reports/{id}/links", b"{}", {"Content-Type": "application/json"}, method="POST"
    )
    with urllib.request.urlopen(asked) as answer:
        return f"{address}{json.load(answer)['path']}"


def sized(page: Page, width: int, height: int) -> None:
    page.driver.execute_cdp_cmd(
        "Emulation.setDeviceMetricsOverride", {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": True}
    )


@pytest.fixture
def phone(page: Page) -> Iterator[Page]:
    sized(page, 390, 844)
    yield page
    page.driver.execute_cdp_cmd("Emulation.clearDeviceMetricsOverride", {})


def pressed(page: Page) -> str:
    return page.find(".phone-periods button[aria-pressed=true]").text


def test_an_edition_is_read_on_a_phone(phone: Page, demo: str) -> None:
    phone.open(link(demo, "Net fare by sea area"))
    phone.find("h1")
    assert phone.driver.execute_script(FITS)
    phone.click("a", "Jun 2026")
    phone.find(".phone-lead", "Net fare in TY26")
    assert pressed(phone) == "TY26 · to 30 Jun"
    first = phone.find(".phone-sheet tr.group td").text
    phone.driver.execute_script(SWIPE, 100)
    phone.wait(lambda: pressed(phone) == "TY25 · to 30 Jun", "a swipe does not show the period before")
    phone.wait(lambda: phone.find(".phone-sheet tr.group td").text != first, "the numbers stay")
    phone.driver.execute_script(SWIPE, 295)
    assert pressed(phone) == "TY25 · to 30 Jun", "a touch is no swipe"
    phone.click(".phone-periods button", "TY26")
    phone.wait(lambda: phone.find(".phone-sheet tr.group td").text == first, "the period is not shown again")
    lines = len(phone.driver.find_elements(By.CSS_SELECTOR, ".phone-sheet tbody tr"))
    phone.click(".phone-sheet th button", "Inner Sound")
    phone.wait(lambda: len(phone.driver.find_elements(By.CSS_SELECTOR, ".phone-sheet tbody tr")) != lines, "no group")
    number = phone.find(".phone-sheet tr.group td button")
    shown = number.text
    number.click()
    phone.wait(lambda: phone.find(".phone-trail .margin-number").text == shown, "no explanation")
    assert serious(phone) == []
    assert phone.driver.execute_script(FITS)
    assert phone.driver.execute_script(SMALL) == []
    phone.click(".phone-trail .margin-close")
    phone.click(".phone-foot button", "Chart")
    phone.find(".phone-chart svg")
    assert phone.driver.execute_script(FITS)
    assert serious(phone) == []
    phone.click(".phone-foot button", "Export")
    phone.find("[role=menuitem]", "Workbook")


@pytest.mark.parametrize("title", ["Freight owed by age", "Passengers by pier and hour", "Year so far, month by month"])
def test_every_edition_of_the_demo_fits_a_phone(phone: Page, demo: str, title: str) -> None:
    phone.open(link(demo, title))
    phone.click(".list-main, .edition-lines a, main a")
    phone.find(".phone-sheet tbody td", "")
    assert phone.driver.execute_script(FITS)
    assert phone.driver.execute_script(SMALL) == []


def test_an_analyst_looks_and_issues_from_a_tablet(phone: Page, demo: str) -> None:
    sized(phone, 820, 1180)
    for path in ("board", "reports", "sources", "groupings", "editions/1"):
        phone.open(f"{demo}/{path}")
        phone.find("main")
        phone.wait(lambda: phone.driver.execute_script(FITS), f"{path} is cut off")
    phone.open(f"{demo}/board")
    phone.find("header button", "Issue all that are ready")
    phone.find("button", "Issue Jul 2026 edition")
