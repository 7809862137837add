"""Workers for tests: the worker application over a read-only desk, in this process."""

import itertools
from collections.abc import Callable
from datetime import datetime
from pathlib import Path

import httpx

from kalendor.api.app import worker_app
from kalendor.api.workers.pool import Worker
from kalendor.desk.desk import Desk


class WorkersHere:
    """Two workers in this process that take requests in turn; they share no cache."""

    def __init__(self, folder: Path, now: Callable[[], datetime] | None = None) -> None:
        self.desks = [Desk(folder, now, reads_only=True) for _ in range(2)]
        self.workers = [Worker(httpx.ASGITransport(worker_app(desk))) for desk in self.desks]
        self.taken: list[str] = []
        self._turn = itertools.cycle(self.workers)

    def chosen(self, subject: str) -> Worker:
        """The next worker, whatever the request's subject."""
        self.taken.append(subject)
        return next(self._turn)

    def ended(self, worker: Worker) -> None:
        """No-op: these workers do not end."""
        raise AssertionError
