"""The bytes of files that came: kept under their SHA-256, written as they come."""

import hashlib
from collections.abc import Iterable, Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from typing import BinaryIO
from uuid import uuid4

from kalendor.desk.desk import Desk
from kalendor.errors import IntakeError

PART = 1 << 20


@dataclass(frozen=True)
class Held:
    """A file's bytes as they are kept: where, how many, and their SHA-256."""

    path: Path
    size: int
    sha256: str


def hold(desk: Desk, parts: Iterable[bytes]) -> Held:
    """Put bytes that come in parts where they are kept."""
    folder = desk.workspace.files
    part_file = folder / f".{uuid4().hex}"
    digest, size = hashlib.sha256(), 0
    try:
        with part_file.open("wb") as file, ThreadPoolExecutor(1) as beside:
            for part in parts:
                hashed = beside.submit(digest.update, part)
                size += len(part)
                file.write(part)
                hashed.result()
        held = Held(folder / digest.hexdigest(), size, digest.hexdigest())
        part_file.replace(held.path)
    except BaseException:
        part_file.unlink(missing_ok=True)
        raise
    return held


def hold_file(desk: Desk, path: Path) -> Held:
    """Put a file's bytes where they are kept.

    Raises IntakeError where it cannot be read.
    """
    try:
        with path.open("rb") as file:
            return hold(desk, parts_of(file))
    except OSError as error:
        raise IntakeError(f"{path}: cannot be read ({error.strerror or error})") from None


def parts_of(file: BinaryIO) -> Iterator[bytes]:
    """A file's bytes, part by part."""
    while part := file.read(PART):
        yield part


def let_go(desk: Desk, sha256: str) -> None:
    """Remove a file's bytes where no intake came from them, and no file with that content waits."""
    if any(waiting.sha256 == sha256 for waiting in list(desk.waiting.values())):
        return
    if desk.workspace.db.execute("SELECT 1 FROM intake WHERE stored_as = ?", (sha256,)).fetchone() is None:
        (desk.workspace.files / sha256).unlink(missing_ok=True)
