"""What was worked out before, kept under all that it rests on; the least recently used goes first."""

import threading
from collections import OrderedDict
from collections.abc import Callable
from typing import Any, TypeVar

import numpy as np

from kalendor.core.groupings.levels import Level
from kalendor.core.placing.leaves import Leaves
from kalendor.core.placing.screening import Screening
from kalendor.core.placing.views import View
from kalendor.core.sheet.sheet import Sheet
from kalendor.core.values.columns import Column

V = TypeVar("V")


class Memory:
    """A bounded memo; `most` is in bytes of array."""

    def __init__(self, most: int) -> None:
        self.most = most
        self._kept: OrderedDict[str, tuple[Any, int]] = OrderedDict()
        self._held = 0
        self._lock = threading.Lock()

    def __call__(self, key: str, make: Callable[[], V]) -> V:
        """The value kept under `key`, or the one made now."""
        found = self.get(key)
        if found is not None:
            return found  # type: ignore[no-any-return]
        made = make()
        self.put(key, made)
        return made

    def get(self, key: str) -> Any:
        """What is kept under a key, or None."""
        with self._lock:
            if key not in self._kept:
                return None
            self._kept.move_to_end(key)
            return self._kept[key][0]

    def put(self, key: str, value: Any) -> None:
        """Keep a value; others may go to make room."""
        size = weight(value)
        with self._lock:
            if key in self._kept:
                self._held -= self._kept.pop(key)[1]
            self._kept[key] = (value, size)
            self._held += size
            self._weigh_views()
            while self._held > self.most and len(self._kept) > 1:
                _, (_, gone) = self._kept.popitem(last=False)
                self._held -= gone

    def _weigh_views(self) -> None:
        """Views grow as more is asked of them."""
        for key, (value, size) in list(self._kept.items()):
            if isinstance(value, View):
                now = weight(value)
                self._kept[key] = (value, now)
                self._held += now - size


def weight(value: Any) -> int:
    """Roughly how many bytes of array a value holds."""
    if isinstance(value, np.ndarray):
        return value.nbytes
    if isinstance(value, Column):
        return value.values.nbytes + (0 if value.blank is None else value.blank.nbytes)
    if isinstance(value, Level):
        return value.codes.nbytes + 100 * value.size
    if isinstance(value, Sheet):
        return sum(weight(figure.cells) for figure in value.figures) + value.frame.lines.path.nbytes
    if isinstance(value, View | Leaves):
        return value.nbytes
    if isinstance(value, Screening):
        return sum(rows.nbytes for rows in (value.rows, value.main_rows) if rows is not None)
    if isinstance(value, list | tuple):
        return sum(weight(item) for item in value)
    return 1000
