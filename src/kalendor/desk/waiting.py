"""A file that was read and waits to be imported."""

from dataclasses import dataclass
from pathlib import Path

from kalendor.definitions.fetching import Fetching
from kalendor.definitions.recipe import Join
from kalendor.desk.changes import Changes
from kalendor.intake.typed import Reading
from kalendor.store.intakes import Intake


@dataclass(frozen=True, eq=False)
class Waiting:
    """A file that was read but not imported yet, and how it will join the existing records.

    `path` is where its bytes are until then. `already` is an intake in effect with the same content; `mends` the intake
    whose refused lines it contains corrected. `always`: how it joins becomes the source's setting. `dropped` is its
    path in a drop folder, if it was held there; `fetching` the query that it is the result of. `changes` describe how
    it differs from earlier files.
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
