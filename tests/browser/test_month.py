"""A month's close as one story: a file is dropped, new values are placed, the expected total agrees, ready editions are
issued, sent and read, and a difference to an earlier edition is explained."""

import json
import shutil
import time
import urllib.request
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from kalendor.demo import skerry
from tests.browser.conftest import Page, serving

MOST_CLICKS, MOST_KEYS = 32, 70


@pytest.fixture(scope="module")
def office(demo_folder: Path, tmp_path_factory: pytest.TempPathFactory) -> Iterator[tuple[str, Path]]:
    """The URL and folder of a demo workspace that the test changes."""
    folder = tmp_path_factory.mktemp("month")
    shutil.copytree(demo_folder, folder / "workspace")
    for address in serving(folder / "workspace", with_mail=True):
        yield address, folder


def asked(address: str, path: str) -> Any:
    with urllib.request.urlopen(f"{address}/api{path}") as answer:
        return json.loads(answer.read())


class Counted(Page):
    """Counts a user's actions."""

    clicks = keys = 0

    def click(self, css: str, text: str = "") -> None:
        self.clicks += 1
        super().click(css, text)

    def press(self, *keys: str) -> None:
        self.keys += len(keys)
        super().press(*keys)

    def type(self, css: str, text: str) -> None:
        self.keys += len(text)
        self.find(css).send_keys(text)


def rest_of_july(folder: Path) -> Path:
    """The pier counters' missing days."""
    lines = [text for on, text in skerry._counted() if on.isoformat() >= "2026-07-20"]
    path = folder / "pier-counters-2026-07-rest.csv"
    path.write_text("\n".join(["counted at;pier;passengers", *lines]) + "\n")
    return path


@pytest.mark.long
def test_a_month_from_the_file_that_lands_to_the_question_in_spring(page: Page, office: tuple[str, Path]) -> None:
    address, folder = office
    person = Counted(page.driver)
    person.open(f"{address}/board")
    person.find(".say b", "are due")

    # the file lands
    person.find("button.state.waits")
    person.click(".board-name a", "Pier counters")
    person.find("h1", "Pier counters")
    field = page.driver.find_element(By.CSS_SELECTOR, "input[type=file][aria-label=File]")
    field.send_keys(str(rest_of_july(folder)))
    person.click(".margin button", "Import")
    kept = lambda: "undo" in page.find(".file", "pier-counters-2026-07-rest.csv").text  # noqa: E731
    person.wait(kept, "the file is not kept")
    person.go("Board")
    person.wait(
        lambda: not page.driver.find_elements(By.CSS_SELECTOR, "button.state.waits"), "it still waits for its source"
    )

    # what is new is placed
    pick(person, "Net fare by sea area")
    person.find(".checks", "3 values have no Sea area yet: ISL-LUN, ISL-SOA, XTR-01")
    person.go("Groupings")
    person.click("a, button", "Sea areas")
    for value in ("ISL-LUN", "ISL-SOA", "XTR-01"):
        person.click(".loose-row", value)
    person.press("g")
    person.type(".rename", "New routes")
    person.press(Keys.ENTER)
    person.find("h2", "Everything is placed")
    person.click("header button", "Save")
    person.find(".tie .ok", "saved")

    # two lines were refused: looked at, and passed over from now on
    person.go("Board")
    pick(person, "Net fare by sea area")
    person.find(".checks", "2 lines were refused in tickets-2026-07.csv")
    row(person, "Net fare by sea area").find_element(By.CSS_SELECTOR, "button").click()
    person.click("[role=tab]", "Checks")
    person.click("label", "lines that were refused")
    person.click("label", "an earlier edition that has moved")
    person.click("[role=dialog] button", "Save")

    # the expected total agrees
    person.click(".board-name a", "Net fare by sea area")
    person.find(".sheet-table td.num")
    total = asked(address, f"/reports/{report_id(address)}/sheet")["cells"]["0"]
    person.click(".tie button", "adds up to")
    expected = total[-3].replace(",", "")
    person.click("button", "Add a total")
    person.write("Expected", expected)
    person.keys += len(expected)
    person.find(".tie .agrees", "expected")
    person.close_editor()

    # issue all that are ready
    person.go("Board")
    pick(person, "Net fare by sea area")
    person.find(".checks", "agrees with the expected total")
    person.press("a")
    person.find("[role=dialog]", "issued")
    person.find("[role=dialog] li", "Net fare by sea area · Jul 2026 · issued")
    person.press(Keys.ESCAPE)
    issued = next(
        e for e in asked(address, "/editions") if e["title"] == "Net fare by sea area" and e["label"] == "Jul 2026"
    )

    # send
    pick(person, "Net fare by sea area")
    person.click("[data-open]", "Open edition")
    person.find(".stamp b", "July 2026")
    person.click("header button", "Send")
    person.type("[role=dialog] input", "me@skerry-line.example")
    person.click("[role=dialog] button", "Try")
    person.find(".sending-lines td", "sent")
    person.click("[role=dialog] button", "Close")
    mail = asked(address, "/inbox")[0]
    assert (mail["subject"], mail["files"][0]["name"]) == (
        "Net fare by sea area: Jul 2026", "net-fare-by-sea-area-2026-07.pdf",
    )  # fmt: skip

    # read as a reader
    person.click("header button", "Share")
    person.click("[role=dialog] button", "Make a link")
    link = person.find(".made-link").text.split()[0]
    person.open(link)
    person.find(".stamp b", "July 2026")
    assert not page.driver.find_elements(By.CSS_SELECTOR, "nav a")
    person.press("1")
    person.shows_at("Total", -3, total[-3])
    person.click("tr.grand td.num", total[-3])
    person.find(".margin-number", total[-3])
    assert not page.driver.find_elements(By.CSS_SELECTOR, ".first td")

    # ask why April moved
    person.open(f"{address}/reports/{report_id(address)}/editions")
    person.click(".edition-list a.link", "Apr 2026")
    person.find(".stamp b", "2nd edition")
    person.find(".moved-list button")
    person.press("1")
    person.click("tr.grand td.moved")
    person.find(".cause", "Records were corrected")
    whole = person.find(".whole-move span:last-child").text
    assert whole.startswith("+")
    person.click(".cause .link", "records")
    person.find(".came td", "tickets-2026-04-corrected.csv")
    person.press(Keys.ESCAPE)
    assert office_is_whole(folder)
    assert issued["number"] == 1
    assert person.clicks <= MOST_CLICKS, person.clicks
    assert person.keys <= MOST_KEYS, person.keys


