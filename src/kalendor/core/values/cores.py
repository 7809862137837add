"""Runs independent parts of work on all cores; NumPy releases the interpreter's lock while it works on arrays."""

import os
from collections import deque
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from contextvars import copy_context
from typing import TypeVar

A = TypeVar("A")
B = TypeVar("B")
MANY = 200_000  # records from which threads pay off
CORES = min(4, os.cpu_count() or 1)
AHEAD = 2 * CORES
PIECE = 1 << 18  # records in a block, so that intermediate arrays stay in the processor's cache


def alone() -> None:
    """Use one core from now on, for processes that run beside others on the other cores."""
    global CORES
    CORES = 1


def each(work: Callable[[A], B], parts: Sequence[A], records: int, at_once: int = CORES) -> list[B]:
    """The results for each part, in order; computed in parallel if there are many records, at most `at_once` at a time.

    Raises the first part's error, once no part is running any more.
    """
    if _on_one(parts, records, at_once):
        return [work(part) for part in parts]
    return list(in_turn(work, parts, records, min(CORES, at_once), len(parts)))


def in_turn(
    work: Callable[[A], B], parts: Sequence[A], records: int, at_once: int = CORES, ahead: int = AHEAD
) -> Iterator[B]:
    """The same as an iterator; at most `ahead` results are computed before they are requested."""
    if _on_one(parts, records, at_once):
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


def _on_one(parts: Sequence[A], records: int, at_once: int) -> bool:
    """Whether the parts are computed on this thread: records are few, or nothing can run beside."""
    return records < MANY or min(CORES, at_once, len(parts)) < 2


def pieces(count: int, step: int | None = None) -> list[slice]:
    """Slices of `step` records."""
    step = step or PIECE
    return [slice(at, min(at + step, count)) for at in range(0, count, step)]
