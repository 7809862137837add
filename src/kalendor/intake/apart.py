"""Reads files in processes of their own, so that no file can affect the requesting process."""

import json
import os
import selectors
import shutil
import subprocess
import sys
import threading
import time
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any
from uuid import uuid4

from kalendor.definitions.recipe import Recipe
from kalendor.errors import DefinitionError, IntakeError, StoreError
from kalendor.intake.fetched import Query, fetch
from kalendor.intake.handing import take_over
from kalendor.intake.raw import ReadSoFar, unwatched
from kalendor.intake.reading import read_file
from kalendor.intake.typed import Reading

EVERY_SECONDS = 0.2
LEEWAY = 30.0  # seconds beyond a query's own limit, for writing its result
FRUGAL = {"ARROW_DEFAULT_MEMORY_POOL": "system", "MALLOC_ARENA_MAX": "2"}  # no memory pools


@dataclass(frozen=True)
class Bounds:
    """The limits for reading one file: bytes of memory, and seconds, a fixed number and more for each MiB of the file."""

    memory: int
    seconds: float = 180.0
    seconds_a_mib: float = 3.0


def usual_bounds() -> Bounds:
    """Half of the machine's memory, at most 16 GiB; KALENDOR_READER_MIB says otherwise."""
    told = os.environ.get("KALENDOR_READER_MIB")
    half = os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES") // 2
    return Bounds(int(told) << 20 if told and told.isdecimal() else min(half, 16 << 30))


@dataclass(frozen=True)
class Asked:
    """A file to read: its path and name, the recipe, whether the recipe must fit, or one of the `earlier` ones, and
    whether it is one of our exports in which risky texts are prefixed by an apostrophe."""

    path: Path
    name: str
    recipe: Recipe | None = None
    strict: bool = False
    guarded: bool = False
    earlier: tuple[Recipe, ...] = ()


class Here:
    """Reads files in this process: for those that the product itself made."""

    def read(self, asked: Asked, so_far: ReadSoFar = unwatched) -> Reading:
        """The reading of a file; IntakeError if it cannot be read."""
        return read_file(asked.path, asked.recipe, asked.name, asked.strict, so_far, asked.guarded, asked.earlier)

    def fetch(self, query: Query, to: Path, so_far: ReadSoFar = unwatched) -> int:
        """Write the result of a query as a file; returns its number of records."""
        return fetch(query, to, so_far)

    def close(self) -> None:
        """No-op."""


class Apart:
    """Reads each file in a process of its own, within limits. One process is started in advance; `scratch` is the
    folder through which readings are handed over."""

    def __init__(self, scratch: Path, bounds: Bounds | None = None) -> None:
        self.scratch, self.bounds = scratch, bounds or usual_bounds()
        self._ready: subprocess.Popen[bytes] | None = None
        self._lock = threading.Lock()

    def read(self, asked: Asked, so_far: ReadSoFar = unwatched) -> Reading:
        """The reading of a file.

        Raises IntakeError if it cannot be read within the limits; an exception of `so_far` ends the process.
        """
        folder = self.scratch / f".reading-{uuid4().hex}"
        try:
            folder.mkdir(parents=True)
            size = asked.path.stat().st_size / (1 << 20)
            seconds = self.bounds.seconds + size * self.bounds.seconds_a_mib
            self._answered({**_told(asked), "folder": str(folder)}, asked.name, seconds, so_far)
            return take_over(folder)
        except (OSError, ValueError, KeyError, TypeError) as error:
            raise StoreError(
                f"{asked.name}: what was read could not be handed over ({type(error).__name__})"
            ) from error
        finally:
            shutil.rmtree(folder, ignore_errors=True)

    def fetch(self, query: Query, to: Path, so_far: ReadSoFar = unwatched) -> int:
        """Write the result of a query as a file; returns its number of records.

        Raises IntakeError if it cannot be had within the limits; an exception of `so_far` ends the process.
        """
        told = {"fetch": asdict(query), "to": str(to)}
        return int(self._answered(told, query.name, query.seconds + LEEWAY, so_far)["count"])

    def _answered(self, told: dict[str, Any], name: str, seconds: float, so_far: ReadSoFar) -> dict[str, Any]:
        """The answer of a process; its failures are raised."""
        process = self._taken()
        try:
            assert process.stdin is not None
            process.stdin.write(json.dumps({**told, "memory": self.bounds.memory}).encode() + b"\n")
            process.stdin.close()
            answer = self._awaited(process, seconds, so_far)
        finally:
            _end(process)
        if not answer.get("read"):
            raise _said(answer, name, self.bounds)
        return answer

    def _taken(self) -> subprocess.Popen[bytes]:
        with self._lock:
            process, self._ready = self._ready, None
        if process is None or process.poll() is not None:
            process = _started()
        with self._lock:
            if self._ready is None:
                self._ready = _started()
        return process

    def _awaited(self, process: subprocess.Popen[bytes], seconds: float, so_far: ReadSoFar) -> dict[str, Any]:
        """The process's last line; empty if it ended without one."""
        end = time.monotonic() + seconds
        done, total, rest = 0, 0, b""
        assert process.stdout is not None
        out = process.stdout
        with selectors.DefaultSelector() as selector:
            selector.register(out, selectors.EVENT_READ)
            while time.monotonic() < end:
                so_far(done, total)
                if not selector.select(EVERY_SECONDS):
                    continue
                part = os.read(out.fileno(), 1 << 16)
                if not part:
                    return {"ended": process.wait(5)}
                *lines, rest = (rest + part).split(b"\n")
                for line in lines:
                    told: dict[str, Any] = json.loads(line)
                    if "done" not in told:
                        return told
                    done, total = told["done"], told["total"]
        return {"late": True}

    def close(self) -> None:
        """End the process started in advance."""
        with self._lock:
            process, self._ready = self._ready, None
        if process is not None:
            _end(process)


def _told(asked: Asked) -> dict[str, Any]:
    recipe = None if asked.recipe is None else asked.recipe.model_dump(mode="json", by_alias=True)
    return {
        "path": str(asked.path), "name": asked.name, "recipe": recipe, "strict": asked.strict, "guarded": asked.guarded,
        "earlier": [one.model_dump(mode="json", by_alias=True) for one in asked.earlier],
    }  # fmt: skip


def _started() -> subprocess.Popen[bytes]:
    command = [sys.executable, "-m", "kalendor.intake.reader_process"]
    pipe, null = subprocess.PIPE, subprocess.DEVNULL
    return subprocess.Popen(
        command, stdin=pipe, stdout=pipe, stderr=null, start_new_session=True, env={**os.environ, **FRUGAL}
    )


def _end(process: subprocess.Popen[bytes]) -> None:
    if process.poll() is None:
        process.kill()
    process.wait()
    for pipe in (process.stdin, process.stdout):
        if pipe is not None:
            pipe.close()


def _said(answer: dict[str, Any], name: str, bounds: Bounds) -> Exception:
    """Why a file was not read, in words."""
    if answer.get("late"):
        return IntakeError(f"{name}: reading it took too long and was ended; bring it in by parts")
    known = {"IntakeError": IntakeError, "DefinitionError": DefinitionError, "StoreError": StoreError}
    if answer.get("error") in known:
        return known[answer["error"]](answer["message"])
    if answer.get("error") == "OSError":
        return StoreError(f"{name}: it could not be read to its end ({answer['message']})")
    memory = f"{bounds.memory / (1 << 30):.3g} GiB of memory"
    return IntakeError(
        f"{name}: it cannot be read within {memory}, or breaks what reads it; bring it in by parts, or save it again as CSV"
    )
