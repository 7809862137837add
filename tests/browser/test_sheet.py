"""Direct manipulation of the sheet: sort, find, select, question a number, layout, chart, editing in place."""

import pytest
from selenium.webdriver import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import Page
from tests.browser.test_page import made_report

BY_ROUTE = [{"category": "area"}, {"category": "route"}]


@pytest.fixture
def report(page: Page, shop: str) -> Page:
    made_report(page, shop, down=BY_ROUTE, across=[{"period": "sold on", "grains": ["year"]}])
    page.line("South total")
    return page


def cell(page: Page, label: str, place: int) -> None:
    """Click a number by its line and place."""
    script = """return [...document.querySelectorAll('.sheet-table tbody tr.row')].find(r =>
      r.querySelector('th').innerText.replace(/[▾▸]/g, '').trim() === arguments[0])?.querySelectorAll('td.num')[arguments[1]]"""
    page.wait(lambda: page.driver.execute_script(script, label, place).click() or True, f"no number at {label}")


def labels(page: Page) -> list[str]:
    return list(page.lines())


def menu(page: Page, css: str, text: str, item: str) -> None:
    page.point(css, text)
    page.click(".MuiMenu-list li", item)
    page.wait(lambda: not page.driver.find_elements(By.CSS_SELECTOR, ".MuiMenu-list"), "the menu stays open")


def test_a_number_is_questioned_down_to_its_records(report: Page) -> None:
    cell(report, "North total", 2)
    assert report.find(".margin-number").text == "(5.25)"
    assert "Sum of gross over 1 record" in report.find(".margin .note").text
    report.find(".first td", "3 Jun")
    report.click(".margin .link", "All 1 →")
    report.find("[role=dialog] td", "ferry-sales-2026.csv")
    assert report.find("[role=dialog] tbody tr td.num").text == "(5.25)"
    report.click("[role=dialog] button", "Close")
    report.press(Keys.ESCAPE)
    report.wait(lambda: not report.driver.find_elements(By.CSS_SELECTOR, ".margin"), "the margin stays")


def test_records_are_sorted_and_searched(report: Page) -> None:
    cell(report, "Total", 4)
    report.click(".margin .link", "All 5 →")
    report.click("[role=dialog] thead button", "amount")

    def amounts() -> list[str]:
        cells = report.driver.find_elements(By.CSS_SELECTOR, "[role=dialog] tbody td:first-child")
        return [c.text for c in cells]

    report.wait(lambda: amounts() == ["(5.25)", "1.00", "10.00", "20.50", "100.00"], "not sorted")
    report.driver.find_element(By.CSS_SELECTOR, "input[aria-label='Search the records']").send_keys("a-1")
    report.wait(lambda: amounts() == ["(5.25)", "10.00"], "not searched")


def test_what_drove_a_change_adds_up(report: Page) -> None:
    before = len(report.line("Total"))
    report.add_phrase("change last year", "difference of Gross on a year earlier")
    report.wait(lambda: len(report.lines()["Total"]) > before, "the figure is not on the sheet")
    cell(report, "Total", 5)
    report.click("[role=tab]", "What drove it")
    report.click(".chips button", "area")
    report.find(".bridge th", "South")
    report.find(".margin .note", "These lines add up to +65.25")


def test_a_click_on_a_heading_sorts_and_again_the_other_way(report: Page) -> None:
    report.click("thead th.num button", "Gross")
    report.wait(lambda: "largest Gross first in the column" in report.brief, "the brief does not say so")
    report.wait(lambda: labels(report)[:3] == ["North", "A-2", "A-1"], "not largest first")
    report.click("thead th.num button", "Gross")
    report.wait(lambda: labels(report)[:3] == ["North", "A-1", "A-2"], "not smallest first")
    report.click("thead th.num button", "Gross")
    report.wait(lambda: "first" not in report.brief, "still sorted")


def test_a_line_out_of_sight_is_found_and_its_group_opened(report: Page) -> None:
    report.click("button[aria-label='Close South']")
    report.wait(lambda: "B-1" not in labels(report), "not closed")
    report.press("f")
    report.driver.find_element(By.CSS_SELECTOR, "input[aria-label='Find a line']").send_keys("b-1", Keys.ENTER)
    report.line("B-1")
    report.find(".find", "1 line")


def test_a_chosen_block_is_added_up_at_the_foot_and_copied(report: Page) -> None:
    cell(report, "A-1", 0)
    report.chord(Keys.SHIFT, Keys.ARROW_DOWN)
    strip = report.find(".chosen-strip", "2 chosen")
    assert "sum 30.50" in strip.text
    assert "average 15.25" in strip.text
    script = """const data = new DataTransfer();
      document.dispatchEvent(new ClipboardEvent('copy', {clipboardData: data, bubbles: true}));
      return [data.getData('text/plain'), data.getData('text/html')]"""
    plain, html = report.driver.execute_script(script)
    assert plain == "\t2025 › Gross\nNorth › A-1\t10.00\nNorth › A-2\t20.50"
    assert "<td>20.50</td>" in html


