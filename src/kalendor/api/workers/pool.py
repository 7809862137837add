"""The worker processes of a server: chooses one for each request, and replaces those that ended."""

import json
import logging
import os
import shutil
import socket
import subprocess
import sys
import tempfile
import threading
import time
from collections import OrderedDict
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path
from typing import Protocol

import httpx

from kalendor.desk.desk import MEMORY_BYTES
from kalendor.intake.apart import FRUGAL

MOST_SUBJECTS = 10_000
AHEAD = 2  # a subject's worker may have this many more requests than the idlest before that one takes over
START_SECONDS = 60.0
POLL_SECONDS = 0.02
LEAST_MEMORY = 2 << 30

log = logging.getLogger(__name__)


@dataclass(frozen=True)
class Bounds:
    """The limits of each worker: bytes of its own memory, and bytes of its caches."""

    memory: int
    remembers: int


def usual_bounds(count: int) -> Bounds:
    """Half of the machine's memory shared by all workers, at least 2 GiB each; their caches have at most 512 MiB each,
    together at most a quarter of the machine's memory."""
    whole = os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES")
    return Bounds(max(LEAST_MEMORY, whole // 2 // count), min(MEMORY_BYTES // 2, whole // 4 // count))


@dataclass(eq=False)
class Worker:
    """The connection to a worker, and its current requests, oldest first."""

    transport: httpx.AsyncBaseTransport
    requests: list[object] = field(default_factory=list)


@dataclass(eq=False, kw_only=True)
class _Process(Worker):
    """A worker process; `ready` once it answers at `path`."""

    process: subprocess.Popen[bytes]
    path: Path
    ready: bool = False

    @property
    def alive(self) -> bool:
        """Whether the process has not ended."""
        return self.process.poll() is None


class Pool(Protocol):
    """Anything that requests may be handed to."""

    def chosen(self, subject: str) -> Worker | None:
        """The worker for a request about a subject; None if none is available."""
        ...

    def ended(self, worker: Worker) -> None:
        """Note that a worker ended."""
        ...


class Workers:
    """Worker processes over a workspace. To be used from the event loop, except `start` and `close`.

    Requests about one subject go to one worker, where what they depend on is cached, unless it has more than `AHEAD`
    more requests than another.
    """

    def __init__(self, workspace: Path, count: int, bounds: Bounds | None = None) -> None:
        self.workspace, self.count = workspace.resolve(), count
        self.bounds = bounds or usual_bounds(max(1, count))
        self._folder = Path(tempfile.mkdtemp(prefix="kalendor-"))  # accessible to this user only
        self._workers: list[_Process] = []
        self._usual: OrderedDict[str, _Process] = OrderedDict()
        self._lock = threading.Lock()
        self._started = 0
        self._closed = False

    def start(self) -> None:
        """Start the processes; until they are ready, the server's own process answers."""
        for _ in range(self.count):
            threading.Thread(target=self._add, daemon=True).start()

    def _add(self) -> None:
        """Start one more process and wait until it answers."""
        with self._lock:
            if self._closed:
                return
            self._started += 1
            worker = self._spawned(self._folder / f"{self._started}.sock")
            self._workers.append(worker)
        end = time.monotonic() + START_SECONDS
        while time.monotonic() < end and worker.alive:
            if _answers(worker.path):
                worker.ready = True
                return
            time.sleep(POLL_SECONDS)
        if not self._closed:
            log.warning("a worker process did not start; the server works with those that did")
        self._drop(worker)

    def _spawned(self, path: Path) -> _Process:
        process = subprocess.Popen(
            [sys.executable, "-m", "kalendor.api.workers.process"],
            stdin=subprocess.PIPE, start_new_session=True, env={**os.environ, **FRUGAL},
        )  # fmt: skip
        told = {"workspace": str(self.workspace), "socket": str(path), **vars(self.bounds)}
        assert process.stdin is not None
        with suppress(BrokenPipeError):
            process.stdin.write(json.dumps(told).encode() + b"\n")
            process.stdin.flush()
        transport = httpx.AsyncHTTPTransport(uds=str(path), limits=httpx.Limits(max_connections=None))
        return _Process(transport, process=process, path=path)

    def chosen(self, subject: str) -> Worker | None:
        """The worker for a request; None if none is available."""
        for worker in [one for one in self._workers if one.ready and not one.alive]:
            self.ended(worker)
        ready = [worker for worker in self._workers if worker.ready]
        if not ready:
            return None
        idlest = min(ready, key=lambda worker: len(worker.requests))
        usual = self._usual.get(subject)
        if usual not in ready or len(usual.requests) > len(idlest.requests) + AHEAD:
            usual = idlest
        if subject:
            self._usual[subject] = usual
            self._usual.move_to_end(subject)
            if len(self._usual) > MOST_SUBJECTS:
                self._usual.popitem(last=False)
        return usual

    def ended(self, worker: Worker) -> None:
        """Record that a worker ended, and start another in its place."""
        if self._drop(worker) and not self._closed:
            log.warning("a worker process ended; another is started")
            threading.Thread(target=self._add, daemon=True).start()

    def _drop(self, worker: Worker) -> bool:
        """Whether the worker was in use until now."""
        with self._lock:
            found = next((one for one in self._workers if one is worker), None)
            if found is None:
                return False
            self._workers.remove(found)
        found.ready = False
        _end(found.process)
        return True

    def close(self) -> None:
        """End all processes."""
        self._closed = True
        with self._lock:
            ended, self._workers = self._workers, []
        for worker in ended:
            _end(worker.process)
        shutil.rmtree(self._folder, ignore_errors=True)


def usual_count() -> int:
    """As many workers as the process may use cores; none if that is one."""
    cores = len(os.sched_getaffinity(0)) if hasattr(os, "sched_getaffinity") else os.cpu_count() or 1
    return cores if cores > 1 else 0


def _answers(path: Path) -> bool:
    with socket.socket(socket.AF_UNIX) as probe:
        try:
            probe.connect(str(path))
        except OSError:
            return False
    return True


def _end(process: subprocess.Popen[bytes]) -> None:
    if process.poll() is None:
        process.kill()
    process.wait()
    if process.stdin is not None:
        with suppress(OSError):
            process.stdin.close()
