"""Options that several commands share, and how results are written."""

import os
import re
import sys
from dataclasses import dataclass
from datetime import date
from pathlib import Path
from typing import Annotated, Optional

import typer

from kalendor.desk.data_files import data_files
from kalendor.desk.putting import put
from kalendor.errors import DefinitionError

USUAL_MEMORY = 1 << 30
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
RunWorkers = Annotated[
    Optional[int],
    typer.Option(
        min=1, max=512, help="Compute partition by partition in so many processes; default with --memory: one per core."
    ),
]
Memory = Annotated[
    Optional[str],
    typer.Option(help="Compute partition by partition, in about so much memory per worker, as 500MB or 2GB."),
]
Scheduler = Annotated[
    Optional[str], typer.Option(help="Compute on the workers of this running Dask scheduler, as tcp://host:8786.")
]
AsOf = Annotated[Optional[str], typer.Option("--as-of", help="The as-of date, as 2026-07-31.")]


@dataclass(frozen=True)
class Scale:
    """Where partitions are computed: how many processes, or which scheduler, and the memory of each, as given."""

    workers: int | None
    memory: str | None
    scheduler: str | None

    @property
    def asked(self) -> bool:
        """Whether to compute partition by partition."""
        return self != Scale(None, None, None)

    def bytes(self) -> int:
        """The memory of a worker in bytes.

        Raises DefinitionError.
        """
        if self.memory is None:
            return USUAL_MEMORY
        found = re.fullmatch(r"([0-9]+(?:\.[0-9]+)?) ?(MB|GB)", self.memory.strip(), re.IGNORECASE)
        if found is None:
            raise DefinitionError(f"--memory {self.memory!r}: write it as 500MB or 2GB")
        return int(float(found[1]) * (1 << 20 if found[2].upper() == "MB" else 1 << 30))


def clock_today() -> date:
    """Today, or the day in KALENDOR_TODAY."""
    told = os.environ.get("KALENDOR_TODAY")
    return date.fromisoformat(told) if told else date.today()


def day(text: str | None) -> date | None:
    """The day given by an option."""
    if text is None:
        return None
    try:
        return date.fromisoformat(text)
    except ValueError:
        raise DefinitionError(f"--as-of {text!r} is not a date; write it as 2026-07-31") from None


def pairs(options: list[str]) -> dict[str, Path]:
    """The pairs given by options of the form NAME=FILE."""
    pairs = {}
    for option in options:
        name, found, path = option.partition("=")
        if not found or not name or not path:
            raise DefinitionError(f"--lookup {option!r}: write it as NAME=FILE")
        pairs[name] = Path(path)
    return pairs


def hand_over(content: bytes, out: Path | None) -> None:
    """Write to a file, or to standard output by default."""
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
