"""Runs work on many partitions on an executor: a few submitted at a time, failures retried elsewhere, progress
reported."""

import gc
import multiprocessing
import os
import resource
import signal
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import FIRST_COMPLETED, BrokenExecutor, Executor, Future, ProcessPoolExecutor, wait
from contextlib import AbstractContextManager, contextmanager
from dataclasses import dataclass, replace
from threading import Thread, current_thread, main_thread
from typing import Any, TypeVar

from kalendor.core.values.cores import alone
from kalendor.errors import DefinitionError, IntakeError, KalendorError
from kalendor.intake.apart import usual_bounds
from kalendor.intake.partitions import Partition

R = TypeVar("R")
TRIES = 3
GRACE = 3  # seconds that running partitions get to finish when the work is stopped
PATIENCE = 10  # timeout for connecting to a scheduler, in seconds
START = "spawn"  # how processes are started; a fork could copy the locks of other threads
AHEAD = 2  # partitions submitted for each worker
Progress = Callable[[int, int], None]


def unwatched(done: int, total: int) -> None:
    """Progress callback that does nothing."""


@dataclass
class Spreading:
    """An executor and its number of workers; `renew` makes another if it breaks. `progress` receives the bytes done and
    their total."""

    renew: Callable[[], Executor]
    workers: int
    progress: Progress = unwatched
    executor: Executor | None = None

    def each(self, function: Callable[[Any, Partition], R], work: Any, parts: Sequence[Partition]) -> Iterator[R]:
        """The function applied to the work and each partition, in order of completion.

        A partition whose worker fails is retried a few times, and then named in an IntakeError; errors of definitions
        and files are raised at once. If a worker's death breaks the executor, all submitted partitions are suspected,
        and retried one at a time.
        """
        queue = _Queue(parts)
        running: dict[Future[R], _Try] = {}
        total, done = sum(part.weight for part in parts), 0
        self.progress(0, total)
        try:
            while queue or running:
                for one in queue.next(len(running), self.workers * AHEAD):
                    running[self._submit(function, work, one.part)] = one
                finished, _ = wait(running, return_when=FIRST_COMPLETED)
                for future in finished:
                    one = running.pop(future)
                    error = future.exception()
                    if error is None:
                        done += one.part.weight
                        self.progress(done, total)
                        yield future.result()
                    else:
                        queue.again(one, error)
        finally:
            for future in running:
                future.cancel()

    def _submit(self, function: Callable[[Any, Partition], R], work: Any, part: Partition) -> Future[R]:
        if self.executor is None:
            self.executor = self.renew()
        try:
            return self.executor.submit(function, work, part)
        except (BrokenExecutor, RuntimeError):
            self.executor = self.renew()
            return self.executor.submit(function, work, part)


@dataclass(frozen=True)
class _Try:
    """A partition, its number of attempts, and whether it runs alone, so that the cause of a worker's death is known."""

    part: Partition
    left: int = TRIES
    alone: bool = False


class _Queue:
    """Partitions that have not been submitted yet."""

    def __init__(self, parts: Sequence[Partition]) -> None:
        self._waiting = [_Try(part) for part in reversed(parts)]
        self._suspected: list[_Try] = []

    def __bool__(self) -> bool:
        return bool(self._waiting or self._suspected)

    def next(self, running: int, most: int) -> list[_Try]:
        """The partitions to submit now, with `running` at work; suspected ones run alone."""
        if self._suspected:
            return [] if running else [self._suspected.pop()]
        return [self._waiting.pop() for _ in range(min(most - running, len(self._waiting)))]

    def again(self, one: _Try, error: BaseException) -> None:
        """Retry a partition that failed; raises what ends the work."""
        if isinstance(error, KalendorError) or not isinstance(error, Exception):
            raise error
        if isinstance(error, BrokenExecutor) and not one.alone:
            self._suspected.append(replace(one, alone=True))
            return
        if one.left == 1:
            said = str(error).splitlines()[0] if str(error) else type(error).__name__
            raise IntakeError(
                f"{one.part.said}: its worker failed {TRIES} times ({said[:200]}); give workers more memory, or less data each"
            ) from error
        (self._suspected if one.alone else self._waiting).append(replace(one, left=one.left - 1))


@contextmanager
def processes(workers: int, progress: Progress = unwatched, memory: int | None = None) -> Iterator[Spreading]:
    """A pool of processes on this machine, each limited to `memory` bytes."""
    made: list[ProcessPoolExecutor] = []

    def renew() -> ProcessPoolExecutor:
        pool = ProcessPoolExecutor(
            workers, multiprocessing.get_context(START), initializer=_on_one_core, initargs=(memory,)
        )
        made.append(pool)
        with _interrupted_afterwards():
            pool.submit(os.getpid)  # starts all processes
        return pool

    try:
        yield Spreading(renew, workers, progress)
    finally:
        for pool in made:
            _ended(pool)
        made.clear()
        gc.collect()  # the pools' shared semaphores


@contextmanager
def _interrupted_afterwards() -> Iterator[None]:
    """Context at whose end an interrupt (Ctrl C) is raised that came within it; processes started within it ignore
    interrupts. In threads other than the main one, which Python never interrupts, only the latter applies."""
    came: list[int] = []
    on_main = current_thread() is main_thread()
    handler = signal.signal(signal.SIGINT, lambda number, _: came.append(number)) if on_main else None
    before = signal.pthread_sigmask(signal.SIG_BLOCK, {signal.SIGINT})  # inherited by processes
    try:
        yield
    finally:
        signal.pthread_sigmask(signal.SIG_SETMASK, before)
        if on_main:
            signal.signal(signal.SIGINT, handler)
    if came:
        signal.raise_signal(signal.SIGINT)


def by_cores(progress: Progress = unwatched) -> AbstractContextManager[Spreading]:
    """One process for each core, sharing the memory limit of file readers."""
    count = os.cpu_count() or 1
    return processes(count, progress, usual_bounds().memory // count)


def _ended(pool: ProcessPoolExecutor) -> None:
    """Shuts a pool down: queued work is cancelled, and running work has some seconds to finish."""
    held = list((pool._processes or {}).values())
    ending = Thread(target=pool.shutdown, kwargs={"wait": True, "cancel_futures": True}, daemon=True)
    ending.start()
    ending.join(GRACE)
    if ending.is_alive():
        for process in held:
            process.terminate()
        for process in held:
            process.join(1)


def _on_one_core(memory: int | None) -> None:
    """Initialises a worker: one core, a memory limit, and interrupts ignored, since the command ends its workers."""
    alone()
    if memory is not None:
        resource.setrlimit(resource.RLIMIT_DATA, (memory, memory))
    signal.signal(signal.SIGINT, signal.SIG_IGN)


@contextmanager
def cluster(address: str, progress: Progress = unwatched) -> Iterator[Spreading]:
    """The workers of a running Dask scheduler.

    Raises DefinitionError if it cannot be reached, or the package is not installed.
    """
    try:
        import distributed
    except ImportError:
        raise DefinitionError("--scheduler needs the extra packages of kalendor[cluster]; install them first") from None
    try:
        connect: Any = distributed.Client  # the package is untyped
        client = connect(address, timeout=PATIENCE, set_as_default=False)
    except (OSError, ValueError) as error:
        raise DefinitionError(
            f"--scheduler {address!r}: there is no scheduler that answers ({str(error)[:200]})"
        ) from None
    with client:
        count = max(1, len(client.scheduler_info(n_workers=-1)["workers"]))
        yield Spreading(lambda: client.get_executor(pure=False, retries=0), count, progress)
