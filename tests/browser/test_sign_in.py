"""Sign-in on the page: an analyst works, a reader reads issued editions, and both sign out."""

from collections.abc import Iterator
from datetime import datetime
from pathlib import Path

import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import Page, serving
from tests.browser.test_access import serious
from tests.editions.conftest import Office

PASSWORD = "a long enough password"


@pytest.fixture
def office(tmp_path: Path) -> Iterator[str]:
    """The URL of a server over a workspace with an issued edition, an analyst and a reader."""
    made = Office(tmp_path / "workspace")
    for month in ("2026-05", "2026-06"):
        made.issue(month)
    for name, role in (("Ada", "analyst"), ("Rita", "reader")):
        made.desk.accounts.add(name, role, PASSWORD, datetime.now())
    made.desk.workspace.close()
    yield from serving(tmp_path / "workspace")


def sign_in(page: Page, name: str, password: str) -> None:
    page.find(".sign-in form")
    page.driver.execute_script("document.querySelectorAll('.sign-in input').forEach(i => i.select())")
    for field, text in zip(page.driver.find_elements(By.CSS_SELECTOR, ".sign-in input"), (name, password), strict=True):
        field.send_keys(Keys.CONTROL, "a")
        field.send_keys(text)
    page.click(".sign-in button", "Sign in")


def sign_out(page: Page) -> None:
    page.click(".account-button")
    page.click("[role=dialog] button", "Sign out")
    page.find(".sign-in form")


def test_an_analyst_signs_in_edits_and_leaves_and_a_reader_reads_what_is_issued(page: Page, office: str) -> None:
    page.open(f"{office}/reports")
    page.find(".sign-in form")
    assert serious(page) == []
    assert page.severe() == []
    page.refusals = ["401"]
    sign_in(page, "Ada", "not her password")
    page.find(".sign-in", "no such name with this password")
    sign_in(page, "Ada", PASSWORD)
    page.click(".report-line-main", "Sales by side")
    page.find(".account-button", "Ada")
    page.add_phrase("down by kind", "down by kind")
    page.find(".tie .ok, .tie")
    page.click("header a", "Editions")
    page.find(".edition-list td", "Jun 2026")
    sign_out(page)

    sign_in(page, "rita", PASSWORD)
    page.find(".issued-title", "Sales by side")
    assert serious(page) == []
    assert not page.driver.find_elements(By.CSS_SELECTOR, "nav a")
    page.click(".edition-list a.link", "Jun 2026")
    page.find(".stamp b", "June 2026")
    page.press("1")
    page.click("tr.grand td.num", "30.00")
    page.find(".margin-number", "30.00")
    page.open(f"{office}/reports")
    page.find(".issued-title", "Sales by side")
    sign_out(page)
