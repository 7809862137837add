"""Small files that are read but not stored: a tree, a calendar's table, control totals."""

from collections.abc import Callable
from typing import TypeAlias
from uuid import uuid4

from kalendor.definitions.recipe import Recipe
from kalendor.desk.desk import Desk
from kalendor.intake.apart import Asked
from kalendor.intake.typed import Reading

ReadBytes: TypeAlias = Callable[[bytes, str, Recipe], Reading]


def small_reader(desk: Desk) -> ReadBytes:
    """Reads bytes as the desk reads files, leaving nothing behind."""

    def read(data: bytes, name: str, recipe: Recipe) -> Reading:
        path = desk.workspace.cache / f".small-{uuid4().hex}"
        try:
            path.write_bytes(data)
            return desk.readers.read(Asked(path, name, recipe))
        finally:
            path.unlink(missing_ok=True)

    return read
