"""Editions are issued atomically, once, and never change."""

import os
import signal
import sqlite3
import subprocess
import sys
import threading
import time
from datetime import datetime
from pathlib import Path
from typing import Any

import pytest

from kalendor.core.values.columns import day_number
from kalendor.definitions.recipe import ColumnReading
from kalendor.desk.columns import read_column_as, rename_column
from kalendor.desk.desk import Desk
from kalendor.desk.editions.handing import edition_file
from kalendor.desk.editions.issuing import issue, opened
from kalendor.desk.editions.moved import causes, parts
from kalendor.desk.editions.owed import named_periods
from kalendor.desk.editions.steps import moved
from kalendor.errors import DefinitionError, KalendorError
from kalendor.store.definitions import MissingError
from kalendor.store.soundness import back_up, faults, restore
from tests.desk.test_bringing_in import bring
from tests.editions.conftest import HEAD, REPORT, TREE, Office

MOMENTS = int(os.environ.get("KALENDOR_KILLS", "3"))
MOST = {"name": "Most", "take": "max", "of": "amount"}


def test_an_edition_holds_its_period_alone_and_says_what_it_rests_on(office: Office) -> None:
    done = office.issue("2026-06")
    document = office.desk.editions.document(done.edition.id)
    assert (done.edition.label, done.edition.sign, done.edition.number, done.edition.issued_at) == (
        "Jun 2026", "M6", 1, "2026-08-02T09:00:00",
    )  # fmt: skip
    assert document["report"]["as_of"] == "2026-06-30"
    assert [s["intakes"] for s in document["sources"]] == [[1, 2, 3]]
    assert [g["document"]["name"] for g in document["groupings"]] == ["Kinds"]
    assert opened(office.desk, done.edition.id).sheet.figures[0].cells.item(0) == 30
    assert document["sheet"]["tie_out"]["on_sheet"] == 4
    assert document["headline"][0].startswith("Amount came to 30.00")


def test_issued_again_it_is_restated_only_where_it_says_something_else(office: Office) -> None:
    first = office.issue("2026-06").edition
    assert (office.issue("2026-06").edition, office.issue("2026-06").fresh) == (first, False)
    office.report(export={"paper": "letter"})
    assert not office.issue("2026-06").fresh
    office.file("2026-06", "2026-06-15,kx,100.00\n", join="replace_dates")
    second = office.issue("2026-06")
    assert (second.fresh, second.edition.number, second.edition.before) == (True, 2, first.sha256)
    office.report(notes=[{"text": "a late sale"}])
    assert not office.issue("2026-06").fresh, "a note alone is no restatement"
    assert [e.number for e in office.desk.editions.all()] == [1, 2]


def test_what_moved_is_taken_apart(office: Office) -> None:
    first = office.issue("2026-06").edition
    office.file("2026-06", "2026-06-15,kx,100.00\n", join="replace_dates")
    bring(office.desk, HEAD + "2026-06-29,kz,0.50\n", "late.csv", "Sales")
    office.define({**TREE, "roots": [*TREE["roots"], {"label": "South", "under": [{"value": "kz"}]}]})
    found = moved(office.desk, first.id, None)
    total = next(move for move in found.cells if not move.place.line and move.place.figure == "Amount")
    split = parts(office.desk, found, total.place)
    assert [(p.title, str(p.by)) for p in split] == [
        ("Records came late", "0.50"), ("Records were corrected", "100.00"), ("Groupings and calendars changed", "0.00"),
        ("The report changed", "0.00"),
    ]  # fmt: skip
    assert [(r.came, r.file, r.line, r.amount) for r in split[0].records.records] == [(True, "late.csv", 2, "0.50")]
    assert [(r.came, r.file, r.line, r.amount) for r in split[1].records.records] == [
        (True, "sales-2026-06.csv", 6, "100.00")
    ]
    south = next(
        move for move in found.cells if move.place.line[:1] == (("South", 0),) and move.place.figure == "Amount"
    )
    placed = next(p for p in parts(office.desk, found, south.place) if p.kinds == ("groupings",))
    assert [why.text for why in placed.words] == ["Kinds, revision 1 → 2", "kz from Not placed to South"]
    (tree,) = office.desk.definitions.all("tree")
    assert {(why.kind, why.of) for why in placed.words} == {("definition", tree.id)}


