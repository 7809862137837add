"""Checks, backups and restores of a workspace are complete, or report what is damaged."""

import sqlite3
import tarfile
from collections.abc import Callable
from pathlib import Path

import pytest

from kalendor.desk.bringing_in import keep, look_at
from kalendor.desk.desk import Desk
from kalendor.errors import DamagedError, DefinitionError, StoreError
from kalendor.store.soundness import back_up, faults, restore
from kalendor.store.workspace import ServerLock

ROWS = "d,n\n2026-01-01,1\n2026-01-02,2\n"


@pytest.fixture
def folder(desk: Desk) -> Path:
    keep(desk, look_at(desk, "a.csv", ROWS.encode(), "Sales").token)
    desk.workspace.close()
    return desk.workspace.folder


def changed(folder: Path, *sql: str) -> None:
    db = sqlite3.connect(folder / "kalendor.sqlite")
    for one in sql:
        db.execute(one)
    db.commit()
    db.close()


def broken_page(folder: Path) -> None:
    path = folder / "kalendor.sqlite"
    changed(folder, "PRAGMA wal_checkpoint(TRUNCATE)")
    data = bytearray(path.read_bytes())
    data[4096 * 2 : 4096 * 2 + 400] = b"\xff" * 400
    path.write_bytes(data)


DAMAGE: list[tuple[str, Callable[[Path], object], str]] = [
    ("a row gone", lambda f: changed(f, "DELETE FROM records_1 WHERE row_id = 1"), "was 2 records, and 1 are there"),
    ("the records gone", lambda f: changed(f, "DROP TABLE records_1"), "its records are missing"),
    ("a file gone", lambda f: [p.unlink() for p in (f / "files").iterdir()], "as it came is missing"),
    ("a file changed", lambda f: [p.write_text("x") for p in (f / "files").iterdir()], "no longer what it was"),
    ("a definition", lambda f: changed(
        f, "INSERT INTO definition (id, kind, name, current, removed_at) VALUES (1, 'report', 'R', 1, NULL)",
        "INSERT INTO definition_revision VALUES (1, 1, 0, '{', '', '')"), "a definition cannot be read"),
    ("a page", broken_page, "kalendor.sqlite"),
    ("no database", lambda f: (f / "kalendor.sqlite").write_text("not one" * 1000), "no sound database"),
]  # fmt: skip


def test_a_whole_workspace_has_no_faults_and_comes_back_from_its_backup(folder: Path, tmp_path: Path) -> None:
    assert faults(folder) == []
    assert back_up(folder, tmp_path / "b.tar") > 0
    restore(tmp_path / "b.tar", tmp_path / "again")
    again = Desk(tmp_path / "again")
    source = again.sources.named("Sales")
    assert source is not None
    assert again.sources.records(source).columns["n"].values.tolist() == [1, 2]
    assert faults(tmp_path / "again") == []
    with pytest.raises(DefinitionError, match="not empty"):
        restore(tmp_path / "b.tar", tmp_path / "again")
    with pytest.raises(DefinitionError, match="a file already"):
        back_up(folder, tmp_path / "b.tar")


@pytest.mark.parametrize(("what", "damage", "words"), DAMAGE, ids=[d[0] for d in DAMAGE])
def test_what_is_damaged_is_said(folder: Path, what: str, damage: Callable[[Path], object], words: str) -> None:
    damage(folder)
    found = faults(folder)
    assert any(words in fault for fault in found), found


@pytest.mark.parametrize("damage", [broken_page, lambda f: [p.unlink() for p in (f / "files").iterdir()]])
def test_a_damaged_workspace_is_not_backed_up(folder: Path, tmp_path: Path, damage: Callable[[Path], object]) -> None:
    damage(folder)
    with pytest.raises(DamagedError, match="not backed up"):
        back_up(folder, tmp_path / "b.tar")
    assert [p.name for p in tmp_path.iterdir() if p.name.endswith((".tar", ".part"))] == []


def test_a_backup_that_is_cut_or_holds_something_else_is_not_restored(folder: Path, tmp_path: Path) -> None:
    back_up(folder, tmp_path / "b.tar")
    whole = (tmp_path / "b.tar").read_bytes()
    (tmp_path / "cut.tar").write_bytes(whole[: len(whole) // 2])
    with tarfile.open(tmp_path / "odd.tar", "w") as archive:
        archive.add(folder / "kalendor.sqlite", "../../evil.sqlite")
    for name in ("cut.tar", "odd.tar"):
        with pytest.raises(DamagedError, match="restored"):
            restore(tmp_path / name, tmp_path / "again")
        assert not (tmp_path / "again").exists()


def test_a_second_server_on_a_workspace_is_refused(folder: Path) -> None:
    first = ServerLock(folder, "http://127.0.0.1:1")
    with pytest.raises(StoreError, match=r"a server at http://127\.0\.0\.1:1 works on this workspace"):
        ServerLock(folder, "http://127.0.0.1:2")
    first.let_go()
    ServerLock(folder, "http://127.0.0.1:2").let_go()


def test_a_database_that_may_only_be_read_is_read_and_says_so_when_written(
    folder: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    desk = Desk(folder)
    desk.workspace.db.execute("PRAGMA query_only = 1")
    with pytest.raises(StoreError, match="may only be read"):
        desk.workspace.tell("name", "x")
    assert desk.sources.named("Sales") is not None
    desk.workspace.db.execute("PRAGMA query_only = 0")
    desk.workspace.tell("name", "x")
    assert desk.workspace.told("name") == "x"


def test_a_full_disk_takes_an_intake_back_whole(folder: Path) -> None:
    desk = Desk(folder)
    pages = desk.workspace.db.execute("PRAGMA page_count").fetchone()[0]
    desk.workspace.db.execute(f"PRAGMA max_page_count = {pages}")
    found = look_at(desk, "b.csv", ("d,n\n" + "2026-02-01,5\n" * 5000).encode(), "Sales")
    with pytest.raises(StoreError, match="the disk is full"):
        keep(desk, found.token)
    source = desk.sources.named("Sales")
    assert source is not None
    assert desk.sources.records(source).count == 2
    desk.workspace.db.execute("PRAGMA max_page_count = 1000000")
    keep(desk, found.token)
    assert desk.sources.records(desk.sources.one(source.id)).count == 5002
