"""A file's bytes as an array, memory-mapped whatever its size."""

import gzip
import tempfile
import zlib
from collections.abc import Iterable, Iterator
from pathlib import Path

import numpy as np
import pyarrow as pa
from numpy.typing import NDArray

from kalendor.errors import IntakeError

Bytes = NDArray[np.uint8]
BLOCK = 1 << 22
SMALL = 1 << 26
MOST_UNPACKED = 64 << 30
PACKED = b"\x1f\x8b"


def content_of(data: bytes) -> Bytes:
    """Bytes in memory as an array."""
    return np.frombuffer(data, dtype=np.uint8)


def mapped(path: Path) -> Bytes:
    """A file's bytes, memory-mapped.

    Raises IntakeError if it cannot be read.
    """
    try:
        return np.memmap(path, dtype=np.uint8, mode="r") if path.stat().st_size else content_of(b"")
    except OSError as error:
        raise IntakeError(f"{path}: cannot be read ({error.strerror or error})") from None


def blocks(content: Bytes) -> Iterator[tuple[int, Bytes]]:
    """The content block by block, each with its offset."""
    plain = content.view(np.ndarray)
    for at in range(0, len(plain), BLOCK):
        yield at, plain[at : at + BLOCK]


def gathered(parts: Iterable[bytes], scratch: Path | None) -> Bytes:
    """Bytes that come in parts as one array; in an unnamed file in the folder `scratch` if they are many."""
    held: list[bytes] = []
    parts, size = iter(parts), 0
    for part in parts:
        held.append(part)
        size += len(part)
        if size > SMALL:
            break
    else:
        return content_of(b"".join(held))
    with tempfile.TemporaryFile(dir=scratch) as file:
        for part in held:
            file.write(part)
        held.clear()
        for part in parts:
            file.write(part)
        file.flush()
        return np.memmap(file, dtype=np.uint8, mode="r")


def unpacked(content: Bytes, name: str, scratch: Path | None = None) -> Bytes:
    """The content itself, or the decompressed content of a .gz.

    Raises IntakeError if it cannot be decompressed.
    """
    if content[:2].tobytes() != PACKED:
        return content
    try:
        return gathered(_unpacking(content, name), scratch)
    except (OSError, EOFError, zlib.error) as error:
        if of_the_disk(error):
            raise
        raise IntakeError(f"{name}: a .gz that cannot be unpacked; it may have been cut off, send it again") from None


def of_the_disk(error: Exception) -> bool:
    """Whether an error is the machine's, such as a full disk, and not a fault of the file: only the former have an
    errno."""
    return isinstance(error, OSError) and error.errno is not None


def _unpacking(content: Bytes, name: str) -> Iterator[bytes]:
    size = 0
    with gzip.GzipFile(fileobj=pa.BufferReader(pa.py_buffer(content))) as file:
        while part := file.read(BLOCK):
            size += len(part)
            if size > MOST_UNPACKED:
                raise IntakeError(f"{name}: unpacks to more than 64 GiB; bring it in by parts")
            yield part
