"""Measures the report screen in headless Chromium over a million records: an edited figure from click to paint, the first
sheet, and scrolling, as a table of where the time goes, each beside a bare page in the same run. Run by `python -m bench.screen [records]`."""

import json
import statistics
import sys
import tempfile
import urllib.request
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
from selenium import webdriver
from selenium.webdriver.chrome.service import Service
from tests.browser.conftest import FLAGS, serving

from bench import bare
from kalendor.desk.bringing_in import bring_in_file
from kalendor.desk.desk import Desk

AREAS, ROUTES, MONTHS = 20, 2_000, 40
EDITS, ROUNDS = 12, 2
TAKES = [("Maximum", "max"), ("Average", "mean"), ("Sum", "sum")]
IN_VIEW = "at=0&open=2&first=0&columns=18"  # what the report screen asks for when it is opened
EDIT = """const done = arguments[arguments.length - 1];
const before = document.querySelector('tr.leaf td.num').textContent;
performance.clearResourceTimings();
const start = performance.now();
let changed = 0;
const watch = new MutationObserver(() => {
  if (changed || document.querySelector('tr.leaf td.num').textContent === before) return;
  changed = performance.now();
  requestAnimationFrame(() => setTimeout(() => {
    watch.disconnect();
    const calls = performance.getEntriesByType('resource').filter(e => /edits|sheet|lines/.test(e.name));
    done({all: performance.now() - start, answered: Math.max(...calls.map(e => e.responseEnd)) - start,
          sent: Math.min(...calls.map(e => e.requestStart)) - start, calls: calls.length,
          bytes: calls.reduce((sum, e) => sum + e.encodedBodySize, 0)});
  }, 0));
});
watch.observe(document.querySelector('.sheet-scroll'), {subtree: true, childList: true, characterData: true});
[...document.querySelectorAll('li[role=option]')].find(e => e.innerText.trim() === arguments[0]).click();"""
THERE = "[...document.querySelectorAll('tr.leaf td.num')].some(cell => cell.innerText)"
FIRST = "return performance.getEntriesByType('resource').filter(e => /sheet/.test(e.name)).map(e => e.responseEnd)[0]"
CELLS = """return [...document.querySelectorAll('tr.row')]
  .map(row => [...row.querySelectorAll('td.num')].map(cell => cell.innerText));"""
SCROLL = """const [way, done] = [arguments[0], arguments[arguments.length - 1]];
const box = document.querySelector('.sheet-scroll');
let frames = 0;
const start = performance.now();
const step = () => {
  if (way === 'down') box.scrollTop += 60; else box.scrollLeft += 40;
  frames += 1;
  if (performance.now() - start < 2500) requestAnimationFrame(step);
  else done(frames / ((performance.now() - start) / 1000));
};
requestAnimationFrame(step);"""


def export(path: Path, count: int) -> None:
    """Delimited records of 2,000 routes in 20 areas over 40 months."""
    rng = np.random.Generator(np.random.PCG64(11))
    route = rng.integers(0, ROUTES, count)
    day = np.datetime64("2023-04-01") + rng.integers(0, MONTHS * 30, count)
    amount = rng.integers(-10_000, 500_000, count)
    with path.open("w") as file:
        file.write("on,area,route,amount\n")
        file.writelines(
            f"{d},Area {r % AREAS:02d},Route {r:04d},{a // 100}.{a % 100:02d}\n"
            for d, r, a in zip(day.astype(str).tolist(), route.tolist(), amount.tolist(), strict=True)
        )


def posted(address: str, path: str, body: Any) -> Any:
    request = urllib.request.Request(
        f"{address}/api{path}", json.dumps(body).encode(), {"Content-Type": "application/json"}
    )
    with urllib.request.urlopen(request) as answer:
        return json.load(answer)


def report(address: str, grain: str) -> str:
    """The address of a report with a line a route and a column a period."""
    document = {
        "kalendor": 1, "kind": "report", "title": f"by {grain}", "source": "Sales",
        "down": [{"category": "area"}, {"category": "route"}], "across": [{"period": "on", "grains": [grain]}],
        "figures": [{"name": "Amount", "take": "sum", "of": "amount"}],
    }  # fmt: skip
    made = posted(address, "/reports", {"source": "Sales", "document": document})
    return f"{address}/reports/{made['id']}"


def until(driver: webdriver.Chrome, script: str) -> None:
    for _ in range(2_000):
        if driver.execute_script(f"return Boolean({script})"):
            return
        driver.execute_async_script("requestAnimationFrame(() => arguments[0]())")
    raise TimeoutError(script)


