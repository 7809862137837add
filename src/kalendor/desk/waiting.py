"""A file that was read and waits to be kept."""

from dataclasses import dataclass
from pathlib import Path

from kalendor.definitions.fetching import Fetching
from kalendor.definitions.recipe import Join
from kalendor.desk.changes import Changes
from kalendor.intake.typed import Reading
from kalendor.store.intakes import Intake


@dataclass(frozen=True, eq=False)
class Waiting:
    """A file that was read and is not kept yet, and how it is to join what is there.

    `path` is where its bytes lie meanwhile. `already` is a standing intake of the same content; `mends` the intake whose refused lines it brings in mended. How it joins is the source's way from then on where `always` says so.
    `dropped` is its place in a drop folder, where it was held there; `fetching` the query that it is the result of. `changes` say how it differs from the files before.
    """

    token: str
    file_name: str
    size: int
    sha256: str
    path: Path
    source: str
    reading: Reading
    already: Intake | None
    join: Join = "add"
    join_by: tuple[str, ...] = ()
    take_added: bool = True
    mends: int | None = None
    always: bool = False
    dropped: Path | None = None
    changes: Changes | None = None
    fetching: Fetching | None = None
