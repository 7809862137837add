"""A server over a demo workspace, and the real page in headless Chromium."""

import os
import re
import shutil
import socket
import time
import urllib.request
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from selenium import webdriver
from selenium.webdriver.chrome.service import Service
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement
from selenium.webdriver.support.ui import WebDriverWait

from kalendor.demo.workspace import build
from kalendor.desk.bringing_in import bring_in_file
from kalendor.desk.desk import Desk
from kalendor.serving import Reach, serve_workspace
from tests.command import FORKS

FLAGS = (
    "--headless", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking",
    "--disable-component-update", "--disable-sync", "--disable-dev-shm-usage", "--window-size=1280,800",
)  # fmt: skip
PATIENCE = 60
WORKERS = int(os.environ.get("KALENDOR_WORKERS", "0"))
_PORT: list[int] = []
FERRY_SALES = """sold on,route,area,gross
2025-06-03,A-1,North,10.00
2025-07-03,A-2,North,20.50
2026-06-03,A-1,North,(5.25)
2026-07-03,B-1,South,100.00
2026-07-04,B-1,South,1.00
"""
EVENTS = re.compile(r"/api/reports/\d+/events - ")
STOPPED = ("ERR_CONNECTION_REFUSED", "ERR_SOCKET_NOT_CONNECTED")  # asked of a server that was stopped after its test

FOUND = """const [css, text, done] = arguments;
const until = performance.now() + 1500;
const seen = e => {
  const seen = e.closest('select') ?? e;
  if (e.closest('[aria-busy=true]')) return false; // about to be drawn again: what is found would be gone
  return seen.checkVisibility({ opacityProperty: true, visibilityProperty: true }) && seen.getClientRects().length &&
    (e.innerText || e.value || '').replaceAll('\\u00a0', ' ').includes(text);
};
const look = () => {
  const found = [...document.querySelectorAll(css)].find(seen);
  if (found || performance.now() > until) done(found ?? null);
  else setTimeout(look, 30);
};
look();"""
"""Looks within the page until it finds, since each question to it takes several processes' time."""


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def _serve(workspace: Path, port: int, with_mail: bool, workers: int) -> None:
    serve_workspace(workspace, Reach("127.0.0.1", port, workers=workers), with_mail)


def _port() -> int:
    """The same port for consecutive servers, so that the browser's cache of the page stays valid."""
    if not _PORT:
        _PORT.append(free_port())
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", _PORT[0]))
        except OSError:  # another server of these tests is still there
            return free_port()
    return _PORT[0]


def serving(workspace: Path, with_mail: bool = False, workers: int = WORKERS) -> Iterator[str]:
    """The URL of a server over a workspace, forked from a process that has the program loaded."""
    yield from served(_serve, workspace, with_mail, workers)


def served(serve: Callable[..., None], workspace: Path, *more: Any, daemon: bool = True) -> Iterator[str]:
    """The URL of a server started by `serve` with a workspace and a port; pass `daemon=False` if it starts
    processes."""
    port = _port()
    server = FORKS.Process(target=serve, args=(workspace, port, *more), daemon=daemon)
    server.start()
    address = f"http://127.0.0.1:{port}"
    try:
        for _ in range(600):
            try:
                urllib.request.urlopen(f"{address}/api/session", timeout=1)
                break
            except OSError:
                assert server.is_alive(), "the server stopped"
                time.sleep(0.05)
        yield address
    finally:
        server.terminate()
        server.join(10)


@pytest.fixture(scope="session")
def demo_folder(tmp_path_factory: pytest.TempPathFactory, worker_id: str) -> Path:
    """The demo workspace, built once for all test processes, to be copied."""
    base = tmp_path_factory.getbasetemp()
    root = (base if worker_id == "master" else base.parent) / "demo"
    try:
        root.mkdir()
    except FileExistsError:
        until = time.monotonic() + 300
        while not (root / "workspace").exists() and time.monotonic() < until:
            time.sleep(0.2)
    else:
        build(root / "part")
        (root / "part").rename(root / "workspace")
    return root / "workspace"