def test_lines_stand_in_one_column_a_level_with_labels_once_or_each(report: Page) -> None:
    report.click(".tool", "columns")
    report.wait(lambda: "a column for each level" in report.brief, "the brief does not say so")

    def rows() -> list[list[str]]:
        script = """return [...document.querySelectorAll('.sheet-table tbody tr.row')].map(r =>
          [...r.querySelectorAll('th')].map(c => c.innerText.replace(/[▾▸]/g, '').trim()))"""
        return list(report.driver.execute_script(script))

    report.wait(lambda: rows()[:3] == [["North", "A-1"], ["", "A-2"], ["North total", ""]], "not in columns")
    report.click(".tool", "repeat labels")
    report.wait(lambda: rows()[1] == ["North", "A-2"], "labels are not repeated")


def test_lines_are_left_out_kept_and_put_out_of_sight_from_their_menu(report: Page) -> None:
    menu(report, ".sheet-table tbody th", "A-2", "Leave out A-2")
    report.wait(lambda: "A-2" not in labels(report) and "route is not A-2" in report.brief, "not left out")
    report.chord(Keys.CONTROL, "z")
    report.line("A-2")
    menu(report, ".sheet-table tbody th", "A-2", "Put it out of sight")
    report.wait(lambda: "A-2" not in labels(report) and "without the line" in report.brief, "still in sight")
    report.shows_at("North total", 0, "30.50")
    report.find(".sheet-head", "1 line is out of sight and still counted in totals")
    report.click(".said button", "Show all lines and columns again")
    report.line("A-2")
    menu(report, ".sheet-table tbody th", "B-1", "Keep only B-1")
    report.wait(lambda: "A-1" not in labels(report), "others are still there")


def test_lines_are_put_in_an_order_of_ones_own(report: Page) -> None:
    menu(report, ".sheet-table tbody th", "A-2", "Move up")
    report.wait(lambda: labels(report)[1:3] == ["A-2", "A-1"], "not moved")
    assert "in the order" in report.brief


def test_a_heading_compares_with_the_column_before_and_periods_step_finer(report: Page) -> None:
    menu(report, "thead th.num", "Gross", "Compare with the column before, as percent")
    report.wait(lambda: "change on the period before" in report.brief, "not compared")
    menu(report, "thead th.num", "Gross", "Finer: by half")
    report.wait(lambda: "across by half" in report.brief, "not finer")


def test_gathered_lines_are_undone_and_nothing_is_left_behind(report: Page) -> None:
    menu(report, ".sheet-table tbody th", "A-1", "Gather into a category…")
    report.driver.find_element(By.CSS_SELECTOR, "input[aria-label='Name of the category']").send_keys(
        "First", Keys.ENTER
    )
    report.wait(lambda: "First" in labels(report), "not gathered")
    report.driver.find_element(By.CSS_SELECTOR, ".sheet-table").click()
    report.chord(Keys.CONTROL, "z")
    report.wait(lambda: "First" not in labels(report) and "A-1" in labels(report), "not undone")
    report.go("Groupings")
    report.wait(
        lambda: "Route groups" not in report.driver.find_element(By.TAG_NAME, "body").text, "the tree is left behind"
    )


def test_the_chart_follows_the_sheet(report: Page) -> None:
    report.press("c")
    report.find(".chart svg")
    bars = report.driver.find_elements(By.CSS_SELECTOR, ".chart svg rect title")
    assert [bar.get_attribute("textContent") for bar in bars][:2] == ["A-1, 2025: 10.00", "A-1, 2026: (5.25)"]
    report.click(".chart .tool", "bridge")
    report.wait(lambda: len(report.driver.find_elements(By.CSS_SELECTOR, ".chart svg rect title")) == 5, "no bridge")
    report.click(".tool", "chart")
    report.line("A-1")


def test_the_records_are_listed_under_their_lines(report: Page) -> None:
    report.add_phrase("listing", "listing the records")
    report.wait(lambda: report.driver.find_elements(By.CSS_SELECTOR, "tr.record"), "no record")

    def listed() -> bool:
        rows = report.texts("tr.record")
        return any("2025-06-03" in row and "A-1" in row for row in rows)

    report.wait(listed, "the records do not come")


