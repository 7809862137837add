"""What stands before the application: which addresses it answers to, what every answer bears, and who has left."""

import asyncio
from threading import Event
from urllib.parse import urlsplit

from starlette.datastructures import Headers, MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from kalendor.api.problems import problem
from kalendor.desk.sheets import LEFT

POLICY = (
    "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; font-src 'self'; "
    "connect-src 'self'; frame-ancestors 'none'; base-uri 'none'; form-action 'self'"
)
BORNE = {"Content-Security-Policy": POLICY, "X-Content-Type-Options": "nosniff", "Referrer-Policy": "no-referrer"}


def host_of(address: str) -> str | None:
    """The host name of an address such as `127.0.0.1:8765`; None where it is none."""
    try:
        parts = urlsplit(f"//{address}")
        return parts.hostname if parts.port != 0 and parts.username is None else None
    except ValueError:
        return None


class Guarded:
    """Answers only requests for its own hosts, and from its own pages; every answer bears the headers that protect it."""

    def __init__(self, app: ASGIApp, hosts: set[str]) -> None:
        self.app, self.hosts = app, hosts

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return

        async def borne(message: Message) -> None:
            if message["type"] == "http.response.start":
                headers = MutableHeaders(scope=message)
                for name, value in BORNE.items():
                    headers[name] = value
            await send(message)

        if self._foreign(Headers(scope=scope)):
            await problem(403, "this address is not one that Kalendor answers to")(scope, receive, borne)
            return
        await self.app(scope, receive, borne)

    def _foreign(self, headers: Headers) -> bool:
        origin = headers.get("origin")
        return host_of(headers.get("host", "")) not in self.hosts or bool(
            origin and host_of(origin.partition("://")[2]) not in self.hosts
        )


class Leaving:
    """Notices when a client goes away, so that work done for it ends at its next step."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        left, told = Event(), LEFT
        token = told.set(left)
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
            told.reset(token)
