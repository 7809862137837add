"""Takes the pictures of the main views, from the demo data, in headless Chromium."""

import csv
import io
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

from kalendor.demo import skerry
from kalendor.demo.workspace import build

HERE = Path(__file__).parent
SETTLE = 1.2


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
    page.wait(lambda: "a column for each level" in page.brief)
    page.driver.find_elements(By.CSS_SELECTOR, "tr.leaf td.num")[4].click()
    page.click("[role=tab]", "What drove it")
    page.find(".bridge tr")


def chart(page: Page, address: str) -> None:
    report("Net fare by sea area")(page, address)
    page.click(".tool", "indented")
    page.press("c")
    page.find(".chart svg")


def welcome(page: Page, _: str) -> None:
    for address in serving(Path(tempfile.mkdtemp()) / "empty"):
        page.open(address)
        page.find(".welcome")
        time.sleep(SETTLE)
        page.driver.save_screenshot(str(HERE / "welcome.png"))


def offers(page: Page, address: str) -> None:
    report("Net fare by sea area")(page, address)
    page.click(".add-phrase")
    page.find(".offers textarea").send_keys("average gross, excluding void and refunds, biggest first")
    page.find(".say-unknown", "refunds")


def source(page: Page, address: str) -> None:
    page.open(f"{address}/sources")
    page.click(".list-main", "Ticket sales")
    page.find(".columns")


def bringing_in(page: Page, address: str) -> None:
    """A month delivered again, with four late tickets of another: as it would be by the days that it spans."""
    (_, may), _, (_, july) = list(skerry.ticket_files())[-3:]
    late = [line.replace("T-", "T-L") for line in may.decode("utf-8").splitlines()[1:5]]
    file = Path(tempfile.mkdtemp()) / "tickets-2026-07-again.csv"
    file.write_text("\n".join([*july.decode("utf-8").splitlines(), *late]) + "\n")
    source(page, address)
    page.driver.find_element(By.CSS_SELECTOR, "input[type=file]").send_keys(str(file))
    page.click(".way", "Replace the days")
    page.find(".strip tr.held")


def changed(page: Page, address: str) -> None:
    """August, by an export that calls the fare type a tariff, writes dates year first and has no discount any more."""
    *_, (_, july) = list(skerry.ticket_files())
    rows = list(csv.DictReader(io.StringIO(july.decode("utf-8"))))
    file = Path(tempfile.mkdtemp()) / "tickets-2026-08.csv"
    with file.open("w", encoding="utf-8", newline="") as out:
        writer = csv.writer(out)
        writer.writerow(["ticket", "sold on", "route", "tariff", "status", "passengers", "gross"])
        for row in rows:
            day, _, clock = row["sold on"].partition(" ")
            sold = f"2026-08-{day[:2]} {clock}"
            writer.writerow([row["ticket"].replace("T-4", "T-5"), sold, row["route"], row["fare type"], row["status"],
                             row["passengers"], row["gross"]])  # fmt: skip
    source(page, address)
    page.driver.find_element(By.CSS_SELECTOR, "input[type=file]").send_keys(str(file))
    page.find("h1", "is not like the files before")


def grouping(name: str) -> Callable[[Page, str], None]:
    def go(page: Page, address: str) -> None:
        page.open(f"{address}/groupings")
        page.click(".side a", name)
        page.find("h1", name)

    return go


def board(page: Page, address: str) -> None:
    page.open(f"{address}/board")
    page.find(".board-key")
    page.wait(lambda: "have moved since" in page.find(".say").text)
    page.find(".will-say")


def cadence(page: Page, address: str) -> None:
    board(page, address)
    page.click(".board-name button", "monthly, 3 working days after")
    page.click("[role=tab]", "Checks")
    page.find("[role=dialog] .limit")


def edition(page: Page, address: str) -> None:
    """The edition of April that was issued again, a moved number taken apart."""
    page.open(f"{address}/editions/{_restated(address)}")
    page.find(".moved-list button")
    page.click(".depth button", "Sea area")
    page.click("tr.grand td.moved")
    page.find(".whole-move")


def reader(page: Page, address: str) -> None:
    """The same as others read it, under a link."""
    reader_link(page, address)
    page.find(".stamp b")
    page.find("td.num")


def reader_link(page: Page, address: str) -> None:
    """Open the edition that was issued again under a link."""
    id = _id(address, "Net fare by sea area")
    asked = urllib.request.Request(
        f"{address}/api/reports/{id}/links",
        json.dumps({"edition": _restated(address), "trail": "words"}).encode(),
        {"Content-Type": "application/json"},
    )
    page.open(address + json.loads(urllib.request.urlopen(asked).read())["path"])


def _restated(address: str) -> int:
    editions = json.loads(urllib.request.urlopen(f"{address}/api/editions").read())
    return next(int(one["id"]) for one in editions if one["number"] == 2)


def phone(page: Page, address: str) -> None:
    """The same on a phone, with a number explained."""
    size = {"width": 390, "height": 844, "deviceScaleFactor": 1, "mobile": True}
    page.driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", size)
    reader_link(page, address)
    page.click(".phone-sheet tr.inside td button")
    page.find(".phone-trail .margin-number")
    time.sleep(SETTLE)


def export(page: Page, address: str) -> None:
    report("Net fare by sea area")(page, address)
    page.click("header button", "Export")
    page.click("label", "With a chart")
    page.find(".preview-page")
    page.wait(lambda: page.driver.execute_script("return document.querySelector('.preview-page').naturalWidth > 0"))
    time.sleep(4 * SETTLE)


def _id(address: str, title: str) -> int:
    lines = json.loads(urllib.request.urlopen(f"{address}/api/reports").read())
    return next(int(line["id"]) for line in lines if line["title"] == title)


VIEWS: dict[str, Callable[[Page, str], None]] = {
    "board": board,
    "cadence": cadence,
    "edition": edition,
    "reader": reader,
    "phone": phone,
    "report": report("Net fare by sea area"),
    "report-explained": explained,
    "report-drivers": drivers,
    "report-chart": chart,
    "welcome": welcome,
    "report-add-phrase": offers,
    "reports": lambda page, address: page.open(f"{address}/reports"),
    "export": export,
    "source": source,
    "bringing-in": bringing_in,
    "changed": changed,
    "tree": grouping("Sea areas"),
    "calendar": grouping("Timetable year"),
}


def main() -> None:
    options = webdriver.ChromeOptions()
    options.binary_location = "/usr/bin/chromium"
    for flag in (*FLAGS, "--hide-scrollbars"):
        options.add_argument(flag)
    driver = webdriver.Chrome(options=options, service=Service("/usr/bin/chromedriver"))
    driver.set_window_size(1280, 800 + 800 - driver.execute_script("return innerHeight"))
    folder = Path(tempfile.mkdtemp()) / "demo"
    build(folder)
    for address in serving(folder, with_mail=True):
        for name, go in VIEWS.items():
            if len(sys.argv) < 2 or name in sys.argv[1:]:
                go(Page(driver), address)
                time.sleep(SETTLE)
                driver.save_screenshot(str(HERE / f"{name}.png"))
                driver.execute_cdp_cmd("Emulation.clearDeviceMetricsOverride", {})
    driver.quit()


if __name__ == "__main__":
    main()
