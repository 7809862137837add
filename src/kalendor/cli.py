"""The command line.

Exit codes: 0 done; 2 a wrong definition or argument; 3 a file that cannot be read; 4 a sheet that does not add up.
"""

import atexit
import gc
import json
import os
import sys
from contextlib import suppress
from dataclasses import asdict
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Optional, cast

import typer
from typer.main import get_command

from kalendor import VERSION
from kalendor.cli_asking import ask, say
from kalendor.cli_editions import editions, issue
from kalendor.cli_fetching import fetch
from kalendor.cli_keeping import backup, check, restore
from kalendor.cli_linking import link, look
from kalendor.cli_options import (
    AsOf,
    DataFiles,
    Groupings,
    Lookups,
    Memory,
    RecipeFile,
    RunWorkers,
    Scale,
    Scheduler,
    WorkerCount,
    clock_today,
    day,
    hand_over,
    pairs,
)
from kalendor.cli_users import users
from kalendor.desk.putting import put
from kalendor.errors import DefinitionError, IntakeError, KalendorError

if TYPE_CHECKING:
    from kalendor.output.handover import Handover

INTERRUPTED = 130  # the exit code of shells for a command that was interrupted

app = typer.Typer(
    add_completion=False,
    no_args_is_help=True,
    pretty_exceptions_enable=False,
    rich_markup_mode=None,
    help="Kalendor turns transaction exports into summary reports.",
)


app.add_typer(users, name="user")


def _tell_version(asked: bool) -> None:
    if asked:
        print(f"kalendor {VERSION}")
        raise typer.Exit


@app.callback()
def _kalendor(
    version: Annotated[
        bool, typer.Option("--version", callback=_tell_version, is_eager=True, help="Show the version.")
    ] = False,
) -> None:
    """Kalendor turns transaction exports into summary reports."""


@app.command()
def run(
    report: Path,
    data: DataFiles,
    recipe: RecipeFile = None,
    with_: Groupings = None,
    lookup: Lookups = None,
    as_of: AsOf = None,
    form: Annotated[str, typer.Option("--format", help="csv, json, xlsx, ods, pdf, html or parquet.")] = "csv",
    shape: Annotated[Optional[str], typer.Option(help="sheet or flat.")] = None,
    out: Annotated[Optional[Path], typer.Option(help="The file to write; default: standard output.")] = None,
    tie_out: Annotated[Optional[Path], typer.Option("--tie-out", help="Write the tie-out as JSON.")] = None,
    each: Annotated[
        Optional[str], typer.Option(help="A level: a file for each of its members, into the folder that --out names.")
    ] = None,
    workers: RunWorkers = None,
    memory: Memory = None,
    scheduler: Scheduler = None,
) -> None:
    """Compute a report from files and write its sheet. Needs no workspace and no server."""
    gc.disable()  # a short-lived process: garbage collection over a million texts would find nothing
    today, said, scale = clock_today(), day(as_of), Scale(workers, memory, scheduler)
    from kalendor.desk.ahead import begun

    ahead = None if scale.asked else begun(report, data, recipe)
    from kalendor.output.writers import form_of

    given_files, worded = (report, data, recipe, with_ or [], pairs(lookup or [])), form_of(form).worded
    if not scale.asked:
        from kalendor.desk.files import from_files

        files = from_files(*given_files, ahead, pruned=not worded)
    else:
        from kalendor.cli_scale import computed

        files, said = computed(*given_files, said, today, scale, worded)
    given = files.handed(said, today, worded)
    _write(given, each, form, shape, out)
    if tie_out is not None:
        put(tie_out, (json.dumps(asdict(given.sheet.tie_out), ensure_ascii=False, indent=1) + "\n").encode())


def _write(given: "Handover", each: str | None, form: str, shape: str | None, out: Path | None) -> None:
    """Write a sheet to a file or standard output, or a file for each member of a level."""
    from kalendor.desk.putting import put_each
    from kalendor.output.writers import write

    if each is None:
        hand_over(write(given, form, shape), out)
    else:
        put_each(given, each, form, shape, out)