@pytest.mark.long
def test_a_pack_goes_out_in_parts_and_what_came_late_stands_in_one_list(page: Page, office: tuple[str, Path]) -> None:
    address = office[0]
    page.open(address)
    page.click("header button", "Send a pack")
    page.choose("Period", "June 2026")
    addresses = page.find("[role=dialog] textarea")
    addresses.send_keys("area@x.example = Inner Sound\nall@x.example")
    page.click("[role=dialog] button", "Send")
    page.find("[role=dialog] [role=status]", "2 mails on the way")
    page.click("[role=dialog] [role=status] a", "mail")
    page.find(".sending-lines td", "Reports of June 2026")
    page.wait(lambda: len([m for m in asked(address, "/inbox") if m["subject"].startswith("Reports of June")]) == 2)
    by = {mail["to"]: mail for mail in asked(address, "/inbox")}
    assert by["area@x.example"]["text"].strip() == "Net fare by sea area, Jun 2026: Inner Sound"
    assert [file["name"] for file in by["area@x.example"]["files"]] == ["reports-of-june-2026-inner-sound.pdf"]

    page.open(f"{address}/reports/{report_id(address)}/editions")
    page.click(".edition-list a.link", "Apr 2026")
    page.find(".cause .head", "Records were corrected")
    page.click(".cause .link", "4 records")
    page.find(".came td", "tickets-2026-04-corrected.csv")
    page.press(Keys.ESCAPE)
    page.click(".cause a", "tickets-2026-04-corrected.csv")
    page.find("h1", "Ticket sales")


def row(page: Page, title: str) -> Any:
    found = page.driver.find_elements(By.CSS_SELECTOR, ".board-name")
    return next(e for e in found if title in e.text)


def pick(page: Counted, title: str) -> None:
    """Choose the latest period of a report on the board."""
    page.clicks += 1

    def chosen() -> bool:
        return title in page.driver.find_element(By.CSS_SELECTOR, ".board-margin h2").text

    page.wait(lambda: page.find(f"button.state[aria-label*='{title}, Jul 2026']").click() or True)
    page.wait(chosen, f"cannot choose {title}")


def report_id(address: str) -> int:
    return next(r["id"] for r in asked(address, "/reports") if r["title"] == "Net fare by sea area")


def office_is_whole(folder: Path) -> bool:
    from kalendor.store.soundness import faults

    time.sleep(0.1)
    return faults(folder / "workspace") == []


def test_editions_that_moved_are_left_as_they_are_with_a_line(page: Page, office: tuple[str, Path]) -> None:
    address, _ = office
    page.open(f"{address}/")
    page.find(".say", "moved since")
    page.wait(lambda: not asked(address, "/board")["pending"])
    page.press("r")
    page.find("[role=dialog] h2", "moved since")
    page.find("[role=dialog] input").send_keys("late counters, agreed with the piers")
    page.click("[role=dialog] button", "Leave as")
    page.wait(lambda: not page.driver.find_elements(By.CSS_SELECTOR, "[role=dialog]"))
    page.wait(lambda: "moved since" not in page.find(".board-top .say").text)
    page.wait(lambda: page.driver.find_elements(By.CSS_SELECTOR, "button.state[title*='left as it is: late counters']"))
