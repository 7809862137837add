"""The command `fetch`."""

import atexit
from pathlib import Path
from typing import Annotated, NoReturn, Optional

import typer

from kalendor.errors import DefinitionError, IntakeError, KalendorError


def fetch(
    sources: Annotated[
        Optional[list[str]], typer.Argument(help="Names of sources; default: those whose queries are due.")
    ] = None,
    workspace: Annotated[Path, typer.Option(help="The workspace folder.")] = Path("workspace"),
) -> None:
    """Run the queries that feed sources. Exit code 3 if one failed or its result is held for review."""
    from kalendor.desk.desk import Desk
    from kalendor.desk.fetching import due
    from kalendor.desk.fetching import fetch as ask
    from kalendor.desk.notation import begin_in
    from kalendor.intake.apart import Apart

    desk = Desk(workspace, readers=Apart(workspace / "cache"))
    begin_in(desk)
    atexit.register(desk.readers.close)
    left = 0
    wanted = [desk.sources.named(name) or _unknown(name) for name in sources or ()] or due(desk, desk.now())
    for source in wanted:
        try:
            fed = ask(desk, source)
            said = {"same": "nothing new", "held": f"held: {fed.reason}"}.get(fed.outcome, fed.reason)
            left += fed.outcome == "held"
        except KalendorError as error:
            said, left = str(error), left + 1
        print(f"{source.name}: {said}")
    if left:
        raise IntakeError(
            f"{left} of {len(wanted)} {'query was' if len(wanted) == 1 else 'queries were'} not brought in"
        )


def _unknown(name: str) -> NoReturn:
    raise DefinitionError(f"there is no source named {name!r}")
