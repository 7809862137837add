"""`kalendor trail`: the records behind one number with the file and line of each, and its explanation."""

import csv
import io
import json
import subprocess
from decimal import Decimal
from pathlib import Path
from typing import Any

import pytest

from tests.command import kalendor

JANUARY = "on,area,note,net\n2025-01-05,North,=1+1,10.50\n2025-02-07,South,,4.00\n"
FEBRUARY = "net,on,area,note\n7.25,2026-01-06,North,ok\nx,2026-01-07,North,\n3.00,2026-02-08,South,\n"
REPORT: dict[str, Any] = {
    "kalendor": 1, "kind": "report", "title": "t", "source": "s",
    "down": [{"category": "area"}], "across": [{"period": "on", "grains": ["year"]}],
    "figures": [
        {"name": "Net", "take": "sum", "of": "net"},
        {"name": "Change", "compare": "Net", "with": "year_earlier", "as": "percent", "to_date": False},
        {"name": "Typical", "take": "median", "of": "net"},
    ],
}  # fmt: skip


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    (tmp_path / "january.csv").write_text(JANUARY)
    (tmp_path / "february.csv").write_text(FEBRUARY)
    (tmp_path / "report.json").write_text(json.dumps(REPORT))
    recipe = {"kalendor": 1, "kind": "recipe", "columns": {"net": {"type": "decimal", "places": 2}}}
    (tmp_path / "recipe.json").write_text(json.dumps(recipe))
    return tmp_path


def trail(folder: Path, *more: str) -> subprocess.CompletedProcess[str]:
    data = [
        "report.json", "--data", "january.csv", "--data", "february.csv", "--recipe", "recipe.json", "--as-of", "2026-12-31",
    ]  # fmt: skip
    return kalendor(folder, "trail", *data, *more)


def test_each_record_bears_its_file_line_part_and_amount(folder: Path) -> None:
    done = trail(folder, "--figure", "Change", "--line", "North", "--column", "2026")
    assert done.returncode == 0, done.stderr
    assert list(csv.reader(io.StringIO(done.stdout))) == [
        ["file", "line", "part", "amount", "on", "area", "note", "net"],
        ["february.csv", "2", "value", "7.25", "2026-01-06", "North", "ok", "7.25"],
        ["january.csv", "2", "base", "10.50", "2025-01-05", "North", "'=1+1", "10.50"],
    ]


def test_a_take_that_does_not_add_up_has_no_amounts(folder: Path) -> None:
    done = trail(folder, "--figure", "Typical", "--out", "records.csv")
    assert done.returncode == 0, done.stderr
    rows = list(csv.DictReader((folder / "records.csv").open()))
    assert [row["amount"] for row in rows] == ["", "", "", ""]
    assert [Decimal(row["net"]) for row in rows] == [Decimal(n) for n in ("10.50", "4.00", "7.25", "3.00")]


def test_the_explanation_says_base_and_condition(folder: Path) -> None:
    done = trail(folder, "--figure", "Change", "--line", "North", "--column", "2026", "--words")
    assert done.stdout.splitlines() == [
        "Change, North, 2026 · part: (31.0%).",
        "Net is 7.25, against 10.50 for a year earlier; shown is the change as a percentage of the base.",
        "The records: \"area\" = 'North' AND \"on\" BETWEEN DATE '2026-01-01' AND DATE '2026-12-31'",
        "The records of base: \"area\" = 'North' AND \"on\" BETWEEN DATE '2025-01-05' AND DATE '2025-12-31'",
    ]


@pytest.mark.parametrize(
    ("more", "why"),
    [
        (["--figure", "Gross"], "there is no figure 'Gross' on the sheet; there are Net, Change, Typical"),
        (["--figure", "Net", "--line", "West"], "there is no line 'West'; there are North, South"),
        (["--figure", "Net", "--column", "2027"], "there is no column '2027'; there are 2025, 2026"),
        (["--figure", "Net", "--column", "2026", "--column", "Jan"], "nothing stands under 2026; give fewer labels"),
    ],
)
def test_what_is_not_on_the_sheet_is_named(folder: Path, more: list[str], why: str) -> None:
    done = trail(folder, *more)
    assert done.returncode == 2
    assert why in done.stderr
    assert done.stderr.count("\n") == 1
