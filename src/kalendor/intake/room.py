"""Allocates a reading's large arrays: from memory for the first of them, from unnamed files for the rest.

A process that reads files of any size sets the folder for them; elsewhere every array is in memory. The system keeps an
array in a file in memory as long as it has some to spare.
"""

import os
import tempfile
import threading
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import DTypeLike, NDArray

from kalendor.core.values.cores import each, pieces

IN_MEMORY = 128 << 20  # bytes
SEGMENT = 32 << 20  # bytes of a file that small arrays share
LINE = 64  # bytes, to which arrays are aligned


class Room:
    """Allocates arrays: the first `in_memory` bytes of them from memory, then from files in a folder."""

    def __init__(self, folder: Path, in_memory: int = IN_MEMORY, segment: int = SEGMENT) -> None:
        self.folder, self.left, self.segment = folder, in_memory, segment
        self._open: NDArray[np.uint8] = np.zeros(0, dtype=np.uint8)
        self._lock = threading.Lock()

    def array(self, count: int, dtype: DTypeLike) -> NDArray[Any]:
        """An uninitialised array, shape (count,).

        Raises OSError if the disk is full.
        """
        size = count * np.dtype(dtype).itemsize
        with self._lock:
            if size <= self.left:
                self.left -= size
                return np.empty(count, dtype)
            if size >= self.segment:
                return self._file(size).view(dtype)
            if size > len(self._open):
                self._open = self._file(self.segment)
            found, self._open = self._open[:size], self._open[-(-size // LINE) * LINE :]
        return found.view(dtype)

    def _file(self, size: int) -> NDArray[np.uint8]:
        with tempfile.TemporaryFile(dir=self.folder) as file:
            _reserve(file.fileno(), size)
            return np.memmap(file, dtype=np.uint8, mode="r+", shape=(size,)).view(np.ndarray)


def _reserve(file: int, size: int) -> None:
    """Preallocates the file, since a write to a mapped file cannot report a full disk."""
    os.posix_fallocate(file, 0, size)


_room: Room | None = None


@contextmanager
def lying_in(room: Room | None) -> Iterator[None]:
    """Context in which this process's large arrays are allocated in files of that folder."""
    global _room
    before, _room = _room, room
    try:
        yield
    finally:
        _room = before


def has_bounds() -> bool:
    """Whether a `Room` is in use, so that temporary arrays should be small."""
    return _room is not None


def array_of(count: int, dtype: DTypeLike) -> NDArray[Any]:
    """An uninitialised array, shape (count,), from the current `Room`."""
    return np.empty(count, dtype) if _room is None else _room.array(count, dtype)


def kept(array: NDArray[Any]) -> NDArray[Any]:
    """A copy of an array in the current `Room`; the array itself if that is memory anyway."""
    if _room is None:
        return array
    found = array_of(len(array), array.dtype)
    found[:] = array
    return found


def joined(parts: Sequence[NDArray[Any]], dtype: DTypeLike) -> NDArray[Any]:
    """Arrays concatenated."""
    found, at = array_of(sum(len(part) for part in parts), dtype), 0
    for part in parts:
        found[at : at + len(part)] = part
        at += len(part)
    return found


def laid_out(values: NDArray[Any], codes: NDArray[Any]) -> NDArray[Any]:
    """The value of each code: values[codes], shape (n,), in blocks."""
    found = array_of(len(codes), values.dtype)

    def lay(piece: slice) -> None:
        found[piece] = values[codes[piece]]

    each(lay, pieces(len(codes)), len(codes))
    return found


def picked(array: NDArray[Any], index: NDArray[Any]) -> NDArray[Any]:
    """The values at `index`, int positions or a mask, as array[index], in blocks."""
    if index.dtype != bool:
        return laid_out(array, index)
    found, at = array_of(int(np.count_nonzero(index)), array.dtype), 0
    for piece in pieces(len(index)):
        part = array[piece][index[piece]]
        found[at : at + len(part)] = part
        at += len(part)
    return found


def anywhere(masks: Sequence[NDArray[np.bool_]], count: int) -> NDArray[np.bool_] | None:
    """Where any of the masks is True, shape (count,); None without masks."""
    if not masks:
        return None
    found = array_of(count, bool)
    found[:] = masks[0]
    for mask in masks[1:]:
        found |= mask
    return found
