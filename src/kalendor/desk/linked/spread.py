"""Values of partitions, computed by workers if there is much to read, and cached."""

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
HERE_BYTES = 64 << 20  # bytes of partitions up to which no process is started
_ONE_AT_A_TIME = Lock()


class Here(Executor):
    """An executor that runs work synchronously in the calling thread."""

    def submit(self, fn: Callable[..., R], /, *args: Any, **kwargs: Any) -> "Future[R]":
        """A completed future with the function's result or exception."""
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
    """Cache the function's value for each partition whose key is not cached yet.

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
    """The function applied to the work and each partition, with the partition's position, in order of completion."""
    yield from spreading.each(function, work, [part.numbered(at) for at, part in enumerate(parts)])


def reading(desk: Desk, parts: Sequence[Partition], progress: Progress) -> AbstractContextManager[Spreading]:
    """The executor for partitions that were read before: this process for small ones, the server's workers for others."""
    small = len(parts) == 1 or sum(part.weight for part in parts) <= HERE_BYTES
    return _here(progress) if small else reading_apart(desk, progress)


@contextmanager
def _here(progress: Progress) -> Iterator[Spreading]:
    yield Spreading(Here, 1, progress)


@contextmanager
def reading_apart(desk: Desk, progress: Progress) -> Iterator[Spreading]:
    """The server's workers, used by one reading at a time: for large ones, and for new files, which may be crafted to
    crash their reader."""
    lock = _ONE_AT_A_TIME
    while not lock.acquire(timeout=0.2):
        progress(0, 0)  # raises if the request was cancelled
    try:
        with desk.spread_over(progress) as spreading:
            yield spreading
    finally:
        lock.release()
