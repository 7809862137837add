"""The workspace: what is kept comes back, whole or not at all."""

import shutil
import sqlite3
import threading
import time
from datetime import date, datetime
from decimal import Decimal
from pathlib import Path
from typing import Any

import pytest

from kalendor.core.values.columns import Records
from kalendor.definitions.kinds import definition
from kalendor.desk.bringing_in import Change, bring_in_file, keep, look_at, read_again
from kalendor.desk.desk import Desk
from kalendor.errors import DefinitionError, IntakeError, KalendorError
from kalendor.store import intakes
from kalendor.store.sources import Sources
from kalendor.store.workspace import Workspace

EXPORT = "sold on,at,route,n,gross,ok,rate\n2026-07-01,14:05,A,1,1.50,yes,0.1234567890123\n,,,,,,\n2026-07-02,06:00,B,2,(2.25),no,2.5\n2026-07-03,,,,,,\n"
MOMENTS = "when,x\n2026-07-01 14:05:06,1\n2026-07-02 00:00:00,2\n"


def brought(desk: Desk, text: str, name: str = "export.csv", source: str = "Sales") -> Any:
    return keep(desk, look_at(desk, name, text.encode(), source).token)


def plain(records: Records) -> dict[str, list[Any]]:
    return {name: [column.item(i) for i in range(len(column))] for name, column in records.columns.items()}


def test_records_come_back_as_they_were_from_the_cache_and_from_the_rows(desk: Desk) -> None:
    source, _ = brought(desk, EXPORT)
    kept = plain(desk.sources.records(source))
    assert kept["sold on"] == [date(2026, 7, 1), date(2026, 7, 2), date(2026, 7, 3)]
    assert kept["gross"] == [Decimal("1.50"), Decimal("-2.25"), None]
    shutil.rmtree(desk.workspace.cache)
    desk.workspace.cache.mkdir()
    assert plain(desk.sources.records(source)) == kept


def test_moments_come_back(desk: Desk) -> None:
    source, _ = brought(desk, MOMENTS)
    shutil.rmtree(desk.workspace.cache)
    desk.workspace.cache.mkdir()
    assert plain(desk.sources.records(source))["when"] == [datetime(2026, 7, 1, 14, 5, 6), datetime(2026, 7, 2)]


def test_any_sqlite_tool_can_read_the_rows(desk: Desk) -> None:
    source, _ = brought(desk, EXPORT)
    db = sqlite3.connect(desk.workspace.folder / "kalendor.sqlite")
    rows = db.execute(f'SELECT line_no, "sold on", gross FROM records_{source.id}').fetchall()
    assert rows == [(2, "2026-07-01", 150), (4, "2026-07-02", -225), (5, "2026-07-03", None)]


def test_files_add_up_and_an_intake_is_undone_and_redone_as_one_step(desk: Desk) -> None:
    brought(desk, "d,n\n2026-01-01,1\n")
    source, second = brought(desk, "N,D\n2,2026-01-02\n3,2026-01-03\n", "more.csv")
    assert plain(desk.sources.records(source))["n"] == [1, 2, 3]
    undone = desk.intakes.undo(second.id, datetime(2026, 8, 4))
    assert plain(desk.sources.records(undone))["n"] == [1]
    redone = desk.intakes.redo(second.id)
    assert plain(desk.sources.records(redone))["n"] == [1, 2, 3]
    assert [i.records for i in desk.intakes.of(redone)] == [2, 1]


def test_the_same_content_twice_is_refused_unless_asked_for(desk: Desk) -> None:
    brought(desk, "d,n\n2026-01-01,1\n")
    again = look_at(desk, "other name.csv", b"d,n\n2026-01-01,1\n", "Sales")
    with pytest.raises(IntakeError, match="the same content was brought in as export"):
        keep(desk, again.token)
    source, _ = keep(desk, again.token, again=True)
    assert desk.sources.records(source).count == 2


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("d\n2026-01-02\n", "the column 'n' is missing"),
        ("d,n\n2026-01-02,1.5\n", "reads as decimal with 1 places, and in the source it is whole"),
        (
            "d,n\n2026-01-02,many\n2026-01-03,few\n",
            "'n' was read as a whole number so far, and now holds such as 'many'",
        ),
    ],
)
def test_a_changed_export_stops_and_keeps_nothing(desk: Desk, text: str, words: str) -> None:
    source, _ = brought(desk, "d,n\n2026-01-01,1\n")
    with pytest.raises(IntakeError, match=words):
        brought(desk, text, "changed.csv")
    assert desk.sources.records(desk.sources.one(source.id)).count == 1
    assert len(desk.intakes.of(source)) == 1


def test_an_intake_that_fails_half_way_leaves_nothing(desk: Desk, monkeypatch: pytest.MonkeyPatch) -> None:
    source, _ = brought(desk, "d,n\n2026-01-01,1\n")
    real = intakes._insert

    def broken(*args: Any) -> None:
        real(*args)
        raise OSError("the disk is full")

    monkeypatch.setattr(intakes, "_insert", broken)
    with pytest.raises(OSError, match="disk"):
        brought(desk, "d,n\n2026-01-02,2\n", "more.csv")
    after = desk.sources.one(source.id)
    assert after.revision == source.revision
    assert desk.workspace.db.execute(f"SELECT count(*) FROM records_{source.id}").fetchone()[0] == 1


