"""A cache of computed values under keys that name everything they depend on (LRU)."""

import threading
from collections import OrderedDict
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from typing import Any, TypeVar

import numpy as np

from kalendor.core.values.interruption import go_on
from kalendor.core.values.keys import Key

V = TypeVar("V")
FEW = 64
OVERHEAD = 200


class Memory:
    """A bounded LRU cache; `most` is in bytes. A value requested by several threads at once is computed by one of them;
    `holding` tells whether this thread holds a lock that the others may need, and so must not wait for them.

    The size of a value includes everything it keeps alive: every array and long list of texts reachable from it, each
    counted once however many values share it. Cached values are immutable and may be handed to any thread; the lock
    guards the bookkeeping only, and no expensive work is done while it is held.
    """

    def __init__(self, most: int, holding: Callable[[], bool] = lambda: False) -> None:
        self.most = most
        self._holding = holding
        self._kept: OrderedDict[Key, tuple[Any, list[int]]] = OrderedDict()
        self._pieces: dict[int, _Piece] = {}
        self._held = 0
        self._making: dict[Key, _Making] = {}
        self._lock = threading.Lock()

    def __call__(self, key: Key, make: Callable[[], V]) -> V:
        """The value cached under `key`, else the one that `make` computes. If another thread is computing it, wait for that; if
        it fails there, or this thread holds a lock that the other may need, compute it here."""
        while True:
            found, value = self._looked_up(key)
            if found:
                return value
            with self._lock:
                other = self._making.get(key)
                if other is None:
                    own = self._making[key] = _Making()
            if other is None:
                return self._made(key, make, own)
            if self._holding():
                return self.put(key, make())
            other.ended.wait()
            if other.made:
                return other.value

    def _made(self, key: Key, make: Callable[[], V], making: "_Making") -> V:
        """Compute a value for this thread and all that wait for it."""
        try:
            found, value = self._looked_up(key)  # it may have been cached since the first lookup
            go_on()
            making.value = value if found else self.put(key, make())
            making.made = True
            return making.value
        finally:
            with self._lock:
                del self._making[key]
            making.ended.set()

    def get(self, key: Key) -> Any:
        """The value cached under a key, or None."""
        return self._looked_up(key)[1]

    def _looked_up(self, key: Key) -> tuple[bool, Any]:
        with self._lock:
            if key not in self._kept:
                return False, None
            self._kept.move_to_end(key)
            return True, self._kept[key][0]

    def put(self, key: Key, value: V) -> V:
        """Cache a value, evicting others if needed. If the key is cached already, that value stays and is returned."""
        pieces = {id(piece): (piece, size) for piece, size in pieces_of(value)}
        with self._lock:
            if key in self._kept:
                self._kept.move_to_end(key)
                return self._kept[key][0]
            self._kept[key] = (value, list(pieces))
            self._held += OVERHEAD
            for at, (piece, size) in pieces.items():
                held = self._pieces.setdefault(at, _Piece(piece, size))
                self._held += 0 if held.count else size
                held.count += 1
            while self._held > self.most and self._kept:
                self._let_go(next(iter(self._kept)))
        return value

    def _let_go(self, key: Key) -> None:
        """Evict one value; call with the lock held."""
        _, pieces = self._kept.pop(key)
        self._held -= OVERHEAD
        for at in pieces:
            piece = self._pieces[at]
            piece.count -= 1
            if not piece.count:
                self._held -= piece.size
                del self._pieces[at]

    def clear(self) -> None:
        """Evict everything."""
        with self._lock:
            self._kept.clear()
            self._pieces.clear()
            self._held = 0

    def shrink(self, to: int) -> None:
        """Evict the least recently used values until at most `to` bytes are held."""
        with self._lock:
            while self._held > to and self._kept:
                self._let_go(next(iter(self._kept)))

    @property
    def held(self) -> int:
        """The size of all cached values, in bytes."""
        return self._held


class _Making:
    """A value being computed by a thread: `made` is True after `ended`, unless it failed."""

    def __init__(self) -> None:
        self.ended = threading.Event()
        self.made = False
        self.value: Any = None


@dataclass
class _Piece:
    """An array or a list of texts (referenced, so that its id stays unique), and how many values share it."""

    piece: Any
    size: int
    count: int = 0


def pieces_of(value: Any) -> Iterator[tuple[Any, int]]:
    """The in-memory arrays and long lists of texts reachable from a value, each with its size in bytes."""
    seen: set[int] = set()
    owners: set[int] = set()
    waiting = [value]
    while waiting:
        one = waiting.pop()
        if one is None or isinstance(one, str | bytes | int | float | type) or callable(one) or id(one) in seen:
            continue
        seen.add(id(one))
        if isinstance(one, np.ndarray):
            owner = _owner(one)
            if owner is not None and id(owner) not in owners:
                owners.add(id(owner))
                yield owner, owner.nbytes + (_texts_size(owner) if owner.dtype == object else 0)
        elif isinstance(one, tuple | list) and len(one) > FEW and isinstance(one[0], str):
            yield one, 8 * len(one) + _texts_size(one)
        elif isinstance(one, Mapping):
            waiting.extend(one.values())
        elif isinstance(one, tuple | list | set | frozenset):
            waiting.extend(one)
        elif type(one).__module__.startswith("kalendor."):
            waiting.extend(getattr(one, name, None) for name in _parts(one))


def _owner(array: np.ndarray) -> np.ndarray | None:
    """The array that owns an array's memory; None for memory-mapped files, which the system manages."""
    while True:
        if isinstance(array, np.memmap):
            return None
        if not isinstance(array.base, np.ndarray):
            return array
        array = array.base


def _texts_size(texts: Any) -> int:
    try:
        return 56 * len(texts) + sum(map(len, texts))
    except TypeError:  # not texts alone
        return sum(56 + len(text) for text in texts if isinstance(text, str))


def _parts(value: Any) -> list[str]:
    slots = [name for kind in type(value).__mro__ for name in getattr(kind, "__slots__", ())]
    return [*getattr(value, "__dict__", {}), *slots]
