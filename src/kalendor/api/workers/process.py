"""A worker process: answers requests that read and compute, on a socket that only the server's own user can access.

The server sends workspace, socket and limits as one line of JSON on standard input. The process ends when that input
does, so it never outlives its server.
"""

import json
import os
import resource
import signal
import sys
import threading
from pathlib import Path


def main() -> None:
    """Serve until standard input ends."""
    asked = json.loads(sys.stdin.readline())
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # Ctrl C is handled by the server, which ends its workers
    threading.Thread(target=_end_with_the_server, daemon=True).start()
    resource.setrlimit(resource.RLIMIT_DATA, (asked["memory"], asked["memory"]))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))

    import uvicorn

    from kalendor.api.app import worker_app
    from kalendor.desk.desk import Desk

    desk = Desk(Path(asked["workspace"]), reads_only=True, remembers=asked["remembers"])
    application = worker_app(desk)
    config = uvicorn.Config(
        application, uds=asked["socket"], log_level="warning", access_log=False, lifespan="off",
        timeout_keep_alive=3600,
    )  # fmt: skip
    uvicorn.Server(config).run()


def _end_with_the_server() -> None:
    sys.stdin.read()
    os._exit(0)


if __name__ == "__main__":
    main()
