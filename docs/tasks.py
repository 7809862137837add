"""The everyday tasks whose steps are counted, each as one does it who knows the page."""

import sys
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))

from selenium.webdriver import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from tests.browser.conftest import Page
from tests.browser.test_first_report import COUNT

MANAGERS = ("Ada", "Bo", "Cy", "Di")
SALES = "sold_on,due_on,area,manager,product,status,quantity,net_amount\n" + "".join(
    f"{'' if n % 29 == 28 else f'{2024 + n % 3}-{1 + n % 12:02}-{1 + n % 27:02}'},{2026}-{1 + n % 8:02}-{1 + n % 28:02},"
    f"{('North', 'South', 'East')[n % 3]},{MANAGERS[n % 4]},P{n % 7},{('completed', 'open')[n % 5 == 0]},{1 + n % 9},"
    f"{(n * 7919) % 900000}.50\n"
    for n in range(900)
)
LATER = (
    SALES.splitlines()[0]
    + "\n"
    + "".join(f"2027-{1 + n % 2:02}-11,2027-03-01,North,Ada,P1,open,1,{n}.25\n" for n in range(40))
)
EVENTS = "happened_at,country,person,note\n" + "".join(
    f"202{4 + n % 3}-{1 + n % 12:02}-{1 + n % 28:02} {n % 24:02}:{n * 7 % 60:02},{('Norway', 'Chile', '', 'Ghana')[n % 4]},{MANAGERS[n % 3]},seen\n"
    for n in range(700)
)
WIDE = (
    ",".join(["sold_on", "area", "manager", "net_amount", *(f"field_{n}" for n in range(36))])
    + "\n"
    + "".join(
        ",".join(
            [
                f"2026-{1 + n % 9:02}-05",
                ("North", "South")[n % 2],
                MANAGERS[n % 4],
                f"{n * 37}.10",
                *(f"v{n * k % 11}" for k in range(36)),
            ]
        )
        + "\n"
        for n in range(300)
    )
)
PRODUCTS = "code,family\n" + "".join(f"P{n},{('Tools', 'Paint')[n % 2]}\n" for n in range(7))


class Steps:
    """One who works on the page, in as few steps as it allows."""

    def __init__(self, page: Page, folder: Path) -> None:
        self.page = page
        self.folder = folder

    def phrase(self, typed: str, offer: str = "") -> None:
        """Add a phrase by its first letters; by a click where another stands first."""
        page = self.page
        page.press("/")
        page.find(".offers textarea").send_keys(typed)
        page.find(".offers li.on, .say-reading .comes")
        first = [one.text for one in page.driver.find_elements(By.CSS_SELECTOR, ".offers li.on")]
        if offer and first and offer not in first[0]:
            page.click(".offers li", offer)
        else:
            page.press(Keys.ENTER)
        page.wait(lambda: not page.driver.find_elements(By.CSS_SELECTOR, ".offers"), f"{typed}: the offers stay")

    def menu(self, css: str, text: str, item: str) -> None:
        ActionChains(self.page.driver).context_click(self.page.find(css, text)).perform()
        self.page.click(".MuiMenu-list li", item)


def begun(page: Page, address: str, source: str, begins: str) -> None:
    page.open(f"{address}/reports")
    page.find(".report-line, .proposal")
    page.driver.execute_script(COUNT)
    page.click("header button", "New report")
    if source:
        page.choose("Over the source", source)
    page.click("[role=dialog] button", "Create")
    page.find(".brief", begins)


def ranges(s: Steps) -> None:
    s.phrase("range net", "down by net amount in ranges")
    s.page.click(".phrase.bucket")
    for label, value in (("To", "900000"), ("Every", "100000")):
        s.page.write(label, value)
    s.page.close_editor()
    s.phrase("share col", "share of Net amount in the column")
    s.page.line("100,000 up to 200,000")


def own_order(s: Steps) -> None:
    s.phrase("area", "down by area")
    s.menu(".sheet-table tbody th", "South", "Move up")
    s.page.wait(lambda: "in the order" in s.page.brief, "no order")


def days(s: Steps) -> None:
    s.phrase("day of s", "across by day of sold on")
    s.phrase("week of y", "down by week of year")
    s.page.wait(lambda: "week of year" in s.page.brief, "no week")


