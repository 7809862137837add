"""Measures the report screen in headless Chromium over a million records: an edited figure from click to paint, the first
sheet, and scrolling, as a table of where the time goes. Run by `python -m bench.screen [records]`."""

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

from kalendor.desk.bringing_in import bring_in_file
from kalendor.desk.desk import Desk

AREAS, ROUTES, MONTHS = 20, 2_000, 40
EDITS = 15
EDIT = """const [done] = [arguments[arguments.length - 1]];
const before = document.querySelector('tr.leaf td.num').innerText;
performance.clearResourceTimings();
const start = performance.now();
let changed = 0;
const watch = new MutationObserver(() => {
  if (changed || document.querySelector('tr.leaf td.num').innerText === before) return;
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
        found.append(driver.execute_async_script(EDIT, ["Maximum", "Average", "Sum"][i % 3]))
        until(driver, "!document.querySelector('li[role=option]')")
    driver.execute_script("document.querySelector('.MuiBackdrop-root')?.click()")
    return found[3:]


def middle(of: Callable[[dict[str, float]], float], found: list[dict[str, float]]) -> float:
    return statistics.median(map(of, found))


def main() -> None:
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 1_000_000
    folder = Path(tempfile.mkdtemp())
    export(folder / "sales.csv", count)
    desk = Desk(folder / "work")
    bring_in_file(desk, folder / "sales.csv", "Sales", None)
    desk.workspace.close()
    options = webdriver.ChromeOptions()
    options.binary_location = "/usr/bin/chromium"
    for flag in FLAGS:
        options.add_argument(flag)
    driver = webdriver.Chrome(options=options, service=Service("/usr/bin/chromedriver"))
    driver.set_script_timeout(120)
    for address in serving(folder / "work"):
        page = report(address, "month")
        driver.get(page)
        until(driver, THERE)
        driver.get(page)
        until(driver, THERE)
        first = driver.execute_script(
            "return performance.getEntriesByType('resource').filter(e => /sheet/.test(e.name)).map(e => e.responseEnd)[0]"
        )
        edits = edited(driver)
        print(f"\n{count:,} records, {ROUTES:,} lines × {MONTHS} columns, headless, two cores")
        print(f"  page opened to the sheet's answer          {first:7.0f} ms")
        print(
            f"  an edited figure, click to paint, median   {middle(lambda e: e['all'], edits):7.0f} ms   (target ≤ 100)"
        )
        print(f"    until it is sent                         {middle(lambda e: e['sent'], edits):7.0f} ms")
        print(
            f"    saved, worked out, answered              {middle(lambda e: e['answered'] - e['sent'], edits):7.0f} ms"
        )
        print(
            f"    drawn and painted                        {middle(lambda e: e['all'] - e['answered'], edits):7.0f} ms"
        )
        print(f"    round trips                              {middle(lambda e: e['calls'], edits):7.0f}")
        print(f"    bytes                                    {middle(lambda e: e['bytes'], edits):7.0f}")
        print(
            f"  scrolling down                             {driver.execute_async_script(SCROLL, 'down'):7.0f} frames a second   (target ≥ 50)"
        )
        driver.get(report(address, "day"))
        until(driver, THERE)
        print(
            f"  scrolling sideways, {MONTHS * 30:,} columns         {driver.execute_async_script(SCROLL, 'right'):7.0f} frames a second   (target ≥ 50)"
        )
        print(
            f"  scrolling down, {MONTHS * 30:,} columns             {driver.execute_async_script(SCROLL, 'down'):7.0f} frames a second   (target ≥ 50)"
        )
    driver.quit()


if __name__ == "__main__":
    main()
