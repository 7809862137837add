"""Groupings on the page: gathering on a sheet, trees, calendars, cuts, period names."""

from pathlib import Path

import pytest
from selenium.webdriver import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import Page
from tests.browser.test_page import bring_in, made_report, new_report

DRAG = """
const [from, to] = arguments; const data = new DataTransfer();
for (const [element, kind] of [[from, 'dragstart'], [to, 'dragover'], [to, 'drop']])
  element.dispatchEvent(new DragEvent(kind, {bubbles: true, cancelable: true, dataTransfer: data,
    clientY: arguments[2] ? to.getBoundingClientRect().top + 2 : 0}));
"""


def new_grouping(page: Page, address: str, kind: str, name: str) -> None:
    page.open(f"{address}/groupings")
    page.click("header button", "New grouping")
    page.choose("Kind", kind)
    page.write("Name of the grouping", name)
    page.click("button", "Create")
    page.find("h1", name)


def test_lines_of_a_sheet_are_gathered_and_the_category_renamed(page: Page, shop: str) -> None:
    made_report(page, shop)
    page.add_phrase("down by route", "down by route")
    page.line("B-1")
    page.click(".sheet-table th.choosable", "A-1")
    with_control = ActionChains(page.driver).key_down(Keys.CONTROL)
    with_control.click(page.find(".sheet-table th.choosable", "A-2")).click(
        page.find(".sheet-table th.choosable", "B-1")
    )
    with_control.key_up(Keys.CONTROL).perform()
    page.find(".gather", "3 lines chosen")
    page.find(".gather input").send_keys("Everything", Keys.ENTER)
    page.wait(lambda: page.lines()["Everything total"] == ["126.25", "5"], "not gathered")
    page.go("Groupings")
    page.click(".tree-row.category", "Everything")
    page.press(Keys.F2)
    field = page.find(".rename")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("All routes", Keys.ENTER)
    page.find(".impact", "All routes")
    page.click("header button", "Save")
    page.find(".tie .ok", "saved")
    page.go("Reports")
    page.click(".report-line-main", "Ferry sales summary")
    page.wait(lambda: page.lines()["All routes total"] == ["126.25", "5"], "the sheet does not follow")


def test_values_are_dragged_ordered_caught_and_undone_on_the_tree(page: Page, empty: str, tmp_path: Path) -> None:
    bring_in(page, empty, tmp_path)
    page.click(".margin button", "Import")
    page.find("h1", "Ferry sales")
    new_grouping(page, empty, "Category tree, empty", "Routes")
    page.click(".loose-row", "A-1")
    page.press("g")
    field = page.find(".rename")
    field.send_keys("First", Keys.ENTER)
    page.find(".tree-row.category", "First")
    page.click(".loose-row", "B-1")
    page.press("g")
    page.find(".rename").send_keys("Second", Keys.ENTER)
    page.find(".tree-row.category", "Second")
    page.driver.execute_script(DRAG, page.find(".loose-row", "A-2"), page.find(".tree-row.category", "First"))
    page.find("h2", "Everything is placed")
    names = lambda: [text.split("\n")[0] for text in page.texts(".tree-row .name")]  # noqa: E731
    page.click(".tree-row.category", "Second")
    page.chord(Keys.ALT, Keys.ARROW_UP)
    page.wait(lambda: "Second" in names()[0], "not moved up")
    page.chord(Keys.CONTROL, "z")
    page.wait(lambda: "First" in names()[0], "not undone")
    page.click("header button", "Save")
    page.find(".tie .ok", "saved · revision 2")


def test_a_fiscal_start_is_set_and_the_years_follow(page: Page, empty: str, tmp_path: Path) -> None:
    bring_in(page, empty, tmp_path)
    page.click(".margin button", "Import")
    page.find("h1", "Ferry sales")
    new_grouping(page, empty, "Calendar of months", "Our year")
    page.find(".years", "FY26")
    page.find(".years", "1 Apr 2025 – 31 Mar 2026")
    page.click("select[aria-label='Start month'] option", "July")
    page.find(".years", "1 Jul 2025 – 30 Jun 2026")
    page.find(".year-strip", "Jul")
    page.click("header button", "Save")
    page.find(".tie .ok", "saved · revision 2")


