"""Several threads and processes on one workspace: lock order, separate files, verified values."""

import os
import subprocess
import sys
import threading
from datetime import datetime
from pathlib import Path
from typing import Any

import pytest

from kalendor.core.formulas.formulas import evaluate
from kalendor.core.formulas.scope import Scope
from kalendor.core.values.columns import text_column
from kalendor.core.values.interruption import LEFT
from kalendor.definitions.kinds import definition
from kalendor.definitions.recipe import Recipe
from kalendor.desk.bringing_in import Change, leave, look_at, read_again
from kalendor.desk.desk import Desk
from kalendor.desk.outcomes import outcome
from kalendor.desk.sheets import sheet_now
from kalendor.errors import IntakeError, LeftError
from kalendor.intake.reading import read_bytes
from kalendor.store.locks import LockOrderError, OrderedLock, Rank
from kalendor.store.mending import matched_lines
from kalendor.store.soundness import faults
from tests.core.build import LeftAfter, records
from tests.desk.test_bringing_in import bring
from tests.editions.conftest import Office

SALES = "day,kind,n\n2026-05-01 10:00:00.25,a,1\n2026-05-02 10:00:00.5,b,2\n2026-05-02 10:00:00.75,b,3\n"


def test_a_lock_is_never_taken_while_a_later_one_is_held() -> None:
    source, other, writer = OrderedLock(Rank.SOURCE), OrderedLock(Rank.SOURCE), OrderedLock(Rank.WRITER)
    with source, source, writer, writer:
        pass
    with writer, pytest.raises(LockOrderError, match="SOURCE was asked for while WRITER is held"), source:
        pass
    with source, pytest.raises(LockOrderError), other:
        pass
    with source, writer:
        pass
    assert not source.held


def test_issuing_beside_bringing_in_beside_another_process_stops_nothing(tmp_path: Path) -> None:
    office = Office(tmp_path / "w")
    office.report(columns=[], figures=[{"name": "Amount", "take": "sum", "of": "amount"}])
    faults_met: list[BaseException] = []

    def bringing(name: str) -> None:
        for n in range(6):
            office.file("2026-06", f"2026-06-0{n + 1},{name},{n}.00\n")

    def issuing() -> None:
        for _ in range(6):
            office.issue("2026-06")

    def guarded(work: Any) -> None:
        try:
            work()
        except BaseException as error:
            faults_met.append(error)

    more = tmp_path / "more.csv"
    more.write_text("day,kind,amount\n2026-06-09,kq,1.00\n")
    command = [sys.executable, "-m", "kalendor.cli", "intake", "--workspace", str(tmp_path / "w"), "Sales", str(more)]
    other = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.PIPE)
    threads = [
        threading.Thread(target=guarded, args=(work,), daemon=True)
        for work in (lambda: bringing("kx"), issuing, lambda: bringing("kw"))
    ]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join(60)
        assert not thread.is_alive()
    other.wait(60)
    assert not faults_met
    assert not faults(tmp_path / "w")


def test_several_processes_that_open_a_new_workspace_at_once_all_work(tmp_path: Path) -> None:
    code = "import sys; from kalendor.desk.desk import Desk; from pathlib import Path; Desk(Path(sys.argv[1])).sources.all()"
    opened = [
        subprocess.Popen([sys.executable, "-c", code, str(tmp_path / "new")], stderr=subprocess.PIPE) for _ in range(6)
    ]
    assert [(one.wait(60), one.stderr.read() if one.stderr else b"") for one in opened] == 6 * [(0, b"")]


def test_a_waiting_file_outlives_another_process_that_refuses_the_same_bytes(tmp_path: Path) -> None:
    here, there = Desk(tmp_path / "w"), Desk(tmp_path / "w")
    waits = look_at(here, "a.csv", SALES.encode(), "Sales")
    leave(there, look_at(there, "b.csv", SALES.encode(), "Other").token)
    assert read_again(here, waits.token, Change(source="Third")).reading.records.count == 3
    leave(here, waits.token)
    assert not list((tmp_path / "w" / "files").iterdir())


def test_dates_replaced_by_a_column_that_only_the_file_has_are_refused_in_words(tmp_path: Path) -> None:
    desk = Desk(tmp_path / "w")
    bring(desk, "n\n1\n", "a.csv", "Sales")
    found = read_again(
        desk, look_at(desk, "b.csv", b"n,day\n2,2026-05-01\n", "Sales").token,
        Change(join="replace_dates", join_by=["day"], take_added=True),
    )  # fmt: skip
    assert "no date column of the source" in outcome(desk, found).problem


