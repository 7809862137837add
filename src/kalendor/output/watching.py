"""Progress of an export, reported to whoever waits for it."""

from collections.abc import Callable
from contextvars import ContextVar

Watcher = Callable[[int, int], None]


def unwatched(done: int, total: int) -> None:
    """Progress callback that does nothing."""


WATCHER: ContextVar[Watcher] = ContextVar("watcher", default=unwatched)
EVERY = 1_000


def so_far(done: int, total: int) -> None:
    """Report that `done` of `total` lines are written; the callback may raise to cancel. Called for each line, it
    passes on one in a thousand."""
    if done % EVERY == 0:
        WATCHER.get()(done, total)