def out_of_line(page: Page) -> list[str]:
    """Headings that are not aligned with their columns, and phrases of the brief that are styled unlike the first."""
    script = """const box = e => e.getBoundingClientRect(), off = (a, b) => Math.abs(a - b) > 1.5, wrong = [];
      const cells = [...document.querySelectorAll('.sheet-table tbody tr.row:not(.record)')].map(r => [...r.children])[0];
      const heads = [...document.querySelectorAll('.sheet-table thead tr')].map(r => [...r.children]);
      heads[heads.length - 1].forEach((h, i) => {
        if (off(box(h).left, box(cells[i]).left) || off(box(h).width, box(cells[i]).width)) wrong.push(h.innerText);
        const p = h.dataset.p;
        if (p !== undefined && p >= 0 && cells[i].dataset.p !== p) wrong.push(`${h.innerText} at ${p}`);
      });
      const numbers = cells.filter(c => c.dataset.p >= 0);
      const over = h => h.innerText.trim() && box(h).left > box(numbers[0]).left - 2;
      const groups = heads.slice(0, -1).map(row => row.filter(over));
      for (const row of groups.filter(r => r.length)) {
        if (off(box(row[0]).left, box(numbers[0]).left)) wrong.push(row[0].innerText);
        const [last, end] = [row[row.length - 1], numbers[numbers.length - 1]];
        if (off(box(last).right, box(end).right)) wrong.push(last.innerText);
      }
      const [first, ...others] = document.querySelectorAll('.phrase');
      const looks = e => ['font-size', 'line-height', 'display', 'min-width'].map(k => getComputedStyle(e)[k]).join();
      for (const phrase of others) if (looks(phrase) !== looks(first)) wrong.push(phrase.innerText);
      return wrong"""
    return list(page.driver.execute_script(script))


def test_headings_stand_over_their_columns_and_all_phrases_look_alike(report: Page) -> None:
    def alike(what: str) -> None:
        report.wait(lambda: out_of_line(report) == [], f"{what}: {out_of_line(report)}")

    alike("two figures")
    report.add_phrase("listing", "listing the records")
    report.wait(lambda: report.driver.find_elements(By.CSS_SELECTOR, "tr.record"), "no record")
    alike("two figures and records")
    report.click(".phrase.figure", "Records")
    report.click(".editor button", "Remove")
    report.find("thead tr.last", "2025")
    report.wait(lambda: "route" in report.find("thead tr.last").text.split("Route")[1], "records have no headings")
    alike("one figure and records")
    report.add_phrase("without subtotals", "without subtotals")
    report.add_phrase("month", "across by month of sold on")
    report.click(".tool", "columns")
    report.wait(lambda: "a column for each level" in report.brief, "not in columns")
    report.wait(lambda: report.driver.find_elements(By.CSS_SELECTOR, "tr.record"), "no record")
    alike("columns by year and month, and records")


def test_what_was_typed_takes_the_place_of_the_sentence_once_it_is_understood(report: Page) -> None:
    report.click(".add-phrase")
    field = report.find(".offers textarea")
    field.send_keys("average gross by route, years across, percent change, frobnicate")
    report.click("[role=radio]", "Replace the sentence")
    report.find(".say-unknown", "“frobnicate” is not understood")
    report.find(".toned.unknown", "frobnicate")
    before = report.driver.execute_script("return document.querySelector('.say-reading').innerText")
    field.send_keys(Keys.ENTER)
    assert report.driver.find_elements(By.CSS_SELECTOR, ".offers"), "taken with a word that was not understood"
    assert "Average gross" in before
    report.click(".say-unknown button", "leave the word out")
    report.find(".say-keys", "take it")
    report.find(".offers textarea").send_keys(Keys.ENTER)
    wanted = "Average gross with change on a year earlier, down by route, across by year."
    report.wait(lambda: report.brief == wanted, report.brief)


@pytest.mark.parametrize(
    ("typed", "comes"),
    [
        ("gross by the top 2 of route, last 3 months", "the last 3 months"),
        ("this year against last year", "change on a year earlier"),
        ("excluding North", "area is not North"),
        ("year to date", "the year to date"),
    ],
)
def test_what_a_typed_sentence_adds_is_shown_before_it_is_taken(report: Page, typed: str, comes: str) -> None:
    report.click(".add-phrase")
    report.find(".offers textarea").send_keys(typed)
    report.find(".say-reading .comes", comes)
    report.find(".as-read")
    report.press(Keys.ESCAPE, Keys.ESCAPE)
    report.wait(lambda: not report.driver.find_elements(By.CSS_SELECTOR, ".offers"), "the sentence stays open")
    assert comes not in report.brief


def test_a_whole_sentence_is_edited_as_text(report: Page) -> None:
    before = report.brief
    report.click(".add-phrase", "edit as text")
    field = report.find(".offers textarea")
    assert field.get_attribute("value") == before
    field.send_keys(Keys.END, Keys.BACKSPACE, ", only area is South")
    report.find(".say-reading .comes", "area is South")
    report.find(".say-keys", "take it")
    field.send_keys(Keys.ENTER)
    report.wait(lambda: report.brief.endswith("only where area is South."), report.brief)


