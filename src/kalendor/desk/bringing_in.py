"""Bringing a file in: read, looked at, then kept whole or not at all."""

import hashlib
from dataclasses import dataclass, replace
from pathlib import Path
from uuid import uuid4

from kalendor.core.columns import Records
from kalendor.definitions.recipe import ColumnReading, Recipe
from kalendor.desk.desk import Desk
from kalendor.errors import IntakeError
from kalendor.intake.reading import Reading, read_bytes
from kalendor.intake.text import unpacked
from kalendor.store.sources import Intake, Source

SHOWN_RECORDS = 8


@dataclass(frozen=True, eq=False)
class Waiting:
    """A file that was read and is not kept yet. `already` is a standing intake of the same content."""

    token: str
    file_name: str
    size: int
    sha256: str
    source: str
    reading: Reading
    already: Intake | None


def source_name_for(file_name: str) -> str:
    """A name to offer for a new source: the file's own, without its ending and dates.

    >>> source_name_for("ticket_sales-2026-07.csv.gz")
    'Ticket sales'
    """
    stem = file_name.split(".")[0]
    words = [w for w in stem.replace("_", " ").replace("-", " ").split() if not w.isdigit()]
    name = " ".join(words) or stem
    return name[:1].upper() + name[1:]


def look_at(desk: Desk, file_name: str, data: bytes, source: str | None, recipe: Recipe | None = None) -> Waiting:
    """Read a file and let it wait, by the source's recipe where it has one.

    Raises IntakeError where it cannot be read.
    """
    sha256 = hashlib.sha256(data).hexdigest()
    held = desk.workspace.files / sha256
    if not held.exists():
        part = held.with_name(f".{sha256}.{uuid4().hex}")
        part.write_bytes(data)
        part.replace(held)
    name = source or source_name_for(file_name)
    found = desk.sources.named(name)
    how = recipe or (_for_next(found.recipe) if found else Recipe())
    plain = unpacked(held) if file_name.endswith(".gz") else data
    reading = read_bytes(plain, file_name, how)
    token = uuid4().hex
    already = desk.sources.brought_before(found, sha256) if found else None
    waiting = Waiting(token, file_name, len(data), sha256, name, reading, already)
    desk.memory.put(f"waiting/{token}", waiting)
    return waiting


def _for_next(recipe: Recipe) -> Recipe:
    """What a recipe says of later files: the types and formats, not where columns stand."""
    columns = {name: ColumnReading(**reading.model_dump()) for name, reading in recipe.columns.items()}
    return recipe.model_copy(update={"columns": columns})


def waiting(desk: Desk, token: str) -> Waiting:
    """The file that waits under a token.

    Raises IntakeError where it waits no more.
    """
    found = desk.memory.get(f"waiting/{token}")
    if not isinstance(found, Waiting):
        raise IntakeError("this file is no longer waiting; choose it again")
    return found


def read_again(desk: Desk, token: str, columns: dict[str, ColumnReading], source: str | None) -> Waiting:
    """A waiting file read with other readings of some columns, or for another source."""
    before = waiting(desk, token)
    held = desk.workspace.files / before.sha256
    data = unpacked(held) if before.file_name.endswith(".gz") else held.read_bytes()
    recipe = before.reading.recipe
    recipe = recipe.model_copy(update={"columns": {**recipe.columns, **columns}})
    reading = read_bytes(data, before.file_name, recipe)
    name = source or before.source
    found = desk.sources.named(name)
    already = desk.sources.brought_before(found, before.sha256) if found else None
    after = replace(before, reading=reading, source=name, already=already)
    desk.memory.put(f"waiting/{token}", after)
    return after


def keep(desk: Desk, token: str, again: bool = False) -> tuple[Source, Intake]:
    """Keep a waiting file's records.

    Raises IntakeError for a file whose content is there already, unless it is asked for again.
    """
    found = waiting(desk, token)
    source = desk.sources.named(found.source)
    already = desk.sources.brought_before(source, found.sha256) if source else None
    if already is not None and not again:
        raise IntakeError(
            f"{found.file_name}: the same content was brought in as {already.file_name} on {already.brought_at[:10]}; nothing was added"
        )
    if not found.reading.records.count:
        raise IntakeError(f"{found.file_name}: it holds no record below its headings; nothing was brought in")
    return desk.sources.bring_in(found.source, found.reading, found.sha256, found.size, desk.now())


def bring_in_file(desk: Desk, path: Path, source: str, recipe: Recipe | None = None) -> tuple[Source, Intake]:
    """A file on disk brought into a source in one go."""
    found = look_at(desk, path.name, path.read_bytes(), source, recipe)
    return keep(desk, found.token)


def first_records(records: Records) -> list[list[str]]:
    """The first few records as text, to be looked at."""
    from kalendor.output.numbers import texts

    picked = [texts(column.take(slice(0, SHOWN_RECORDS))) for column in records.columns.values()]  # type: ignore[arg-type]
    return [list(row) for row in zip(*picked, strict=True)]
