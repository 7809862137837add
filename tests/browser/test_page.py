"""The page end to end: import a file, make a report, change it, undo, reload, export."""

from pathlib import Path
from typing import Any

import httpx
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import FERRY_SALES, Page


def bring_in(
    page: Page, address: str, folder: Path, text: str = FERRY_SALES, name: str = "ferry-sales-2026.csv"
) -> None:
    (folder / name).write_text(text)
    page.open(f"{address}/sources")
    page.find("h1", "Sources")
    page.driver.find_element(By.CSS_SELECTOR, "input[type=file]").send_keys(str(folder / name))
    page.find("h2", "Import")


def made_by_hand(page: Page, address: str, folder: Path) -> None:
    bring_in(page, address, folder)
    page.click(".margin button", "Import")
    page.find("h1", "Ferry sales")
    new_report(page)


def made_report(page: Page, address: str, **keys: Any) -> None:
    """The same report created over HTTP and opened on the page; `keys` are further keys of its document."""
    with httpx.Client(base_url=address, timeout=60) as api:
        made = api.post("/api/reports", json={"source": "Ferry sales"}).raise_for_status().json()
        if keys:
            api.put(f"/api/reports/{made['id']}", json={**made["document"], **keys}).raise_for_status()
    page.open(f"{address}/reports/{made['id']}")
    page.find(".brief")
    page.find(".sheet-table tbody tr.row")  # the keys of the sheet are there with it


def new_report(page: Page, source: str | None = None) -> None:
    page.go("Reports")
    page.click("header button", "New report")
    if source is not None:
        page.choose("Over the source", source)
    page.click("button", "Create")
    page.find(".brief")


def test_from_an_empty_workspace_to_a_report(page: Page, empty: str, tmp_path: Path) -> None:
    page.open(empty)
    page.find(".welcome", "Drop an export here")
    made_by_hand(page, empty, tmp_path)
    page.shows("Total", ["126.25", "5"])
    page.add_phrase("down by area", "down by area")
    page.shows("South", ["101.00", "2"])
    page.add_phrase("across by year", "across by year of sold on")
    page.shows("North", ["30.50", "2", "(5.25)", "1", "25.25", "3"])
    page.add_phrase("down by route", "down by route")
    page.shows("North total", ["30.50", "2", "(5.25)", "1", "25.25", "3"])
    assert page.brief == "Gross and Records, down by area then route, across by year."
    assert "Gross adds up to 126.25" in page.find(".tie").text
    assert "5 records in Ferry sales" in page.find(".tie").text


def test_a_phrase_changed_a_group_closed_undone_and_found_again(page: Page, shop: str) -> None:
    made_report(page, shop)
    page.add_phrase("down by area", "down by area")
    page.add_phrase("down by route", "down by route")
    page.line("A-1")
    page.click(".phrase.figure", "Gross")
    page.choose("Calculate", "Average")
    page.close_editor()
    page.shows("South total", ["50.50", "2"])
    page.click("button[aria-label='Close North']")
    page.wait(lambda: "A-1" not in page.lines() and page.lines()["North"] == ["8.42", "3"], "the group is not closed")
    page.chord(Keys.CONTROL, "z")
    page.wait(lambda: page.lines()["South total"] == ["101.00", "2"], "not undone")
    page.driver.refresh()
    page.wait(lambda: page.lines()["North"] == ["25.25", "3"] and "A-1" not in page.lines(), "not as it was")
    page.chord(Keys.CONTROL, Keys.SHIFT, "z")
    page.wait(lambda: page.lines()["South total"] == ["50.50", "2"], "not redone")
    page.click(".depth button", "Total")
    page.wait(lambda: list(page.lines()) == ["Total"], "not closed to the total")
    page.press("2")
    page.line("A-1")


def test_a_condition_picked_from_a_list_and_a_phrase_turned_across(page: Page, shop: str) -> None:
    made_report(page, shop)
    page.add_phrase("down by route", "down by route")
    page.add_phrase("filter area", "only where area …")
    assert "only" not in page.brief, "a new condition says something before it was told to"
    page.click(".choices label", "South")
    page.click("button", "Apply")
    page.wait(lambda: "B-1" in page.lines() and "A-1" not in page.lines(), "the condition is not followed")
    assert page.brief.endswith("only where area is South.")
    assert "3 set aside by area" in page.find(".tie").text
    page.click(".phrase.tree")
    page.click("button", "Turn across")
    page.wait(lambda: "across by route" in page.brief, "not turned")
    page.wait(lambda: page.lines()["Total"] == ["101.00", "2", "101.00", "2"], "the sheet does not follow")


