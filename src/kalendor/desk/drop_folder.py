"""A drop folder for each source: files put there are brought in by the source's recipe."""

import threading
from dataclasses import dataclass, field
from pathlib import Path

from kalendor.desk.bringing_in import bring_in_file
from kalendor.desk.desk import Desk
from kalendor.errors import KalendorError

EVERY_SECONDS = 2.0
SKIPPED = (".", "~")
UNFINISHED = (".part", ".tmp", ".crdownload", ".filepart")


@dataclass(frozen=True)
class Dropped:
    """What became of a file: the source it went to, and the reason where it was refused."""

    file: str
    source: str
    reason: str = ""


@dataclass
class DropFolders:
    """The folders `drop/SOURCE/` of a workspace. A file counts once its size and time stand still between two looks."""

    desk: Desk
    _seen: dict[Path, tuple[int, int]] = field(default_factory=dict)

    @property
    def root(self) -> Path:
        return self.desk.workspace.folder / "drop"

    def make(self) -> None:
        """A folder for each source that takes files."""
        for source in self.desk.sources.all():
            if source.report_id is None and "/" not in source.name:
                (self.root / source.name).mkdir(parents=True, exist_ok=True)

    def look(self, at_once: bool = False) -> list[Dropped]:
        """Bring in every file that is whole, in the order of their names; `at_once` does not wait for a second look."""
        results = []
        for folder in sorted(p for p in self.root.glob("*") if p.is_dir()):
            source = self.desk.sources.named(folder.name)
            for path in sorted(p for p in folder.iterdir() if p.is_file()):
                if path.name.startswith(SKIPPED) or path.name.endswith(UNFINISHED):
                    continue
                if self._whole(path) or at_once:
                    results.append(self._brought(path, folder, source.name if source else folder.name))
        return results

    def _whole(self, path: Path) -> bool:
        found = path.stat()
        now = (found.st_size, found.st_mtime_ns)
        before = self._seen.get(path)
        self._seen[path] = now
        return before == now and found.st_size > 0

    def _brought(self, path: Path, folder: Path, source: str) -> Dropped:
        self._seen.pop(path, None)
        try:
            bring_in_file(self.desk, path, source)
        except KalendorError as error:
            place = _moved(path, folder / "refused")
            place.with_name(place.name + ".reason.txt").write_text(f"{error}\n", "utf-8")
            return Dropped(path.name, source, str(error))
        _moved(path, folder / "done")
        return Dropped(path.name, source)

    def watch(self, stop: threading.Event) -> None:
        """Look again and again until `stop` is set."""
        while not stop.wait(EVERY_SECONDS):
            try:
                self.make()
                self.look()
            except (OSError, KalendorError):
                continue


def _moved(path: Path, folder: Path) -> Path:
    """The file's new place, under a free name."""
    folder.mkdir(exist_ok=True)
    place, count = folder / path.name, 1
    while place.exists():
        count += 1
        place = folder / f"{path.stem} ({count}){path.suffix}"
    return path.rename(place)
