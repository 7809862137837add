"""Work of several parts done on all cores: NumPy leaves the interpreter to others while it is at arrays."""

import os
from collections import deque
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from contextvars import copy_context
from typing import TypeVar

A = TypeVar("A")
B = TypeVar("B")
MANY = 200_000  # records, from which it pays
CORES = min(4, os.cpu_count() or 1)
AHEAD = 2 * CORES
PIECE = 1 << 18  # records worked on at once, so that what is made of them stays near the processor


def alone() -> None:
    """Work on one core from now on, as a process does beside others that have the other cores."""
    global CORES
    CORES = 1


def each(work: Callable[[A], B], parts: Sequence[A], records: int, at_once: int = CORES) -> list[B]:
    """What the work makes of each part, in their order; parts are worked on beside each other where records are many, no more than `at_once`.

    The first part's error is raised, once none is worked on any more.
    """
    return list(in_turn(work, parts, records, min(CORES, at_once), len(parts)))


def in_turn(
    work: Callable[[A], B], parts: Sequence[A], records: int, at_once: int = CORES, ahead: int = AHEAD
) -> Iterator[B]:
    """The same one by one as they are asked for; no more than `ahead` are made or being made before one is."""
    if records < MANY or min(CORES, at_once, len(parts)) < 2:
        yield from map(work, parts)
        return
    with ThreadPoolExecutor(at_once) as pool:
        begun: deque[Future[B]] = deque()
        try:
            for part in parts:
                begun.append(pool.submit(copy_context().run, work, part))
                if len(begun) >= ahead:
                    yield begun.popleft().result()
            while begun:
                yield begun.popleft().result()
        finally:
            for one in begun:
                one.cancel()


def pieces(count: int, step: int | None = None) -> list[slice]:
    """Stretches of so many records, a piece each."""
    step = step or PIECE
    return [slice(at, min(at + step, count)) for at in range(0, count, step)]