def edited(driver: webdriver.Chrome) -> list[dict[str, float]]:
    """The figure's take changed again and again, each time from click to paint."""
    driver.execute_script("document.querySelector('.phrase.figure').click()")
    found = []
    for i in range(EDITS):
        box = "[...document.querySelectorAll('.editor [role=combobox]')]"
        driver.execute_script(f"{box}[0].dispatchEvent(new MouseEvent('mousedown', {{bubbles: true, button: 0}}))")
        until(driver, "document.querySelector('li[role=option]')")
        found.append(driver.execute_async_script(EDIT, TAKES[i % 3][0]))
        until(driver, "!document.querySelector('li[role=option]')")
    driver.execute_script("document.querySelector('.MuiBackdrop-root')?.click()")
    return found[3:]


def edited_bare(driver: webdriver.Chrome, page: str, cells: list[list[str]]) -> list[dict[str, float]]:
    """The same edits sent by a page with nothing but a plain table of as many cells."""
    address, _, number = page.partition("/reports/")
    bare.drawn(driver, address, cells)
    token = bare.token(driver)
    path = f"/api/reports/{number}"
    with urllib.request.urlopen(address + path) as answer:
        view = json.load(answer)
    found = []
    for i in range(EDITS):
        figure = {**view["document"]["figures"][0], "take": TAKES[i % 3][1]}
        document = {**view["document"], "figures": [figure]}
        found.append(bare.edited(driver, f"{path}/edits?{IN_VIEW}", view["revision"], document, token))
        view["revision"] = found[-1]["revision"]
    return found[3:]


def opened(driver: webdriver.Chrome, page: str) -> None:
    driver.get(page)
    until(driver, THERE)


def middle(of: Callable[[dict[str, float]], float], found: list[dict[str, float]]) -> float:
    return statistics.median(map(of, found))


def told(what: str, value: float, after: str = "ms") -> None:
    print(f"  {what:<42} {value:7.0f} {after}")


def browser() -> webdriver.Chrome:
    options = webdriver.ChromeOptions()
    options.binary_location = "/usr/bin/chromium"
    for flag in FLAGS:
        options.add_argument(flag)
    driver = webdriver.Chrome(options=options, service=Service("/usr/bin/chromedriver"))
    driver.set_script_timeout(120)
    return driver


def edits(driver: webdriver.Chrome, page: str) -> None:
    """An edit from click to paint, and the same edit on a bare page, in turns."""
    ours, plain = [], []
    for _ in range(ROUNDS):
        opened(driver, page)
        cells = driver.execute_script(CELLS)
        ours += edited(driver)
        plain += edited_bare(driver, page, cells)
    all_of, bare_of = middle(lambda e: e["all"], ours), middle(lambda e: e["all"], plain)
    told("an edited figure, click to paint, median", all_of, "ms   (target ≤ 100)")
    told("  until it is sent", middle(lambda e: e["sent"], ours))
    told("  saved, worked out, answered", middle(lambda e: e["answered"] - e["sent"], ours))
    told("  drawn and painted", middle(lambda e: e["all"] - e["answered"], ours))
    told("  round trips", middle(lambda e: e["calls"], ours), "")
    told("  bytes", middle(lambda e: e["bytes"], ours), "")
    told("the same edit on a bare page", bare_of)
    told("  saved, worked out, answered", middle(lambda e: e["answered"], plain))
    told("  drawn and painted", middle(lambda e: e["all"] - e["answered"], plain))
    print(f"  ours to the bare page's: {all_of / bare_of:.2f}   (target ≤ 1.5)")


def scrolling(driver: webdriver.Chrome, page: str, columns: int, ways: tuple[str, ...]) -> None:
    """Frames a second while scrolling, beside a bare table of the lines that are passed and the columns that are in view."""
    texts = [[f"{(i * 7919 + j * 104729) % 10_000_000 / 100:,.2f}" for j in range(12)] for i in range(400)]
    for way in ways:
        opened(driver, page)
        ours = driver.execute_async_script(SCROLL, way)
        bare.drawn(driver, page.partition("/reports/")[0], texts)
        plain = driver.execute_async_script(SCROLL, way)
        told(
            f"scrolling {way}, {columns:,} columns",
            ours,
            f"frames a second, {ours / plain:.2f} of a bare table's (target ≥ 0.8)",
        )


def main() -> None:
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 1_000_000
    folder = Path(tempfile.mkdtemp())
    export(folder / "sales.csv", count)
    desk = Desk(folder / "work")
    bring_in_file(desk, folder / "sales.csv", "Sales", None)
    desk.workspace.close()
    driver = browser()
    for address in serving(folder / "work"):
        page = report(address, "month")
        opened(driver, page)
        opened(driver, page)
        print(f"\n{count:,} records, {ROUTES:,} lines × {MONTHS} columns, headless, two cores")
        told("page opened to the sheet's answer", driver.execute_script(FIRST))
        edits(driver, page)
        scrolling(driver, page, MONTHS, ("down",))
        scrolling(driver, report(address, "day"), MONTHS * 30, ("right", "down"))
    driver.quit()


if __name__ == "__main__":
    main()
