"""HTTP caching of editions for readers (RFC 9110, 9111): strong validators, and `immutable` if the address contains the
digest.

An edition never changes, so an answer about one can be cached by browsers and proxies. What a link opens may be cached
by any of them, but for an hour only, since a link can be revoked; what an account opens is cached by its own browser
alone.
"""

import hashlib
import re
from typing import Annotated

from fastapi import Query
from starlette.datastructures import Headers, MutableHeaders, QueryParams
from starlette.types import ASGIApp, Message, Receive, Scope, Send

READ = re.compile(r"/api/(read/[^/]+|published)/editions/")
DIGEST = "sha256"
AN_HOUR, A_YEAR = 3600, 31_536_000
NOT_MODIFIED = 304
KEPT = frozenset((b"etag", b"cache-control", b"vary", b"content-location", b"date", b"expires"))
"""The headers of a 304 (RFC 9110, 15.4.5)."""

Digest = Annotated[
    str | None,
    Query(alias=DIGEST, pattern="^[0-9a-f]{64}$", description="The edition's SHA-256; lets the answer be cached."),
]


class EditionCaching:
    """ASGI middleware: adds `ETag` and `Cache-Control` to successful GET answers about editions, and answers 304 if the
    client's copy is current."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http" or scope["method"] not in ("GET", "HEAD") or not READ.match(str(scope["path"])):
            await self.app(scope, receive, send)
            return
        await self.app(scope, receive, _Validated(scope, send))


class _Validated:
    """Buffers an answer until it is complete, then sends it with its validator."""

    def __init__(self, scope: Scope, send: Send) -> None:
        self.scope, self.send = scope, send
        self.start: Message = {}
        self.body: list[bytes] = []

    async def __call__(self, message: Message) -> None:
        if message["type"] == "http.response.start":
            self.start = message
            if message["status"] != 200:
                await self.send(message)
            return
        if self.start["status"] != 200:
            await self.send(message)
            return
        self.body.append(message.get("body", b""))
        if not message.get("more_body", False):
            await self._answer(b"".join(self.body))

    async def _answer(self, body: bytes) -> None:
        headers = MutableHeaders(scope=self.start)
        tag = f'"{hashlib.sha256(body).hexdigest()[:32]}"'
        headers["ETag"] = tag
        headers["Cache-Control"] = self._kept()
        if _matches(Headers(scope=self.scope).get("if-none-match", ""), tag):
            kept = [(name, value) for name, value in self.start["headers"] if name.lower() in KEPT]
            await self.send({**self.start, "status": NOT_MODIFIED, "headers": kept})
            await self.send({"type": "http.response.body", "body": b""})
            return
        await self.send(self.start)
        await self.send({"type": "http.response.body", "body": body})

    def _kept(self) -> str:
        shared = not str(self.scope["path"]).startswith("/api/published")
        who = "public" if shared else "private"
        if DIGEST not in QueryParams(self.scope["query_string"]):
            return f"{who}, no-cache"
        return f"{who}, max-age={AN_HOUR if shared else A_YEAR}, immutable"


def _matches(asked: str, tag: str) -> bool:
    """Whether an If-None-Match header names a tag; weak comparison, as RFC 9110 13.1.2 has it."""
    return any(one.strip().removeprefix("W/") in (tag, "*") for one in asked.split(",") if one.strip())
