"""Which folders may be linked, and which files beneath them are read."""

import os
from dataclasses import dataclass
from pathlib import Path, PurePosixPath

from kalendor.desk.data_files import APART
from kalendor.desk.desk import Desk
from kalendor.errors import DefinitionError

EVERYTHING = "**/*"
MOST_FILES = 100_000


@dataclass(frozen=True)
class Found:
    """A file in a linked folder: its path beneath the folder, its size in bytes and its modification time in ns since
    1970."""

    path: str
    size: int
    modified: int


@dataclass(frozen=True)
class Folder:
    """A folder that may be linked, its subfolders, and the number of files beneath it and their bytes."""

    path: str
    folders: tuple[str, ...]
    files: int
    size: int


def allowed(desk: Desk, folder: str) -> Path:
    """The folder, if it lies beneath one that the server was started with.

    Raises DefinitionError.
    """
    if not desk.link_from:
        raise DefinitionError("this server links no folders; start it with --link-from FOLDER")
    path = Path(folder).resolve()
    if not any(path.is_relative_to(root.resolve()) for root in desk.link_from):
        raise DefinitionError(f"{folder}: it lies beneath none of {', '.join(map(str, desk.link_from))} (--link-from)")
    if not path.is_dir():
        raise DefinitionError(f"{folder}: there is no such folder")
    return path


def looked_into(desk: Desk, folder: str) -> Folder:
    """A folder that may be linked, with its contents."""
    path = allowed(desk, folder)
    found = files_in(path, EVERYTHING)
    inner = sorted(one.name for one in path.iterdir() if one.is_dir() and not one.name.startswith(APART))
    return Folder(str(path), tuple(inner), len(found), sum(one.size for one in found))


def files_in(folder: Path, pattern: str) -> list[Found]:
    """The files beneath a folder that match a pattern, by their paths; without those whose name, or a parent folder's,
    begins with a point or an underscore, and without those reached through a symbolic link.

    Raises DefinitionError for a pattern that leads out of the folder, and for too many files.
    """
    parts = PurePosixPath(pattern).parts
    if not parts or pattern.startswith("/") or ".." in parts:
        raise DefinitionError(f"{pattern!r} is no pattern of files in a folder; write it as **/*.parquet")
    found: list[Found] = []
    for path in sorted(folder.glob(pattern)):
        beneath = path.relative_to(folder)
        if any(part.startswith(APART) for part in beneath.parts) or not path.resolve().is_relative_to(folder):
            continue
        try:
            about = os.stat(path)
        except OSError:
            continue  # deleted meanwhile
        if path.is_file():
            found.append(Found(beneath.as_posix(), about.st_size, about.st_mtime_ns))
        if len(found) > MOST_FILES:
            raise DefinitionError(
                f"{folder} has more than {MOST_FILES} files; link folders within it, or put files together"
            )
    return found
