"""An ordinary month without questions: the number of steps from the file to the edition, by way of import.
docs/how-to/close-a-month.md states the counts."""

import re
import urllib.request
from collections.abc import Iterator
from pathlib import Path

import pytest

from tests.browser.conftest import Page, serving
from tests.browser.test_sources import DROPPED
from tests.editions.conftest import HEAD, LINES, Office

JULY = ("sales-2026-07.csv", (HEAD + LINES["2026-07"]).replace("kz", "kx"))
STATED = re.compile(
    r"^\| (dropped on the board|sent by a program|chosen by hand)[^|]*\| (\d+) \| (\d+) \|", re.MULTILINE
)


@pytest.fixture
def office(tmp_path: Path) -> Iterator[str]:
    """The URL of a server over a workspace that lacks July's file and has editions of the months before."""
    made = Office(tmp_path / "workspace")
    made.desk.intakes.undo(3, made.now)
    for month in ("2026-05", "2026-06"):
        made.issue(month)
    made.desk.workspace.close()
    yield from serving(tmp_path / "workspace")


def stated(way: str) -> tuple[int, int]:
    page = (Path(__file__).parents[2] / "docs" / "how-to" / "close-a-month.md").read_text()
    return next((int(clicks), int(keys)) for name, clicks, keys in STATED.findall(page) if name == way)


def issued(page: Page) -> None:
    page.press("a")
    page.find("[role=dialog]", "Jul 2026 · issued")


def test_dropped_on_the_board(page: Page, office: str) -> None:
    page.open(f"{office}/board")
    page.find(".board-grid")
    page.driver.execute_script(DROPPED, [JULY])
    page.find("header button", "Import 1 file")
    page.press("\ue007")
    page.find(".board-grid")
    page.find("button.state", "late")
    issued(page)
    assert stated("dropped on the board") == (0, 2)


def test_sent_by_a_program(page: Page, office: str) -> None:
    body = "\r\n".join([
        "--b", f'Content-Disposition: form-data; name="file"; filename="{JULY[0]}"', "", JULY[1], "--b--", "",
    ]).encode()  # fmt: skip
    sent = urllib.request.Request(
        f"{office}/api/sources/1/files", body, {"Content-Type": "multipart/form-data; boundary=b"}, method="POST"
    )
    with urllib.request.urlopen(sent) as answer:
        assert answer.status == 201
    page.open(f"{office}/board")
    page.find("button.state", "late")
    issued(page)
    assert stated("sent by a program") == (0, 1)


def test_chosen_by_hand(page: Page, office: str, tmp_path: Path) -> None:
    (tmp_path / JULY[0]).write_text(JULY[1])
    page.open(f"{office}/board")
    page.click(".board-name a[href^='/sources']")
    page.find("header button", "Import a file")  # one click, and the file is chosen
    page.driver.find_element("css selector", "input[type=file][aria-label=File]").send_keys(str(tmp_path / JULY[0]))
    page.click(".margin button", "Import")
    page.find(".file", JULY[0])
    page.click("a", "Board")
    page.find("button.state", "late")
    issued(page)
    assert stated("chosen by hand") == (4, 1)
