"""A drop folder for each source: files put there are brought in by the source's recipe.

A file is first moved into `.taking/`, read from there, and moved on to `done/` or `refused/`, so that what is moved is what
was read. What happens to one file, or in one folder, is written beside it and holds nothing else up.
"""

import os
import shutil
import stat
import tempfile
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import suppress
from dataclasses import dataclass, field, replace
from pathlib import Path
from urllib.parse import quote, unquote

from kalendor.desk.bringing_in import keep, leave, look_at_held, waiting
from kalendor.desk.desk import Desk
from kalendor.desk.open_files import is_being_written
from kalendor.desk.uploads import hold, parts_of
from kalendor.desk.waiting import Waiting
from kalendor.errors import ChangedError, HeldError, IntakeError, KalendorError, StoreError
from kalendor.log import LOG, log_unexpected
from kalendor.store.definitions import MissingError
from kalendor.store.inserting import Progress
from kalendor.store.intakes import Intake
from kalendor.store.sources import Source

EVERY_SECONDS = 2.0
QUIET_SECONDS = 90.0
SKIPPED = (".", "~")
UNFINISHED = (".part", ".tmp", ".crdownload", ".filepart")
TAKING, DONE, REFUSED, HELD, ASIDE = ".taking", "done", "refused", "held", "aside"
REASON = ".reason.txt"
BEYOND_DOUBT = "What it is taken to be is beyond doubt."
SHOWN_ERRORS, MOST_NAME = 100, 200


@dataclass(frozen=True)
class Dropped:
    """What became of a file: the source it went to, and the reason where it was refused."""

    file: str
    source: str
    reason: str = ""


@dataclass(frozen=True)
class Trouble:
    """A file that was refused or is held, when (seconds since 1970), and why; `sure` where it is not like those before, and
    what it is taken to be is beyond doubt."""

    file: str
    at: float
    reason: str
    sure: bool = False


@dataclass(frozen=True)
class FolderState:
    """A drop folder as it stands: where it is, how many files wait in it, what was refused last, and what is held until a
    person has seen what it would do."""

    path: Path
    waiting: int
    troubles: tuple[Trouble, ...]
    held: tuple[Trouble, ...]


@dataclass
class _Seen:
    """A file as it was when last looked at; `changed_at` is when it was last seen to change, None where it never was."""

    size: int
    modified: int
    changed_at: float | None = None


def folder_name(source: str) -> str | None:
    """The name of a source's folder, whatever characters the source's has; None where it would be too long.

    >>> folder_name("Ticket sales"), folder_name("../a"), folder_name("..")
    ('Ticket sales', '%2E.%2Fa', '%2E.')
    """
    name = quote(source, safe=" !#$&'()+,;=@[]^_`{}~-." + "".join(c for c in source if ord(c) > 127))
    name = "%2E" + name[1:] if name.startswith(".") else name
    return name if len(name.encode()) <= MOST_NAME else None


def folder_of(desk: Desk, source: str) -> Path | None:
    """Where files for a source are put; None where its name is too long for a folder."""
    name = folder_name(source)
    return None if name is None else desk.workspace.folder / "drop" / name


def folder_state(desk: Desk, source: str) -> FolderState | None:
    """A source's drop folder as it stands; None where it has none."""
    folder = folder_of(desk, source)
    if folder is None:
        return None
    waiting = sum(1 for _ in _files(folder))
    return FolderState(folder, waiting, tuple(_troubles(folder / REFUSED)), tuple(_troubles(folder / HELD)))


def look_at_dropped(desk: Desk, source: str, name: str) -> Waiting:
    """Read a file that is held in a source's drop folder, or was refused there, so that it waits for a person.

    Raises MissingError where there is no such file.
    """
    taken = _dropped(desk, source, name)
    found = replace(_read(desk, taken, name, source), dropped=taken)
    desk.waiting[found.token] = found
    return found


def keep_looked_at(desk: Desk, token: str, again: bool, progress: Progress, seen: bool) -> tuple[Source, Intake]:
    """Keep a waiting file, as `keep` does; one that was dropped goes to those that are done."""
    taken = waiting(desk, token).dropped
    kept = keep(desk, token, again, progress, seen)
    if taken is not None:
        _put(taken, taken.parent.parent / DONE)
    return kept


