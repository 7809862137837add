"""Takes the pictures of the main views, from the demo data, in headless Chromium."""

import json
import sys
import tempfile
import time
import urllib.request
from collections.abc import Callable
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[2]))

from selenium import webdriver
from selenium.webdriver.chrome.service import Service
from selenium.webdriver.common.by import By
from tests.browser.conftest import FLAGS, Page, serving

HERE = Path(__file__).parent
SETTLE = 1.2
SAMPLE = "paid on,harbour,amount\n" + "".join(
    f"{1 + i % 28:02d}/0{1 + i % 7}/2026,{'Hallin' if i % 3 else 'Brae'},{i * 7 % 90}.50\n" for i in range(60)
)


def report(title: str) -> Callable[[Page, str], None]:
    def go(page: Page, address: str) -> None:
        page.open(f"{address}/reports")
        page.click(".report-line-main", title)
        page.find(".sheet-table td.num")

    return go


def explained(page: Page, address: str) -> None:
    report("Net fare by sea area")(page, address)
    page.driver.find_elements(By.CSS_SELECTOR, "tr.leaf td.num")[3].click()
    page.find(".first td")


def drivers(page: Page, address: str) -> None:
    report("Net fare by sea area")(page, address)
    page.click(".tool", "columns")
    page.wait(lambda: "one column a level" in page.brief)
    page.driver.find_elements(By.CSS_SELECTOR, "tr.leaf td.num")[4].click()
    page.click("[role=tab]", "What drove it")
    page.find(".bridge tr")


def chart(page: Page, address: str) -> None:
    report("Net fare by sea area")(page, address)
    page.click(".tool", "indented")
    page.press("c")
    page.find(".chart svg")


def welcome(page: Page, _: str) -> None:
    for address in serving(Path(tempfile.mkdtemp()) / "empty", "serve"):
        page.open(address)
        page.find(".welcome")
        time.sleep(SETTLE)
        page.driver.save_screenshot(str(HERE / "welcome.png"))


def phrase(page: Page, address: str) -> None:
    report("Net fare by sea area")(page, address)
    page.click(".phrase.tree")


def offers(page: Page, address: str) -> None:
    report("Net fare by sea area")(page, address)
    page.click(".add-phrase")
    page.find(".offers input").send_keys("net by sea area, month across, percent change")
    page.find(".offers li.whole")


def source(page: Page, address: str) -> None:
    page.open(f"{address}/sources")
    page.click(".list-main", "Ticket sales")
    page.find(".columns")


def bringing_in(page: Page, address: str) -> None:
    file = Path(tempfile.mkdtemp()) / "harbour-dues-2026.csv"
    file.write_text(SAMPLE + "31/07/2026,Brae,about 90\n")
    page.open(f"{address}/sources")
    page.find("h1", "Sources")
    page.driver.find_element(By.CSS_SELECTOR, "input[type=file]").send_keys(str(file))
    page.find("h2", "Import")


def grouping(name: str) -> Callable[[Page, str], None]:
    def go(page: Page, address: str) -> None:
        page.open(f"{address}/groupings")
        page.click(".side a", name)
        page.find("h1", name)

    return go


def made_column(page: Page, address: str) -> None:
    source(page, address)
    page.click("header button", "Add a column")
    page.write("Name of the column", "per head")
    page.write("Formula", "net / passengers")
    page.find("[role=dialog] td")


def export(page: Page, address: str) -> None:
    report("Net fare by sea area")(page, address)
    page.click("header button", "Export")
    page.click("label", "With a chart")
    page.find(".preview-page")
    page.wait(lambda: page.driver.execute_script("return document.querySelector('.preview-page').naturalWidth > 0"))
    time.sleep(4 * SETTLE)


def web_page(page: Page, address: str) -> None:
    """The file for a browser, a group closed."""
    id = _id(address, "Net fare by sea area")
    file = Path(tempfile.mkdtemp()) / "sheet.html"
    file.write_bytes(urllib.request.urlopen(f"{address}/api/reports/{id}/file?format=html").read())
    page.open(f"file://{file}")
    page.click(".toggle", "North Isles")


def printed_page(address: str) -> None:
    """The first page of the PDF, as the server draws it."""
    id = _id(address, "Year so far, month by month")
    picture = urllib.request.urlopen(f"{address}/api/reports/{id}/preview.png").read()
    (HERE / "printed-page.png").write_bytes(picture)


def _id(address: str, title: str) -> int:
    lines = json.loads(urllib.request.urlopen(f"{address}/api/reports").read())
    return next(int(line["id"]) for line in lines if line["title"] == title)


VIEWS: dict[str, Callable[[Page, str], None]] = {
    "report": report("Net fare by sea area"),
    "report-explained": explained,
    "report-drivers": drivers,
    "report-chart": chart,
    "welcome": welcome,
    "report-phrase": phrase,
    "report-add-phrase": offers,
    "report-years-across": report("Year so far, month by month"),
    "reports": lambda page, address: page.open(f"{address}/reports"),
    "export": export,
    "web-page": web_page,
    "source": source,
    "bringing-in": bringing_in,
    "made-column": made_column,
    "report-against-plan": report("Net fare against plan"),
    "tree": grouping("Sea areas"),
    "calendar": grouping("Timetable year"),
    "buckets": grouping("Days overdue"),
}


def main() -> None:
    options = webdriver.ChromeOptions()
    options.binary_location = "/usr/bin/chromium"
    for flag in (*FLAGS, "--hide-scrollbars"):
        options.add_argument(flag)
    driver = webdriver.Chrome(options=options, service=Service("/usr/bin/chromedriver"))
    driver.set_window_size(1280, 800 + 800 - driver.execute_script("return innerHeight"))
    for address in serving(Path(tempfile.mkdtemp()) / "demo", "demo"):
        for name, go in VIEWS.items():
            if len(sys.argv) < 2 or name in sys.argv[1:]:
                go(Page(driver), address)
                time.sleep(SETTLE)
                driver.save_screenshot(str(HERE / f"{name}.png"))
        if len(sys.argv) < 2 or "printed-page" in sys.argv[1:]:
            printed_page(address)
    driver.quit()


if __name__ == "__main__":
    main()