def test_refused_lines_stay_with_their_intake(desk: Desk) -> None:
    rows = "".join(f"2026-01-01,{i}\n" for i in range(20))
    source, intake = brought(desk, f"d,n\n{rows}2026-01-01,x1\n")
    assert [(r.line, r.column) for r in desk.intakes.refused(intake.id)] == [(22, "n")]
    assert desk.intakes.refused_count(source) == (1, 0)


def test_headings_of_the_tables_own_columns_are_no_trouble(desk: Desk) -> None:
    source, _ = brought(desk, 'intake_id,line_no,"we""ird"\n5,6,x\n')
    shutil.rmtree(desk.workspace.cache / f"{source.id}-{source.revision}")
    assert plain(desk.sources.records(source)) == {"intake_id": [5], "line_no": [6], 'we"ird': ["x"]}


def test_definitions_are_undone_and_redone_and_keep_every_revision(desk: Desk) -> None:
    report = {
        "kalendor": 1,
        "kind": "report",
        "title": "A",
        "source": "Sales",
        "figures": [{"name": "n", "take": "count"}],
    }
    made = desk.definitions.add(definition(report, "t"), datetime(2026, 8, 4))
    saved = desk.definitions.save(made.id, definition({**report, "title": "B"}, "t"), datetime(2026, 8, 4))
    assert (saved.name, saved.revision, saved.can_undo, saved.can_redo) == ("B", 2, True, False)
    undone = desk.definitions.undo(made.id)
    assert (undone.name, undone.can_undo, undone.can_redo) == ("A", False, True)
    assert desk.definitions.redo(made.id).name == "B"
    desk.definitions.undo(made.id)
    branched = desk.definitions.save(made.id, definition({**report, "title": "C"}, "t"), datetime(2026, 8, 4))
    assert (branched.revision, desk.definitions.undo(made.id).name) == (3, "A")
    with pytest.raises(DefinitionError, match="already a report named 'A'"):
        desk.definitions.add(definition(report, "t"), datetime(2026, 8, 4))


def test_a_newer_workspace_is_not_touched(tmp_path: Path) -> None:
    Workspace(tmp_path).db.execute("PRAGMA user_version = 99")
    with pytest.raises(KalendorError, match="newer Kalendor"):
        Workspace(tmp_path)


def test_a_file_on_disk_in_one_go(desk: Desk, tmp_path: Path) -> None:
    (tmp_path / "routes.csv").write_text("code,name\nA,Alpha\n")
    source, intake = bring_in_file(desk, tmp_path / "routes.csv", "Routes")
    assert (source.name, intake.records) == ("Routes", 1)


def test_after_an_undo_the_columns_are_made_from_those_at_hand_and_the_rows(desk: Desk) -> None:
    may = "day,key,n\n2026-05-01,a,1\n2026-05-02,b,2\n"
    june = "day,key,n\n2026-06-01,c,3\n2026-06-02,,4\n"
    again = "day,key,n\n2026-05-02,z,20\n2026-06-01,y,30\n2026-06-02,x,\n"
    brought(desk, may, "may.csv")
    brought(desk, june, "june.csv")
    waiting = look_at(desk, "again.csv", again.encode(), "Sales")
    source, third = keep(desk, read_again(desk, waiting.token, Change(join="replace_dates")).token)
    at = datetime(2026, 8, 4)
    for step in (
        lambda: desk.intakes.undo(third.id, at),
        lambda: desk.intakes.redo(third.id),
        lambda: desk.intakes.undo(third.id - 2, at),
        lambda: desk.intakes.undo(third.id, at),
        lambda: desk.intakes.redo(third.id - 2),
    ):
        source = step()
        quick = desk.sources.kept(source)
        shutil.rmtree(desk.workspace.cache)
        desk.workspace.cache.mkdir()
        slow = desk.sources.kept(source)
        assert quick.rows.tolist() == slow.rows.tolist()
        assert plain(quick.records) == plain(slow.records)
    assert plain(desk.sources.records(source)) == {
        "day": [date(2026, 5, 1), date(2026, 5, 2), date(2026, 6, 1), date(2026, 6, 2)],
        "key": ["a", "b", "c", None],
        "n": [1, 2, 3, 4],
    }


def test_no_reader_makes_columns_that_a_writer_is_about_to_keep(desk: Desk, monkeypatch: pytest.MonkeyPatch) -> None:
    source, _ = brought(desk, "d,n\n2026-01-01,1\n")
    asked: list[int] = []
    monkeypatch.setattr(Sources, "_from_rows", lambda *_: asked.append(1))
    seen: list[int] = []
    kept = Sources.keep

    def slowly(self: Sources, at: Any, records: Any) -> Any:
        reader = threading.Thread(target=lambda: seen.append(self.records(self.one(source.id)).count))
        reader.start()
        time.sleep(0.1)
        found = kept(self, at, records)
        readers.append(reader)
        return found

    readers: list[threading.Thread] = []
    monkeypatch.setattr(Sources, "keep", slowly)
    brought(desk, "d,n\n2026-01-02,2\n", "more.csv")
    for reader in readers:
        reader.join(10)
    assert (asked, seen) == ([], [2])
