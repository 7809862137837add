"""Two users of one workspace on the page: no edit is lost, and nothing in use is deleted."""

import json
import urllib.error
import urllib.request
from collections.abc import Callable
from typing import Any

import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import Page
from tests.browser.test_groupings import new_grouping
from tests.browser.test_page import made_report

Change = Callable[[dict[str, Any]], None]


def elsewhere(address: str, path: str, change: Change) -> None:
    """Another user's edit of a document, sent with the current revision."""
    with urllib.request.urlopen(f"{address}/api/{path}") as answer:
        document, revision = json.load(answer)["document"], answer.headers["ETag"]
    change(document)
    headers = {"If-Match": revision, "Content-Type": "application/json"}
    body = json.dumps(document).encode()
    urllib.request.urlopen(urllib.request.Request(f"{address}/api/{path}", body, headers, method="PUT")).close()


def by_route(document: dict[str, Any]) -> None:
    document["down"] = [{"category": "route"}]


def named(page: Page, title: str) -> None:
    """Type a new title of the report."""
    field = page.find(".title-field")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys(title, Keys.ENTER)


def deaf(page: Page, address: str) -> None:
    """A report on a page that receives no events of other users' changes."""
    script = {"source": "window.EventSource = class { close() {} };"}
    told = page.driver.execute_cdp_cmd("Page.addScriptToEvaluateOnNewDocument", script)
    made_report(page, address)
    page.line("Total")
    page.driver.execute_cdp_cmd("Page.removeScriptToEvaluateOnNewDocument", told)


@pytest.mark.parametrize("which", ["Keep mine", "Take theirs"])
def test_where_both_change_the_same_both_versions_are_shown_and_one_is_chosen(
    page: Page, shop: str, which: str
) -> None:
    page.refusals.append("412")
    deaf(page, shop)

    def titled(document: dict[str, Any]) -> None:
        by_route(document)
        document["title"] = "Theirs"

    elsewhere(shop, page.driver.current_url.split("/", 3)[3], titled)
    named(page, "Mine")
    page.find(".conflict", "Somebody else changed this report")
    page.find(".conflict", "Mine")
    page.find(".conflict", "down by route")
    page.line("B-1")
    page.click(".conflict button", which)

    def chosen() -> bool:
        kept = "Mine" if which == "Keep mine" else "Theirs"
        there = page.find(".title-field").get_attribute("value") == kept
        return there and ("B-1" in page.lines()) == (which == "Take theirs")

    page.wait(chosen, "the chosen version is not shown")
    page.driver.refresh()
    page.wait(chosen, "the chosen version is not kept")
    if which == "Keep mine":
        page.chord(Keys.CONTROL, "z")
        page.line("B-1")


def test_changes_to_other_phrases_are_both_kept_without_a_question(page: Page, shop: str) -> None:
    page.refusals.append("412")
    deaf(page, shop)
    elsewhere(shop, page.driver.current_url.split("/", 3)[3], by_route)
    page.add_phrase("across by year", "across by year of sold on")
    page.wait(lambda: page.brief.endswith("down by route, across by year."), "the changes are not joined")
    assert not page.driver.find_elements(By.CSS_SELECTOR, ".conflict")
    page.driver.refresh()
    page.wait(lambda: page.brief.endswith("down by route, across by year."), "a change was lost")


def test_what_somebody_else_changes_is_seen_without_asking(page: Page, shop: str) -> None:
    made_report(page, shop)
    page.line("Total")
    elsewhere(shop, page.driver.current_url.split("/", 3)[3], by_route)
    page.wait(lambda: page.brief.endswith("down by route."), "the change is not seen")
    page.line("B-1")


def test_edits_made_faster_than_they_are_answered_are_all_kept(page: Page, shop: str) -> None:
    made_report(page, shop)
    page.driver.execute_script(
        """const plain = window.fetch;
        window.fetch = async (...all) => { await new Promise(done => setTimeout(done, 700)); return plain(...all); };"""
    )
    page.add_phrase("down by area", "down by area")
    page.add_phrase("down by route", "down by route")
    page.add_phrase("across by year", "across by year of sold on")
    wanted = "Gross and Records, down by area then route, across by year."
    page.wait(lambda: page.brief == wanted, "the sentence does not follow")
    page.wait(lambda: page.lines()["South total"][2:] == ["101.00", "2", "101.00", "2"], "the last sheet does not come")
    page.driver.refresh()
    page.wait(lambda: page.brief.endswith("down by area then route, across by year."), "an edit was lost")


def test_a_grouping_that_somebody_else_saved_is_not_written_over(page: Page, shop: str) -> None:
    page.refusals.append("412")
    made_report(page, shop)
    new_grouping(page, shop, "Bucket set", "Ages")
    path = page.driver.current_url.split("/", 3)[3]

    def other_cuts(document: dict[str, Any]) -> None:
        document["cut"] = [10, 20, 30]

    elsewhere(shop, path, other_cuts)
    page.click("h1 button", "Ages")
    page.write("Name", "Other ages")
    page.find("[role=dialog] [role=alert]", "changed")
    with urllib.request.urlopen(f"{shop}/api/{path}") as answer:
        kept = json.load(answer)["document"]
    assert (kept["cut"], kept["name"]) == ([10, 20, 30], "Ages")


