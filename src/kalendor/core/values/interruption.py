"""Cancellation checks within long loops over many different texts."""

from collections.abc import Callable, Iterable, Iterator
from contextvars import ContextVar
from typing import TypeVar

T = TypeVar("T")
EVERY = 4_096

CHECK: ContextVar[Callable[[], None]] = ContextVar("check", default=lambda: None)


def checked(items: Iterable[T]) -> Iterator[T]:
    """The items, one after another; the current check is called every few thousand, and may raise to cancel."""
    check = CHECK.get()
    for i, item in enumerate(items):
        if i % EVERY == 0:
            check()
        yield item
