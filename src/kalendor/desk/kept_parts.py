"""An on-disk cache of values computed from parts of a linked source's files and merged from them, under keys that name
everything they depend on.

Parts are merged in a tree whose node boundaries are determined by the keys of the parts (content-defined), so that
adding or removing a file changes only the nodes above it.
"""

import os
from collections.abc import Callable, Sequence
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import Generic, TypeVar
from uuid import uuid4

from kalendor.core.values.keys import Key, key
from kalendor.errors import DamagedError

V = TypeVar("V")
MOST_BYTES = 8 << 30
ABOUT, MOST_UNDER = 8, 32  # children of a node: on average, and at most


@dataclass(frozen=True)
class KeptParts:
    """One file for each key in a folder of the cache. `writes`: whether values are stored."""

    folder: Path
    writes: bool = True

    def get(self, key: Key) -> bytes | None:
        """The value cached under a key, or None."""
        path = self._path(key)
        try:
            content = path.read_bytes()
        except OSError:
            return None
        if self.writes:
            with suppress(OSError):
                os.utime(path)  # mark as used: the least recently used are dropped first
        return content

    def has(self, key: Key) -> bool:
        """Whether a value is cached under a key."""
        return self._path(key).is_file()

    def put(self, key: Key, content: bytes) -> None:
        """Cache a value; ignored if the disk refuses it, since it can be computed again."""
        if not self.writes:
            return
        path = self._path(key)
        part = path.with_name(f".{uuid4().hex}")
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
            part.write_bytes(content)
            part.replace(path)
        except OSError:
            part.unlink(missing_ok=True)

    def drop(self, key: Key) -> None:
        """Remove the value under a key."""
        self._path(key).unlink(missing_ok=True)

    def shrink(self, most: int = MOST_BYTES) -> None:
        """Drop the least recently used values until at most `most` bytes are kept."""
        with suppress(OSError):
            found = sorted((path.stat().st_mtime, path.stat().st_size, path) for path in self.folder.glob("??/*"))
            held = sum(size for _, size, _ in found)
            for _, size, path in found:
                if held <= most:
                    break
                path.unlink(missing_ok=True)
                held -= size

    def _path(self, key: Key) -> Path:
        return self.folder / key[:2] / key


@dataclass(frozen=True)
class Node:
    """A part (`at` is its position), or several merged; `size` is the number of parts it stands for."""

    key: Key
    size: int
    under: tuple["Node", ...] = ()
    at: int = 0


def tree(parts: Sequence[Key]) -> Node:
    """The merge tree over at least one part, in order."""
    level = [Node(part, 1, at=at) for at, part in enumerate(parts)]
    while len(level) > 1:
        level = [_over(group) for group in _grouped(level)]
    return level[0]


def _grouped(level: Sequence[Node]) -> list[list[Node]]:
    groups: list[list[Node]] = [[]]
    for node in level:
        here = groups[-1]
        if len(here) > 1 and (int(here[-1].key[:8], 16) % ABOUT == 0 or len(here) == MOST_UNDER):
            groups.append(here := [])
        here.append(node)
    return groups


def _over(group: Sequence[Node]) -> Node:
    if len(group) == 1:
        return group[0]
    return Node(key("merged", [one.key for one in group]), sum(one.size for one in group), tuple(group), group[0].at)


@dataclass(frozen=True)
class Keeping(Generic[V]):
    """How values of parts are cached and merged: `merge` takes several in order, each with the number of parts before
    it."""

    kept: KeptParts
    to_bytes: Callable[[V], bytes]
    from_bytes: Callable[[bytes], V]
    merge: Callable[[Sequence[tuple[V, int]]], V]

    def value(self, node: Node) -> V:
        """The value of a node, merged from its children unless it is cached.

        Raises LostError for a part that is not cached.
        """
        found = self._kept(node.key)
        if found is not None:
            return found
        if not node.under:
            raise LostError(node.key)
        made = self.merge([(self.value(one), one.at - node.at) for one in node.under])
        self.kept.put(node.key, self.to_bytes(made))
        return made

    def _kept(self, own: Key) -> V | None:
        content = self.kept.get(own)
        if content is None:
            return None
        try:
            return self.from_bytes(content)
        except DamagedError:
            self.kept.drop(own)
            return None


class LostError(Exception):
    """A cached part was dropped; it has to be read again."""