def put_aside(desk: Desk, source: str, name: str) -> None:
    """Have a file that is held or was refused be dealt with: it stays in the folder `aside`, and nothing of it is kept.

    Raises MissingError where there is no such file.
    """
    taken = _dropped(desk, source, name)
    _put(taken, taken.parent.parent / ASIDE)


def _dropped(desk: Desk, source: str, name: str) -> Path:
    folder = folder_of(desk, source)
    for kind in (HELD, REFUSED):
        for path in _files(folder / kind) if folder else ():
            if path.name == name:
                return path
    raise MissingError(f"no file {name!r} is held or was refused in the drop folder of {source!r}")


def _put(path: Path, folder: Path) -> None:
    """Move a file, without the reason that lay beside it."""
    path.with_name(path.name + REASON).unlink(missing_ok=True)
    with suppress(FileNotFoundError):
        _moved(path, folder)


def _read(desk: Desk, taken: Path, name: str, source: str) -> Waiting:
    """A file of a drop folder, read by the source's recipe; it waits."""
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
            reason = path.read_text("utf-8").strip()
            file, at, sure = path.name.removesuffix(REASON), path.stat().st_mtime, reason.endswith(BEYOND_DOUBT)
            found.append(Trouble(file, at, reason.removesuffix(BEYOND_DOUBT).strip(), sure))
        except OSError:
            continue
    return sorted(found, key=lambda one: -one.at)[:SHOWN_ERRORS]


def _files(folder: Path) -> Iterator[Path]:
    """The plain files in a folder, by name; links, pipes and what is hidden or unfinished are passed over."""
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


@dataclass
class DropFolders:
    """The folders `drop/SOURCE/` of a workspace.

    A file counts as whole once its size and time stand still between two looks and nobody has it open for writing; one
    that was seen to grow, or is text without an end of its last line, only after a minute and a half without a change.
    """

    desk: Desk
    clock: Callable[[], float] = time.time
    _seen: dict[Path, _Seen] = field(default_factory=dict)

    @property
    def root(self) -> Path:
        return self.desk.workspace.folder / "drop"

    def make(self) -> None:
        """A folder for each source that takes files."""
        for source in self.desk.sources.all():
            folder = folder_of(self.desk, source.name)
            if source.report_id is None and folder is not None:
                folder.mkdir(parents=True, exist_ok=True)

    def look(self, at_once: bool = False) -> list[Dropped]:
        """Bring in every file that is whole, in the order of their names; `at_once` does not wait for a second look."""
        results: list[Dropped] = []
        for folder in self._folders():
            source = unquote(folder.name)
            try:
                self._put_back(folder)
                for path in list(_files(folder)):
                    if at_once or self._whole(path):
                        results += self._brought(path, folder, source)
            except OSError as error:
                LOG.warning("the drop folder of %s cannot be looked through: %s", source, error.strerror)
        self._seen = {path: seen for path, seen in self._seen.items() if path.parent.exists()}
        return results

    def _folders(self) -> list[Path]:
        """The folders, none of which is a link."""
        try:
            return sorted(p for p in self.root.iterdir() if stat.S_ISDIR(p.lstat().st_mode))
        except OSError:
            return []

    def _whole(self, path: Path) -> bool:
        found, now = path.lstat(), self.clock()
        before = self._seen.get(path)
        self._seen[path] = seen = _Seen(found.st_size, found.st_mtime_ns)
        if before is None:
            return False
        if (before.size, before.modified) != (seen.size, seen.modified):
            seen.changed_at = now
            return False
        seen.changed_at = before.changed_at
        if not found.st_size or is_being_written(path):
            return False
        doubtful = seen.changed_at is not None or _ends_within_a_line(path)
        since = max(seen.changed_at or 0.0, found.st_mtime)
        return not doubtful or now - since >= QUIET_SECONDS

    def _put_back(self, folder: Path) -> None:
        """Files that an end in the midst of taking them left behind."""
        taking = folder / TAKING
        for path in list(_files(taking)) if taking.is_dir() else ():
            _moved(path, folder)

    def _brought(self, path: Path, folder: Path, source: str) -> list[Dropped]:
        """What became of a file; nothing where it was still being written after all."""
        self._seen.pop(path, None)
        taken = _moved(path, folder / TAKING)
        name = path.name
        try:
            before = _like(taken)
            token = _read(self.desk, taken, name, source).token
            if _like(taken) != before or is_being_written(taken):
                self._leave(token)
                _moved(taken, folder)
                return []
            keep(self.desk, token)
        except (HeldError, ChangedError) as error:
            self._leave(token)
            sure = isinstance(error, ChangedError) and error.sure
            return [Dropped(_laid_aside(taken, folder / HELD, str(error), sure), source, str(error))]
        except StoreError as error:
            _moved(taken, folder)
            LOG.warning("%s stays in the drop folder of %s: %s", name, source, error)
            return []
        except KalendorError as error:
            return [self._refused(taken, folder, source, str(error))]
        except Exception as error:
            id = log_unexpected(error, f"the drop folder of {source}")
            return [self._refused(taken, folder, source, f"an error of Kalendor's own; it is in the log under {id}")]
        _moved(taken, folder / DONE)
        return [Dropped(name, source)]

    def _leave(self, token: str) -> None:
        leave(self.desk, token)

    def _refused(self, taken: Path, folder: Path, source: str, reason: str) -> Dropped:
        return Dropped(_laid_aside(taken, folder / REFUSED, reason), source, reason)

    def watch(self, stop: threading.Event) -> None:
        """Look again and again until `stop` is set, whatever happens meanwhile."""
        while not stop.wait(EVERY_SECONDS):
            try:
                self.make()
                self.look()
            except Exception as error:
                LOG.warning("the drop folders cannot be looked through (%s)", type(error).__name__)


