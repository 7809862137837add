"""Background jobs in threads, with progress and cancellation that leaves nothing behind."""

import threading
from collections.abc import Callable
from contextvars import copy_context
from dataclasses import dataclass, field
from typing import Any
from uuid import uuid4

from kalendor.errors import KalendorError
from kalendor.log import log_unexpected

KEPT_JOBS = 50


class StoppedError(KalendorError):
    """The job was cancelled; nothing of it is kept."""


@dataclass
class Job:
    """A job: `done` of `total` records (or bytes); `state` is working, done, stopped or failed. `about` is the key of
    its subject, if requests for one subject share a job."""

    total: int
    id: str = field(default_factory=lambda: uuid4().hex)
    done: int = 0
    state: str = "working"
    result: Any = None
    message: str = ""
    about: str = ""
    stop: threading.Event = field(default_factory=threading.Event)
    finished: threading.Event = field(default_factory=threading.Event)

    def read_so_far(self, done: int, total: int) -> None:
        """Report progress and the total, for totals that become known on the way (0: unknown yet).

        Raises StoppedError if the job was cancelled.
        """
        self.total = total
        self.progress(done)

    def progress(self, done: int) -> None:
        """Report progress.

        Raises StoppedError if the job was cancelled.
        """
        self.done = done
        if self.stop.is_set():
            raise StoppedError("stopped; nothing was kept")


class Jobs:
    """The jobs of a server; only the latest are kept."""

    def __init__(self) -> None:
        self._jobs: dict[str, Job] = {}
        self._starting = threading.Lock()

    def start(self, total: int, work: Callable[[Job], Any], close: Callable[[], None]) -> Job:
        """Start a job in a thread; `close` is called in that thread when it ends."""
        job = Job(total)
        self._jobs[job.id] = job
        for old in list(self._jobs)[:-KEPT_JOBS]:
            del self._jobs[old]

        def run() -> None:
            try:
                job.result = work(job)
                job.state, job.done = "done", job.total
            except StoppedError as stopped:
                job.state, job.message = "stopped", str(stopped)
            except KalendorError as error:
                job.state, job.message = "failed", str(error)
            except Exception as error:
                id = log_unexpected(error, "a job")
                job.state, job.message = "failed", f"an error of Kalendor's own; it is in the log under {id}"
            finally:
                close()
                job.finished.set()

        threading.Thread(target=copy_context().run, args=(run,), daemon=True).start()
        return job

    def once(self, about: str, work: Callable[[Job], Any], close: Callable[[], None]) -> Job:
        """The running job on a subject, or a new one; its total becomes known on the way."""
        with self._starting:
            at_work = (job for job in self._jobs.values() if job.about == about and job.state == "working")
            found = next((job for job in at_work if not job.stop.is_set()), None)
            if found is None:
                found = self.start(0, work, close)
                found.about = about
            return found

    def one(self, id: str) -> Job:
        """A job by its id.

        Raises KalendorError if it is no longer known.
        """
        if id not in self._jobs:
            raise KalendorError("this work is no longer remembered")
        return self._jobs[id]