def test_a_cut_is_dragged_and_the_counts_follow(page: Page, empty: str, tmp_path: Path) -> None:
    bring_in(page, empty, tmp_path)
    page.click(".margin button", "Import")
    page.find("h1", "Ferry sales")
    new_grouping(page, empty, "Bucket set", "Sizes")
    page.find(".ranges div", "0 up to 30\n3")
    ActionChains(page.driver).drag_and_drop_by_offset(page.find(".cut[aria-label='Cut 2']"), -170, 0).perform()
    page.wait(lambda: "30" not in page.find(".ranges").text.split("\n")[2], "the range does not follow")
    moved = int(page.find(".cut[aria-label='Cut 2']").get_attribute("aria-valuenow") or "")
    assert 0 < moved < 30
    page.write("Cuts", "0, 15")
    page.find(".ranges div", "0 up to 15\n2")


def test_periods_are_stepped_coarser_and_finer_in_place(page: Page, shop: str) -> None:
    made_report(page, shop)
    page.add_phrase("down by month", "down by month of sold on")
    page.line("Jun 2025")
    page.click(".steps button[aria-label=Coarser]")
    page.shows("2025 Q2", ["10.00", "1"])
    page.click(".steps button[aria-label=Coarser]")
    page.click(".steps button[aria-label=Coarser]")
    page.shows("2025", ["30.50", "2"])
    assert "down by year" in page.brief


def test_a_new_value_shows_as_not_placed_until_a_rule_catches_it(page: Page, shop: str) -> None:
    made_report(page, shop)
    page.add_phrase("down by route", "down by route")
    page.click(".sheet-table th.choosable", "A-1")
    page.find(".gather input").send_keys("Alphas", Keys.ENTER)
    page.wait(lambda: page.lines()["Not placed total"], "nothing is left over")
    page.find(".tie .warn", "3 records not placed")
    page.go("Groupings")
    page.click(".tree-row.category", "Alphas")
    page.press("r")
    field = page.find(".tree-row + div input")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("value LIKE '%-1' OR value LIKE 'A-%'", Keys.ENTER)
    page.find("h2", "Everything is placed")
    page.click("header button", "Save")
    page.find(".tie .ok", "saved")


def test_a_value_moves_from_a_day_on_and_the_report_chooses_how_it_counts(page: Page, shop: str) -> None:
    made_report(page, shop)
    page.add_phrase("down by route", "down by route")
    page.click(".sheet-table th.choosable", "A-1")
    page.find(".gather input").send_keys("Old", Keys.ENTER)
    page.line("Old total")
    page.go("Groupings")
    page.click(".loose-row", "A-2")
    page.press("g")
    page.find(".rename").send_keys("New", Keys.ENTER)
    page.find(".tree-row.category", "New")
    page.click(".tree-row", "A-1")
    page.press("m")
    page.write("From the day", "2026-01-01")
    page.choose("Move 1 value to", "New")
    page.find(".tree-row", "until 1 Jan 2026, then elsewhere")
    page.find(".tree-row", "since 1 Jan 2026")
    page.click("header button", "Save")
    page.find(".tie .ok", "saved")
    page.go("Reports")
    page.click(".report-line-main", "Ferry sales summary")
    page.wait(lambda: "New total" in page.lines() and "Old total" not in page.lines(), "the value has not moved")
    now = page.lines()["New total"]
    page.click(".phrase.tree")
    page.choose("Values that changed category stand", "where they were")
    page.close_editor()
    page.wait(lambda: "Old total" in page.lines(), "not counted where it was")
    assert page.lines()["New total"] != now


def test_a_grouping_is_searched_and_says_what_it_would_give(page: Page, empty: str, tmp_path: Path) -> None:
    bring_in(page, empty, tmp_path)
    page.click(".margin button", "Import")
    page.find("h1", "Ferry sales")
    new_grouping(page, empty, "Calendar of months", "Our year")
    new_grouping(page, empty, "Calendar of 52 or 53 weeks", "Retail")
    new_report(page)
    page.add_phrase("across by year of sold on", "across by year of sold on")
    page.click(".phrase.period")
    page.search("Calendar", "our", "Our year\n2 years · 4 quarters · 4 months")
    page.close_editor()
    page.find(".sheet-table thead", "FY26")


