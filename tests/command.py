"""Runs the command line in processes forked from one that has the program loaded, in a tenth of the time of starting
Python."""

import atexit
import io
import multiprocessing
import os
import subprocess
import sys
import tempfile
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass
from multiprocessing.process import BaseProcess
from pathlib import Path

FORKS = multiprocessing.get_context("forkserver")
FORKS.set_forkserver_preload([
    "uvicorn", "uvicorn.protocols.http.auto", "uvicorn.lifespan.on", "kalendor.api.app", "kalendor.cli", "kalendor.cli_scale", "kalendor.desk.ahead", "kalendor.desk.editions.inbox",
    "kalendor.intake.apart", "kalendor.output.writers", "tests.warm",
])  # fmt: skip


@dataclass(frozen=True)
class Running:
    """A running command, and the files of its standard output and standard error."""

    process: BaseProcess
    out: Path
    err: Path


@contextmanager
def started(folder: Path, *args: str | Path, sent: str = "", env: Mapping[str, str] | None = None) -> Iterator[Running]:
    """Context of a command run in a folder with `sent` on its standard input, terminated at the end; `env` replaces its
    environment."""
    with tempfile.TemporaryDirectory() as streams:
        (Path(streams) / "in").write_text(sent)
        out, err = Path(streams) / "out", Path(streams) / "err"
        out.touch()
        process = FORKS.Process(target=_run, args=([*map(str, args)], str(folder), dict(env or os.environ), streams))
        process.start()
        try:
            yield Running(process, out, err)
        finally:
            process.terminate()
            process.join(10)


def kalendor(
    folder: Path, *args: str | Path, sent: str = "", timeout: float = 120, env: Mapping[str, str] | None = None
) -> subprocess.CompletedProcess[str]:
    """The exit code and output of a command; arguments as for `started`. Raises AssertionError after `timeout`
    seconds."""
    with started(folder, *args, sent=sent, env=env) as command:
        command.process.join(timeout)
        assert command.process.exitcode is not None, f"{args} did not end"
        out, err = command.out.read_text(), command.err.read_text()
        return subprocess.CompletedProcess(args, command.process.exitcode, out, err)


def _run(args: list[str], folder: str, env: dict[str, str], streams: str) -> None:
    """Run a command in this process, and end it."""
    os.chdir(folder)
    os.environ.clear()
    os.environ.update(env)
    for number, (name, flags) in enumerate([("in", os.O_RDONLY), ("out", os.O_WRONLY | os.O_CREAT), ("err", os.O_WRONLY | os.O_CREAT)]):  # fmt: skip
        opened = os.open(Path(streams) / name, flags)
        os.dup2(opened, number)
        os.close(opened)
    sys.stdin, sys.stdout, sys.stderr = (
        io.TextIOWrapper(io.FileIO(number, mode, closefd=False), "utf-8", write_through=number == 2)
        for number, mode in enumerate(("r", "w", "w"))
    )
    sys.argv = ["kalendor", *args]
    from kalendor.cli import main

    code: object = 1
    try:
        main()
    except SystemExit as stop:
        code = stop.code
    atexit._run_exitfuncs()
    sys.stdout.flush()
    os._exit(code if isinstance(code, int) else 0 if code is None else 1)
