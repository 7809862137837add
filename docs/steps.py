"""Counts the clicks and keystrokes that everyday tasks take on the real page, and prints them as a table for first-report.md.

Run from the project's root: `.venv/bin/python docs/steps.py`, with words of the tasks that are wanted where not all are.
"""

import sys
import tempfile
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))

from selenium import webdriver
from selenium.webdriver.chrome.service import Service
from tasks import OVER, TASKS, Over, Steps, begun
from tests.browser.conftest import FLAGS, Page, serving
from tests.browser.test_page import bring_in


def main() -> None:
    options = webdriver.ChromeOptions()
    options.binary_location = "/usr/bin/chromium"
    for flag in FLAGS:
        options.add_argument(flag)
    driver = webdriver.Chrome(options=options, service=Service("/usr/bin/chromedriver"))
    page = Page(driver)
    for task, does in TASKS.items():
        if not any(word in task for word in sys.argv[1:] or [""]):
            continue
        folder = Path(tempfile.mkdtemp())
        for address in serving(folder / "work", "serve"):
            over = OVER.get(does, Over())
            titles = [name.removesuffix(".csv").capitalize() for name in over.files]
            for (name, text), title in zip(over.files.items(), titles, strict=True):
                bring_in(page, address, folder, text, name)
                page.click(".margin button", "Import")
                page.find("h1", title)
            for name, text in over.later.items():
                (folder / name).write_text(text)
            begun(page, address, titles[0] if len(titles) > 1 else "", over.begins)
            try:
                does(Steps(page, folder))
                steps = driver.execute_script("return window.steps")
                print(f"| {task} | {steps['clicks']} | {steps['keys']} |", flush=True)
            except Exception as error:
                print(f"| {task} | not done: {str(error)[:120]} | |", flush=True)
    driver.quit()


if __name__ == "__main__":
    main()
