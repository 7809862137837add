"""A year of monthly files that change, imported on the page; `tests/year` runs thousands without it."""

from pathlib import Path
from random import Random

import pytest

from kalendor.desk.desk import Desk
from tests.browser.conftest import Page
from tests.year.over_http import YearOnThePage

MONTHS = 6


@pytest.mark.long
def test_a_year_on_the_page(page: Page, empty: str, tmp_path: Path) -> None:
    page.open(f"{empty}/sources")
    year = YearOnThePage(Desk(tmp_path / "workspace"), Random(7), page=page, folder=tmp_path)
    year.play(MONTHS)
    assert year.told["plain in"] >= MONTHS // 2
    assert sum(n for what, n in year.told.items() if what.endswith("asked")) > 0
    assert not year.told["plain held"] + year.told["plain refused"] + year.told["plain asked"], year.told
