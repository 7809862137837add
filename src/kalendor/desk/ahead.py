"""Reads data files while the rest of the program is being imported, so that the command line waits only for the longer
of the two."""

import json
import sys
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from kalendor.intake.reading import read_files
from kalendor.intake.typed import Reading

HANDED_ON = 0.0002  # seconds between thread switches (`sys.setswitchinterval`), so that the reader is not starved


class Ahead:
    """Files being read in the background, without a recipe."""

    def __init__(self, data: Sequence[Path]) -> None:
        self._before = sys.getswitchinterval()
        sys.setswitchinterval(HANDED_ON)
        pool = ThreadPoolExecutor(1)
        self._reading = pool.submit(read_files, data)
        pool.shutdown(wait=False)

    def reading(self) -> Reading:
        """Wait for the files' contents.

        Raises IntakeError.
        """
        try:
            return self._reading.result()
        finally:
            sys.setswitchinterval(self._before)


def begun(report: Path, data: Sequence[Path], recipe: Path | None) -> Ahead | None:
    """Start reading the files; None if a recipe may apply, given separately or in a bundle."""
    if recipe is not None:
        return None
    try:
        said = json.loads(report.read_bytes())
    except (OSError, ValueError, RecursionError):
        return None
    return Ahead(data) if isinstance(said, dict) and said.get("kind") == "report" and not _parquet(data) else None


def _parquet(data: Sequence[Path]) -> bool:
    """Whether the files are Parquet, of which only the columns that the report needs will be read."""
    try:
        with data[0].open("rb") as file:
            return file.read(4) == b"PAR1"
    except OSError:
        return False
