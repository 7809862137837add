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
    function: Callable[[Any, Partition], tuple[int, bytes]],
    work: Any,
    wanted: Sequence[tuple[Key, Partition]],
    progress: Progress,
) -> None:
    """Keep what a function makes of the work and each partition whose key is not kept yet.

    Raises IntakeError, DefinitionError, and what `progress` raises.
    """
    missing = [(own, part) for own, part in wanted if not desk.parts.has(own)]
    if not missing:
        return
    for number, content in each(desk, function, work, [part for _, part in missing], progress):
        desk.parts.put(missing[number][0], content)
    desk.parts.shrink()


def each(
    desk: Desk,
    function: Callable[[Any, Partition], tuple[int, Any]],
    work: Any,
    parts: Sequence[Partition],
    progress: Progress,
) -> Iterator[tuple[int, Any]]:
    """What the function makes of the work and each partition, with the partition's place, in the order in which they are done."""
    numbered = [part.numbered(at) for at, part in enumerate(parts)]
    with _spreading(desk, parts, progress) as spreading:
        yield from spreading.each(function, work, numbered)


def _spreading(desk: Desk, parts: Sequence[Partition], progress: Progress) -> AbstractContextManager[Spreading]:
    if len(parts) == 1 or sum(part.weight for part in parts) <= HERE_BYTES:
        return _here(progress)
    return _in_turn(desk, progress)


@contextmanager
def _here(progress: Progress) -> Iterator[Spreading]:
    yield Spreading(Here, 1, progress)


@contextmanager
def _in_turn(desk: Desk, progress: Progress) -> Iterator[Spreading]:
    """The server's workers for partitions, which one reading has at a time."""
    while not _ONE_AT_A_TIME.acquire(timeout=0.2):
        progress(0, 0)  # it raises where nobody waits any more
    try:
        with desk.spread_over(progress) as spreading:
            yield spreading
    finally:
        _ONE_AT_A_TIME.release()
