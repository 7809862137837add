"""Work of several parts done on all cores: NumPy leaves the interpreter to others while it is at arrays."""

import os
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from contextvars import copy_context
from typing import TypeVar

A = TypeVar("A")
B = TypeVar("B")
MANY = 200_000  # records, from which it pays
CORES = min(4, os.cpu_count() or 1)


def each(work: Callable[[A], B], parts: Sequence[A], records: int, at_once: int = CORES) -> list[B]:
    """What the work makes of each part, in their order; parts are worked on beside each other where records are many, no more than `at_once`.

    The first part's error is raised, once none is worked on any more.
    """
    if records < MANY or min(CORES, at_once) == 1 or len(parts) == 1:
        return [work(part) for part in parts]
    with ThreadPoolExecutor(min(CORES, at_once)) as pool:
        begun = [pool.submit(copy_context().run, work, part) for part in parts]
        try:
            return [one.result() for one in begun]
        finally:
            for one in begun:
                one.cancel()
