"""The first report from a new source, in the number of steps that docs/first-report.md states."""

from pathlib import Path

from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import Page
from tests.browser.test_page import bring_in

SALES = "sold_on,area,status,net_amount\n" + "".join(
    f"{year}-{month:02}-{5 + n:02},{area},{status},{(n + 1) * 100 + month * (3 if area == 'North' else 7)}.25\n"
    for year in (2024, 2025, 2026)
    for month in range(1, 13)
    if (year, month) < (2026, 8)
    for n, (area, status) in enumerate(
        [("North", "completed"), ("South", "completed"), ("East", "open"), ("East", "completed")]
    )
)
COUNT = """window.steps = {clicks: 0, keys: 0};
document.addEventListener('mousedown', () => { window.steps.clicks += 1; }, true);
document.addEventListener('keydown', () => { window.steps.keys += 1; }, true);"""


def offered(page: Page, typed: str) -> None:
    page.press("/")
    page.find(".offers textarea").send_keys(typed)
    page.find(".offers li.on")


def taken(page: Page, typed: str, offer: str) -> None:
    offered(page, typed)
    page.find(".offers li.on", offer)
    page.press(Keys.ENTER)
    page.wait(lambda: not page.driver.find_elements(By.CSS_SELECTOR, ".offers"), "the offers stay")


def test_a_yearly_comparison_by_fiscal_quarter_in_few_steps(page: Page, empty: str, tmp_path: Path) -> None:
    bring_in(page, empty, tmp_path, SALES, "sales.csv")
    page.click(".margin button", "Import")
    page.find("h1", "Sales")
    page.go("Reports")
    page.find(".proposal")
    page.driver.execute_script(COUNT)
    page.click("header button", "New report")
    page.click("[role=dialog] button", "Create")
    page.find(".brief", "Net amount")
    taken(page, "area", "down by area")
    offered(page, "fis")
    page.click(".offers li", "across by year › quarter of sold on in Fiscal year from April")
    page.wait(lambda: "across by" in page.brief, "no fiscal quarter")
    taken(page, "this", "for this year")
    taken(page, "chan", "change of Net amount on a year earlier")
    taken(page, "comp", "only where status is completed")
    page.wait(lambda: "status is completed" in page.brief, "no condition")
    headings = page.driver.find_elements(By.CSS_SELECTOR, "thead tr.last th.num button")
    page.driver.execute_script("arguments[0].scrollIntoView()", headings[-3])
    page.click("thead tr.last th.num button", "Net amount")
    page.wait(lambda: "largest Net amount" in page.brief, "not sorted")
    steps = page.driver.execute_script("return window.steps")
    assert steps["clicks"] <= 12, steps
    assert steps["keys"] <= 30, steps
    page.wait(lambda: page.lines()["North"][2].startswith(("+", "(", "0")), page.lines())
    assert "Fiscal year from April" in page.find(".sheet-head").text
    made = page.lines()
    page.go("Reports")
    page.find(".report-line")
    page.driver.execute_script("window.steps = {clicks: 0, keys: 0}")
    page.press("n")
    field = page.find(".offers textarea")
    field.send_keys("net by area, fiscal quarters across, this fiscal year against last, completed, biggest first")
    page.find(".say-keys", "take it")
    field.send_keys(Keys.ENTER)
    page.wait(lambda: "largest Net amount first" in page.brief, "not made")
    typed = page.driver.execute_script("return window.steps")
    assert typed["clicks"] == 0, typed
    assert typed["keys"] <= 95, typed
    page.wait(lambda: list(page.lines()) == list(made), "other lines, or in another order")
    assert [page.lines()[line][0] for line in made] == [numbers[0] for numbers in made.values()]
