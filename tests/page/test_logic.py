"""The page's unit tests, run by the usual runner of its language: web/src/**/*.test.ts."""

import re
import subprocess
from pathlib import Path

WEB = Path(__file__).parents[2] / "web"
COLOURS = re.compile(r"\x1b\[[0-9;]*m")


def test_the_pages_logic() -> None:
    run = ["npx", "--no-install", "vitest", "run"]
    found = subprocess.run(run, cwd=WEB, capture_output=True, text=True, encoding="utf-8", timeout=300)
    assert found.returncode == 0, COLOURS.sub("", found.stdout + found.stderr)
    assert re.search(r"Tests +\d{2,} passed", COLOURS.sub("", found.stdout))
