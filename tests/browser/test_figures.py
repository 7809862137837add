"""Derived figures on the page."""

from pathlib import Path

from selenium.webdriver import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import Page
from tests.browser.test_page import bring_in, made_report, new_report

HEAD = "sold on,area,route,gross,heads\n"
EXPORT = HEAD + "".join(
    f"{year}-{month:02d}-{day:02d},{area},{area[0]}-{n},{amount:.2f},{heads}\n"
    for year, month, day, area, n, amount, heads in [
        (2024, 11, 5, "North", 1, 10.0, 1), (2024, 12, 5, "North", 2, 20.0, 2), (2025, 1, 10, "South", 1, 30.0, 3),
        (2025, 1, 25, "South", 1, 1000.0, 4), (2025, 11, 6, "North", 1, 15.0, 3), (2025, 12, 6, "North", 2, 25.0, 1),
        (2026, 1, 8, "South", 1, 45.0, 1), (2026, 1, 15, "South", 2, 15.0, 1), (2026, 1, 14, "East", 1, 5.0, 1),
        (2026, 1, 14, "West", 1, 6.0, 1), (2026, 1, 14, "Mid", 1, 7.0, 1), (2026, 1, 14, "Far", 1, 8.0, 1),
        (2026, 1, 14, "Near", 1, 9.0, 1),
    ]
)  # fmt: skip


def report(page: Page, address: str, folder: Path) -> None:
    bring_in(page, address, folder, EXPORT, "ferries.csv")
    page.click(".margin button", "Import")
    page.find("h1", "Ferries")
    page.go("Reports")
    page.click("header button", "New report")
    page.click("button", "Create")
    page.find(".brief")
    page.click(".phrase.figure", "Records")
    page.click("button", "Remove")
    page.wait(lambda: page.brief == "Gross.", "the count stays")


def test_a_year_earlier_in_percent_with_a_part_month(page: Page, empty: str, tmp_path: Path) -> None:
    report(page, empty, tmp_path)
    page.add_phrase("down by month", "down by month of sold on")
    page.add_phrase("change year earlier", "change of Gross on a year earlier")
    page.shows("Jan 2026 · to 15 Jan", ["95.00", "+216.7%"])
    page.shows("Dec 2025", ["25.00", "+25.0%"])
    page.click(".phrase.figure", "change on a year earlier")
    page.choose("A part period", "is compared with the whole")
    page.close_editor()
    page.wait(lambda: page.lines()["Jan 2026 · part"] == ["95.00", "(90.8%)"], "the whole month is not compared")
    page.click(".phrase.period", "month")
    page.choose("Order", "by date, latest first")
    page.close_editor()
    page.wait(lambda: next(iter(page.lines())) == "Jan 2026 · part", "the latest month is not first")


def test_a_running_total_starts_again_each_fiscal_year(page: Page, empty: str, tmp_path: Path) -> None:
    report(page, empty, tmp_path)
    page.open(f"{empty}/groupings")
    page.click("header button", "New grouping")
    page.choose("Kind", "Calendar of months")
    page.write("Name of the grouping", "Our year")
    page.click("button", "Create")
    page.click("select[aria-label='Start month'] option", "November")
    page.click("header button", "Save")
    page.find(".tie .ok", "saved · revision 2")
    page.go("Reports")
    page.click(".report-line-main", "Ferries summary")
    page.add_phrase("down month our year", "down by month of sold on in Our year")
    page.add_phrase("running", "running total of Gross")
    page.click(".phrase.figure", "running total")
    page.choose("Restart every", "year")
    page.close_editor()
    page.shows("Jan 2025", ["1,030.00", "1,060.00"])
    page.shows("Nov 2025", ["15.00", "15.00"])
    page.shows("Jan 2026", ["95.00", "135.00"])


def test_share_of_the_group_and_a_ratios_subtotal(page: Page, empty: str, tmp_path: Path) -> None:
    report(page, empty, tmp_path)
    page.add_phrase("down by area", "down by area")
    page.add_phrase("down by route", "down by route")
    page.add_phrase("share group", "share of Gross in the group")
    page.shows_at("N-1", 1, "35.7%")
    page.add_phrase("sum of heads", "heads")
    page.add_phrase("formula", "Ratio = ")
    page.click(".phrase.figure", "Ratio")
    page.write("Formula", '"Gross" / "Heads"')
    page.close_editor()
    page.shows("North total", ["70.00", "5.9%", "7", "10.00"])


def test_the_top_five_with_the_rest_as_other(page: Page, empty: str, tmp_path: Path) -> None:
    report(page, empty, tmp_path)
    page.add_phrase("down by area", "down by area")
    page.click(".phrase.tree", "area")
    page.choose("Show", "top 5, the rest as Other")
    page.close_editor()
    page.wait(
        lambda: list(page.lines())[:6] == ["South", "North", "Near", "Far", "Mid", "Other (2)"], "not the top five"
    )
    page.shows("Other (2)", ["11.00"])
    assert "the top 5 of area by Gross" in page.brief