def test_weeks_from_a_weekday_make_their_calendar_at_its_place(report: Page) -> None:
    report.add_phrase("week sat", "down by week of sold on in Weeks from Saturday")
    report.wait(lambda: "then week in Weeks from Saturday" in report.brief, report.brief)
    report.wait(lambda: any("31 May 2025" in label for label in labels(report)), labels(report))


def test_a_phrase_is_silenced_and_used_again_and_dragged(report: Page) -> None:
    report.click(".phrase.tree", "area")
    report.click("button", "Disable")
    report.wait(lambda: "disabled (down by area)" in report.brief and "North" not in labels(report), "not silenced")
    report.click(".phrase.silenced")
    report.click("button", "Use it again")
    report.wait(lambda: "down by route then area" in report.brief, "not used again")
    script = """const [from, to] = [...document.querySelectorAll('.phrase.tree')].reverse();
      const data = new DataTransfer();
      from.dispatchEvent(new DragEvent('dragstart', {dataTransfer: data, bubbles: true}));
      to.dispatchEvent(new DragEvent('drop', {dataTransfer: data, bubbles: true, cancelable: true}))"""
    report.driver.execute_script(script)
    report.wait(lambda: "down by area then route" in report.brief, "not dragged")


def test_no_number_is_cut_off_when_the_sheet_is_scrolled_sideways(page: Page, demo: str) -> None:
    page.open(f"{demo}/reports")
    page.click(".report-line-main", "Tickets by route and month")
    page.find(".sheet-table td.num")
    page.driver.execute_script("document.querySelector('.sheet-scroll').scrollLeft = 333")
    script = """const box = document.querySelector('.sheet-scroll').getBoundingClientRect();
      const veils = [...document.querySelectorAll('.edge')].map(e => e.getBoundingClientRect());
      const stuck = document.querySelector('.sheet-table tbody tr.row th').getBoundingClientRect().right;
      const row = document.querySelector('.sheet-table tbody tr.leaf');
      return [...row.querySelectorAll('td.num')].filter(c => c.innerText).map(c => c.getBoundingClientRect())
        .filter(c => (c.left < stuck - 1 && c.right > stuck + 1) || (c.left < box.right && c.right > box.right + 1))
        .filter(c => !veils.some(v => v.left <= Math.max(c.left, stuck) + 1 && v.right >= Math.min(c.right, box.right) - 1)).length"""
    page.wait(lambda: page.driver.execute_script(script) == 0, "a number is cut off at an edge")


def test_a_choice_of_the_menu_is_typed_into_at_once(report: Page) -> None:
    """A field opened from a menu has the focus, and the sheet has it afterwards; typed letters are no commands."""
    focus = "return document.activeElement.getAttribute('aria-label') || document.activeElement.tagName"
    menu(report, ".sheet-table tbody th", "A-2", "Rename…")
    report.wait(lambda: report.driver.execute_script(focus) == "New name", "the name is not asked for")
    report.chord(Keys.CONTROL, "a")
    report.press("Second", Keys.ENTER)
    report.wait(lambda: "Second" in labels(report) and "A-2" not in labels(report), "not renamed")
    report.wait(lambda: "renaming" in report.brief, "the brief does not say so")
    menu(report, ".sheet-table tbody th", "A-1", "Gather into a category…")
    report.wait(lambda: report.driver.execute_script(focus) == "Name of the category", "the name is not asked for")
    report.press("First", Keys.ENTER)
    report.wait(lambda: "First" in labels(report), "not gathered")
    menu(report, ".sheet-table tbody th", "First", "Rename…")
    report.wait(lambda: report.driver.execute_script(focus) == "New name", "the name is not asked for")
    report.chord(Keys.CONTROL, "a")
    report.press("Scoff", Keys.ENTER)
    report.wait(lambda: "Scoff" in labels(report) and "First" not in labels(report), "not renamed")
    report.wait(lambda: report.driver.execute_script(focus) == "Sheet", "the sheet has no focus")
    assert not report.driver.find_elements(By.CSS_SELECTOR, ".chart, .find")
    menu(report, ".sheet-table thead th", "Gross", "Sort by this column")
    report.wait(lambda: "first" in report.brief, "not sorted")
    report.wait(lambda: report.driver.execute_script(focus) == "Sheet", "the sheet has no focus")


def test_all_chosen_lines_are_gathered_from_their_menu(report: Page) -> None:
    report.click(".sheet-table tbody th", "A-1")
    ActionChains(report.driver).key_down(Keys.CONTROL).click(report.find(".sheet-table tbody th", "A-2")).key_up(
        Keys.CONTROL
    ).perform()
    menu(report, ".sheet-table tbody th", "A-2", "Gather into a category…")
    report.find(".gather", "2 lines chosen")