def test_all_that_came_late_stands_in_one_list(office: Office) -> None:
    first = office.issue("2026-06").edition
    office.file("2026-06", "2026-06-15,ky,100.00\n", join="replace_dates")
    bring(
        office.desk,
        HEAD + "2026-06-29,kz,0.50\n2026-06-30,kx,3.00\n2026-07-30,kx,9.00\n",
        "late.csv",
        "Sales",
        join="add",
    )
    office.report(title="Sales by side", notes=[], figures=[*REPORT["figures"], MOST])
    late, corrected, report = causes(office.desk, moved(office.desk, first.id, None))
    assert [(c.title, c.records.count) for c in (late, corrected)] == [
        ("Records came late", 2), ("Records were corrected", 1),
    ]  # fmt: skip
    assert [(r.came, r.file, r.line, r.values) for r in late.records.records] == [
        (True, "late.csv", 2, ("2026-06-29", "kz", "0.50")), (True, "late.csv", 3, ("2026-06-30", "kx", "3.00")),
    ]  # fmt: skip
    assert {(name, str(by)) for name, by in late.totals} == {("Amount", "3.50"), ("Sales", "2")}
    assert [(why.text.partition(",")[0], why.kind) for why in late.words] == [("late.csv", "source")]
    assert [(why.kind, why.of) for why in report.words] == [("definition", office.stored.id)]


@pytest.mark.parametrize(
    "sql",
    [
        "UPDATE edition SET title = 'x'", "DELETE FROM edition", "UPDATE edition SET document = x''",
        "INSERT OR REPLACE INTO edition SELECT * FROM edition WHERE id = 1",
    ],
)  # fmt: skip
def test_nothing_in_the_store_changes_or_deletes_an_edition(office: Office, sql: str) -> None:
    office.issue("2026-06")
    before = office.desk.editions.text(1)
    with pytest.raises(sqlite3.Error), office.desk.workspace.change() as db:
        db.execute(sql)
    assert office.desk.editions.text(1) == before


TAMPERED: list[tuple[str, str]] = [
    ("UPDATE edition SET title = 'other' WHERE id = 2", "is listed with another title"),
    (
        "UPDATE edition SET document = (SELECT document FROM edition WHERE id = 1) WHERE id = 2",
        "no longer what was issued",
    ),
    ("UPDATE edition SET document = x'00' WHERE id = 2", "cannot be read"),
    ("DELETE FROM edition_source WHERE edition_id = 2; DELETE FROM edition WHERE id = 2", "are missing"),
    (
        "DELETE FROM edition_source WHERE edition_id = 3; DELETE FROM edition WHERE id = 3",
        "the last 1 of 3 editions are missing",
    ),
    ("UPDATE edition SET before = sha256 WHERE id = 2", "does not follow on"),
]


@pytest.mark.parametrize(("sql", "says"), TAMPERED)
def test_what_was_tampered_with_past_the_store_is_found(office: Office, sql: str, says: str) -> None:
    for month in ("2026-05", "2026-06", "2026-07"):
        office.issue(month)
    folder = office.desk.workspace.folder
    office.desk.workspace.close()
    assert faults(folder) == []
    db = sqlite3.connect(folder / "kalendor.sqlite")
    db.executescript(f"DROP TRIGGER edition_never_changes; DROP TRIGGER edition_never_goes; {sql}")
    db.close()
    assert any(says in fault and "kalendor restore" in fault for fault in faults(folder)), faults(folder)


def test_editions_come_back_from_a_backup_with_their_records(office: Office, tmp_path: Path) -> None:
    done = office.issue("2026-06").edition
    office.file("2026-06", "2026-06-15,kx,100.00\n", join="replace_dates")
    back_up(office.desk.workspace.folder, tmp_path / "b.tar")
    restore(tmp_path / "b.tar", tmp_path / "again")
    again = Desk(tmp_path / "again")
    assert again.editions.text(done.id) == office.desk.editions.text(done.id)
    assert len(moved(again, done.id, None).cells) > 0


def test_an_edition_stays_readable_where_its_report_or_a_grouping_is_gone(office: Office) -> None:
    done = office.issue("2026-06").edition
    before = edition_file(office.desk, done.id, "csv", "flat").content
    tree = office.desk.definitions.named("tree", "Kinds")
    assert tree is not None
    office.desk.definitions.remove(office.stored.id, office.now)
    office.desk.definitions.remove(tree.id, office.now)
    office.desk.sheets.clear()
    office.desk.plans.clear()
    assert edition_file(office.desk, done.id, "csv", "flat").content == before
    with pytest.raises(MissingError):
        moved(office.desk, done.id, None)


def test_a_period_that_has_not_ended_is_not_issued_and_one_that_the_clock_was_set_back_over_neither(
    office: Office,
) -> None:
    with pytest.raises(DefinitionError, match="has not ended yet"):
        office.issue("2026-08")
    office.issue("2026-07")
    office.now = datetime(2026, 7, 15, 12, 0)
    with pytest.raises(DefinitionError, match="has not ended yet"):
        office.issue("2026-07")
    assert len(office.desk.editions.all()) == 1
    assert not list(office.desk.editions.faults())


def test_a_report_that_cannot_be_worked_out_leaves_nothing(office: Office) -> None:
    office.report(only=["nothing = 'x'"])
    with pytest.raises(KalendorError, match="nothing"):
        office.issue("2026-06")
    assert office.desk.editions.all() == []