def hold_for_a_person(desk: Desk, source: str, path: Path, name: str, reason: str, sure: bool) -> str:
    """Have a file that came otherwise wait in a source's drop folder, as one that was dropped there; its name there.

    Raises IntakeError where the source has no such folder.
    """
    folder = folder_of(desk, source)
    if folder is None:
        raise IntakeError(f"{name}: {reason}")
    (folder / TAKING).mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(dir=folder / TAKING) as apart:  # where no look at the folder finds it
        taken = Path(apart) / (Path(name).name or "file")
        shutil.copyfile(path, taken)
        return _laid_aside(taken, folder / HELD, reason, sure)


def _laid_aside(taken: Path, folder: Path, reason: str, sure: bool = False) -> str:
    """Put a file where a person deals with it, with the reason beside it; its name there."""
    place = _moved(taken, folder)
    more = f"\n{BEYOND_DOUBT}" if sure else ""
    place.with_name(place.name + REASON).write_text(f"{reason}{more}\n", "utf-8", "replace")
    return place.name


def _like(path: Path) -> tuple[int, int, int]:
    """What changes when a file does."""
    found = path.lstat()
    return found.st_ino, found.st_size, found.st_mtime_ns


def _ends_within_a_line(path: Path) -> bool:
    """Whether a file is text whose last line has no end."""
    with path.open("rb") as file:
        start = file.read(4096)
        file.seek(-1, os.SEEK_END)
        last = file.read(1)
    return b"\0" not in start and not start.startswith((b"PK", b"PAR1", b"\x1f\x8b")) and last not in b"\r\n]}"


def _moved(path: Path, folder: Path) -> Path:
    """The file's new place, under a name that no other takes meanwhile."""
    folder.mkdir(exist_ok=True)
    place, count = folder / path.name, 1
    beside = [folder.parent / kind for kind in (HELD, REFUSED) if folder.name in (HELD, REFUSED)]
    while True:
        if not any(os.path.lexists(one / place.name) for one in (folder, *beside)):  # one is dealt with by its name
            try:
                os.link(path, place, follow_symlinks=False)
            except FileExistsError:  # another was quicker
                continue
            except OSError:  # a file system without links, or a file that is not ours to link
                return path.rename(place)
            path.unlink()
            return place
        count += 1
        place = folder / f"{path.stem} ({count}){path.suffix}"
