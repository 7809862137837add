"""Cancellation of the work for a client that has disconnected, and checks for it within long loops."""

from collections.abc import Iterable, Iterator
from contextvars import ContextVar
from threading import Event
from typing import TypeVar

from kalendor.errors import LeftError

T = TypeVar("T")
EVERY = 4_096

LEFT: ContextVar[Event | None] = ContextVar("left", default=None)


def go_on() -> None:
    """Cancellation check: raises LeftError if the client of the current request has disconnected."""
    left = LEFT.get()
    if left is not None and left.is_set():
        raise LeftError("the request was left")


def checked(items: Iterable[T]) -> Iterator[T]:
    """The items, one after another, with a cancellation check every few thousand."""
    for i, item in enumerate(items):
        if i % EVERY == 0:
            go_on()
        yield item
