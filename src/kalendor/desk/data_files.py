"""The data files that an argument refers to: a file, a folder, or a pattern."""

import glob
from collections.abc import Sequence
from pathlib import Path

from kalendor.errors import DefinitionError

APART = (".", "_")  # first character of names that are not data, such as markers of a finished export


def data_files(named: Sequence[Path]) -> list[Path]:
    """The files that arguments refer to, in their order.

    A folder stands for all files beneath it, a pattern (`*`, `?`, `[…]`, and `**` for folders at any depth) for those
    it matches, in the order of their paths; names that begin with a point or an underscore are left out of both. A file
    matched more than once is read once.

    Raises DefinitionError for a folder or pattern without a file.
    """
    found: dict[Path, None] = {}
    files: list[Path] = []
    for one in named:
        if not one.is_dir() and (one.exists() or not glob.has_magic(str(one))):
            files.append(one)  # a missing file is reported when it is read
            found[one.resolve()] = None
            continue
        beneath = [path for path in _expanded(one) if path.is_file() and not _left_out(path, one)]
        if not beneath:
            raise DefinitionError(
                f"--data {str(one)!r}: there is no file {'in that folder' if one.is_dir() else 'that matches'}"
            )
        files += [path for path in beneath if path.resolve() not in found]
        found.update(dict.fromkeys(path.resolve() for path in beneath))
    return files


def _expanded(named: Path) -> list[Path]:
    if named.is_dir():
        return sorted(named.rglob("*"))
    return sorted(Path(path) for path in glob.glob(str(named), recursive=True))


def _left_out(path: Path, named: Path) -> bool:
    """Whether the name of a file, or of a folder between it and the argument, marks it as not data."""
    beneath = path.relative_to(named).parts if named.is_dir() else path.parts[-1:]
    return any(part.startswith(APART) for part in beneath)
