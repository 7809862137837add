"""A drop folder for each source: files put there are imported by the source's recipe.

A file is first moved into `.taking/`, read from there, and then moved to `done/` or `refused/`, so that the file moved
is the file read. A failure is written to a file beside it and does not delay other files or folders.
"""

import os
import stat
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from urllib.parse import unquote

from kalendor.desk.bringing_in import keep, leave
from kalendor.desk.desk import Desk
from kalendor.desk.dropped_files import (
    DONE,
    HELD,
    REFUSED,
    TAKING,
    files_in,
    folder_of,
    laid_aside,
    moved,
    read_dropped,
)
from kalendor.desk.notation import begin_in
from kalendor.desk.open_files import is_being_written
from kalendor.desk.reasons import Reason, held_for
from kalendor.errors import ChangedError, HeldError, KalendorError, StoreError
from kalendor.log import LOG, log_unexpected

EVERY_SECONDS = 2.0
QUIET_SECONDS = 90.0


@dataclass(frozen=True)
class Dropped:
    """The outcome for a file: the source it was imported into, and the reason if it was refused."""

    file: str
    source: str
    reason: str = ""


@dataclass
class _Seen:
    """A file as last observed; `changed_at` is when it was last observed to change, None if never."""

    size: int
    modified: int
    changed_at: float | None = None


@dataclass
class DropFolders:
    """The folders `drop/SOURCE/` of a workspace.

    A file counts as complete once its size and time are unchanged between two looks and no process has it open for
    writing; a file that was observed to grow, or is text whose last line has no end, only after a minute and a half
    without a change.
    """

    desk: Desk
    clock: Callable[[], float] = time.time
    _seen: dict[Path, _Seen] = field(default_factory=dict)

    @property
    def root(self) -> Path:
        return self.desk.workspace.folder / "drop"

    def make(self) -> None:
        """Create a folder for each source that accepts files."""
        for source in self.desk.sources.all():
            folder = folder_of(self.desk, source.name)
            if source.report_id is None and folder is not None and self.desk.linked.of(source.id) is None:
                folder.mkdir(parents=True, exist_ok=True)

    def look(self, at_once: bool = False) -> list[Dropped]:
        """Import every complete file, in the order of their names; `at_once` does not wait for a second look."""
        results: list[Dropped] = []
        for folder in self._folders():
            source = unquote(folder.name)
            try:
                self._put_back(folder)
                for path in list(files_in(folder)):
                    if at_once or self._whole(path):
                        results += self._brought(path, folder, source)
            except OSError as error:
                LOG.warning("the drop folder of %s cannot be looked through: %s", source, error.strerror)
        self._seen = {path: seen for path, seen in self._seen.items() if path.parent.exists()}
        return results

    def _folders(self) -> list[Path]:
        """The folders, excluding symbolic links."""
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
        """Move back files that an interrupted look left in `.taking/`."""
        taking = folder / TAKING
        for path in list(files_in(taking)) if taking.is_dir() else ():
            moved(path, folder)

    def _brought(self, path: Path, folder: Path, source: str) -> list[Dropped]:
        """The outcome for a file; None if it was still being written after all."""
        self._seen.pop(path, None)
        taken = moved(path, folder / TAKING)
        name = path.name
        try:
            before = _like(taken)
            token = read_dropped(self.desk, taken, name, source).token
            if _like(taken) != before or is_being_written(taken):
                self._leave(token)
                moved(taken, folder)
                return []
            keep(self.desk, token)
        except (HeldError, ChangedError) as error:
            self._leave(token)
            return [Dropped(laid_aside(taken, folder / HELD, held_for(error)), source, str(error))]
        except StoreError as error:
            moved(taken, folder)
            LOG.warning("%s stays in the drop folder of %s: %s", name, source, error)
            return []
        except KalendorError as error:
            return [self._refused(taken, folder, source, str(error))]
        except Exception as error:
            id = log_unexpected(error, f"the drop folder of {source}")
            return [self._refused(taken, folder, source, f"an error of Kalendor's own; it is in the log under {id}")]
        moved(taken, folder / DONE)
        return [Dropped(name, source)]

    def _leave(self, token: str) -> None:
        leave(self.desk, token)

    def _refused(self, taken: Path, folder: Path, source: str, reason: str) -> Dropped:
        return Dropped(laid_aside(taken, folder / REFUSED, Reason(reason)), source, reason)

    def watch(self, stop: threading.Event) -> None:
        """Look repeatedly until `stop` is set, whatever fails meanwhile."""
        while not stop.wait(EVERY_SECONDS):
            try:
                begin_in(self.desk)
                self.make()
                self.look()
            except Exception as error:
                LOG.warning("the drop folders cannot be looked through (%s)", type(error).__name__)


def _like(path: Path) -> tuple[int, int, int]:
    """A value that changes when a file does."""
    found = path.lstat()
    return found.st_ino, found.st_size, found.st_mtime_ns


def _ends_within_a_line(path: Path) -> bool:
    """Whether a file is text whose last line has no end."""
    with path.open("rb") as file:
        start = file.read(4096)
        file.seek(-1, os.SEEK_END)
        last = file.read(1)
    return b"\0" not in start and not start.startswith((b"PK", b"PAR1", b"\x1f\x8b")) and last not in b"\r\n]}"
