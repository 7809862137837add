"""Amounts in several currencies on the page: the question at import, marks where they would be added up, and their
separation."""

from pathlib import Path

import httpx

from tests.browser.conftest import Page
from tests.browser.test_page import bring_in

TEXT = "booked,shop,net,currency\n" + "".join(
    f"2026-0{1 + n % 2}-{1 + n % 28:02},{('Quay', 'Pier')[n % 2]},{100 + n}.50,{('EUR', 'SEK')[n % 3 == 0]}\n"
    for n in range(12)
)
RATES = "code,valid from,in euro\nEUR,2026-01-01,1\nSEK,2026-01-01,0.1\n"


def test_mixed_amounts_are_marked_grouped_and_converted(page: Page, empty: str, tmp_path: Path) -> None:
    bring_in(page, empty, tmp_path, TEXT, "takings.csv")
    page.find(".note", "currency holds currencies, such as SEK, EUR")
    page.click(".note button", "Yes")
    page.find(".note", "net EUR")
    page.click(".margin button", "Import")
    page.find(".columns td", "number, 2 places, in currency")
    bring_in(page, empty, tmp_path, RATES, "rates.csv")
    page.click(".margin button", "Import")
    page.find(".say", "2 records")
    made = httpx.post(f"{empty}/api/reports", json={"source": "Takings"}).raise_for_status().json()
    page.open(f"{empty}/reports/{made['id']}")
    page.find("footer.tie", "adds up to 852.00 EUR, 420.00 SEK")
    page.click("td", "mixed")
    page.find(".margin .note", "Mixed: it would put amounts of several units together")
    page.click(".mixed-ways button", "A group for each currency")
    page.find("th", "EUR")
    page.click("td", "mixed")
    page.click(".mixed-ways button", "Convert net by Rates: times in euro")
    page.find("footer.tie", "adds up to 894.00")
