"""Data files read while the rest of the program is still being loaded: whoever runs a report from the command line waits
for the longer of the two, not for both."""

import json
import sys
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from kalendor.intake.reading import read_files
from kalendor.intake.typed import Reading

HANDED_ON = 0.0002  # seconds after which a thread at Python's own work lets the reader have its turn


class Ahead:
    """Files whose reading has begun, as files are read that no recipe tells of."""

    def __init__(self, data: Sequence[Path]) -> None:
        self._before = sys.getswitchinterval()
        sys.setswitchinterval(HANDED_ON)
        pool = ThreadPoolExecutor(1)
        self._reading = pool.submit(read_files, data)
        pool.shutdown(wait=False)

    def reading(self) -> Reading:
        """The files as read.

        Raises IntakeError.
        """
        try:
            return self._reading.result()
        finally:
            sys.setswitchinterval(self._before)


def begun(report: Path, data: Sequence[Path], recipe: Path | None) -> Ahead | None:
    """The files, begun to be read; None where a recipe may tell how, its own or one of a bundle."""
    if recipe is not None:
        return None
    try:
        said = json.loads(report.read_bytes())
    except (OSError, ValueError, RecursionError):
        return None
    return Ahead(data) if isinstance(said, dict) and said.get("kind") == "report" else None
