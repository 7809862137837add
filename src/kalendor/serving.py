"""Starts the server on a workspace: address, TLS and proxy settings, and the checks before it starts."""

import atexit
import logging
import socket
import ssl
import sys
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

from kalendor.errors import DefinitionError

if TYPE_CHECKING:
    from fastapi import FastAPI

    from kalendor.desk.desk import Desk

LOOPBACK = ("127.0.0.1", "localhost", "::1")
EVERYWHERE = ("0.0.0.0", "::")
NOT_STARTED = 3  # the exit code of a server that could not start
KEPT_ALIVE = 75  # keep-alive seconds, long enough that browsers do not reuse a connection that is being closed
WAITED = 3  # seconds for pending answers when the server stops


@dataclass(frozen=True)
class Reach:
    """Where a server listens, its names, certificate or proxy, the folders beneath which it may deliver editions, and
    the number of worker processes (None: by the machine's cores). Folders beneath `link_from` may be linked, and are
    read by the workers of a Dask `scheduler` if one is given, else by this machine's."""

    host: str
    port: int
    names: tuple[str, ...] = ()
    certificate: Path | None = None
    key: Path | None = None
    behind_proxy: bool = False
    deliver_to: tuple[Path, ...] = ()
    workers: int | None = None
    link_from: tuple[Path, ...] = ()
    scheduler: str | None = None

    @property
    def from_elsewhere(self) -> bool:
        """Whether it is reachable from other machines."""
        return self.host not in LOOPBACK or bool(self.names) or self.behind_proxy

    @property
    def answered_to(self) -> set[str]:
        """The hosts that requests may be for, beside this machine's own names."""
        return {name.casefold() for name in self.names} | ({self.host} - set(EVERYWHERE))

    @property
    def address(self) -> str:
        """Where a browser finds it."""
        name = self.names[0] if self.names else "127.0.0.1" if self.host in EVERYWHERE else self.host
        shown = f"[{name}]" if ":" in name else name
        return f"http{'s' if self.certificate else ''}://{shown}:{self.port}"


def check(reach: Reach, accounts: bool) -> None:
    """Raises DefinitionError if a server must not start with these settings."""
    if reach.from_elsewhere and not accounts:
        raise DefinitionError(
            "others can reach this server, and nobody has an account yet: make one with `kalendor user add NAME`, or leave"
            " --host, --host-name and --behind-proxy out to serve this machine alone"
        )
    if (reach.certificate is None) != (reach.key is None):
        raise DefinitionError("--tls-cert and --tls-key go together")
    if reach.certificate is not None and reach.key is not None:
        try:
            ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER).load_cert_chain(reach.certificate, reach.key)
        except (OSError, ssl.SSLError) as error:
            raise DefinitionError(
                f"--tls-cert {reach.certificate}, --tls-key {reach.key}: cannot be used ({error})"
            ) from None
    for name in reach.names:
        if not name or any(c in name for c in "/:@ \\"):
            raise DefinitionError(f"--host-name {name!r}: write the name alone, as reports.example")


def serve_workspace(workspace: Path, reach: Reach, with_mail: bool = False) -> None:
    """Serve a workspace until stopped.

    Raises DefinitionError for invalid settings, or a port that is taken.
    """

    from kalendor.desk.uploads import left_behind
    from kalendor.store.workspace import ServerLock

    logging.basicConfig(format="%(asctime)s %(levelname)s %(message)s")
    desk = _desk(workspace, reach)
    check(reach, desk.accounts.any())
    from kalendor.api.app import create_app  # slow imports, once the settings are known to be valid
    from kalendor.api.workers.pool import Workers, usual_count
    from kalendor.desk.editions.inbox import stand_in

    lock = ServerLock(workspace, reach.address, reach.from_elsewhere)
    for left in left_behind(desk.workspace.files, time.time()):
        left.unlink(missing_ok=True)
    count = usual_count() if reach.workers is None else reach.workers
    workers = Workers(workspace, count) if count else None
    application = create_app(desk, reach.answered_to, reach.port, reach.behind_proxy, reach.from_elsewhere, workers)
    _begin_what_goes_on_by_itself(desk, reach)
    inbox = stand_in(desk) if with_mail else None
    if workers is not None:
        atexit.register(workers.close)
        workers.start()
    _say_where(reach)
    try:
        _serve(application, reach)
    finally:
        if inbox is not None:
            inbox.stop()
        if workers is not None:
            workers.close()
        desk.readers.close()
        lock.let_go()


def _desk(workspace: Path, reach: Reach) -> "Desk":
    """The desk of a served workspace, whose files are read in processes of their own."""
    from kalendor.desk.desk import Desk
    from kalendor.desk.spreading import cluster
    from kalendor.intake.apart import Apart

    desk = Desk(workspace, readers=Apart(workspace / "cache"))
    desk.deliver_to, desk.link_from = reach.deliver_to, reach.link_from
    if reach.scheduler is not None:
        desk.spread_over = partial(cluster, reach.scheduler)
    atexit.register(desk.readers.close)
    return desk


def _begin_what_goes_on_by_itself(desk: "Desk", reach: Reach) -> None:
    """Start drop folders, schedules, mail, queries, and the wording of reports, each in a thread of its own."""
    from kalendor.desk.drop_folder import DropFolders
    from kalendor.desk.editions.schedule import keep_running
    from kalendor.desk.editions.sending import keep_sending
    from kalendor.desk.fetching import keep_fetching
    from kalendor.desk.linked.watching import keep_looking
    from kalendor.desk.reports import word_all

    folders = DropFolders(desk)
    folders.make()
    _check_free(reach)
    _start(folders.watch)
    for work in (keep_running, keep_sending, keep_fetching, keep_looking, word_all):
        _start(work, desk)


def _serve(application: "FastAPI", reach: Reach) -> None:
    """Answer requests until the server is stopped."""
    import uvicorn

    class Server(uvicorn.Server):
        async def shutdown(self, sockets: list[socket.socket] | None = None) -> None:
            application.state.stopping.set()
            await super().shutdown(sockets)

    certificate: dict[str, Any] = (
        {"ssl_certfile": str(reach.certificate), "ssl_keyfile": str(reach.key)} if reach.certificate else {}
    )
    config = uvicorn.Config(
        application, host=reach.host, port=reach.port, log_level="warning", server_header=False, ws="none",
        timeout_keep_alive=KEPT_ALIVE, timeout_graceful_shutdown=WAITED, proxy_headers=reach.behind_proxy, forwarded_allow_ips="127.0.0.1,::1", **certificate,
    )  # fmt: skip
    server = Server(config)
    with suppress(KeyboardInterrupt):
        server.run()
    if not server.started:
        sys.exit(NOT_STARTED)


def _start(work: Callable[..., None], *given: object) -> None:
    threading.Thread(target=work, args=(*given, threading.Event()), daemon=True).start()


def _check_free(reach: Reach) -> None:
    with socket.socket(socket.AF_INET6 if ":" in reach.host else socket.AF_INET) as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((reach.host, reach.port))
        except OSError as error:
            raise DefinitionError(
                f"{reach.host}:{reach.port} cannot be listened on ({error.strerror}); choose another --port"
            ) from None


def _say_where(reach: Reach) -> None:
    if reach.host not in LOOPBACK and reach.certificate is None and not reach.behind_proxy:
        print(
            "kalendor: passwords are taken over https alone; give --tls-cert and --tls-key, or --behind-proxy",
            file=sys.stderr,
        )
    print(f"Kalendor is at {reach.address}  (stop with Ctrl C)", flush=True)