@app.command()
def trail(
    report: Path,
    data: DataFiles,
    figure: Annotated[str, typer.Option(help="The figure's name.")],
    line: Annotated[
        Optional[list[str]], typer.Option(help="A label of the cell's line, one a level from the outermost.")
    ] = None,
    column: Annotated[Optional[list[str]], typer.Option(help="A label of the cell's column, likewise.")] = None,
    words: Annotated[bool, typer.Option("--words", help="Write the explanation instead of the records.")] = False,
    recipe: RecipeFile = None,
    with_: Groupings = None,
    lookup: Lookups = None,
    as_of: AsOf = None,
    out: Annotated[Optional[Path], typer.Option(help="The file to write; default: standard output.")] = None,
) -> None:
    """Write the records behind one number of a report, or its explanation. Needs no workspace and no server."""
    from kalendor.core.report import sheet_of, traced
    from kalendor.core.trail.cell import found_cell
    from kalendor.desk.files import from_files
    from kalendor.output.told import told
    from kalendor.output.trail_file import records_csv

    files = from_files(report, data, recipe, with_ or [], pairs(lookup or []))
    plan = files.plan(day(as_of), clock_today())
    sheet = sheet_of(plan)
    found = traced(plan, sheet, found_cell(sheet, figure, line or [], column or []))
    names = list(files.reading.records.columns)
    hand_over(("\n".join(told(found)) + "\n").encode() if words else records_csv(found, files.origins, names), out)


@app.command()
def serve(
    workspace: Annotated[Path, typer.Option(help="The workspace folder; created if it does not exist.")] = Path(
        "workspace"
    ),
    host: Annotated[str, typer.Option(help="The address to listen on; any but loopback needs accounts.")] = "127.0.0.1",
    port: Annotated[int, typer.Option(help="The port to listen on.")] = 8765,
    host_name: Annotated[
        Optional[list[str]], typer.Option(help="A name by which others reach this server, as reports.example.")
    ] = None,
    tls_cert: Annotated[Optional[Path], typer.Option(help="The certificate, with its chain, as PEM.")] = None,
    tls_key: Annotated[Optional[Path], typer.Option(help="The certificate's key, as PEM.")] = None,
    behind_proxy: Annotated[
        bool, typer.Option("--behind-proxy", help="A proxy on this machine terminates TLS and forwards requests.")
    ] = False,
    deliver_to: Annotated[
        Optional[list[Path]], typer.Option(help="A folder below which editions may be delivered; can be repeated.")
    ] = None,
    workers: WorkerCount = None,
    link_from: Annotated[
        Optional[list[Path]],
        typer.Option(help="A folder below which folders may be linked as sources; can be repeated."),
    ] = None,
    scheduler: Annotated[
        Optional[str],
        typer.Option(help="A running Dask scheduler, as tcp://host:8786, whose workers read linked folders."),
    ] = None,
) -> None:
    """Start a server on a workspace and print its address."""
    from kalendor.serving import Reach, serve_workspace

    names, folders = tuple(host_name or ()), tuple(deliver_to or ())
    reach = Reach(
        host, port, names, tls_cert, tls_key, behind_proxy, folders, workers, tuple(link_from or ()), scheduler
    )
    serve_workspace(workspace, reach)


@app.command()
def demo(
    workspace: Annotated[Path, typer.Option(help="Where the demo workspace is written.")] = Path("workspace/demo"),
    port: Annotated[int, typer.Option(help="The port to listen on.")] = 8765,
    files: Annotated[
        Optional[Path], typer.Option(help="Only write the demo's exports as files to this folder.")
    ] = None,
    workers: WorkerCount = None,
) -> None:
    """Create the demo workspace of Skerry Line, a made-up ferry company, and start a server on it."""
    from kalendor.demo.workspace import build, lay_out_exports, write_files

    if files is not None:
        print(f"{len(write_files(files))} files in {files}")
        return
    build(workspace)
    from kalendor.serving import Reach, serve_workspace

    exports = lay_out_exports(workspace)
    serve_workspace(workspace, Reach("127.0.0.1", port, workers=workers, link_from=(exports,)), with_mail=True)


