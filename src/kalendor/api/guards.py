"""Middleware: allowed hosts and origins, security headers, and cancellation when a client disconnects."""

import asyncio
from threading import Event
from urllib.parse import urlsplit

from starlette.datastructures import Headers, MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from kalendor.api.page import policy
from kalendor.api.problems import problem
from kalendor.core.values.interruption import LEFT

BORNE = {
    "Content-Security-Policy": policy(), "X-Content-Type-Options": "nosniff", "Referrer-Policy": "no-referrer",
    "Cross-Origin-Opener-Policy": "same-origin",
}  # fmt: skip
A_YEAR = "max-age=31536000"
DEFAULT_PORTS = {"http": 80, "https": 443}
FROM_ELSEWHERE = ("cross-site", "same-site")  # a page on another port of this machine is also another site


def address_of(text: str, scheme: str) -> tuple[str, int] | None:
    """The host name and port of an address such as `127.0.0.1:8765`, by default the scheme's port; None if it is not an
    address.

    >>> address_of("[::1]:80", "http"), address_of("a.example", "https"), address_of("a@b", "http")
    (('::1', 80), ('a.example', 443), None)
    """
    try:
        parts = urlsplit(f"//{text}")
        if parts.hostname is None or parts.username is not None or parts.path or parts.query or parts.port == 0:
            return None
        return parts.hostname, parts.port or DEFAULT_PORTS.get(scheme, 0)
    except ValueError:
        return None


class Guarded:
    """ASGI middleware: refuses requests for other hosts or from other sites' pages, and adds security headers to every
    answer."""

    def __init__(self, app: ASGIApp, hosts: set[str], port: int | None = None) -> None:
        self.app, self.hosts, self.port = app, hosts, port

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return

        async def borne(message: Message) -> None:
            if message["type"] == "http.response.start":
                headers = MutableHeaders(scope=message)
                for name, value in BORNE.items():
                    headers.setdefault(name, value)
                if scope.get("scheme") == "https":
                    headers.setdefault("Strict-Transport-Security", A_YEAR)
            await send(message)

        if self._foreign(scope):
            await problem(403, "this address is not one that Kalendor answers to")(scope, receive, borne)
            return
        await self.app(scope, receive, borne)

    def _foreign(self, scope: Scope) -> bool:
        """Whether a request is for another host, or comes from a page of another scheme, host or port."""
        headers, scheme = Headers(scope=scope), str(scope.get("scheme", "http"))
        own = address_of(headers.get("host", ""), scheme)
        if own is None or own[0] not in self.hosts or (self.port is not None and own[1] != self.port):
            return True
        origin = headers.get("origin")
        if origin is not None:
            came, _, rest = origin.partition("://")
            return came != scheme or address_of(rest, came) != own
        if headers.get("sec-fetch-site") in FROM_ELSEWHERE:
            opened = headers.get("sec-fetch-mode") == "navigate" and scope["method"] == "GET"
            return not opened or str(scope["path"]).startswith("/api")
        return False


class Leaving:
    """ASGI middleware: cancels the work for a request when its client disconnects."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        left = Event()
        token = LEFT.set(left)
        messages: asyncio.Queue[Message] = asyncio.Queue(maxsize=1)

        async def listen() -> None:
            while not left.is_set():
                message = await receive()
                if message["type"] == "http.disconnect":
                    left.set()
                await messages.put(message)

        listening = asyncio.create_task(listen())
        try:
            await self.app(scope, messages.get, send)
        finally:
            listening.cancel()
            LEFT.reset(token)
