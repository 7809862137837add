"""Sources on the page: a replaced month, a mended line, a look-up with unmatched keys, a summary."""

from pathlib import Path

from selenium.webdriver.common.by import By

from tests.browser.conftest import Page
from tests.browser.test_page import bring_in, made_report

JULY = "day,code,n\n2026-06-30,A,1\n2026-07-01,A,2\n2026-07-02,Z,3\n"


def send(page: Page, folder: Path, text: str, name: str) -> None:
    (folder / name).write_text(text)
    page.driver.find_element(By.CSS_SELECTOR, "input[type=file][aria-label=File]").send_keys(str(folder / name))
    page.find("h2", "Import")


def test_a_month_is_replaced_and_the_replacement_undone(page: Page, empty: str, tmp_path: Path) -> None:
    bring_in(page, empty, tmp_path, JULY, "counts.csv")
    page.click(".margin button", "Import")
    page.find(".say", "3 records")
    send(page, tmp_path, "day,code,n\n2026-07-01,A,20\n2026-07-02,B,30\n2026-07-03,B,40\n", "counts-again.csv")
    page.click(".way", "Replace the days 1")
    page.find(".way.on", "2 records leave")
    page.click(".margin button", "Import")
    page.find(".say", "4 records")
    page.find(".file", "replaced the days it spans")
    page.click(".file button", "undo")
    page.find(".say", "3 records")


def test_a_month_that_would_be_taken_away_is_held_and_another_way_taken(page: Page, empty: str, tmp_path: Path) -> None:
    bring_in(page, empty, tmp_path, JULY, "counts.csv")
    page.click(".margin button", "Import")
    page.find(".say", "3 records")
    send(page, tmp_path, "day,code,n\n2026-06-30,A,1\n2026-07-01,A,2\n", "half.csv")
    page.find("[role=alert]", "2 of its 2 records stand already")
    page.click(".way", "Replace everything")
    page.find(".strip tr.held", "July 2026")
    page.find("[role=alert]", "July 2026 would go from 2 records to 1")
    page.find(".margin button", "Import it all the same")
    page.click(".margin button", "Cancel")
    page.find(".say", "3 records")
    page.click(".joins button", "change")
    page.choose("How files join", "Replace the months it is about")
    page.find(".joins", "replace the months it is about")
    send(page, tmp_path, "day,code,n\n2026-08-01,A,1\n2026-08-02,A,2\n", "august.csv")
    page.find(".way.on", "Replace August 2026")
    page.click(".margin button", "Import")
    page.find(".say", "5 records")


def test_a_refused_line_is_seen_and_mended(page: Page, empty: str, tmp_path: Path) -> None:
    rows = "".join(f"2026-07-01,A,{i}\n" for i in range(20))
    bring_in(page, empty, tmp_path, f"day,code,n\n{rows}2026-07-02,B,many\n", "counts.csv")
    page.click(".margin button", "Import")
    page.click("button", "see 1 refused line")
    page.find("[role=dialog] td", "'many' is not a whole number")
    (tmp_path / "mended.csv").write_text("day,code,n\n2026-07-02,B,5\n")
    page.driver.find_element(By.CSS_SELECTOR, "input[aria-label='Corrected lines']").send_keys(
        str(tmp_path / "mended.csv")
    )
    page.find(".say", "Corrected lines of a file that is here")
    page.click(".margin button", "Import")
    page.find(".say", "21 records")
    page.find(".file", "1 refused line corrected since")


def test_a_look_up_with_unmatched_keys_and_a_formula_with_its_fault(page: Page, empty: str, tmp_path: Path) -> None:
    bring_in(page, empty, tmp_path, "id,name\nA,Alpha\n", "codes.csv")
    page.click(".margin button", "Import")
    page.find("h1", "Codes")
    bring_in(page, empty, tmp_path, JULY, "counts.csv")
    page.click(".margin button", "Import")
    page.find("h1", "Counts")
    page.click("header button", "Look up from")
    page.write("Name of the column", "label")
    page.choose("Source", "Codes")
    page.choose("Where this column", "code")
    page.choose("is that of Codes", "id")
    page.choose("Column to look up", "name")
    page.find("[role=dialog] .heed", "1 record finds no match")
    page.click("button", "Keep the column")
    page.find(".made", "look up")
    page.click("header button", "Add a column")
    page.write("Name of the column", "twice")
    page.write("Formula", "n * two")
    page.find("[role=dialog] .fault", "there is no 'two' here")
    page.write("Formula", "n * 2")
    page.find("[role=dialog] td", "4")
    page.wait(lambda: page.find("button", "Keep the column").is_enabled(), "the column cannot be kept")
    page.click("button", "Keep the column")
    page.find(".columns td", "n * 2")


PASTED = """const sent = new DataTransfer();
sent.setData('text/plain', arguments[1]);
arguments[0].dispatchEvent(new ClipboardEvent('paste', { clipboardData: sent, bubbles: true, cancelable: true }));"""