def test_a_wrong_formula_is_said_at_its_place_and_the_working_one_stays(page: Page, shop: str) -> None:
    made_report(page, shop)
    page.add_phrase("formula", "Ratio = ")
    page.click(".phrase.figure", "Ratio")
    page.write("Formula", '"Gross" / "Tickets"')
    assert "no figure named 'Tickets'" in page.find(".MuiFormHelperText-root.Mui-error").text
    assert "The one before still stands" in page.find(".MuiFormHelperText-root.Mui-error").text
    page.shows("Total", ["126.25", "5", "25.25"])
    page.write("Formula", '"Records" / "Gross"')
    page.wait(lambda: page.line("Total")[2].startswith("0.04"), "the right formula is not used")


def test_a_report_that_cannot_be_worked_out_keeps_its_last_sheet(page: Page, shop: str) -> None:
    page.refusals.append("422")
    made_report(page, shop)
    page.add_phrase("rank", "rank by Gross")
    page.click(".phrase.figure", "Gross")
    page.click("button", "Remove")
    assert "no figure named 'Gross'" in page.find(".fault").text
    page.find(".sheet-paper.stale")
    page.chord(Keys.CONTROL, "z")
    page.wait(lambda: not page.driver.find_elements(By.CSS_SELECTOR, ".fault"), "the fault stays")


def test_a_file_that_is_not_text_is_refused_with_words(page: Page, empty: str, tmp_path: Path) -> None:
    (tmp_path / "picture.csv").write_bytes(b"\x89PNG\r\n\x1a\n\x00\x00")
    page.open(f"{empty}/sources")
    page.find("h1", "Sources")
    page.driver.find_element(By.CSS_SELECTOR, "input[type=file]").send_keys(str(tmp_path / "picture.csv"))
    assert "it is a picture; save it as delimited text" in page.find(".fault").text


def test_a_date_order_is_overruled_and_refused_lines_are_seen(page: Page, empty: str, tmp_path: Path) -> None:
    rows = "".join(f"0{i % 9 + 1}/0{i % 8 + 1}/2025,{i}.10\n" for i in range(40))
    bring_in(page, empty, tmp_path, f"day,amount\n03/04/2025,1.00\n{rows}04/04/2025,x1\n")
    assert "line 43: amount: 'x1' is not a number" in page.find(".refused").text
    page.find("td", "2025-04-03")
    page.click("button", "Read them month first")
    page.find("td", "2025-03-04")
    page.click(".margin button", "Import")
    page.click("button", "see 1 refused line")
    page.find("[role=dialog] td", "'x1' is not a number")
    page.click("[role=dialog] button", "Close")
    page.wait(lambda: not page.driver.find_elements(By.CSS_SELECTOR, "[role=dialog]"), "the dialog stays")
    page.click(".file button", "undo")
    page.find(".file.undone")
    page.find(".say", "0 records")


def test_the_demos_first_report(page: Page, demo: str) -> None:
    page.open(f"{demo}/reports")
    page.click(".report-line-main", "Net fare by sea area")
    assert page.brief.startswith(
        "Net fare with change on a year earlier and share of the group, down by Sea area › Route"
    )
    before = page.line("Inner Sound total")
    assert len(before) == 9
    assert "records not placed" in page.find(".tie").text
    page.click(".phrase.condition")
    page.click("button", "Remove")
    page.wait(lambda: page.lines()["Inner Sound total"] != before, "the sheet does not follow")
    page.click("header button", "Undo")
    page.wait(lambda: page.lines()["Inner Sound total"] == before, "not undone")


def test_the_keys_are_in_one_list(page: Page, demo: str) -> None:
    page.open(f"{demo}/sources")
    page.find("h1", "Sources")
    page.press("?")
    page.find("[role=dialog]", "add to the sentence, or say another")