def test_a_calendar_by_table_is_written_and_read_from_a_file(page: Page, empty: str, tmp_path: Path) -> None:
    page.refusals.append("422")
    bring_in(page, empty, tmp_path)
    page.click(".margin button", "Import")
    page.find("h1", "Ferry sales")
    new_grouping(page, empty, "Calendar by table", "Changed years")
    (tmp_path / "table.csv").write_text(
        "start,end,name,year\n2025-01-01,2025-06-30,Half,A\n2025-07-01,2026-12-31,Rest,B\n"
    )
    field = page.driver.find_element(By.CSS_SELECTOR, "input[aria-label='Table file']")
    field.send_keys(str(tmp_path / "table.csv"))
    page.find(".sentence", "2 periods by table")
    page.find(".years td", "1 Jan – 30 Jun 2025")
    name = page.find("input[aria-label='Name of period 2']")
    name.send_keys(Keys.CONTROL, "a")
    name.send_keys("Long", Keys.ENTER)
    page.find(".year-strip", "Long")
    page.click("button", "Change names and holidays")
    page.write("Holidays", "2026-12-25, 2026-01-01")
    page.find(".names", "2 holidays taken off the working days: 1 Jan 2026 and 25 Dec 2026")
    page.write("Holidays", "Christmas")
    page.find(".names", "not all of these are days")
    page.click("header button", "Save")
    page.find(".tie .ok", "saved · revision 2")


SLOW_LOOKS = """const own = window.fetch;
window.fetch = async (asked, ...rest) => {
  if (String(asked.url ?? asked).includes('/look/')) await new Promise(done => setTimeout(done, 1500));
  return own(asked, ...rest);
}"""


def test_quarters_have_names_of_their_own_and_cuts_part_the_records(page: Page, empty: str, tmp_path: Path) -> None:
    bring_in(page, empty, tmp_path)
    page.click(".margin button", "Import")
    page.find("h1", "Ferry sales")
    new_grouping(page, empty, "Calendar of months", "Our year")
    page.click("button", "Change names and holidays")
    page.write("Quarter 1", "Spring")
    page.find(".year-strip.quarters", "Spring")
    page.click("header button", "Save")
    page.find(".tie .ok", "saved · revision 2")
    new_grouping(page, empty, "Bucket set", "Sizes")
    page.find(".card .sentence", "Cut at 0, 30, 60, 90 and 120.")
    page.driver.execute_script(SLOW_LOOKS)
    before = page.texts(".card .sentence, .ranges > div")
    page.click("button", "5 equal-count groups")
    page.wait(lambda: page.driver.find_elements(By.CSS_SELECTOR, ".work[aria-busy=true]"))
    assert page.texts(".card .sentence, .ranges > div") == before, "one draft is worded with another's numbers"
    page.find(".sentence", "Cut into 5 parts")
    assert len(page.texts(".ranges > div")) == 5


def test_a_line_is_dragged_before_another(page: Page, empty: str, tmp_path: Path) -> None:
    bring_in(page, empty, tmp_path)
    page.click(".margin button", "Import")
    page.find("h1", "Ferry sales")
    new_grouping(page, empty, "Category tree, empty", "Routes")
    for value, name in (("A-1", "First"), ("B-1", "Second")):
        page.click(".loose-row", value)
        page.press("g")
        page.find(".rename").send_keys(name, Keys.ENTER)
        page.find(".tree-row.category", name)
    second, first = page.find(".tree-row.category", "Second"), page.find(".tree-row.category", "First")
    page.driver.execute_script(DRAG, second, first, True)
    rows = lambda: [text.split("\n")[0] for text in page.texts(".tree-row .name")]  # noqa: E731
    page.wait(lambda: "Second" in rows()[0], "not put before the other")


@pytest.mark.parametrize("way", ["Stay here", "Discard them", "Save and go on"])
def test_whoever_leaves_changes_that_are_not_saved_is_asked(page: Page, empty: str, tmp_path: Path, way: str) -> None:
    bring_in(page, empty, tmp_path)
    page.click(".margin button", "Import")
    page.find("h1", "Ferry sales")
    new_grouping(page, empty, "Bucket set", "Sizes")
    there = page.driver.current_url
    page.write("Cuts", "0, 15")
    page.find(".ranges div", "0 up to 15")
    page.click("nav a", "Reports")
    page.find("[role=dialog]", "Save the changes to Sizes first?")
    page.click("[role=dialog] button", way)
    if way == "Stay here":
        page.wait(lambda: not page.driver.find_elements(By.CSS_SELECTOR, "[role=dialog]"), "it still asks")
        assert page.driver.current_url == there
        page.click("header button", "Save")
        page.wait(lambda: "Save" not in page.find("header .actions").text, "not saved")
    else:
        page.find("h1", "Reports")
        page.open(there)
        page.find(".ranges div", "0 up to 15" if way == "Save and go on" else "0 up to 30")
