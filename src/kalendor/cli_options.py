"""Options that several commands share, and how results are written."""

import os
import sys
from datetime import date
from pathlib import Path
from typing import Annotated, Optional

import typer

from kalendor.desk.data_files import data_files
from kalendor.desk.putting import put
from kalendor.errors import DefinitionError

DataFiles = Annotated[
    list[Path],
    typer.Option(
        "--data",
        callback=data_files,
        help="A data file, a folder of them or a quoted pattern such as 'sales/**/*.parquet'; several are one source, in order.",
    ),
]
RecipeFile = Annotated[Optional[Path], typer.Option(help="How the files are read.")]
Groupings = Annotated[Optional[list[Path]], typer.Option("--with", help="A grouping: tree, calendar or bucket set.")]
Lookups = Annotated[Optional[list[str]], typer.Option(help="NAME=FILE, a source to look up from.")]
WorkerCount = Annotated[
    Optional[int],
    typer.Option(min=0, max=64, help="Worker processes that compute sheets; default: as many as cores, 0: none."),
]
AsOf = Annotated[Optional[str], typer.Option("--as-of", help="The as-of date, as 2026-07-31.")]


def clock_today() -> date:
    """Today, or the day that KALENDOR_TODAY names."""
    told = os.environ.get("KALENDOR_TODAY")
    return date.fromisoformat(told) if told else date.today()


def day(text: str | None) -> date | None:
    """A day that an option names."""
    if text is None:
        return None
    try:
        return date.fromisoformat(text)
    except ValueError:
        raise DefinitionError(f"--as-of {text!r} is not a date; write it as 2026-07-31") from None


def pairs(options: list[str]) -> dict[str, Path]:
    """What options of the form NAME=FILE name."""
    pairs = {}
    for option in options:
        name, found, path = option.partition("=")
        if not found or not name or not path:
            raise DefinitionError(f"--lookup {option!r}: write it as NAME=FILE")
        pairs[name] = Path(path)
    return pairs


def hand_over(content: bytes, out: Path | None) -> None:
    """Write to a file, or to standard output where none is named."""
    if out is None:
        try:
            sys.stdout.buffer.write(content)
            sys.stdout.flush()
        except BrokenPipeError:
            raise
        except OSError as error:
            sys.stdout = open(os.devnull, "w")  # noqa: SIM115
            raise DefinitionError(f"standard output cannot be written to ({error.strerror or error})") from None
    else:
        put(out, content)
