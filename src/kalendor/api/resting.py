"""Releases memory when a process has been idle for a while."""

import ctypes
import gc
import threading
import time
from contextlib import suppress

from starlette.types import ASGIApp, Receive, Scope, Send

from kalendor.desk.desk import Desk

AFTER_SECONDS = 30.0


class Resting:
    """ASGI middleware: when no request came for `after` seconds, the desk shrinks its caches, and free memory is
    returned to the system."""

    def __init__(self, app: ASGIApp, desk: Desk, after: float = AFTER_SECONDS) -> None:
        self.app, self.desk, self.after = app, desk, after
        self._latest = time.monotonic()
        self._waiting = False
        self._lock = threading.Lock()

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        self._latest = time.monotonic()
        with self._lock:
            begin, self._waiting = not self._waiting, True
        if begin:
            threading.Thread(target=self._wait, daemon=True).start()
        await self.app(scope, receive, send)

    def _wait(self) -> None:
        """Wait until no request came for long enough, then release memory; the next request starts this again."""
        while (left := self._latest + self.after - time.monotonic()) > 0:
            time.sleep(left)
        with self._lock:
            self._waiting = False
        self.desk.rest()
        give_back()


def give_back() -> None:
    """Collect garbage, and return free memory to the system if the C library can."""
    gc.collect()
    with suppress(OSError, AttributeError):
        ctypes.CDLL("libc.so.6").malloc_trim(0)
