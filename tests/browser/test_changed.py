"""Changed exports on the page: columns side by side, proposals accepted or overruled, and the drop folder."""

from pathlib import Path

from selenium.webdriver.common.by import By

from tests.browser.conftest import Page
from tests.browser.test_page import bring_in
from tests.browser.test_sources import send

FARES = ("adult", "child", "dog", "car")
HEAD = "ticket,sold on,fare type,gross\n"


def rows(month: int, form: str = "2026-{m:02}-{d:02}") -> str:
    return "".join(
        f"T{month}{n:03},{form.format(m=month, d=n % 28 + 1)},{FARES[n % 4]},{100 + n}.5\n" for n in range(56)
    )


def picked(page: Page, row: str, option: str) -> None:
    """Choose an option in a row of the columns side by side."""
    page.choose_in(lambda: page.find(".changed tr", row).find_element(By.CSS_SELECTOR, "[role=combobox]"), option)


def test_columns_side_by_side_are_taken_or_said_otherwise(page: Page, empty: str, tmp_path: Path) -> None:
    bring_in(page, empty, tmp_path, HEAD + rows(4), "april.csv")
    page.click(".margin button", "Import")
    page.find(".say", "56 records")
    text = HEAD.replace("fare type", "tariff").replace("\n", ",channel\n") + rows(5, "{d:02}/{m:02}/2026").replace(
        "\n", ",web\n"
    )
    send(page, tmp_path, text, "may.csv")
    page.find("h1", "may.csv is not like the files before")
    page.find(".say", "this one differs in 3 columns")
    page.find(".changed tr", "the same column, renamed")
    page.find(".changed tr", "32 dates can be read no other way")
    page.find(".changed tr.same", "ticket and 1 more")
    picked(page, "channel", "ignored from now on")
    page.find(".margin", "without channel")
    picked(page, "fare type", "blank from now on")
    page.find(".changed tr", "nothing")
    picked(page, "fare type", "it is called tariff")
    page.find(".margin", "tariff as fare type")
    page.find(".strip", "May 2026")
    page.click(".margin button", "Import")
    page.find(".say", "112 records")
    page.find(".columns", "fare type")
    assert "channel" not in page.find(".columns").text
    send(page, tmp_path, text.replace("T5", "T6").replace("/05/", "/06/"), "june.csv")
    page.find("h1", "june.csv")
    page.find(".say", "Look over how each column was read")
    page.click(".margin button", "Import")
    page.find(".say", "168 records")


def test_a_number_whose_mark_is_open_is_asked_about(page: Page, empty: str, tmp_path: Path) -> None:
    bring_in(page, empty, tmp_path, "day;weight\n2026-04-01;1,234\n2026-04-02;2,500\n", "loads.csv")
    page.find("[role=alert]", "1,234 is 1234, or with a decimal comma 1.234")
    page.click("[role=alert] button", "It is a decimal comma")
    page.find(".columns", "1.234")
    page.click(".margin button", "Import")
    page.find(".columns", "1.234 – 2.500")


def test_a_column_is_called_and_read_otherwise(page: Page, empty: str, tmp_path: Path) -> None:
    bring_in(
        page, empty, tmp_path, "day,shop,n,ref\n2026-05-01,101,1,2026-01-02\n2026-05-02,102,2,soon\n", "counts.csv"
    )
    page.click(".margin button", "Import")
    page.find(".columns td", "whole number")
    page.click(".made-name", "shop")
    page.write("Name", "branch")
    page.choose("Read as", "text")
    page.click("[role=dialog] button", "Save")
    page.find(".columns td", "101, 102")
    page.click(".made-name", "ref")
    page.choose("Read as", "date")
    page.click("[role=dialog] button", "Save")
    page.find("[role=dialog]", "1 value of 'ref' cannot be read as a date: 'soon' on line 3 of counts.csv")
    page.click("[role=dialog] button", "Leave them blank")
    page.find(".columns td", "2 Jan 2026")
    page.find(".columns", "branch")
