"""Files of the drop folders: their paths, what is shown of those that wait for a person, and what that person can do
with them."""

import os
import shutil
import stat
import tempfile
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass, replace
from filecmp import cmp
from pathlib import Path
from urllib.parse import quote

from kalendor.desk.bringing_in import keep, look_at_held, waiting
from kalendor.desk.desk import Desk
from kalendor.desk.reasons import Reason, reason_in
from kalendor.desk.uploads import hold, parts_of
from kalendor.desk.waiting import Waiting
from kalendor.errors import IntakeError
from kalendor.store.definitions import MissingError
from kalendor.store.inserting import Progress
from kalendor.store.intakes import Intake
from kalendor.store.sources import Source

SKIPPED = (".", "~")
UNFINISHED = (".part", ".tmp", ".crdownload", ".filepart")
TAKING, DONE, REFUSED, HELD, ASIDE = ".taking", "done", "refused", "held", "aside"
REASON = ".reason.txt"
SHOWN_ERRORS, MOST_NAME = 100, 200


@dataclass(frozen=True)
class Trouble:
    """A file that was refused or is held, when (seconds since 1970), and why."""

    file: str
    at: float
    why: Reason


@dataclass(frozen=True)
class FolderState:
    """The state of a drop folder: its path, how many files wait in it, which were refused last, and which are held
    until a person has confirmed their effect."""

    path: Path
    waiting: int
    troubles: tuple[Trouble, ...]
    held: tuple[Trouble, ...]


def folder_name(source: str) -> str | None:
    """The folder name for a source, whatever characters its name has; None if it would be too long.

    >>> folder_name("Ticket sales"), folder_name("../a"), folder_name("..")
    ('Ticket sales', '%2E.%2Fa', '%2E.')
    """
    name = quote(source, safe=" !#$&'()+,;=@[]^_`{}~-." + "".join(c for c in source if ord(c) > 127))
    name = "%2E" + name[1:] if name.startswith(".") else name
    return name if len(name.encode()) <= MOST_NAME else None


def folder_of(desk: Desk, source: str) -> Path | None:
    """The folder for a source's files; None if the source's name is too long for a folder."""
    name = folder_name(source)
    return None if name is None else desk.workspace.folder / "drop" / name


def folder_state(desk: Desk, source: str) -> FolderState | None:
    """The state of a source's drop folder; None if it has none."""
    folder = folder_of(desk, source)
    if folder is None:
        return None
    waiting = sum(1 for _ in files_in(folder))
    return FolderState(folder, waiting, tuple(_troubles(folder / REFUSED)), tuple(_troubles(folder / HELD)))


def look_at_dropped(desk: Desk, source: str, name: str) -> Waiting:
    """Read a file that is held or was refused in a source's drop folder; it then waits for a person.

    Raises MissingError if there is no such file.
    """
    taken = _dropped(desk, source, name)
    found = replace(read_dropped(desk, taken, name, source), dropped=taken)
    desk.waiting[found.token] = found
    return found


def keep_looked_at(desk: Desk, token: str, again: bool, progress: Progress, seen: bool) -> tuple[Source, Intake]:
    """Import a waiting file, as `keep` does. A dropped file is then moved to `done/`, and the query that fetched a file
    feeds the source from then on."""
    found = waiting(desk, token)
    source, intake = keep(desk, token, again, progress, seen, origin="file" if found.fetching is None else "query")
    if found.dropped is not None:
        _put(found.dropped, found.dropped.parent.parent / DONE)
    if found.fetching is not None:
        desk.fetches.set(source.id, found.fetching, desk.now())
    return source, intake


def put_aside(desk: Desk, source: str, name: str) -> None:
    """Dismiss a file that is held or was refused: it is moved to the folder `aside`, and nothing of it is imported.

    Raises MissingError if there is no such file.
    """
    taken = _dropped(desk, source, name)
    _put(taken, taken.parent.parent / ASIDE)