def test_a_rate_is_looked_up_as_at_the_records_date(page: Page, empty: str, tmp_path: Path) -> None:
    bring_in(
        page, empty, tmp_path, "code,valid from,rate\nA,2026-07-01,2\nA,2026-07-03,3\nB,2026-07-01,5\n", "rates.csv"
    )
    page.click(".margin button", "Import")
    page.find("h1", "Rates")
    bring_in(
        page,
        empty,
        tmp_path,
        "day,code,n\n2026-07-02,A,1\n2026-07-04,A,1\n2026-07-04,B,1\n2026-06-30,B,1\n",
        "counts.csv",
    )
    page.click(".margin button", "Import")
    page.find("h1", "Counts")
    page.click("header button", "Look up from")
    page.write("Name of the column", "rate")
    page.choose("Source", "Rates")
    page.find("[role=dialog] .MuiInputLabel-root", "each line of Rates counts from")
    page.choose("Column to look up", "rate")
    page.find("[role=dialog] .heed", "1 record finds no match")
    shown = page.wait(lambda: [text.split()[-1] for text in page.texts(".tried tbody tr")])
    assert shown == ["2", "3", "5", "–"]
    page.click("button", "Keep the column")
    page.find(".columns td", "from Rates, by code, as at day")


def test_lines_are_pasted_by_hand_and_reversed(page: Page, empty: str, tmp_path: Path) -> None:
    bring_in(page, empty, tmp_path, JULY, "counts.csv")
    page.click(".margin button", "Import")
    page.click("header button", "Adjust by hand")
    page.refusals.append("422")
    first = page.find(".adjust-lines input")
    page.driver.execute_script(PASTED, first, "n\tday\n-2\t2026-07-02\nx\t2026-07-03\n")
    page.find("[role=dialog] .fault", "Line 2, n: 'x' cannot be read as a")
    page.driver.execute_script(PASTED, first, "day\tn\n2026-07-02\t-2\n2026-07-03\t-1\n")
    page.find("[role=dialog] .say", "Adds 2 records")
    page.write("Reason", "counted twice")
    page.click("button", "Add the lines")
    page.find(".say", "and 1 adjustment by hand")
    page.find(".file", "2 records by hand")
    page.click(".file button", "reverse next month")
    page.find(".file", "Reversal of counted twice")
    page.find(".file .quiet", "reversed")


def test_a_total_at_the_foot_is_checked_and_left_out(page: Page, empty: str, tmp_path: Path) -> None:
    bring_in(page, empty, tmp_path, "who,day,amount\na,2026-07-01,1.25\nb,2026-07-02,4.25\nTotal,,5.50\n", "dues.csv")
    page.find(".good", "✓ amount sums to the file's own total, 5.50")
    page.find(".heed", "Line 4 is left out")
    page.click("label", "Leave it out")
    page.find(".note", "3 records")
    page.click("label", "Leave it out")
    page.find(".note", "2 records")
    page.click(".margin button", "Import")
    page.find(".say", "2 records")


def test_a_sheet_is_kept_as_a_source(page: Page, shop: str) -> None:
    made_report(page, shop)
    page.add_phrase("down by area", "down by area")
    page.line("South")
    page.click("header button", "Export")
    page.click("[role=dialog] button", "Save as a source…")
    page.write("Name of the source", "Sales by area")
    page.click("button", "Save as a source")
    page.find("h1", "Sales by area")
    page.find(".say", "The sheet of the report Ferry sales summary")


DROPPED = """const sent = new DataTransfer();
for (const [name, text] of arguments[0]) sent.items.add(new File([text], name));
const at = document.querySelector('main');
at.dispatchEvent(new DragEvent('drop', { dataTransfer: sent, bubbles: true, cancelable: true }));"""


def test_several_files_dropped_on_the_board_go_each_to_its_source(page: Page, empty: str, tmp_path: Path) -> None:
    bring_in(page, empty, tmp_path, JULY, "counts.csv")
    page.click(".margin button", "Import")
    page.find("h1", "Counts")
    bring_in(page, empty, tmp_path, "id,name\nA,Alpha\n", "codes.csv")
    page.click(".margin button", "Import")
    page.find("h1", "Codes")
    page.refusals.append("422")
    page.open(f"{empty}/board")
    page.find("h1")
    files = [
        ("counts-2026-08.csv", "day,code,n\n2026-08-01,A,4\n2026-08-02,B,5\n"), ("codes-new.csv", "id,name\nB,Beta\n"),
        ("counts.csv", JULY), ("rain.csv", "day,mm\n2026-07-01,2\n"), ("letter.pdf", "%PDF-1.7"),
    ]  # fmt: skip
    page.driver.execute_script(DROPPED, files)
    page.find("h1", "5 files")
    page.find("header button", "Import 2 files")
    page.driver.execute_script(DROPPED, [("codes-more.csv", "id,name\nC,Gamma\n")])
    page.find("h1", "6 files")
    page.find("header button", "Import 3 files")
    page.find(".several tr", "letter.pdf: it is a PDF")
    page.find(".several tr", "Its content is there already")
    page.find(".several tr", "It would make a new source")
    page.press("\ue007")
    page.wait(lambda: len(page.driver.find_elements(By.CSS_SELECTOR, ".several tr.is-in")) == 3)
    rain = page.find(".several tr", "rain.csv")
    rain.find_element(By.XPATH, ".//button[contains(., 'Look at it')]").click()
    page.click(".margin button", "Import")
    page.wait(lambda: len(page.driver.find_elements(By.CSS_SELECTOR, ".several tr.is-in")) == 4)
    page.click("header button", "Leave the rest")
    page.find("h1", "Sources")
    page.find(".list-line", "5 records")
    page.find(".list-line", "Rain")
