"""The commands `issue` and `editions`."""

import json
from pathlib import Path
from typing import Annotated, Optional

import typer

from kalendor.desk.putting import put
from kalendor.errors import DefinitionError


def issue(
    workspace: Annotated[Path, typer.Option(help="The workspace folder.")],
    report: Annotated[
        Optional[list[str]], typer.Option(help="A report's title; default: all reports with a cadence.")
    ] = None,
    period: Annotated[
        Optional[str], typer.Option(help="The period, as 2026-07, 2026-Q3, 2026-W27, 2026 or 2026-07-31, or its label.")
    ] = None,
    due: Annotated[
        bool, typer.Option("--due", help="Issue what is due and passes its checks, by the rules of the schedules.")
    ] = False,
    form: Annotated[
        Optional[list[str]], typer.Option("--format", help="Also write each edition as a file of this format.")
    ] = None,
    out: Annotated[Optional[Path], typer.Option(help="The folder for the files; default: the current folder.")] = None,
) -> None:
    """Issue the editions of a period, or all that are due. Safe next to a running server."""
    from kalendor.desk.editions.commands import issued_by_command

    failed: Exception | None = None
    for said, files, error in issued_by_command(workspace, report or [], period, due, form or []):
        print(said)
        for name, content in files:
            put(_folder(out) / name, content)
            print(f"  {_folder(out) / name}")
        failed = error or failed
    if failed is not None:
        raise failed


def _folder(path: Path | None) -> Path:
    found = path or Path()
    try:
        found.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise DefinitionError(f"{found}: the folder cannot be made ({error.strerror or error})") from None
    return found


def editions(
    workspace: Annotated[Path, typer.Option(help="The workspace folder.")],
    report: Annotated[Optional[str], typer.Option(help="One report's title.")] = None,
    as_json: Annotated[bool, typer.Option("--json", help="As JSON.")] = False,
) -> None:
    """List editions: report, period, number, when and by whom, SHA-256, and whether their numbers have moved since."""
    from kalendor.desk.editions.commands import listed

    found = listed(workspace, report)
    if as_json:
        print(json.dumps(found, ensure_ascii=False, indent=1))
        return
    for one in found:
        moved = {True: "moved since", False: "unchanged", None: "cannot be compared"}[one["moved"]]
        print(
            f"{one['report']} · {one['period']} · {one['number']} · {one['issued_at']} · {one['by']}"
            f" · {one['sha256'][:12]} · {moved}"
        )
