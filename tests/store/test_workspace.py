"""The workspace: stored data comes back complete or not at all."""

import shutil
import sqlite3
import threading
from datetime import date, datetime
from decimal import Decimal
from importlib import resources
from pathlib import Path
from typing import Any

import pytest

from kalendor.core.values.columns import Records
from kalendor.definitions.kinds import definition
from kalendor.definitions.recipe import Recipe
from kalendor.desk.bringing_in import Change, bring_in_file, keep, look_at, read_again
from kalendor.desk.desk import Desk
from kalendor.errors import DefinitionError, IntakeError, KalendorError, RevisionError
from kalendor.intake.reading import read_bytes
from kalendor.store import definitions, intakes
from kalendor.store.bringing import Bringing
from kalendor.store.column_cache import kept_records
from kalendor.store.record_rows import RecordRows
from kalendor.store.sources import Sources
from kalendor.store.workspace import MIGRATIONS, Workspace

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
        ("d,n\n2026-01-02,1.5\n", "n has 1 place$"),
        (
            "d,n\n2026-01-02,many\n2026-01-03,few\n",
            "'n' was read as a whole number so far, and now holds such as 'many'",
        ),
    ],
)
def test_a_changed_export_waits_and_keeps_nothing(desk: Desk, text: str, words: str) -> None:
    source, _ = brought(desk, "d,n\n2026-01-01,1\n")
    with pytest.raises(IntakeError, match=words):
        brought(desk, text, "changed.csv")
    assert desk.sources.records(desk.sources.one(source.id)).count == 1
    assert len(desk.intakes.of(source)) == 1


def test_an_intake_that_fails_half_way_leaves_nothing(desk: Desk, monkeypatch: pytest.MonkeyPatch) -> None:
    source, _ = brought(desk, "d,n\n2026-01-01,1\n")
    real = intakes.inserted

    def broken(*args: Any) -> None:
        real(*args)
        raise OSError("the disk is full")

    monkeypatch.setattr(intakes, "inserted", broken)
    with pytest.raises(OSError, match="disk"):
        brought(desk, "d,n\n2026-01-02,2\n", "more.csv")
    after = desk.sources.one(source.id)
    assert after.revision == source.revision
    assert desk.workspace.db.execute(f"SELECT count(*) FROM records_{source.id}").fetchone()[0] == 1


def test_refused_lines_stay_with_their_intake(desk: Desk) -> None:
    rows = "".join(f"2026-01-01,{i}\n" for i in range(20))
    source, intake = brought(desk, f"d,n\n{rows}2026-01-01,x1\n")
    assert [(r.line, r.column) for r in desk.intakes.refused(intake.id)] == [(22, "n")]
    assert desk.intakes.refused_count(source) == (1, 0, 0)


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
    newer = Workspace(tmp_path)
    newer.db.execute("PRAGMA user_version = 99")
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
        desk.sources._opened.clear()
        slow = desk.sources.kept(source)
        assert quick.rows.tolist() == slow.rows.tolist()
        assert plain(quick.records) == plain(slow.records)
    assert plain(desk.sources.records(source)) == {
        "day": [date(2026, 5, 1), date(2026, 5, 2), date(2026, 6, 1), date(2026, 6, 2)],
        "key": ["a", "b", "c", None],
        "n": [1, 2, 3, 4],
    }


def test_a_reader_beside_a_writer_has_what_stood_before_and_makes_no_columns(
    desk: Desk, monkeypatch: pytest.MonkeyPatch
) -> None:
    source, _ = brought(desk, "d,n\n2026-01-01,1\n")
    asked: list[int] = []
    monkeypatch.setattr(RecordRows, "from_rows", lambda *_: asked.append(1))
    seen: list[int] = []
    insert = intakes.inserted

    def look() -> None:
        with desk.workspace.snapshot():
            seen.append(desk.sources.records(desk.sources.one(source.id)).count)

    def slowly(*args: Any) -> Any:
        first = insert(*args)
        reader = threading.Thread(target=look)
        reader.start()
        reader.join(10)
        return first

    monkeypatch.setattr(intakes, "inserted", slowly)
    brought(desk, "d,n\n2026-01-02,2\n", "more.csv")
    look()
    assert (asked, seen) == ([], [1, 2])


def damaged(folder: Path, how: str) -> None:
    file = folder / "0.npy"
    data = bytearray(file.read_bytes())
    match how:
        case "a byte changed":
            data[-1] ^= 1
            file.write_bytes(data)
        case "cut off":
            file.write_bytes(data[:-3])
        case "of another revision":
            manifest = folder / "columns.json"
            manifest.write_text(manifest.read_text().replace('"revision": 1', '"revision": 2'))
        case "no manifest":
            (folder / "columns.json").write_text("{")


@pytest.mark.parametrize("how", ["a byte changed", "cut off", "of another revision", "no manifest"])
def test_a_damaged_cache_is_made_again(desk: Desk, how: str) -> None:
    source, _ = brought(desk, "n,d\n1,2026-01-01\n2,2026-01-02\n")
    damaged(desk.workspace.cache / source.folder, how)
    fresh = Desk(desk.workspace.folder)
    assert plain(fresh.sources.records(source))["n"] == [1, 2]
    assert kept_records(fresh.workspace.cache / source.folder, source.revision) is not None


def test_an_id_is_never_given_again(desk: Desk) -> None:
    first, intake = brought(desk, "d,n\n2026-01-01,1\n")
    desk.sources.remove(first)
    second, later = brought(desk, "d,n\n2026-01-01,1\n")
    assert (second.id > first.id, later.id > intake.id) == (True, True)


