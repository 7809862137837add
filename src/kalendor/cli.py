"""The command line. Exit 0 done; 2 a definition or an argument is wrong; 3 a file cannot be read; 4 a sheet does not foot."""

import json
import os
import sys
from dataclasses import asdict
from datetime import date, datetime
from pathlib import Path
from typing import Annotated, NoReturn, Optional

import typer
from typer.main import get_command

from kalendor.errors import DefinitionError, KalendorError

app = typer.Typer(
    add_completion=False,
    no_args_is_help=True,
    pretty_exceptions_enable=False,
    rich_markup_mode=None,
    help="Kalendor turns transaction exports into summary reports.",
)


def clock_today() -> date:
    """Today, or the day that KALENDOR_TODAY names."""
    told = os.environ.get("KALENDOR_TODAY")
    return date.fromisoformat(told) if told else date.today()


def _day(text: str | None) -> date | None:
    if text is None:
        return None
    try:
        return date.fromisoformat(text)
    except ValueError:
        raise DefinitionError(f"--as-of {text!r} is not a date; write it as 2026-07-31") from None


@app.callback()
def _kalendor() -> None:
    """The commands stand beside each other."""


@app.command()
def run(
    report: Path,
    data: Annotated[list[Path], typer.Option("--data", help="A data file; several with the same columns are one source, in order.")],
    recipe: Annotated[Optional[Path], typer.Option(help="How the files are read.")] = None,
    with_: Annotated[Optional[list[Path]], typer.Option("--with", help="A grouping: tree, calendar or bucket set.")] = None,
    lookup: Annotated[Optional[list[str]], typer.Option(help="NAME=FILE, a source to look up from.")] = None,
    as_of: Annotated[Optional[str], typer.Option("--as-of", help="The as-of date, as 2026-07-31.")] = None,
    form: Annotated[str, typer.Option("--format", help="csv, json, xlsx, pdf, html or parquet.")] = "csv",
    shape: Annotated[Optional[str], typer.Option(help="sheet or flat.")] = None,
    out: Annotated[Optional[Path], typer.Option(help="The file to write; standard output where left out.")] = None,
    tie_out: Annotated[Optional[Path], typer.Option("--tie-out", help="Write the tie-out as JSON.")] = None,
) -> None:
    """Work a report out over files and write its sheet. Needs no workspace and no server."""
    from kalendor.desk.files import sheet_from_files
    from kalendor.output.writers import write

    sheet = sheet_from_files(report, data, recipe, with_ or [], _pairs(lookup or []), _day(as_of), clock_today())
    written = write(sheet, form, shape)
    if tie_out is not None:
        _put(tie_out, (json.dumps(asdict(sheet.tie_out), ensure_ascii=False, indent=1) + "\n").encode())
    if out is None:
        sys.stdout.buffer.write(written)
    else:
        _put(out, written)


def _pairs(options: list[str]) -> dict[str, Path]:
    pairs = {}
    for option in options:
        name, found, path = option.partition("=")
        if not found or not name or not path:
            raise DefinitionError(f"--lookup {option!r}: write it as NAME=FILE")
        pairs[name] = Path(path)
    return pairs


def _put(path: Path, content: bytes) -> None:
    """Write a file whole or not at all."""
    part = path.with_name(f".{path.name}.{datetime.now():%H%M%S%f}.part")
    try:
        part.write_bytes(content)
        part.replace(path)
    except OSError as error:
        part.unlink(missing_ok=True)
        raise DefinitionError(f"{path}: cannot be written ({error.strerror or error})") from None


def main() -> None:
    """The entry point: every error of ours is one line on standard error."""
    try:
        stopped = get_command(app).main(standalone_mode=False)
        sys.exit(stopped if isinstance(stopped, int) else 0)
    except KalendorError as error:
        _fail(str(error), error.exit_code)
    except typer.Exit as stop:
        sys.exit(stop.exit_code)
    except (KeyboardInterrupt, typer.Abort):
        _fail("stopped", 130)
    except BrokenPipeError:
        sys.exit(0)
    except Exception as error:
        wording = getattr(error, "format_message", None)
        if os.environ.get("KALENDOR_DEBUG"):
            raise
        if wording is None:
            _fail(f"an error of Kalendor's own, please report it: {type(error).__name__}: {error}", 1)
        _fail(wording(), 2)


def _fail(message: str, code: int) -> NoReturn:
    print(f"kalendor: {' '.join(message.split())}", file=sys.stderr)
    sys.exit(code)


if __name__ == "__main__":
    main()
