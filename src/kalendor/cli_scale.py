"""Computes a report partition by partition, for the command line."""

import os
import sys
import time
from collections.abc import Callable, Sequence
from contextlib import AbstractContextManager
from datetime import date
from pathlib import Path

from kalendor.cli_options import Scale
from kalendor.desk.files import Files, asked_for
from kalendor.desk.partitioned import from_partitions
from kalendor.desk.spreading import Spreading, cluster, processes, unwatched
from kalendor.errors import DefinitionError

BETWEEN = 0.5  # seconds between two lines of progress


def computed(
    report: Path,
    data: Sequence[Path],
    recipe: Path | None,
    with_: Sequence[Path],
    lookups: dict[str, Path],
    as_of: date | None,
    today: date,
    scale: Scale,
    worded: bool,
) -> tuple[Files, date]:
    """A report with its material, and its as-of date.

    Raises DefinitionError or IntakeError.
    """
    memory, asked = scale.bytes(), asked_for(report, recipe, with_)
    with _spreading(scale) as spreading:
        return from_partitions(asked, data, lookups, as_of, today, spreading, memory, worded)


def _spreading(scale: Scale) -> AbstractContextManager[Spreading]:
    progress = told_progress()
    if scale.scheduler is None:
        return processes(scale.workers or os.cpu_count() or 1, progress)
    if scale.workers is not None:
        raise DefinitionError("--workers goes without --scheduler, which has workers of its own")
    return cluster(scale.scheduler, progress)


def told_progress() -> Callable[[int, int], None]:
    """A progress display on a terminal; none if standard error is not one."""
    return Progress() if sys.stderr.isatty() else unwatched


class Progress:
    """Writes progress and the estimated remaining time to standard error."""

    def __init__(self, clock: Callable[[], float] = time.monotonic) -> None:
        self._clock, self._begun, self._told = clock, clock(), 0.0

    def __call__(self, done: int, total: int) -> None:
        now = self._clock()
        if not done:
            self._begun = now
        if done < total and now - self._told < BETWEEN:
            return
        self._told = now
        print(
            f"\r{self.said(done, total, now - self._begun):60}",
            end="" if done < total else "\n",
            file=sys.stderr,
            flush=True,
        )

    def said(self, done: int, total: int, seconds: float) -> str:
        """The progress line after that many seconds.

        >>> Progress().said(250, 1000, 10)
        '25 % read; about 30 s left'
        """
        share = done / total if total else 1.0
        left = f"; about {seconds / share - seconds:.0f} s left" if 0 < share < 1 else ""
        return f"{share:.0%} read{left}".replace("%", " %")