@app.command()
def intake(
    source: Annotated[Optional[str], typer.Argument(help="The source's name; default: the drop folders.")] = None,
    files: Annotated[
        Optional[list[Path]], typer.Argument(help="Files to import, in order; - is standard input.")
    ] = None,
    workspace: Annotated[Path, typer.Option(help="The workspace folder.")] = Path("workspace"),
    recipe: Annotated[Optional[Path], typer.Option(help="How the files are read, for a new source.")] = None,
    held: Annotated[bool, typer.Option(help="Import held files too: you have reviewed what they remove.")] = False,
    matched: Annotated[
        bool, typer.Option(help="Import files whose columns changed if the new columns can be matched without doubt.")
    ] = False,
) -> None:
    """Import files into a source by its recipe, or whatever is in the drop folders."""
    from kalendor.definitions.recipe import Recipe
    from kalendor.desk.bringing_in import bring_in_file
    from kalendor.desk.desk import Desk
    from kalendor.desk.drop_folder import DropFolders
    from kalendor.desk.files import read_definition
    from kalendor.desk.notation import begin_in
    from kalendor.intake.apart import Apart

    desk = Desk(workspace, readers=Apart(workspace / "cache"))
    begin_in(desk)
    atexit.register(desk.readers.close)
    if source is None:
        found = DropFolders(desk).look(at_once=True)
        for one in found:
            print(f"{one.file} → {one.source}{': ' + one.reason if one.reason else ''}")
        if any(one.reason for one in found):
            raise IntakeError(
                f"{sum(bool(o.reason) for o in found)} of {len(found)} files were refused or are held; the reasons lie beside them"
            )
        return
    if not files:
        raise DefinitionError("name at least one file to bring in")
    how = cast(Recipe, read_definition(recipe, "recipe")) if recipe else None
    for file in files:
        _, done = bring_in_file(desk, file, source, how, held, matched)
        print(f"{done.file_name}: {done.records} records, {done.refused} refused, {done.replaced} replaced")


for _command in (ask, say, fetch, link, look, issue, editions, check, backup, restore):
    app.command()(_command)


def main() -> None:
    """The entry point: every error of ours is one line on standard error."""
    code = _done()
    if sys.argv[1:2] == ["run"]:  # exit at once, without waiting for readers or freeing memory
        with suppress(BrokenPipeError):
            sys.stdout.flush()
        os._exit(code)
    sys.exit(code)


def _done() -> int:
    """Run the command line; returns the exit code."""
    try:
        stopped = get_command(app).main(standalone_mode=False)
        if stopped == INTERRUPTED:
            return _failed("stopped", INTERRUPTED)
        return stopped if isinstance(stopped, int) else 0
    except KalendorError as error:
        return _failed(str(error), error.exit_code)
    except typer.Exit as stop:
        return stop.exit_code
    except (KeyboardInterrupt, typer.Abort):
        return _failed("stopped", INTERRUPTED)
    except BrokenPipeError:
        sys.stdout = open(os.devnull, "w")  # noqa: SIM115
        return 0
    except Exception as error:
        wording = getattr(error, "format_message", None)
        if os.environ.get("KALENDOR_DEBUG"):
            raise
        if wording is None:
            return _failed(f"an error of Kalendor's own, please report it: {type(error).__name__}: {error}", 1)
        return _failed(wording(), 2)


def _failed(message: str, code: int) -> int:
    print(f"kalendor: {' '.join(message.split())}", file=sys.stderr)
    return code


if __name__ == "__main__":
    main()
