"""Locks with a fixed order, which rules out deadlocks.

Outermost first: a source's columns, then the database's writer. Acquiring a lock while holding a later one raises an error
immediately. See docs/architecture.md.
"""

import threading
from enum import IntEnum
from types import TracebackType


class Rank(IntEnum):
    """The order in which locks are acquired."""

    SOURCE = 1  # the columns of one source are built or replaced
    WRITER = 2  # the database is written


class LockOrderError(RuntimeError):
    """A lock was requested while a later one is held."""


_HELD = threading.local()


class OrderedLock:
    """A reentrant lock with a rank; two different locks of one rank cannot be held together."""

    def __init__(self, rank: Rank) -> None:
        self.rank = rank
        self._lock = threading.RLock()

    def acquire(self, blocking: bool = True) -> bool:
        """Acquire the lock; False if it is not free and `blocking` is False.

        Raises LockOrderError if this thread holds a later lock, or another one of the same rank.
        """
        held = _held()
        if self not in held:
            wrong = next((other for other in held if other.rank >= self.rank), None)
            if wrong is not None:
                raise LockOrderError(f"{self.rank.name} was asked for while {wrong.rank.name} is held")
        if not self._lock.acquire(blocking):
            return False
        held.append(self)
        return True

    def release(self) -> None:
        """Release the lock."""
        held = _held()
        held.reverse()
        held.remove(self)
        held.reverse()
        self._lock.release()

    @property
    def held(self) -> bool:
        """Whether this thread holds it."""
        return self in _held()

    def __enter__(self) -> "OrderedLock":
        self.acquire()
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self.release()


def _held() -> list[OrderedLock]:
    found: list[OrderedLock] | None = getattr(_HELD, "locks", None)
    if found is None:
        found = _HELD.locks = []
    return found


def holding() -> bool:
    """Whether this thread holds any of these locks, so that it must not wait for another thread that may need one."""
    return bool(_held())


def writing() -> bool:
    """Whether this thread holds a database's write lock."""
    return any(lock.rank is Rank.WRITER for lock in _held())
