"""A cache of responses that never change."""

from collections import OrderedDict
from collections.abc import Callable
from threading import Lock

from kalendor.core.values.keys import Key


class Answers:
    """A thread-safe LRU cache of up to `most` bytes, by keys that name everything a response depends on."""

    def __init__(self, most: int) -> None:
        self._most, self._held, self._lock = most, 0, Lock()
        self._kept: OrderedDict[Key, bytes] = OrderedDict()

    def __call__(self, key: Key, make: Callable[[], bytes]) -> bytes:
        """The cached response, else the one that `make` computes."""
        with self._lock:
            found = self._kept.get(key)
            if found is not None:
                self._kept.move_to_end(key)
                return found
        made = make()
        with self._lock:
            if key not in self._kept:
                self._kept[key] = made
                self._held += len(made)
            while self._held > self._most:
                self._held -= len(self._kept.popitem(last=False)[1])
        return made
