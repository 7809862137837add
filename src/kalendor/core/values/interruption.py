"""Long work over many different texts looks now and then whether anybody still waits for it."""

from collections.abc import Callable, Iterable, Iterator
from contextvars import ContextVar
from typing import TypeVar

T = TypeVar("T")
EVERY = 4_096

CHECK: ContextVar[Callable[[], None]] = ContextVar("check", default=lambda: None)


def checked(items: Iterable[T]) -> Iterator[T]:
    """The items, one after another; between some thousands the current check is called, which may raise to end the work."""
    check = CHECK.get()
    for i, item in enumerate(items):
        if i % EVERY == 0:
            check()
        yield item
