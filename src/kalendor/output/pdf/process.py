"""Runs the typesetter in subprocesses."""

import json
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path
from tempfile import TemporaryFile
from typing import IO, Any

from kalendor.errors import DefinitionError

LOOK = 0.2  # seconds between two cancellation checks


def set_from(data: dict[str, Any], module: str, arguments: list[str], look: Callable[[], None]) -> bytes:
    """The output of one of our modules for some data.

    Raises as `set_from_file`.
    """
    with (
        TemporaryFile() as asked
    ):  # a file, since writing to a pipe that is not read would block without cancellation checks
        asked.write(as_bytes(data))
        asked.seek(0)
        return _made(asked, module, arguments, data["title"], look)


def set_from_file(path: Path, module: str, arguments: list[str], title: str, look: Callable[[], None]) -> bytes:
    """The output of one of our modules for the data in a file; `look` is a cancellation check that is called meanwhile.

    Raises DefinitionError if it fails, OSError if the file cannot be read.
    """
    with path.open("rb") as asked:
        return _made(asked, module, arguments, title, look)


def as_bytes(data: dict[str, Any]) -> bytes:
    """Data in the form that the typesetter reads."""
    return json.dumps(data, ensure_ascii=False).encode("utf-8", "replace")


def _made(asked: IO[bytes], module: str, arguments: list[str], title: str, look: Callable[[], None]) -> bytes:
    command = [sys.executable, "-m", f"kalendor.output.pdf.{module}", *arguments]
    process = subprocess.Popen(command, stdin=asked, stdout=subprocess.PIPE, stderr=subprocess.PIPE)
    with process:
        try:
            while True:
                try:
                    made, fault = process.communicate(timeout=LOOK)
                    break
                except subprocess.TimeoutExpired:
                    look()
        except BaseException:
            process.kill()
            raise
    if process.returncode:
        said = fault.decode("utf-8", "replace").strip()[-300:] or f"the typesetter ended with {process.returncode}"
        raise DefinitionError(f"the pages of {title!r} cannot be set: {said}")
    return made
