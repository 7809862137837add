"""The command line: exit codes, one line on standard error, no partial output."""

import json
import subprocess
import sys
from pathlib import Path
from typing import Any

import pytest

from kalendor import VERSION
from tests.command import kalendor

DATA = "kind,on,amount\nx,2026-01-05,1.50\ny,2026-02-05,2.00\n"
REPORT: dict[str, Any] = {
    "kalendor": 1, "kind": "report", "title": "t", "source": "data", "down": [{"category": "kind"}],
    "figures": [{"name": "Amount", "take": "sum", "of": "amount"}],
}  # fmt: skip


def run(folder: Path, report: Any, *args: str, data: str | bytes = DATA) -> subprocess.CompletedProcess[str]:
    (folder / "report.json").write_text(report if isinstance(report, str) else json.dumps(report))
    (folder / "data.csv").write_bytes(data if isinstance(data, bytes) else data.encode())
    return kalendor(folder, "run", "report.json", "--data", "data.csv", *args)


def test_a_flat_sheet_on_standard_output(tmp_path: Path) -> None:
    done = run(tmp_path, REPORT)
    assert done.returncode == 0
    assert done.stdout == "kind,down_level,Amount\nx,kind,1.50\ny,kind,2.00\n,Total,3.50\n"


def test_json_keeps_every_digit(tmp_path: Path) -> None:
    done = run(tmp_path, REPORT, "--format", "json")
    assert '"Amount": 3.50' in done.stdout
    assert json.loads(done.stdout)["rows"][2] == {"kind": "", "down_level": "Total", "Amount": 3.5}
    as_seen = json.loads(run(tmp_path, REPORT, "--format", "json", "--shape", "sheet").stdout)
    assert [r["label"] for r in as_seen["rows"]] == ["x", "y", "Total"]


def test_out_and_tie_out_files(tmp_path: Path) -> None:
    done = run(
        tmp_path, {**REPORT, "only": ["kind = 'x'"]}, "--out", "sheet.csv", "--tie-out", "tie.json", "--shape", "sheet"
    )
    assert done.returncode == 0
    assert (tmp_path / "sheet.csv").read_text() == "kind,Amount\nx,1.50\nTotal,1.50\n"
    tie = json.loads((tmp_path / "tie.json").read_text())
    assert (tie["read"], tie["steps"][0]["records"], tie["on_sheet"], tie["footings"]) == (
        2,
        1,
        1,
        [{"figure": "Amount", "total": "1.50"}],
    )


@pytest.mark.parametrize("data", [DATA, DATA + "".join(f"k{i},2026-01-05,1\n" for i in range(9000))])
def test_standard_output_that_is_full_or_left_is_no_fault_of_its_own(tmp_path: Path, data: str) -> None:
    assert run(tmp_path, REPORT, data=data).returncode == 0
    command = [sys.executable, "-m", "kalendor.cli", "run", "report.json", "--data", "data.csv"]
    with Path("/dev/full").open("wb") as full:
        done = subprocess.run(command, cwd=tmp_path, stdout=full, stderr=subprocess.PIPE, text=True, check=False)
    assert done.returncode == 2
    assert done.stderr == "kalendor: standard output cannot be written to (No space left on device)\n"
    left = subprocess.Popen(command, cwd=tmp_path, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True)
    assert left.stdout is not None
    left.stdout.close()
    assert left.wait(60) in (0, 1)
    assert left.stderr is not None
    assert left.stderr.read() == ""


def test_a_fault_of_the_report_is_said_while_the_file_is_still_being_read(tmp_path: Path) -> None:
    for report, said in (
        ({**REPORT, "figures": [{"name": "n", "take": "total"}]}, "'total' is not a take"),
        ("{", "not valid JSON"),
    ):
        done = run(tmp_path, report, data=DATA + "z,2026-03-05,1\n" * 300_000)
        assert (done.returncode, done.stdout) == (2, "")
        assert said in done.stderr


def test_text_that_a_program_would_run_is_made_harmless(tmp_path: Path) -> None:
    done = run(tmp_path, REPORT, data="kind,on,amount\n=1+1,2026-01-05,-1.50\n")
    assert "'=1+1,kind,-1.50" in done.stdout


