"""Writes files atomically: whole or not at all."""

from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING

from kalendor.errors import DefinitionError

if TYPE_CHECKING:
    from kalendor.output.handover import Handover


def put(path: Path, content: bytes) -> None:
    """Write a file atomically. Raises DefinitionError if it cannot be written."""
    part = path.with_name(f".{path.name}.{datetime.now():%H%M%S%f}.part")
    try:
        part.write_bytes(content)
        part.replace(path)
    except OSError as error:
        part.unlink(missing_ok=True)
        raise DefinitionError(f"{path}: cannot be written ({error.strerror or error})") from None


def put_each(given: "Handover", level: str, form: str, shape: str | None, folder: Path | None) -> None:
    """Write a file for each member of a level, named after it, into a folder, which is created if necessary.

    Raises DefinitionError for a level without lines, and if the folder or a file cannot be written.
    """
    from kalendor.output.extract import parted
    from kalendor.output.names import file_stem, free_name
    from kalendor.output.writers import form_of, write

    if folder is None:
        raise DefinitionError("--each needs --out, the folder to put the files in")
    known = form_of(form)
    named: dict[str, bytes] = {}
    for member, part in parted(given, level):
        named[free_name(f"{file_stem(member)}.{known.ending}", named)] = write(part, form, shape or known.seen)
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise DefinitionError(f"{folder}: the folder cannot be made ({error.strerror or error})") from None
    for name, content in named.items():
        put(folder / name, content)