@pytest.fixture(scope="session")
def demo(demo_folder: Path, tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    """The URL of a server over a demo workspace."""
    own = tmp_path_factory.mktemp("demo") / "workspace"
    shutil.copytree(demo_folder, own)
    yield from serving(own, with_mail=True)


@pytest.fixture
def empty(tmp_path: Path) -> Iterator[str]:
    """The URL of a server over an empty workspace."""
    yield from serving(tmp_path / "workspace")


@pytest.fixture(scope="session")
def shop_folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A workspace with one imported file of ferry sales, to be copied."""
    folder = tmp_path_factory.mktemp("shop")
    file = folder / "ferry-sales-2026.csv"
    file.write_text(FERRY_SALES)
    desk = Desk(folder / "workspace")
    bring_in_file(desk, file, "Ferry sales")
    desk.workspace.close()
    return folder / "workspace"


@pytest.fixture
def shop(shop_folder: Path, tmp_path: Path) -> Iterator[str]:
    """The URL of a server over a copy of it."""
    shutil.copytree(shop_folder, tmp_path / "workspace")
    yield from serving(tmp_path / "workspace")


@pytest.fixture(scope="session")
def chromium() -> Iterator[webdriver.Chrome]:
    options = webdriver.ChromeOptions()
    options.binary_location = "/usr/bin/chromium"
    for flag in FLAGS:
        options.add_argument(flag)
    options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
    driver = webdriver.Chrome(options=options, service=Service("/usr/bin/chromedriver"))
    yield driver
    driver.quit()


class Page:
    """A user's actions on the page: find, click, type."""

    def __init__(self, driver: webdriver.Chrome) -> None:
        self.driver = driver
        self.refusals: list[str] = []  # statuses that a test means to meet

    def open(self, address: str) -> None:
        self.driver.get(address)

    def severe(self) -> list[str]:
        """Unexpected errors logged to the browser's console since the last call. Requests to a server that was stopped
        after its test are left out: the event streams of its page reconnect until another page is opened, and their
        errors are logged in the next test."""
        logged = [entry["message"] for entry in self.driver.get_log("browser") if entry["level"] == "SEVERE"]
        own = [m for m in logged if not EVENTS.search(m) and not any(stopped in m for stopped in STOPPED)]
        return [m for m in own if not any(f"status of {status}" in m for status in self.refusals)]

    def wait(self, until: Callable[[], Any], what: str = "") -> Any:
        def tried(_: Any) -> Any:
            try:
                return until()
            except Exception:
                return False

        return WebDriverWait(self.driver, PATIENCE, 0.05).until(tried, what or "what was waited for did not come")

    def find(self, css: str, text: str = "") -> WebElement:
        """The first visible element that matches the selector and contains `text`, outside of parts that are about to
        be replaced."""

        return self.wait(lambda: self.driver.execute_async_script(FOUND, css, text), f"no {css} with {text!r}")

    def click(self, css: str, text: str = "") -> None:
        self.wait(lambda: self.find(css, text).click() or True, f"cannot click {css} {text!r}")

    def go(self, screen: str) -> None:
        """Open a screen by its link at the head of the page, and wait until it is there."""
        self.click("nav a", screen)
        self.find("nav a[aria-current=page]", screen)

    def point(self, css: str, text: str = "") -> None:
        """Open the context menu of an element, found again if it was rendered anew meanwhile."""

        def pointed() -> bool:
            webdriver.ActionChains(self.driver).context_click(self.find(css, text)).perform()
            return True

        self.wait(pointed, f"cannot point at {css} {text!r}")

    def choose(self, label: str, option: str) -> None:
        """Choose an option of a select by its label; reopens the list if it did not open."""
        path = f"//*[contains(@class, 'MuiInputLabel-root')][normalize-space()='{label}']/following-sibling::div//div[@role='combobox']"
        self.choose_in(lambda: self.driver.find_element(By.XPATH, path), option)

    def choose_in(self, box: Callable[[], WebElement], option: str) -> None:
        """The same with a function that finds the select. Returns once the list is closed, since a closing list would
        be mistaken for the next."""

        def chosen() -> bool:
            offered = [e for e in self.driver.find_elements(By.CSS_SELECTOR, "li[role=option]") if e.is_displayed()]
            if not offered:
                box().click()
                time.sleep(0.2)
                return False
            next(e for e in offered if option in e.text).click()
            return True

        self.wait(chosen, f"no choice of {option!r}")
        self.wait(
            lambda: not self.driver.find_elements(By.CSS_SELECTOR, ".MuiMenu-root li[role=option]"),
            "the list stays open",
        )

    def write(self, label: str, text: str) -> None:
        """Type into a field by its label and finish with Enter; in a dialog, where Enter presses the main button, with
        Tab."""
        path = f"//label[normalize-space()='{label}']/following-sibling::div//*[self::input or self::textarea]"
        field = self.wait(lambda: self.driver.find_element(By.XPATH, path), f"no field {label}")
        field.send_keys(Keys.CONTROL, "a")
        in_dialog = bool(field.find_elements(By.XPATH, "ancestor::*[@role='dialog']"))
        field.send_keys(text, Keys.TAB if in_dialog else Keys.ENTER)

    def search(self, label: str, typed: str, option: str) -> None:
        """Choose an option of an autocomplete by typing."""
        path = f"//label[normalize-space()='{label}']/following-sibling::div//input"
        field = self.wait(lambda: self.driver.find_element(By.XPATH, path), f"no field {label}")
        field.click()
        field.send_keys(Keys.CONTROL, "a")
        field.send_keys(typed)
        self.click(".MuiAutocomplete-option", option)

    def press(self, *keys: str) -> None:
        webdriver.ActionChains(self.driver).send_keys(*keys).perform()

    def chord(self, *keys: str) -> None:
        """Press keys together."""
        chain = webdriver.ActionChains(self.driver)
        for key in keys[:-1]:
            chain.key_down(key)
        chain.send_keys(keys[-1])
        for key in keys[:-1]:
            chain.key_up(key)
        chain.perform()

    def close_editor(self) -> None:
        def closed() -> bool:
            if not self.driver.find_elements(By.CSS_SELECTOR, ".MuiPopover-root"):
                return True
            self.press(Keys.ESCAPE)
            time.sleep(0.3)
            return False

        self.wait(closed, "the editor stays open")

    def add_phrase(self, typed: str, offer: str) -> None:
        self.click(".add-phrase")
        self.find(".offers textarea").send_keys(typed)

        def added() -> bool:
            self.click(".offers li", offer)
            for _ in range(20):  # an offer that was drawn anew as it was clicked is clicked again
                if not self.driver.find_elements(By.CSS_SELECTOR, ".offers"):
                    return True
                time.sleep(0.1)
            return False

        self.wait(added, "the offers stay open")

    @property
    def brief(self) -> str:
        self.find(".brief .phrase")
        return self.find(".brief").text.replace("+ add", "").replace("edit as text", "").strip()

    def lines(self) -> dict[str, list[str]]:
        """The visible lines of the sheet: figures by label."""
        script = """return [...document.querySelectorAll('.sheet-table tbody tr.row')].map(r =>
          [r.querySelector('th').innerText.replace(/[▾▸]/g, '').trim(), [...r.querySelectorAll('td.num')].map(c => c.innerText)])"""
        result = {}
        for label, cells in self.driver.execute_script(script):
            result[label] = cells
        return result

    def texts(self, css: str) -> list[str]:
        """The texts of all matching elements, read at one moment, since elements may be rendered anew in between."""
        script = "return [...document.querySelectorAll(arguments[0])].map(e => e.innerText.trim())"
        found: list[str] = self.driver.execute_script(script, css)
        return found

    def line(self, label: str) -> list[str]:
        """The figures of a line, once it is rendered."""
        return self.wait(lambda: self.lines()[label], f"no line {label!r}")

    def shows(self, label: str, figures: list[str]) -> None:
        """Assert that a line has these figures, waiting until the sheet is updated."""
        self.wait(lambda: self.lines()[label] == figures, f"{label!r} is {self.lines().get(label)}, not {figures}")

    def shows_at(self, label: str, place: int, figure: str) -> None:
        """The same for one figure of a line."""
        self.wait(lambda: self.lines()[label][place] == figure, f"{label!r} has no {figure!r} at {place}")


@pytest.fixture
def page(chromium: webdriver.Chrome) -> Iterator[Page]:
    chromium.get_log("browser")
    page = Page(chromium)
    yield page
    assert page.severe() == []
    chromium.execute_script("try { localStorage.clear() } catch { /* an empty page has none */ }")
    chromium.get("about:blank")  # else it would go on asking the next test's server, which has the same port
