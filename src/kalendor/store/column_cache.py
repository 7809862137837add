"""Caches each column of a source revision as memory-mapped arrays; rebuilt when deleted or damaged.

A folder is written next to its final place and renamed. Its manifest names the revision and, for each file, the length and
CRC-32, which are checked on opening; a folder that fails the check is ignored.
"""

import json
import shutil
import zlib
from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path
from uuid import uuid4

import numpy as np
from numpy.typing import NDArray

from kalendor.core.values.columns import Records
from kalendor.intake.column_files import mapped_array, read_columns, save, write_columns

MANIFEST = "columns.json"
ROWS = "rows.npy"
PART = 1 << 22


@dataclass(frozen=True, eq=False)
class Kept:
    """The records of a source, and the row id of each, shape (n,)."""

    records: Records
    rows: NDArray[np.int64]
    sizes: Mapping[Path, int] = field(default_factory=dict)

    @property
    def whole(self) -> bool:
        """Whether no file was truncated since it was mapped; reading beyond a file's end would crash."""
        try:
            return all(path.stat().st_size == size for path, size in self.sizes.items())
        except FileNotFoundError:
            return True  # a folder that was deleted is still mapped
        except OSError:
            return False


def kept_records(folder: Path, revision: int) -> Kept | None:
    """The records of that revision in a folder; None if it has another revision, or is missing or damaged."""
    try:
        manifest = json.loads((folder / MANIFEST).read_text("utf-8"))
        if manifest["revision"] != revision or not all(
            _sound(folder / name, told) for name, told in manifest["files"].items()
        ):
            return None
        records, rows = read_columns(folder, manifest), mapped_array(folder / ROWS)
        sizes = {folder / name: int(told["size"]) for name, told in manifest["files"].items()}
    except (OSError, ValueError, KeyError, TypeError):
        return None
    return Kept(records, rows, sizes) if len(rows) == records.count else None


def _sound(path: Path, told: dict[str, int]) -> bool:
    return path.stat().st_size == told["size"] and _checksum(path) == told["crc32"]


def _checksum(path: Path) -> int:
    found = 0
    with path.open("rb") as file:
        while part := file.read(PART):
            found = zlib.crc32(part, found)
    return found


def written_beside(folder: Path, kept: Kept, revision: int) -> Path | None:
    """Write the records of a revision to a folder beside its final place, for `put_in_place`; None if the disk refuses,
    since the cache can be rebuilt at any time."""
    part = folder.with_name(f".{folder.name}.{uuid4().hex}")
    try:
        part.mkdir(parents=True)
        save(part / ROWS, kept.rows)
        told = write_columns(part, kept.records)
        files = {
            path.name: {"size": path.stat().st_size, "crc32": _checksum(path)} for path in sorted(part.glob("*.npy"))
        }
        manifest = {"revision": revision, **told, "files": files}
        (part / MANIFEST).write_text(json.dumps(manifest), "utf-8")
    except OSError:
        shutil.rmtree(part, ignore_errors=True)
        return None
    return part


def put_in_place(part: Path | None, folder: Path) -> None:
    """Move a written folder to its final place; if that fails, delete it."""
    if part is None:
        return
    try:
        shutil.rmtree(folder, ignore_errors=True)
        part.rename(folder)
    except OSError:
        shutil.rmtree(part, ignore_errors=True)


def let_go(part: Path | None) -> None:
    """Delete a written folder that is not needed."""
    if part is not None:
        shutil.rmtree(part, ignore_errors=True)


def drop(cache: Path, source_id: int, before: int | None = None) -> None:
    """Delete the cached revisions of a source before a given one (None: all)."""
    for folder in cache.glob(f"{source_id}-*"):
        revision = folder.name.partition("-")[2]
        if before is None or not revision.isdigit() or int(revision) < before:
            shutil.rmtree(folder, ignore_errors=True)
