"""The commands `check`, `backup` and `restore`."""

from pathlib import Path
from typing import Annotated

import typer

from kalendor.errors import DamagedError


def check(
    paths: Annotated[list[Path], typer.Argument(help="A workspace folder, or definition files of any kind.")],
) -> None:
    """Check a workspace, or definition files. Exit code 0 intact, 5 damaged, with what and how to repair it."""
    from kalendor.definitions.kinds import KINDS
    from kalendor.desk.files import read_definition
    from kalendor.store.soundness import faults

    damaged = 0
    for path in paths:
        if not path.is_dir():
            print(f"{path}: a sound {read_definition(path, *KINDS).kind}")
            continue
        found = faults(path)
        damaged += len(found)
        for fault in found:
            print(f"{path}: {fault}")
        if not found:
            print(f"{path}: whole")
    if damaged:
        raise DamagedError(f"{damaged} {'fault was' if damaged == 1 else 'faults were'} found")


def backup(
    to: Annotated[Path, typer.Argument(help="The tar file to write.")],
    workspace: Annotated[Path, typer.Option(help="The workspace folder.")] = Path("workspace"),
) -> None:
    """Back up a workspace with its original files to one tar file; safe next to a running server."""
    from kalendor.store.soundness import back_up

    print(f"{to}: {back_up(workspace, to):,} bytes")


def restore(
    backup: Annotated[Path, typer.Argument(help="The tar file that kalendor backup wrote.")],
    workspace: Annotated[Path, typer.Option(help="The folder to restore into; must be empty or not exist.")],
) -> None:
    """Restore a backup into a new folder."""
    from kalendor.store.soundness import restore as brought_back

    brought_back(backup, workspace)
    print(f"{workspace}: restored from {backup}")