@pytest.mark.parametrize("which", ["Keep mine", "Take theirs"])
def test_changes_of_a_grouping_wait_for_a_choice_where_somebody_else_saved(page: Page, shop: str, which: str) -> None:
    page.refusals.append("412")
    made_report(page, shop)
    new_grouping(page, shop, "Bucket set", "Ages")
    path = page.driver.current_url.split("/", 3)[3]

    def other_cuts(document: dict[str, Any]) -> None:
        document["cut"] = [10, 20]

    page.click(".chip", "1–7/8–30")
    page.find("header button", "Save")
    elsewhere(shop, path, other_cuts)
    page.click("header button", "Save")
    page.find(".conflict", "Somebody else saved this grouping")
    page.click(".conflict button", "Show theirs")
    page.find("main", "10 up to 20")
    page.click(".conflict button", "Show mine")
    page.find("main", "0 up to 7")
    page.click(".conflict button", which)
    page.wait(lambda: not page.driver.find_elements("css selector", ".conflict"), "the choice is not followed")
    page.find("main", "0 up to 7" if which == "Keep mine" else "10 up to 20")
    with urllib.request.urlopen(f"{shop}/api/{path}") as answer:
        kept = json.load(answer)["document"]["cut"]
    assert kept == ([0, 7, 30] if which == "Keep mine" else [10, 20])


def test_a_source_is_renamed_and_removed_only_where_nothing_uses_it(page: Page, shop: str) -> None:
    page.refusals.append("422")
    made_report(page, shop)
    page.go("Sources")
    page.click(".list-main", "Ferry sales")
    page.click("h1 button", "Ferry sales")
    page.write("Name", "Ticket sales")
    page.find("[role=dialog] [role=alert]", "used by the report 'Ferry sales summary'")
    page.click("[role=dialog] button", "Close")
    page.click("button", "Remove Ferry sales")
    page.click("[role=dialog] button", "Remove")
    page.find("[role=dialog] [role=alert]", "used by the report 'Ferry sales summary'")
    page.click("[role=dialog] button", "Cancel")
    with urllib.request.urlopen(f"{shop}/api/reports") as answer:
        report = json.load(answer)[0]["id"]
    urllib.request.urlopen(urllib.request.Request(f"{shop}/api/reports/{report}", method="DELETE")).close()
    page.click("h1 button", "Ferry sales")
    page.write("Name", "Ticket sales")
    page.find("h1", "Ticket sales")
    page.click("button", "Remove Ticket sales")
    page.click("[role=dialog] button", "Remove")
    page.wait(lambda: page.driver.current_url.endswith("/sources"), "the source is still shown")
    page.wait(lambda: "Ticket sales" not in page.find("body").text, "the source is still listed")


NO_ANSWER = """window.plain ??= window.fetch;
window.fetch = (to, ...more) => window.refuse(String(to), more[0]?.method ?? 'GET')
  ? Promise.reject(new TypeError('no line')) : window.plain(to, ...more);
window.refuse = %s;"""


def test_edits_wait_for_a_server_that_does_not_answer(page: Page, shop: str) -> None:
    made_report(page, shop)
    page.add_phrase("down by area", "down by area")
    page.add_phrase("down by route", "down by route")
    page.line("South total")
    before = page.brief
    page.driver.execute_script(NO_ANSWER % "() => true")
    page.find(".phrase.tree", "area").send_keys("t")
    page.find(".not-saved", "Not saved yet: the server does not answer")
    assert shown(page).startswith(before), "the sentence is gone while there is nobody to word it"
    for _ in range(2):  # the sentence is the one before: its phrases may be others by now, and are left alone
        page.driver.find_element(By.CSS_SELECTOR, ".phrase.tree").send_keys(Keys.DELETE)
    page.find(".not-saved button", "Try now")
    again = "window.refuse = () => false; document.querySelector('.not-saved button').click()"
    page.driver.execute_script(again)  # at once, or they are sent again by themselves
    page.wait(lambda: not page.driver.find_elements(By.CSS_SELECTOR, ".not-saved"), "it still says not saved")
    page.wait(lambda: page.brief.endswith("down by route, across by area."), "the sentence does not follow")
    page.driver.refresh()
    page.wait(lambda: page.brief.endswith("down by route, across by area."), "an edit was lost")


def shown(page: Page) -> str:
    """The sentence on the screen, whether current or the one before."""
    text: str = page.driver.execute_script("return document.querySelector('.brief').innerText")
    return text


def test_edits_that_wait_outlive_the_screen(page: Page, shop: str) -> None:
    made_report(page, shop)
    page.line("Total")
    page.driver.execute_script(NO_ANSWER % "to => /edits/.test(to)")
    page.add_phrase("down by area", "down by area")
    page.find(".not-saved")
    report = page.driver.current_url
    page.go("Sources")
    page.driver.execute_script("window.refuse = () => false")
    page.go("Reports")
    page.click(f"a[href='/{report.split('/', 3)[3]}']")
    page.line("South")


def test_a_conflict_that_cannot_be_looked_up_keeps_the_edit(page: Page, shop: str) -> None:
    page.refusals.append("412")
    deaf(page, shop)
    elsewhere(shop, page.driver.current_url.split("/", 3)[3], by_route)
    page.driver.execute_script(NO_ANSWER % "(to, method) => method === 'GET' && /reports\\/\\d+$/.test(to)")
    page.add_phrase("down by area", "down by area")
    page.find(".not-saved")
    assert "down by area" in page.brief
    page.driver.execute_script("window.refuse = () => false")
    page.wait(lambda: "down by route then area" in page.brief, "the two changes are not joined")
