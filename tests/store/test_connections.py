"""Connections to the database of a workspace: one for each thread."""

import gc
import threading
from pathlib import Path

from kalendor.store.workspace import Workspace


def test_a_threads_connection_is_closed_when_the_thread_ends(tmp_path: Path) -> None:
    """Connections are closed without waiting for the garbage collector, since a server's threads come and go."""
    workspace = Workspace(tmp_path / "w")

    def opened() -> int:
        return sum(path.exists() and path.resolve().name.endswith("-wal") for path in Path("/proc/self/fd").iterdir())

    def read() -> None:
        with workspace.snapshot():
            workspace.told("name")

    before = opened()
    gc.disable()
    try:
        for _ in range(20):
            thread = threading.Thread(target=read)
            thread.start()
            thread.join()
        assert opened() <= before + 1
    finally:
        gc.enable()