def ten_takes(s: Steps) -> None:
    for level in ("area", "mana", "prod"):
        s.phrase(level, "down by")
    for take in (
        "average",
        "median",
        "minimum",
        "maximum",
        "standard",
        "variance",
        "percentile",
        "largest",
        "smallest",
        "non-blank n",
    ):
        s.phrase(take)


def fiscal(s: Steps) -> None:
    s.phrase("fis", "across by year › quarter of sold on in Fiscal year from April")
    s.page.wait(lambda: "Fiscal year from April" in s.page.brief, "no calendar")


def subtotals(s: Steps) -> None:
    s.phrase("area", "down by area")
    s.phrase("mana", "down by manager")
    s.phrase("prod", "down by product")
    s.phrase("subt", "without totals of the level")
    s.page.wait(lambda: "without totals of the level" in s.page.brief, "not off")
    s.page.chord(Keys.CONTROL, "z")


def saturdays(s: Steps) -> None:
    s.phrase("week sat", "across by week of sold on in Weeks from Saturday")
    s.page.wait(lambda: "Weeks from Saturday" in s.page.brief, "no weeks")


def looked_up(s: Steps) -> None:
    """The family of each product by its code in another source, then the families over a limit."""
    page = s.page
    page.click("nav a", "Sources")
    page.click(".list-main", "Sales")
    page.click("header button", "Look up from")
    page.write("Name of the column", "family")
    page.choose("Source", "Products")
    page.choose("Where this column", "product")
    page.choose("is that of Products", "code")
    page.choose("Column to look up", "family")
    page.wait(lambda: page.find("button", "Keep the column").is_enabled(), "the column cannot be kept")
    page.click("button", "Keep the column")
    page.find(".made", "look up")
    page.click("nav a", "Reports")
    page.click(".report-line-main")
    s.phrase("family", "down by family")
    s.phrase("keep", "keep family where …")
    page.choose("Compared", "is over")
    page.write("Value", "50000000")
    page.click("button", "Apply")
    page.wait(lambda: "keep family where Net amount" in page.brief, "no limit")


def key_columns(s: Steps) -> None:
    s.phrase("area", "down by area")
    s.phrase("mana", "down by manager")
    s.page.click(".tool", "columns")
    s.page.wait(lambda: "a column for each level" in s.page.brief, "no columns")


def ages(s: Steps) -> None:
    s.phrase("age due", "down by age of due on")
    s.page.line("Total")


def managers(s: Steps) -> None:
    s.phrase("mana", "down by manager")
    s.phrase("year", "across by year of sold on")
    s.phrase("quar", "across by quarter of sold on")
    s.phrase("blank", "only where sold on is not blank")
    s.page.wait(lambda: "sold on is not blank" in s.page.brief, "blanks are there")


def months_and_years(s: Steps) -> None:
    s.phrase("month", "down by month of sold on")
    s.phrase("year", "across by year of sold on")
    s.phrase("chan", "change of Net amount on a year earlier")
    s.page.wait(lambda: "on a year earlier" in s.page.brief, "no change")


def gathered(s: Steps) -> None:
    """Two branches gathered under a name of one's own, by month."""
    page = s.page
    s.phrase("area", "down by area")
    s.phrase("month of s", "across by month of sold on")
    page.click(".sheet-table tbody th", "North")
    other = page.find(".sheet-table tbody th", "South")
    ActionChains(page.driver).key_down(Keys.CONTROL).click(other).key_up(Keys.CONTROL).perform()
    page.find(".gather input").send_keys("Coast", Keys.ENTER)
    page.line("Coast")


def ungrouped(s: Steps) -> None:
    gathered(s)
    s.menu(".sheet-table tbody th", "Coast", "Ungroup")
    s.page.wait(lambda: "group" not in s.page.brief, "still grouped")


def coarser(s: Steps) -> None:
    s.phrase("month of s", "across by month of sold on")
    s.page.click("[aria-label='Coarser']")
    s.page.wait(lambda: "by quarter" in s.page.brief, "no quarters")


def found(s: Steps) -> None:
    s.phrase("mana", "down by manager")
    s.phrase("prod", "down by product")
    s.page.press("f")
    s.page.find(".find input").send_keys("p5", Keys.ENTER, Keys.ENTER)
    s.page.find(".find [role=status]", "number 2 shown")


