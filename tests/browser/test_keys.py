"""Keyboard on the page: Escape closes one thing at a time and asks before discarding typed text, Enter applies, and
shortcuts are disabled while something is open on top."""

from selenium.webdriver import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import Page
from tests.browser.test_sheet import made_report

BY_ROUTE = [{"category": "route"}]


def shown(page: Page, css: str) -> bool:
    return bool(page.driver.find_elements(By.CSS_SELECTOR, css))


def test_escape_asks_before_typed_text_is_lost_and_then_loses_it(page: Page, shop: str) -> None:
    made_report(page, shop, down=BY_ROUTE)
    page.click(".phrase.figure")
    name = page.find(".editor input[type=text]")
    before = name.get_attribute("value")
    name.send_keys(" so far")
    page.press(Keys.ESCAPE)
    page.find(".typed-text", "is not applied yet")
    assert shown(page, ".editor")
    page.press(Keys.ESCAPE)
    page.wait(lambda: not shown(page, ".editor"), "the editor stays")
    assert "so far" not in page.brief
    page.click(".phrase.figure")
    name = page.find(".editor input[type=text]")
    assert name.get_attribute("value") == before
    name.send_keys(" so far", Keys.ENTER)
    page.wait(lambda: "so far" in page.brief, "Enter did not apply it")
    page.press(Keys.ESCAPE)
    page.wait(lambda: not shown(page, ".editor"), "Escape asked for what is applied")


def test_keys_of_the_screen_rest_while_an_editor_is_open(page: Page, shop: str) -> None:
    made_report(page, shop, down=BY_ROUTE)
    page.click(".phrase.figure")
    page.find(".editor")
    page.find(".editor .foot button").send_keys("/ef")
    assert not shown(page, ".say-panel")
    assert not shown(page, ".find")
    page.press(Keys.ESCAPE)
    page.wait(lambda: not shown(page, ".editor"), "the editor stays")
    page.press("/")
    page.find(".say-panel textarea").send_keys("med")
    page.press(Keys.ESCAPE)
    page.find(".typed-text")
    page.press(Keys.ESCAPE)
    page.wait(lambda: not shown(page, ".say-panel"), "the list stays")


def test_one_bar_at_a_time_and_escape_closes_it_wherever_the_focus_is(page: Page, shop: str) -> None:
    made_report(page, shop, down=BY_ROUTE)
    page.press("f")
    page.find(".find input")
    ActionChains(page.driver).context_click(page.find(".sheet-table tbody th", "A")).perform()
    page.click(".MuiMenu-list li", "Rename")
    page.find("[aria-label=Rename] input")
    page.wait(lambda: not shown(page, ".find"), "two bars stand open")
    page.driver.execute_script("document.activeElement.blur()")
    page.press(Keys.ESCAPE)
    page.wait(lambda: not shown(page, "[aria-label=Rename]"), "the field stays")


def test_a_month_is_renamed_in_every_year_from_its_heading(page: Page, shop: str) -> None:
    made_report(page, shop, down=BY_ROUTE, across=[{"period": "sold on", "grains": ["month"]}])
    head = page.find(".sheet-table thead th", "2026")
    month, _, year = head.text.partition(" ")
    ActionChains(page.driver).context_click(head).perform()
    page.click(".MuiMenu-list li", f"Rename {month} of every year")
    page.find("[aria-label=Rename] input").send_keys("Opening", Keys.ENTER)
    page.find(".sheet-table thead th", f"Opening {year}")
    assert "renaming" in page.brief