def hold_for_a_person(desk: Desk, source: str, path: Path, name: str, why: Reason) -> str:
    """Hold a file that came another way in a source's drop folder, as if it had been dropped there; returns its name
    there. The same content is held once.

    Raises IntakeError if the source has no such folder.
    """
    folder = folder_of(desk, source)
    if folder is None:
        raise IntakeError(f"{name}: {why.said}")
    there = next((one for one in files_in(folder / HELD) if cmp(one, path, shallow=False)), None)
    if there is not None:
        return there.name
    (folder / TAKING).mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(dir=folder / TAKING) as apart:  # `DropFolders.look` does not look there
        taken = Path(apart) / (Path(name).name or "file")
        shutil.copyfile(path, taken)
        return laid_aside(taken, folder / HELD, why)


def _dropped(desk: Desk, source: str, name: str) -> Path:
    folder = folder_of(desk, source)
    for kind in (HELD, REFUSED):
        for path in files_in(folder / kind) if folder else ():
            if path.name == name:
                return path
    raise MissingError(f"no file {name!r} is held or was refused in the drop folder of {source!r}")


def _put(path: Path, folder: Path) -> None:
    """Move a file, without the reason file beside it."""
    path.with_name(path.name + REASON).unlink(missing_ok=True)
    with suppress(FileNotFoundError):
        moved(path, folder)


def read_dropped(desk: Desk, taken: Path, name: str, source: str) -> Waiting:
    """Read a file of a drop folder by the source's recipe; it then waits."""
    try:
        descriptor = os.open(taken, os.O_RDONLY | os.O_NOFOLLOW | os.O_NONBLOCK)
    except OSError as error:
        raise IntakeError(f"{name}: cannot be read ({error.strerror})") from None
    with os.fdopen(descriptor, "rb") as file:
        held = hold(desk, parts_of(file))
    return look_at_held(desk, name, held, source)


def _troubles(folder: Path) -> list[Trouble]:
    found = []
    for path in folder.glob(f"*{REASON}") if folder.is_dir() else ():
        try:
            why = reason_in(path.read_text("utf-8"))
            found.append(Trouble(path.name.removesuffix(REASON), path.stat().st_mtime, why))
        except OSError:
            continue
    return sorted(found, key=lambda one: -one.at)[:SHOWN_ERRORS]


def files_in(folder: Path) -> Iterator[Path]:
    """The plain files in a folder, by name; links, pipes, hidden and unfinished files are skipped."""
    try:
        names = sorted(os.listdir(folder))
    except OSError:
        return
    for name in names:
        if name.startswith(SKIPPED) or name.lower().endswith(UNFINISHED):
            continue
        path = folder / name
        try:
            if stat.S_ISREG(path.lstat().st_mode):
                yield path
        except OSError:
            continue


def laid_aside(taken: Path, folder: Path, why: Reason) -> str:
    """Move a file to where a person deals with it, with the reason in a file beside it; returns its name there."""
    place = moved(taken, folder)
    place.with_name(place.name + REASON).write_text(why.text(), "utf-8", "replace")
    return place.name


def moved(path: Path, folder: Path) -> Path:
    """Move a file to a unique name in a folder; returns its new path."""
    folder.mkdir(exist_ok=True)
    place, count = folder / path.name, 1
    beside = [folder.parent / kind for kind in (HELD, REFUSED) if folder.name in (HELD, REFUSED)]
    while True:
        if not any(
            os.path.lexists(one / place.name) for one in (folder, *beside)
        ):  # a held file is referred to by its name
            try:
                os.link(path, place, follow_symlinks=False)
            except FileExistsError:  # another process moved it first
                continue
            except OSError:  # a file system without links, or no permission to link the file
                return path.rename(place)
            path.unlink()
            return place
        count += 1
        place = folder / f"{path.stem} ({count}){path.suffix}"