@pytest.mark.parametrize(
    ("report", "args", "data", "code", "words"),
    [
        ({**REPORT, "colour": 1}, (), DATA, 2, "report.json: colour is not a key that is known here"),
        ({**REPORT, "down": [{"category": "kind", "x": 1}]}, (), DATA, 2, "down[0].x is not a key"),
        ({**REPORT, "down": [{}]}, (), DATA, 2, 'needs one of the keys "category"'),
        ({**REPORT, "figures": []}, (), DATA, 2, "figures"),
        ({**REPORT, "kind": "tree"}, (), DATA, 2, "kind: 'tree' does not fit here"),
        ({**REPORT, "down": [{"category": "nope"}]}, (), DATA, 2, "there is no column 'nope'"),
        ({**REPORT, "down": [{"category": "kind", "name": "Amount"}]}, (), DATA, 2, "both named 'Amount'"),
        ("{", (), DATA, 2, "not valid JSON at line 1"),
        (REPORT, ("--as-of", "soon"), DATA, 2, "--as-of 'soon' is not a date"),
        (REPORT, ("--format", "tiff"), DATA, 2, "--format tiff"),
        (REPORT, ("--nonsense",), DATA, 2, "--nonsense"),
        (REPORT, ("--with", "none.json"), DATA, 2, "none.json: cannot be read"),
        (REPORT, ("--data", "none.csv"), DATA, 3, "none.csv: cannot be read"),
        (REPORT, (), b"\x00\x01\x02", 3, "NUL byte"),
        (REPORT, (), "", 3, "the file is empty"),
    ],
)  # fmt: skip
def test_what_is_wrong_is_one_line_with_its_exit_code(
    tmp_path: Path, report: Any, args: tuple[str, ...], data: Any, code: int, words: str
) -> None:
    done = run(tmp_path, report, *args, "--out", "out.csv", data=data)
    assert done.returncode == code, done.stderr
    assert done.stderr.count("\n") == 1
    assert words in done.stderr
    assert sorted(p.name for p in tmp_path.iterdir()) == ["data.csv", "report.json"]


def test_intake_from_a_shell_a_check_and_a_backup(tmp_path: Path) -> None:
    (tmp_path / "data.csv").write_text(DATA)
    (tmp_path / "report.json").write_text(json.dumps(REPORT))
    (tmp_path / "wrong.json").write_text("{}")
    done = kalendor(tmp_path, "intake", "Sales", "data.csv", "--workspace", "w")
    assert (done.returncode, done.stdout) == (0, "data.csv: 2 records, 0 refused, 0 replaced\n")
    again = kalendor(tmp_path, "intake", "Sales", "data.csv", "--workspace", "w")
    assert (again.returncode, "the same content" in again.stderr) == (3, True)
    piped = kalendor(tmp_path, "intake", "Sales", "-", "--workspace", "w", sent=DATA.replace("2026-0", "2027-0"))
    assert (piped.returncode, piped.stdout) == (0, "standard input: 2 records, 0 refused, 0 replaced\n"), piped.stderr
    assert kalendor(tmp_path, "check", "report.json").stdout == "report.json: a sound report\n"
    assert kalendor(tmp_path, "check", "wrong.json").returncode == 2
    assert kalendor(tmp_path, "backup", "copy.sqlite", "--workspace", "w").returncode == 0
    assert (tmp_path / "copy.sqlite").stat().st_size > 0
    assert "there is a file already" in kalendor(tmp_path, "backup", "copy.sqlite", "--workspace", "w").stderr


def test_the_version_and_what_it_listens_on(tmp_path: Path) -> None:
    said = subprocess.run(
        [sys.executable, "-m", "kalendor.cli", "--version"], capture_output=True, text=True, check=True
    )
    assert said.stdout == f"kalendor {VERSION}\n"
    command = [sys.executable, "-m", "kalendor.cli", "serve", "--host", "0.0.0.0", "--workspace", str(tmp_path / "w")]
    refused = subprocess.run(command, capture_output=True, text=True, timeout=60, check=False)
    assert (refused.returncode, "nobody has an account yet" in refused.stderr) == (2, True)


def test_each_member_has_a_file_of_its_own_in_a_folder(tmp_path: Path) -> None:
    report = {**REPORT, "down": [{"category": "kind"}, {"period": "on", "grains": ["month"]}]}
    data = "kind,on,amount\nA/b,2026-01-05,1.50\na b,2026-01-06,2\nc,2026-02-06,4\n"
    done = run(tmp_path, report, "--each", "kind", "--out", "parts", data=data)
    assert (done.returncode, done.stdout) == (0, "")
    assert sorted(path.name for path in (tmp_path / "parts").iterdir()) == ["a-b-2.csv", "a-b.csv", "c.csv"]
    assert "4" in (tmp_path / "parts" / "c.csv").read_text()
    for args, said in ((["--each", "town", "--out", "x"], "no level 'town'"), (["--each", "kind"], "needs --out"),
                       (["--each", "kind", "--out", "data.csv"], "the folder cannot be made")):  # fmt: skip
        refused = run(tmp_path, report, *args, data=data)
        assert (refused.returncode, said in refused.stderr) == (2, True), refused.stderr