def test_a_mended_line_is_the_one_that_is_marked() -> None:
    refused = [["1", "x", "?"], ["2", "y", "!"], ["3", "z", "#"]]
    assert matched_lines(refused, records(a=[2], b=["y"], c=[5])) == [1]
    assert matched_lines(refused, records(a=[3, 1], b=["z", "x"], c=[5, 6])) == [0, 2]
    assert matched_lines(refused, records(a=[9], b=["q"], c=[5])) == [0]
    assert matched_lines([], records(a=[1])) == []


def test_fractions_of_a_second_outlive_the_cache(tmp_path: Path) -> None:
    desk = Desk(tmp_path / "w")
    bring(desk, SALES, "a.csv", "Sales")
    for path in (tmp_path / "w" / "cache").rglob("*.npy"):
        path.unlink()
    again = Desk(tmp_path / "w")
    source = again.sources.named("Sales")
    assert source is not None
    assert len(set(again.sources.records(source).columns["day"].values.tolist())) == 3


@pytest.mark.parametrize("change", ["n = 7", "kind = 'B'", "day = '2026-05-01T10:00:00'", "n = NULL"])
def test_check_finds_a_value_that_changed(tmp_path: Path, change: str) -> None:
    desk = Desk(tmp_path / "w")
    bring(desk, SALES, "a.csv", "Sales")
    bring(desk, SALES.replace("2026-05", "2026-06").replace("n\n", "n,more\n", 1).replace(",1\n", ",1,x\n").replace(",2\n", ",2,\n").replace(",3\n", ",3,y\n"), "b.csv", "Sales", take_added=True)  # fmt: skip
    assert not faults(tmp_path / "w")
    with desk.workspace.change() as db:
        db.execute(f"UPDATE records_1 SET {change} WHERE row_id = 1")
    assert any("no longer what the file brought" in fault for fault in faults(tmp_path / "w"))


def test_a_cache_file_made_shorter_while_it_is_open_is_made_again(tmp_path: Path) -> None:
    desk = Desk(tmp_path / "w")
    bring(desk, SALES, "a.csv", "Sales")
    report = definition({"kalendor": 1, "kind": "report", "title": "R", "source": "Sales", "down": [{"category": "kind"}], "figures": [{"name": "n", "take": "sum", "of": "n"}]}, "test")  # fmt: skip
    assert sheet_now(desk, report)[1].figures[0].cells.item(0) == 6  # type: ignore[arg-type]
    for path in (tmp_path / "w" / "cache").rglob("[0-9]*.npy"):
        os.truncate(path, 64)
    other = report.model_copy(update={"only": ["n > 1"]})
    assert sheet_now(desk, other)[1].figures[0].cells.item(0) == 5  # type: ignore[arg-type]


def test_work_within_a_formula_ends_when_its_request_is_left() -> None:
    column = text_column([f"word {n}" for n in range(50_000)])
    left = LeftAfter(3)
    told = LEFT.set(left)
    try:
        with pytest.raises(LeftError):
            evaluate("UPPER(t)", Scope({"t": column}, len(column)))
    finally:
        LEFT.reset(told)
    assert left.asked == 4


def test_a_line_longer_than_any_record_and_too_many_columns_are_refused_at_once() -> None:
    with pytest.raises(IntakeError, match="line 2 is longer than 64 MiB"):
        read_bytes(b'a,b\n1,"' + b"x" * (70 << 20) + b'"\n', "a.csv", Recipe())
    with pytest.raises(IntakeError, match="has 6,000 columns"):
        read_bytes(",".join(f"c{i}" for i in range(6_000)).encode() + b"\n" + b"1," * 5_999 + b"1\n", "a.csv", Recipe())


def test_lines_of_separators_alone_are_counted(tmp_path: Path) -> None:
    desk = Desk(tmp_path / "w", now=lambda: datetime(2026, 8, 4))
    bring(desk, "a,n\nx,1\n,\n,,,\n , \ny,2\n", "a.csv", "Sales")
    source = desk.sources.named("Sales")
    assert source is not None
    assert desk.intakes.refused_count(source) == (0, 0, 3)