def without_blanks(s: Steps) -> None:
    s.phrase("month of s", "down by month of sold on")
    s.menu(".sheet-table tbody th", "(blank)", "Leave out (blank)")
    s.page.wait(lambda: "is not blank" in s.page.brief, "blanks are there")


def named_quarters(s: Steps) -> None:
    fiscal(s)
    s.menu(".sheet-table thead th", "Q4", "Rename Q4 of every year")
    s.page.find(".gather input").send_keys("Spring", Keys.ENTER)
    s.page.find(".sheet-table thead th", " Spring")


def typed_whole(s: Steps) -> None:
    s.phrase("net amount by area, month across, percent change")
    s.page.wait(lambda: "change on a year earlier" in s.page.brief, "not understood")


def grown(s: Steps) -> None:
    """The next export added to its source, and the report opened again."""
    page = s.page
    s.phrase("quar", "down by quarter of sold on")
    page.click("nav a", "Sources")
    page.find("h1", "Sources")
    page.driver.execute_script("window.steps.clicks += 2")  # "Import a file" and the file, in a window of the system
    page.driver.find_element(By.CSS_SELECTOR, "input[type=file]").send_keys(str(s.folder / "later.csv"))
    page.click(".margin button", "Add it to Sales")
    page.click(".margin button", "Import")
    page.find("h1", "Sales")
    page.click("nav a", "Reports")
    page.click(".report-line-main")
    page.find(".sheet-table tbody th", "2027")


def kept_as_source(s: Steps) -> None:
    s.phrase("area", "down by area")
    s.page.click("header button", "Export")
    s.page.click("[role=dialog] button", "Save as a source")
    s.page.click("[role=dialog] button", "Save as a source")
    s.page.find("h1", "Sales")


def to_minutes(s: Steps) -> None:
    s.phrase("by year, month, day, hour, minute")
    s.page.wait(lambda: "minute" in s.page.brief, "no minutes")


def by_country(s: Steps) -> None:
    s.phrase("country", "down by country")
    s.page.line("(blank)")


def people(s: Steps) -> None:
    s.phrase("person", "down by person")
    s.phrase("month of h", "across by month of happened at")
    s.page.line("Ada")


def made_small(s: Steps) -> None:
    s.phrase("area", "down by area")
    s.phrase("mana", "down by manager")
    s.page.click(".tool", "columns")
    s.page.wait(lambda: "a column for each level" in s.page.brief, "no columns")


@dataclass(frozen=True)
class Over:
    """What a task is done over: the files brought in before it, by name, of which the first makes the report's source."""

    files: dict[str, str] = field(default_factory=lambda: {"sales.csv": SALES})
    later: dict[str, str] = field(default_factory=dict)
    begins: str = "Net amount"


OVER = {
    looked_up: Over({"sales.csv": SALES, "products.csv": PRODUCTS}),
    grown: Over(later={"later.csv": LATER}),
    to_minutes: Over({"events.csv": EVENTS}, begins="Records"),
    by_country: Over({"events.csv": EVENTS}, begins="Records"),
    people: Over({"events.csv": EVENTS}, begins="Records"),
    made_small: Over({"wide.csv": WIDE}),
}
TASKS: dict[str, Callable[[Steps], None]] = {
    "ranges by 100,000 with percent of column": ranges,
    "own order by hand": own_order,
    "by day across, week of year down": days,
    "three levels with ten takes": ten_takes,
    "fiscal year ending in March": fiscal,
    "subtotals of one level off, and on again": subtotals,
    "weeks from Saturday": saturdays,
    "a look-up by code, and only what is over a limit": looked_up,
    "key columns shown once": key_columns,
    "ages from due dates": ages,
    "managers by year and quarter without blank dates": managers,
    "months down and years across with percent change, no base shown": months_and_years,
    "the same typed as one request": typed_whole,
    "months by area, two areas gathered under a name": gathered,
    "the same, and ungrouped again": ungrouped,
    "months, then quarters in their place": coarser,
    "a line of a long result found, and the next one": found,
    "months without what has no date": without_blanks,
    "fiscal quarters under names of one's own": named_quarters,
    "quarters, and the next export added to them": grown,
    "a report's table kept as a source": kept_as_source,
    "years down to minutes": to_minutes,
    "counts by country, a blank one among them": by_country,
    "counts by people and month": people,
    "an export of 40 columns as a table of four": made_small,
}
