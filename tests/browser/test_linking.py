"""Linked folders on the page: new files, the trail of a number, and a sheet that takes time to compute."""

import shutil
from collections.abc import Iterator
from pathlib import Path

import pytest
from selenium.webdriver.common.by import By

from kalendor.serving import Reach, serve_workspace
from tests.browser.conftest import FERRY_SALES, Page, served


def _serve(workspace: Path, port: int, exports: Path) -> None:
    from kalendor.desk.linked import sheets

    sheets.SOON_BYTES = 0  # every sheet is a job
    serve_workspace(workspace, Reach("127.0.0.1", port, workers=0, link_from=(exports,)))


@pytest.fixture
def linking(tmp_path: Path) -> Iterator[tuple[str, Path]]:
    """The URL of a server over an empty workspace that may link a folder, and the folder."""
    exports = tmp_path / "exports"
    (exports / "ferries").mkdir(parents=True)
    (exports / "ferries" / "2026-07.csv").write_text(FERRY_SALES)
    for address in served(_serve, tmp_path / "workspace", exports, daemon=False):
        yield address, exports / "ferries"
    shutil.rmtree(tmp_path)


def test_a_folder_is_linked_and_its_files_followed(page: Page, linking: tuple[str, Path]) -> None:
    address, folder = linking
    page.refusals = ["503", "409"]
    page.open(f"{address}/sources")
    page.click("button", "Link a folder")
    page.write("Name of the source", "Ferries")
    page.click("[role=dialog] button", "ferries/")
    page.find("[role=dialog] .folder-at", "1 file")
    page.click("[role=dialog] button", "Link")
    page.find(".source-page .say", "5 records from 1 file")
    (folder / "2026-08.csv").write_text(FERRY_SALES.splitlines()[0] + "\n2026-08-03,A-1,North,11.00\n")
    page.open(page.driver.current_url)
    page.find(".heed", "1 file came")
    page.click("button", "Look again")
    page.find(".source-page .say", "6 records from 2 files")
    page.click("summary", "Its files")
    page.find(".folder-files .file", "2026-08.csv")

    page.click("header button", "New report")
    page.choose("Over the source", "Ferries")
    page.click("button", "Create")
    page.find(".tie", "6 on the sheet")
    page.add_phrase("by area", "area")
    page.shows("North", ["36.25", "4"])
    page.click("td", "36.25")
    page.wait(lambda: page.driver.find_element(By.CSS_SELECTOR, "[title='2026-08.csv, line 2']"))
