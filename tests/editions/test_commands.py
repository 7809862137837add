"""Editions from the command line: issue, editions and check, over a workspace and beside a server."""

import json
import subprocess
from pathlib import Path

import pytest

from tests import command
from tests.editions.conftest import REPORT, Office


def kalendor(*args: str | Path) -> subprocess.CompletedProcess[str]:
    return command.kalendor(Path.cwd(), *args, env={"KALENDOR_TODAY": "2026-08-02", "PATH": ""})


def test_a_period_is_issued_with_files_and_listed(office: Office, tmp_path: Path) -> None:
    folder = office.desk.workspace.folder
    done = kalendor(
        "issue",
        "--workspace",
        folder,
        "--period",
        "2026-06",
        "--format",
        "csv",
        "--format",
        "xlsx",
        "--out",
        tmp_path / "out",
    )
    assert (done.returncode, done.stderr) == (0, "")
    assert sorted(p.name for p in (tmp_path / "out").iterdir()) == [
        "sales-by-side-2026-06.csv",
        "sales-by-side-2026-06.xlsx",
    ]
    again = kalendor("issue", "--workspace", folder, "--report", "sales by side", "--period", "Jun 2026")
    assert "stands already, and has not moved" in again.stdout
    listed = json.loads(kalendor("editions", "--workspace", folder, "--json").stdout)
    assert [(e["report"], e["period"], e["number"], e["moved"], e["stands"]) for e in listed] == [
        ("Sales by side", "Jun 2026", 1, False, True)
    ]
    office.file("2026-06", "2026-06-15,kx,100.00\n", join="replace_dates")
    assert "moved since" in kalendor("editions", "--workspace", folder, "--report", "Sales by side").stdout
    kalendor("issue", "--workspace", folder, "--period", "2026-06", "--format", "csv", "--out", tmp_path / "out")
    assert (tmp_path / "out" / "sales-by-side-2026-06-2nd-edition.csv").is_file()
    assert kalendor("check", folder).returncode == 0


def test_due_ones_go_out_and_others_are_left_with_the_reason(office: Office) -> None:
    office.report(cadence={**REPORT["cadence"], "due": {"days": 1}, "issue": "when_ready"})
    done = kalendor("issue", "--workspace", office.desk.workspace.folder, "--due")
    assert done.returncode == 0
    lines = done.stdout.splitlines()
    assert [line.split(":")[1].strip().split(" ")[0] for line in lines] == ["issued", "issued", "left"]
    assert "1 value has no Side yet" in lines[2]


def test_by_hand_reports_go_out_when_they_are_named(office: Office) -> None:
    folder = office.desk.workspace.folder
    assert kalendor("issue", "--workspace", folder, "--due").stdout == ""
    assert kalendor("issue", "--workspace", folder, "--due", "--report", "Sales by side").stdout.count("issued") == 2


@pytest.mark.parametrize(
    ("args", "code", "says"),
    [
        (["--period", "2026-08"], 2, "has not ended yet"), ([], 2, "name either --period or --due"),
        (["--period", "2026-06", "--due"], 2, "name either --period or --due"),
        (["--period", "june"], 2, "is no period"), (["--period", "2026-06", "--report", "None"], 2, "there is no report 'None'"),
        (["--period", "2026-06", "--format", "doc"], 2, "doc"), (["--period", "june", "--report", "Sales by side"], 2, "is no period"),
    ],
)  # fmt: skip
def test_what_cannot_be_issued_is_one_line(office: Office, args: list[str], code: int, says: str) -> None:
    done = kalendor("issue", "--workspace", office.desk.workspace.folder, *args)
    assert (done.returncode, done.stderr.count("\n")) == (code, 1), done
    assert says in done.stderr
    assert office.desk.editions.all() == []


def test_a_workspace_that_is_not_there_is_said(tmp_path: Path) -> None:
    for asked in (["issue", "--period", "2026-06"], ["editions"]):
        done = kalendor(*asked, "--workspace", tmp_path / "none")
        assert (done.returncode, "there is no workspace there" in done.stderr) == (2, True)


def test_a_report_that_fails_does_not_hold_up_the_others(office: Office) -> None:
    broken = {**REPORT, "title": "Another", "only": ["nothing = 1"]}
    office.define(broken)
    done = kalendor("issue", "--workspace", office.desk.workspace.folder, "--period", "2026-06")
    assert done.returncode == 2
    assert "Another · Jun 2026: not issued" in done.stdout
    assert "Sales by side · Jun 2026: issued by" in done.stdout
