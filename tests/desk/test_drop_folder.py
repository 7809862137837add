"""Drop folders: the outcome of each file is written beside it, and no file blocks others."""

import os
from pathlib import Path
from typing import Any

import pytest

from kalendor.desk import drop_folder, dropped_files
from kalendor.desk.desk import Desk
from kalendor.desk.drop_folder import QUIET_SECONDS, DropFolders
from kalendor.desk.dropped_files import folder_state
from tests.desk.test_bringing_in import bring

ROWS = "d,n\n2026-01-01,{}\n"


class Clock:
    now = 1_000_000_000.0

    def __call__(self) -> float:
        return self.now


@pytest.fixture
def folders(desk: Desk) -> DropFolders:
    found = DropFolders(desk, Clock())
    (found.root / "Sales").mkdir(parents=True)
    return found


def put(folders: DropFolders, name: str, text: str, source: str = "Sales") -> Path:
    path = folders.root / source / name
    path.write_text(text)
    os.utime(path, (Clock.now - 500, Clock.now - 500))
    return path


def count(desk: Desk, source: str = "Sales") -> int:
    found = desk.sources.named(source)
    return 0 if found is None else desk.sources.records(found).count


def test_a_file_is_taken_at_the_second_look_and_moved_as_it_was_read(desk: Desk, folders: DropFolders) -> None:
    path = put(folders, "a.csv", ROWS.format(1))
    assert folders.look() == []
    (one,) = folders.look()
    assert (one.reason, count(desk)) == ("", 1)
    assert not path.exists()
    assert (path.parent / "done" / "a.csv").read_text() == ROWS.format(1)


def test_a_file_that_is_still_being_written_is_not_taken_however_long_it_pauses(
    desk: Desk, folders: DropFolders
) -> None:
    path = put(folders, "a.csv", ROWS.format(1))
    with path.open("a") as writing:
        for _ in range(5):
            folders.clock.now += 60  # type: ignore[attr-defined]
            assert folders.look() == []
        writing.write("2026-01-02,2\n")
    os.utime(path, (Clock.now, Clock.now))
    assert folders.look() == []
    folders.clock.now += 60  # type: ignore[attr-defined]
    assert folders.look() == []
    folders.clock.now += QUIET_SECONDS  # type: ignore[attr-defined]
    folders.look()
    assert count(desk) == 2


def test_text_that_ends_within_a_line_waits_for_the_rest(desk: Desk, folders: DropFolders) -> None:
    path = put(folders, "a.csv", "d,n\n2026-01-01,1\n2026-01")
    os.utime(path, (Clock.now, Clock.now))
    folders.look()
    assert folders.look() == []
    folders.clock.now += QUIET_SECONDS  # type: ignore[attr-defined]
    folders.look()
    assert not path.exists()


def test_a_file_that_grew_while_it_was_read_stays(
    desk: Desk, folders: DropFolders, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = put(folders, "a.csv", ROWS.format(1))
    real = dropped_files.look_at_held

    def growing(*args: Any) -> Any:
        with (path.parent / ".taking" / "a.csv").open("a") as more:
            more.write("2026-01-02,2\n")
        return real(*args)

    monkeypatch.setattr(dropped_files, "look_at_held", growing)
    assert folders.look(at_once=True) == []
    assert (count(desk), path.exists(), desk.waiting) == (0, True, {})


def test_what_happens_to_a_file_is_written_beside_it_and_the_others_go_on(
    desk: Desk, folders: DropFolders, monkeypatch: pytest.MonkeyPatch
) -> None:
    put(folders, "a.csv", "")
    put(folders, "b.csv", 'd,"n\n')
    put(folders, "c.csv", ROWS.format(1))
    (folders.root / "Other").mkdir()
    put(folders, "x.csv", ROWS.format(9), "Other")
    real = drop_folder.keep

    def broken(desk: Desk, token: str) -> Any:
        if desk.waiting[token].file_name == "c.csv":
            raise ZeroDivisionError("a value of a record")
        return real(desk, token)

    monkeypatch.setattr(drop_folder, "keep", broken)
    found = folders.look(at_once=True)
    assert [(one.file, bool(one.reason)) for one in found] == [
        ("x.csv", False),
        ("a.csv", True),
        ("b.csv", True),
        ("c.csv", True),
    ]
    assert "value of a record" not in found[-1].reason
    state = folder_state(desk, "Sales")
    assert state is not None
    assert {trouble.file for trouble in state.troubles} == {"a.csv", "b.csv", "c.csv"}
    assert (state.waiting, count(desk, "Other")) == (0, 1)


def test_links_and_pipes_are_not_followed(desk: Desk, folders: DropFolders, tmp_path: Path) -> None:
    secret = tmp_path / "secret.csv"
    secret.write_text(ROWS.format(7))
    (folders.root / "Sales" / "link.csv").symlink_to(secret)
    os.mkfifo(folders.root / "Sales" / "pipe.csv")
    (folders.root / "Linked").symlink_to(tmp_path)
    assert folders.look(at_once=True) == []
    assert (secret.exists(), count(desk)) == (True, 0)


def test_a_file_left_in_the_midst_of_being_taken_is_taken_again(desk: Desk, folders: DropFolders) -> None:
    taking = folders.root / "Sales" / ".taking"
    taking.mkdir()
    (taking / "a.csv").write_text(ROWS.format(1))
    folders.look(at_once=True)
    assert count(desk) == 1


@pytest.mark.parametrize("name", ["../up", "..", "a/b", ".hidden", "a\\b", "ü%20"])
def test_a_source_of_any_name_has_a_folder_within_the_drop_folder(desk: Desk, name: str) -> None:
    folder = dropped_files.folder_of(desk, name)
    assert folder is not None
    assert folder.parent == desk.workspace.folder / "drop"
    assert not folder.name.startswith(".")
    folder.mkdir(parents=True)
    (folder / "a.csv").write_text(ROWS.format(1))
    (one,) = DropFolders(desk).look(at_once=True)
    assert (one.source, one.reason) == (name, "")


def test_a_column_that_a_dropped_file_adds_is_left_out(desk: Desk, folders: DropFolders) -> None:
    bring(desk, "day,amount\n2026-05-01,1.00\n", "first.csv", "Sales")
    put(folders, "more.csv", "day,amount,more\n2026-05-02,2.00,x\n")
    for _ in range(3):
        folders.look()
    found = desk.sources.named("Sales")
    assert found is not None
    assert [column.name for column in found.columns] == ["day", "amount"]