def test_many_issuers_at_once_make_one_edition(office: Office) -> None:
    period = named_periods(office.desk, office.stored, "2026-06")[1][0]
    id, folder = office.stored.id, office.desk.workspace.folder
    found: list[Any] = []
    command = [sys.executable, "-m", "kalendor.cli", "issue", "--workspace", str(folder), "--period", "2026-06"]
    shell = [subprocess.Popen(command, stdout=subprocess.PIPE, text=True) for _ in range(2)]
    threads = [threading.Thread(target=lambda: found.append(issue(office.desk, id, period))) for _ in range(4)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    said = [process.communicate(timeout=60)[0] for process in shell]
    editions = office.desk.editions.all()
    assert len(editions) == 1
    assert sum(one.fresh for one in found) + sum("issued by" in text for text in said) == 1
    assert all(editions[0].sha256 in text for text in said)


KILLED = """
import sys, time
from pathlib import Path
from kalendor.definitions.recipe import ColumnReading
from kalendor.desk.columns import read_column_as, rename_column
from kalendor.desk.desk import Desk
from kalendor.desk.editions.issuing import issue
from kalendor.desk.editions.owed import named_periods
desk = Desk(Path(sys.argv[1]))
stored = desk.definitions.named("report", "Sales by side")
print("ready", flush=True)
for text in ("2026-05", "2026-06", "2026-07"):
    issue(desk, stored.id, named_periods(desk, stored, text)[1][0])
"""


def test_killed_at_any_moment_there_is_no_half_edition(office: Office) -> None:
    folder = office.desk.workspace.folder
    office.desk.workspace.close()
    before = 0
    for moment in range(MOMENTS):
        process = subprocess.Popen([sys.executable, "-c", KILLED, str(folder)], stdout=subprocess.PIPE, text=True)
        assert process.stdout is not None
        assert process.stdout.readline() == "ready\n"
        time.sleep(moment * 0.12 / MOMENTS)
        os.kill(process.pid, signal.SIGKILL)
        process.wait()
        assert faults(folder) == []
        editions = Desk(folder).editions.all()
        assert [e.id for e in editions] == list(range(1, len(editions) + 1))
        assert len(editions) >= before
        before = len(editions)
    assert {e.number for e in Desk(folder).editions.all()} <= {1}


def test_notes_stand_under_the_edition_that_they_are_of(office: Office) -> None:
    office.report(
        notes=[
            {"text": "two shops closed", "line": ["North", "kx"], "as_of": "2026-06-30"},
            {"text": "without returns"},
        ]
    )
    june, july = office.issue("2026-06").edition, office.issue("2026-07").edition
    assert [n.text for n in opened(office.desk, june.id).sheet.footnotes] == ["two shops closed", "without returns"]
    assert [n.text for n in opened(office.desk, july.id).sheet.footnotes] == ["without returns"]


def test_a_weekly_report_is_issued_for_each_week_of_a_month(office: Office) -> None:
    stored = office.report(cadence={"every": "week", "since": "2026-06-01", "due": {"days": 1}})
    _, periods = named_periods(office.desk, stored, "2026-06")
    for period in periods:
        issue(office.desk, stored.id, period)
    assert [e.sign for e in office.desk.editions.all()] == ["W23", "W24", "W25", "W26"]
    assert office.desk.editions.all()[0].first_day == "2026-06-01"
    assert periods[0].last == day_number(datetime(2026, 6, 7).date())


def test_a_source_that_editions_rest_on_is_known(office: Office) -> None:
    office.issue("2026-06")
    assert office.desk.editions.resting_on(1) == 1


def test_columns_called_or_read_otherwise_leave_an_edition_as_it_is(office: Office) -> None:
    first = office.issue("2026-06").edition
    before = opened(office.desk, first.id).sheet
    source = office.desk.sources.named("Sales")
    assert source is not None
    for old, new in (("amount", "net amount"), ("kind", "sort")):
        source = rename_column(office.desk, source, old, new)
    read_column_as(office.desk, source, "net amount", ColumnReading(type="text"))
    again = opened(office.desk, first.id)
    assert again.sheet.figures[0].cells.item(0) == before.figures[0].cells.item(0)
    amounts = records_of(office.desk, first.id)
    assert sum(amounts) == before.figures[0].cells.item(0)
    source = read_column_as(
        office.desk, office.desk.sources.one(source.id), "net amount", ColumnReading(type="decimal")
    )
    assert not office.issue("2026-06").fresh, "it says the same"
    assert not list(faults(office.desk.workspace.folder))


def records_of(desk: Desk, edition_id: int) -> list[Any]:
    """The amounts of the records behind an edition's total, read from the rows that it was made from."""
    found = opened(desk, edition_id)
    (held,) = found.ingredients.sources
    records = desk.sources.rows.kept_of(held, held.intakes).records
    days = [str(records.columns["day"].item(i)) for i in range(records.count)]
    return [records.columns["amount"].item(i) or 0 for i, day in enumerate(days) if day.startswith("2026-06")]
