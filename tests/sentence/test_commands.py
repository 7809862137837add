"""`kalendor ask` and `kalendor say`: from a sentence to a sheet, and from a definition to its sentence."""

import csv
import json
from datetime import date
from pathlib import Path

import pytest

from kalendor.core.report import sheet_of
from kalendor.desk.asking import asked
from kalendor.desk.files import from_files, read_definition
from kalendor.output.delimited import flat_delimited
from kalendor.output.handover import Handover
from kalendor.output.terminal import aligned
from kalendor.sentence.names import names
from kalendor.sentence.writing import say
from tests.command import kalendor
from tests.sentence.build import CASES
from tests.test_cases import CASES as GOLDEN

DATA = ["--data", str(CASES / "orders.csv"), "--as-of", "2026-07-31"]
WITH = [part for path in sorted(CASES.glob("with-*.json")) for part in ("--with", str(path))]


def test_a_sentence_is_worked_out_and_says_how_it_was_read() -> None:
    done = kalendor(CASES, "ask", "net by area, only completed", *DATA)
    assert done.returncode == 0
    assert done.stderr.strip() == "Net, down by area, only where status is completed."
    head, *lines = csv.reader(done.stdout.lstrip("\ufeff").splitlines())
    assert head == ["area", "down_level", "Net"]
    assert [line[0] for line in lines] == ["east", "north", "south", "west", "(blank)", ""] or lines[-1][1] == "Total"


def test_words_that_were_not_understood_are_named_with_what_is_nearest() -> None:
    done = kalendor(CASES, "ask", "net by areaa, only completd", *DATA)
    assert done.returncode == 2
    assert "“areaa”, nearest to it: area (a column)" in done.stderr
    assert "“completd”, nearest to it: completed (a value of status)" in done.stderr
    assert done.stdout == ""


def test_a_definition_is_written_and_said_again(tmp_path: Path) -> None:
    done = kalendor(
        CASES,
        "ask",
        "net by region, across by fiscal year then quarter, against last year",
        *DATA,
        *WITH,
        "--definition",
    )
    document = json.loads(done.stdout)
    assert document["kind"] == "report"
    (tmp_path / "r.json").write_text(done.stdout)
    said = kalendor(CASES, "say", str(tmp_path / "r.json"), *WITH).stdout.strip()
    again = kalendor(CASES, "ask", said, *DATA, *WITH, "--definition")
    assert {**json.loads(again.stdout), "title": ""} == {**document, "title": ""}


@pytest.mark.parametrize("case", GOLDEN, ids=lambda case: case.name)
def test_what_is_said_of_a_golden_case_asks_for_its_sheet(case: Path) -> None:
    data, with_ = sorted(case.glob("data*.csv")), sorted(case.glob("with-*.json"))
    report = read_definition(case / "report.json", "report")
    trees = {
        tree.name: (None, tree.levels)
        for tree in (read_definition(path, "tree", "calendar", "buckets") for path in with_)
        if tree.kind == "tree"
    }
    today = date(2026, 8, 4)
    files, _ = asked(say(report, names([], {}, trees=trees)), data, None, with_, {}, today)
    wanted = from_files(case / "report.json", data, None, with_, {})

    def flat(of: object) -> bytes:
        return flat_delimited(Handover(sheet_of(of.plan(None, today))))  # type: ignore[attr-defined]

    assert flat(files) == flat(wanted)


def test_a_terminal_shows_an_aligned_table() -> None:
    files, _ = asked(
        "net, records by area, across by year, in 2025", [CASES / "orders.csv"], None, [], {}, date(2026, 7, 31)
    )
    lines = aligned(files.handed(date(2026, 7, 31), date(2026, 7, 31), False)).splitlines()
    assert lines[0].split() == ["2025", "Total"] or lines[0].split() == ["2025"]
    assert lines[1].split()[:3] == ["area", "Net", "Records"]
    assert len({len(line) for line in lines[1:] if line}) == 1
