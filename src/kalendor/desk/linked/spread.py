"""Values of partitions, made by workers where there is much to read, and kept."""

from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Executor, Future
from contextlib import AbstractContextManager, contextmanager
from threading import Lock
from typing import Any, TypeVar

from kalendor.core.values.keys import Key
from kalendor.desk.desk import Desk
from kalendor.desk.spreading import Progress, Spreading
from kalendor.intake.partitions import Partition

R = TypeVar("R")
HERE_BYTES = 64 << 20  # of partitions, up to which no process is started for them
_ONE_AT_A_TIME = Lock()


class Here(Executor):
    """An executor that does its work at once, where it is asked."""

    def submit(self, fn: Callable[..., R], /, *args: Any, **kwargs: Any) -> "Future[R]":
        """What the function gives, or raises, as a future that is done."""
        future: Future[R] = Future()
        try:
            future.set_result(fn(*args, **kwargs))
        except Exception as error:
            future.set_exception(error)
        return future


def keep_all(
    desk: Desk,
    spreading: Spreading,
    function: Callable[[Any, Partition], tuple[int, bytes]],
    work: Any,
    wanted: Sequence[tuple[Key, Partition]],
) -> None:
    """Keep what a function makes of the work and each partition whose key is not kept yet.

    Raises IntakeError, DefinitionError, and what the spreading's `progress` raises.
    """
    missing = [(own, part) for own, part in wanted if not desk.parts.has(own)]
    for number, content in each(spreading, function, work, [part for _, part in missing]):
        desk.parts.put(missing[number][0], content)
    if missing:
        desk.parts.shrink()


def each(
    spreading: Spreading,
    function: Callable[[Any, Partition], tuple[int, R]],
    work: Any,
    parts: Sequence[Partition],
) -> Iterator[tuple[int, R]]:
    """What the function makes of the work and each partition, with the partition's place, in the order in which they are done."""
    yield from spreading.each(function, work, [part.numbered(at) for at, part in enumerate(parts)])


def reading(desk: Desk, parts: Sequence[Partition], progress: Progress) -> AbstractContextManager[Spreading]:
    """What reads partitions that were read before: this process where they are small, the server's workers where they are not."""
    small = len(parts) == 1 or sum(part.weight for part in parts) <= HERE_BYTES
    return _here(progress) if small else reading_apart(desk, progress)


@contextmanager
def _here(progress: Progress) -> Iterator[Spreading]:
    yield Spreading(Here, 1, progress)


@contextmanager
def reading_apart(desk: Desk, progress: Progress) -> Iterator[Spreading]:
    """The server's workers, which one reading has at a time: for much, and for files that nobody has read yet and that may be made to end
    whoever reads them."""
    lock = _ONE_AT_A_TIME
    while not lock.acquire(timeout=0.2):
        progress(0, 0)  # it raises where nobody waits any more
    try:
        with desk.spread_over(progress) as spreading:
            yield spreading
    finally:
        lock.release()