def test_actual_against_plan(page: Page, demo: str) -> None:
    page.open(f"{demo}/reports")
    page.click(".report-line-main", "Net fare against plan")
    net, plan, off = page.line("Inner Sound total")[-3:]
    got, wanted = (float(t.replace(",", "")) for t in (net, plan))
    assert off == f"{'+' if got > wanted else '('}{abs(got / wanted - 1):.1%}{'' if got > wanted else ')'}"


def test_a_line_is_made_of_chosen_lines_and_counts_in_no_total(page: Page, shop: str) -> None:
    made_report(page, shop)
    page.add_phrase("down by area", "down by area")
    page.click(".sheet-table th.choosable", "North")
    with_control = ActionChains(page.driver).key_down(Keys.CONTROL)
    with_control.click(page.find(".sheet-table th.choosable", "South")).key_up(Keys.CONTROL).perform()
    page.click(".gather button", "North less South")
    page.shows("North less South", ["(75.75)", "1"])
    page.shows("Total", ["126.25", "5"])
    page.click(".phrase.tree", "area")
    page.write("Name of the line", "Apart")
    page.write("Made as", '"South" - "North"')
    page.close_editor()
    page.wait(lambda: page.lines()["Apart"] == ["75.75", "(1)"], "the line does not follow")
    page.click(".phrase.tree", "area")
    page.write("Count as negative", "North")
    page.close_editor()
    page.wait(lambda: page.lines()["Total"] == ["75.75", "5"], "the sign does not count")


def test_expected_totals_are_typed_and_read_from_a_file(page: Page, shop: str, tmp_path: Path) -> None:
    made_report(page, shop)
    page.click(".tie button", "Gross adds up to 126.25")
    page.click("button", "Add a total")
    page.write("Expected", "126.00")
    page.find(".tie .warn", "Gross is 126.25, and 126.00 was expected")
    (tmp_path / "totals.csv").write_text("Figure,Expected\nGross,126.25\nNothing,1\n")
    page.driver.find_element(By.CSS_SELECTOR, "input[aria-label='File of totals']").send_keys(
        str(tmp_path / "totals.csv")
    )
    page.find(".tie .agrees", "✓ Gross is the 126.25 expected")
    page.find(".editor", "No figure here is named Nothing")


def test_a_plan_is_set_beside_on_the_page(page: Page, shop: str, tmp_path: Path) -> None:
    bring_in(page, shop, tmp_path, "month,area,planned\n2025-06-01,North,20\n2026-07-01,South,100\n", "plan.csv")
    page.click(".margin button", "Import")
    page.find("h1", "Plan")
    made_report(page, shop)
    new_report(page, "Ferry sales")
    page.add_phrase("down by area", "down by area")
    page.add_phrase("beside plan", "beside Plan")
    page.wait(lambda: page.lines()["South"][:4] == ["101.00", "2", "100", "+1.0%"], "the plan does not stand beside")
    assert "beside Plan" in page.brief
    page.add_phrase("across by year", "across by year of sold on")
    page.click(".phrase.condition", "Plan")
    page.choose("sold on is its", "month")
    page.close_editor()
    page.wait(lambda: page.lines()["North"][:4] == ["30.50", "2", "20", "+52.5%"], "the plan's month is not used")
    page.click(".phrase.condition", "Plan")
    page.click("button", "Remove")
    page.wait(lambda: page.brief == "Gross and Records, down by area, across by year.", "the plan is still beside")


def test_lines_are_ordered_kept_and_their_totals_placed(page: Page, shop: str) -> None:
    made_report(page, shop)
    page.add_phrase("down by route", "down by route")
    page.wait(lambda: [label for label in page.lines() if "-" in label] == ["A-1", "A-2", "B-1"], "no lines")
    page.click(".phrase.tree", "route")
    page.choose("Order", "by a figure, largest first")
    page.close_editor()
    page.wait(lambda: [label for label in page.lines() if "-" in label] == ["B-1", "A-2", "A-1"], "not in order")
    page.add_phrase("keep route", "keep route where …")
    page.choose("Compared", "is over")
    page.write("Value", "10")
    page.click("button", "Apply")
    page.wait(lambda: "A-1" not in page.lines(), "the line is still there")
    page.shows("Total", ["126.25", "5"])
    page.find(".sheet-head", "1 line is hidden and still counted in totals")
    page.add_phrase("without totals", "without totals")
    page.wait(lambda: "Total" not in page.lines(), "the total is still there")
    assert (
        page.brief
        == "Gross and Records, down by route, largest Gross first, keep route where Gross is over 10, without totals."
    )
    page.click(".phrase.condition", "without totals")
    page.click("button", "Remove")
    page.line("Total")