def test_a_workspace_of_the_first_schema_is_migrated_and_its_ids_go_on(tmp_path: Path) -> None:
    old = sqlite3.connect(tmp_path / "kalendor.sqlite")
    old.executescript(resources.files("kalendor.store").joinpath("schema.sql").read_text())
    old.executescript(
        "INSERT INTO source (id, name, recipe, created_at) VALUES (7, 'S', '{}', ''); PRAGMA user_version = 1;"
    )
    old.close()
    workspace = Workspace(tmp_path)
    with workspace.change():
        assert workspace.next_id("source") == 8
        assert workspace.next_id("definition") == 1


def test_two_processes_keep_what_the_other_did(desk: Desk) -> None:
    """A server and `kalendor intake` at once: each sees in its transaction what the other committed before."""
    brought(desk, "d,n\n2026-01-01,1\n")
    other = Desk(desk.workspace.folder)
    for day in range(2, 7):
        for one, n in ((other, day), (desk, 10 * day)):
            text = f"d,n\n2026-02-{day:02},{n}\n".encode()
            name = f"{n}.csv"
            one.intakes.bring_in(
                Bringing("Sales", read_bytes(text, name, Recipe()), name, len(text), datetime(2026, 8, 4))
            )
        want = [1, *(n for k in range(2, day + 1) for n in (k, 10 * k))]
        for one in (desk, other):
            source = one.sources.named("Sales")
            assert source is not None
            assert plain(one.sources.records(source))["n"] == want


A_REPORT: dict[str, Any] = {
    "kalendor": 1,
    "kind": "report",
    "title": "A",
    "source": "S",
    "figures": [{"name": "n", "take": "count"}],
}


def test_a_name_taken_since_is_said_when_a_change_is_undone(desk: Desk) -> None:
    at = datetime(2026, 8, 4)
    made = desk.definitions.add(definition(A_REPORT, "t"), at)
    desk.definitions.save(made.id, definition({**A_REPORT, "title": "B"}, "t"), at)
    desk.definitions.add(definition(A_REPORT, "t"), at)
    with pytest.raises(DefinitionError, match="another report has that name now"):
        desk.definitions.undo(made.id)
    assert desk.definitions.one(made.id).name == "B"


def test_a_change_to_an_older_revision_is_refused_and_changes_nothing(desk: Desk) -> None:
    at = datetime(2026, 8, 4)
    made = desk.definitions.add(definition(A_REPORT, "t"), at)
    desk.definitions.save(made.id, definition({**A_REPORT, "title": "B"}, "t"), at, expected=1)
    for change in (
        lambda: desk.definitions.save(made.id, definition({**A_REPORT, "title": "C"}, "t"), at, expected=1),
        lambda: desk.definitions.undo(made.id, expected=1),
        lambda: desk.definitions.remove(made.id, at, expected=1),
    ):
        with pytest.raises(RevisionError, match="was changed since"):
            change()
    assert (desk.definitions.one(made.id).name, desk.definitions.one(made.id).revision) == ("B", 2)


def test_a_definition_is_parsed_once_a_revision(desk: Desk, monkeypatch: pytest.MonkeyPatch) -> None:
    made = desk.definitions.add(definition(A_REPORT, "t"), datetime(2026, 8, 4))
    first = desk.definitions.one(made.id).body
    monkeypatch.setattr(definitions, "definition", lambda *_: pytest.fail("parsed again"))
    assert desk.definitions.all("report")[0].body is first


@pytest.mark.parametrize("version", range(1, len(MIGRATIONS)))
def test_a_workspace_of_every_earlier_schema_is_brought_up_to_date(tmp_path: Path, version: int) -> None:
    """A workspace created by an old schema, with a source and a file, has the tables of a new one after migration."""
    old, fresh = tmp_path / "old", tmp_path / "fresh"
    for part in ("files", "cache"):
        (old / part).mkdir(parents=True)
    db = sqlite3.connect(old / "kalendor.sqlite")
    for name in MIGRATIONS[:version]:
        db.executescript(resources.files("kalendor.store").joinpath(name).read_text("utf-8"))
    db.executescript(
        "INSERT INTO source (id, name, recipe, created_at) VALUES (7, 'S', '{}', '');"
        "INSERT INTO intake (id, source_id, file_name, sha256, size, stored_as, brought_at, joined_by, records, refused)"
        " VALUES (3, 7, 'f.csv', 'x', 1, 'f', '2026-01-01T00:00:00', 'add', 0, 0);"
        f"PRAGMA user_version = {version};"
    )
    db.close()
    brought, made = Workspace(old), Workspace(fresh)
    assert brought.db.execute("PRAGMA user_version").fetchone()[0] == len(MIGRATIONS)
    tables = "SELECT name, type FROM sqlite_master WHERE name NOT LIKE 'sqlite_%' ORDER BY name"
    assert list(map(tuple, brought.db.execute(tables))) == list(map(tuple, made.db.execute(tables)))
    for table in [row["name"] for row in made.db.execute(tables) if row["type"] == "table"]:
        columns = f"SELECT name, type, pk FROM pragma_table_info('{table}') ORDER BY name"
        assert list(map(tuple, brought.db.execute(columns))) == list(map(tuple, made.db.execute(columns))), table
    assert [(s.id, s.name) for s in Sources(brought).all()] == [(7, "S")]
    assert brought.db.execute("PRAGMA integrity_check").fetchone()[0] == "ok"
