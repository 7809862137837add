"""Uploaded bytes, streamed to disk: each waiting file has its own until it is stored under its SHA-256."""

import hashlib
from collections.abc import Iterable, Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from typing import BinaryIO
from uuid import uuid4

from kalendor.desk.desk import Desk
from kalendor.errors import IntakeError

PART, WAITING = 1 << 20, ".waiting-"
A_DAY = 86_400.0


@dataclass(frozen=True)
class Held:
    """A waiting file's bytes: their path, their number, and their SHA-256."""

    path: Path
    size: int
    sha256: str


def hold(desk: Desk, parts: Iterable[bytes]) -> Held:
    """Stream bytes to a file of their own, which another process with the same bytes does not touch."""
    part_file = desk.workspace.files / f"{WAITING}{uuid4().hex}"
    digest, size = hashlib.sha256(), 0
    try:
        with part_file.open("wb") as file, ThreadPoolExecutor(1) as beside:
            for part in parts:
                hashed = beside.submit(digest.update, part)
                size += len(part)
                file.write(part)
                hashed.result()
    except BaseException:
        part_file.unlink(missing_ok=True)
        raise
    return Held(part_file, size, digest.hexdigest())


def hold_file(desk: Desk, path: Path) -> Held:
    """Copy a file's bytes to the store of waiting files.

    Raises IntakeError if it cannot be read.
    """
    try:
        with path.open("rb") as file:
            return hold(desk, parts_of(file))
    except OSError as error:
        raise IntakeError(f"{path}: cannot be read ({error.strerror or error})") from None


def parts_of(file: BinaryIO) -> Iterator[bytes]:
    """A file's bytes, chunk by chunk."""
    while part := file.read(PART):
        yield part


def left_behind(files: Path, now: float) -> list[Path]:
    """Files that no process can still be waiting with: those older than a day, from servers that were killed."""
    return [path for path in files.glob(f"{WAITING}*") if now - path.stat().st_mtime > A_DAY]
