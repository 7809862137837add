"""The commands `link` and `look`."""

from pathlib import Path
from typing import Annotated, Optional

import typer

from kalendor.errors import DefinitionError


def link(
    source: Annotated[str, typer.Argument(help="The name of the new source.")],
    folder: Annotated[Path, typer.Argument(help="The folder whose files it is made of; they stay where they are.")],
    pattern: Annotated[str, typer.Option(help="Which files below the folder, as **/*.parquet.")] = "**/*",
    workspace: Annotated[Path, typer.Option(help="The workspace folder.")] = Path("workspace"),
) -> None:
    """Link a folder of files as a source that is read in place."""
    from kalendor.cli_scale import told_progress
    from kalendor.desk.desk import Desk
    from kalendor.desk.linked.looking import link as link_folder
    from kalendor.desk.notation import begin_in

    desk = Desk(workspace)
    begin_in(desk)
    desk.link_from = (folder,)
    made = link_folder(desk, source, str(folder.absolute()), pattern, told_progress())
    known = desk.linked.of(made.id)
    assert known is not None
    print(f"{source}: {known.facts.records:,} records in {len(desk.linked.files(made.id)):,} files of {known.folder}")


def look(
    sources: Annotated[Optional[list[str]], typer.Argument(help="Names of linked sources; default: all.")] = None,
    workspace: Annotated[Path, typer.Option(help="The workspace folder.")] = Path("workspace"),
) -> None:
    """Look at the folders of linked sources again: added, changed and deleted files count from then on."""
    from kalendor.cli_scale import told_progress
    from kalendor.desk.desk import Desk
    from kalendor.desk.linked.looking import look as look_at
    from kalendor.desk.notation import begin_in

    desk = Desk(workspace)
    begin_in(desk)
    unknown = next((name for name in sources or () if desk.sources.named(name) is None), None)
    if unknown is not None:
        raise DefinitionError(f"there is no source named {unknown!r}")
    named = [desk.sources.named(name) for name in sources or ()]
    wanted = [one for one in named if one is not None] or [desk.sources.one(o.source_id) for o in desk.linked.all()]
    for source in wanted:
        print(f"{source.name}: {look_at(desk, source, told_progress()).said}")
