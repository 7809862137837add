"""Default fixture: an office with accounts, for test files that define none of their own."""

from pathlib import Path

import pytest

from tests.api.people import NOW, PASSWORD, Browser
from tests.editions.conftest import Office


@pytest.fixture
def office(tmp_path: Path) -> Office:
    office = Office(tmp_path / "workspace")
    office.issue("2026-06")
    office.desk.accounts.add("Ada", "analyst", PASSWORD, NOW)
    office.desk.accounts.add("Rita", "reader", PASSWORD, NOW)
    return office


@pytest.fixture
def ada(office: Office) -> Browser:
    browser = Browser(office)
    assert browser.sign_in("ada").json()["role"] == "analyst"
    return browser


@pytest.fixture
def rita(office: Office) -> Browser:
    browser = Browser(office)
    assert browser.sign_in("Rita").json()["role"] == "reader"
    return browser
