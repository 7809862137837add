"""Delivers editions to folders: only beneath those configured when the server was started, and never overwriting a
file."""

import os
from collections.abc import Sequence
from contextlib import suppress
from pathlib import Path
from uuid import uuid4

from kalendor.desk.handing_over import TakenAway
from kalendor.errors import DefinitionError
from kalendor.output.names import free_name


def folder_for(written: str, roots: Sequence[Path], workspace: Path) -> Path:
    """The folder that a delivery names: beneath one of the roots, after following links; a relative one beneath the
    first.

    Raises DefinitionError if there is no root, and for a folder that is beneath none or in the workspace.
    """
    if not roots:
        raise DefinitionError(
            "this server puts no files into folders; start it with --deliver-to FOLDER, beneath which it may"
        )
    try:
        folder = (roots[0].resolve() / written).resolve()
    except (OSError, ValueError) as error:
        raise DefinitionError(f"{written!r} is no folder ({error}); write its path") from None
    if not any(folder.is_relative_to(root.resolve()) for root in roots):
        named = ", ".join(str(root) for root in roots)
        raise DefinitionError(f"{written!r} does not lie beneath {named}, where this server may put files")
    if folder.is_relative_to(workspace.resolve()):
        raise DefinitionError(f"{written!r} lies in the workspace itself; choose a folder outside it")
    return folder


def put(folder: Path, files: Sequence[TakenAway]) -> str:
    """Write files to a folder, each atomically; if one of that name exists with other content, the new one is numbered.

    Raises OSError if that fails.
    """
    folder.mkdir(parents=True, exist_ok=True)
    for file in files:
        part = folder / f".{uuid4().hex}.part"
        try:
            part.write_bytes(file.content)
            _placed(part, folder, file)
        finally:
            part.unlink(missing_ok=True)
    return f"{len(files)} files put into {folder}"


def _placed(part: Path, folder: Path, file: TakenAway) -> None:
    taken: set[str] = set()
    while True:
        name = free_name(file.name, taken)
        with suppress(FileExistsError):
            os.link(part, folder / name)  # fails if the name is taken, so that nothing is overwritten
            return
        if (folder / name).is_file() and (folder / name).read_bytes() == file.content:
            return
        taken.add(name)
