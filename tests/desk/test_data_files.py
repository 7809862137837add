"""Data files by name, folder or pattern, on the command line."""

import json
import random
import subprocess
from pathlib import Path

import pytest

from kalendor.desk.data_files import data_files
from kalendor.errors import DefinitionError
from tests.command import kalendor

REPORT = {
    "kalendor": 1, "kind": "report", "title": "Sales", "source": "Sales", "down": [{"category": "shop"}],
    "across": [{"period": "day", "grains": ["month"]}],
    "figures": [{"name": "Net", "take": "sum", "of": "net"}, {"name": "Sales", "take": "count"}],
}  # fmt: skip


@pytest.fixture
def sales(tmp_path: Path) -> Path:
    for name in ("2026/02/b.csv", "2026/01/a.csv", "2026/01/.hidden.csv", "2026/_SUCCESS", ".old/c.csv", "2025/z.csv"):
        path = tmp_path / "sales" / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text("day,shop,net\n2026-01-05,North,1\n")
    return tmp_path / "sales"


def named(sales: Path, *given: str) -> list[str]:
    return [str(path.relative_to(sales)) for path in data_files([sales / one for one in given])]


def test_a_folder_stands_for_all_files_beneath_it_in_order(sales: Path) -> None:
    assert named(sales, "") == ["2025/z.csv", "2026/01/a.csv", "2026/02/b.csv"]
    assert named(sales, "2026") == ["2026/01/a.csv", "2026/02/b.csv"]


def test_a_pattern_stands_for_the_files_that_it_matches(sales: Path) -> None:
    assert named(sales, "2026/*/?.csv") == ["2026/01/a.csv", "2026/02/b.csv"]
    assert named(sales, "**/[az].csv") == ["2025/z.csv", "2026/01/a.csv"]


def test_files_stay_in_the_order_given_and_none_is_found_twice(sales: Path) -> None:
    assert named(sales, "2026/02/b.csv", "2026", "**/*.csv") == ["2026/02/b.csv", "2026/01/a.csv", "2025/z.csv"]


def test_a_file_whose_name_looks_like_a_pattern_is_that_file(sales: Path) -> None:
    (sales / "net [north].csv").write_text("day,shop,net\n")
    assert named(sales, "net [north].csv") == ["net [north].csv"]


def test_a_folder_or_pattern_without_a_file_is_refused_by_name(sales: Path) -> None:
    (sales / "empty").mkdir()
    with pytest.raises(DefinitionError, match=r"empty'.*no file in that folder"):
        named(sales, "empty")
    with pytest.raises(DefinitionError, match=r"\*\.parquet'.*no file that matches"):
        named(sales, "**/*.parquet")
    assert named(sales, "missing.csv") == ["missing.csv"]  # said to be missing when it is read


def run(report: Path, *data: str) -> subprocess.CompletedProcess[str]:
    told = [word for one in data for word in ("--data", one)]
    return kalendor(Path.cwd(), "run", report, *told, "--as-of", "2026-12-31")


def test_a_folder_of_parts_gives_the_sheet_of_the_whole(tmp_path: Path) -> None:
    """Files with different decimal places, or none, are read alike."""
    rng = random.Random(7)
    amounts = ["1", "2.50", "", "-3.125", "12"]
    lines = [f"2026-{rng.randrange(1, 13):02d}-05,{rng.choice('ABC')},{rng.choice(amounts)}" for _ in range(200)]
    (tmp_path / "report.json").write_text(json.dumps(REPORT))
    (tmp_path / "whole.csv").write_text("\n".join(["day,shop,net", *lines, ""]))
    cuts = sorted(rng.sample(range(1, 200), 5))
    for i, (start, end) in enumerate(zip([0, *cuts], [*cuts, 200], strict=True)):
        part = tmp_path / "parts" / f"{i // 2}" / f"{i}.csv"
        part.parent.mkdir(parents=True, exist_ok=True)
        part.write_text("\n".join(["day,shop,net", *lines[start:end], ""]))
    whole, parts = (run(tmp_path / "report.json", str(tmp_path / one)) for one in ("whole.csv", "parts"))
    assert whole.returncode == 0, whole.stderr
    assert parts.stdout == whole.stdout
    refused = run(tmp_path / "report.json", str(tmp_path / "parts" / "*.parquet"))
    assert (refused.returncode, refused.stdout) == (2, "")
    assert "there is no file that matches" in refused.stderr
