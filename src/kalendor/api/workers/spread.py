"""Middleware that forwards requests which read and compute to the worker processes, and all others to the server's own
application."""

import asyncio
from collections.abc import Coroutine
from dataclasses import dataclass
from typing import Any

import httpx
from starlette.datastructures import MutableHeaders
from starlette.responses import Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from kalendor.api.problems import problem
from kalendor.api.workers.marking import Marked
from kalendor.api.workers.pool import Pool, Worker
from kalendor.api.workers.reading import MUST_WRITE

CONTINUE = "x-kalendor-continue"
PASSED_ON = frozenset((b"content-type", b"accept", b"if-none-match", b"if-match", b"range"))
OWN = frozenset((b"connection", b"keep-alive", b"transfer-encoding", b"date", b"server"))
ENDED = "the process that worked on this ended; ask again, and for less where it ends again"
NO_LIMITS = {"timeout": {"connect": 10.0, "read": None, "write": None, "pool": None}}


def continued(path: str, body: bytes, headers: dict[str, str]) -> Response:
    """An answer to be replaced by that of another path with a given body, and more headers: for what is computed after
    something was saved."""
    return Response(body, headers={**headers, CONTINUE: path})


@dataclass(frozen=True, eq=False)
class Request:
    """A request whose body was received."""

    scope: Scope
    body: bytes


class Spread:
    """Answers each request by a worker if its route is marked, else by `app`, the application in this process."""

    def __init__(self, app: ASGIApp, marked: Marked, workers: Pool | None) -> None:
        self.app, self.marked, self.workers = app, marked, workers

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        if self._subject(scope) is not None:
            await self._answer(Request(scope, await _body(receive)), receive, send)
            return
        held = _HeldAnswer(send)
        await self.app(scope, receive, held)
        if held.path:
            await self._answer(held.follow_up(scope), receive, held.answer)

    def _subject(self, scope: Scope) -> str | None:
        return None if self.workers is None else self.marked.subject(scope["method"], scope["path"])

    async def _answer(self, request: Request, receive: Receive, send: Send) -> None:
        """Answer by a worker, or here if none is available."""
        subject = self._subject(request.scope)
        worker = None if self.workers is None or subject is None else self.workers.chosen(subject)
        answered = False
        if worker is not None:
            answered = await _unless_left(self._by(worker, request, send), receive)
        if not answered:
            await self.app(request.scope, _replayed(request.body, receive), send)

    async def _by(self, worker: Worker, request: Request, send: Send) -> bool:
        """Whether a worker answered; False if the request is to be answered here.

        If a worker ends, its oldest request is assumed to be the cause and refused; others are answered here.
        """
        begun = _Begun(send)
        worker.requests.append(request)
        try:
            return await _passed_on(worker, request, begun)
        except httpx.HTTPError:
            assert self.workers is not None
            first = worker.requests[0] is request
            self.workers.ended(worker)
            if begun.done:
                raise
            if first:
                await problem(503, ENDED)(request.scope, _nothing, send)
            return first
        finally:
            worker.requests.remove(request)


async def _passed_on(worker: Worker, request: Request, send: Send) -> bool:
    """Whether a worker answered; False if it hands the request back, since it would write.

    Raises httpx.HTTPError if the worker ends.
    """
    scope = request.scope
    asked = httpx.Request(
        scope["method"],
        httpx.URL(scheme="http", host="worker", raw_path=_target(scope)),
        headers=[pair for pair in scope["headers"] if pair[0] in PASSED_ON],
        content=request.body,
        extensions=NO_LIMITS,
    )
    answer = await worker.transport.handle_async_request(asked)
    try:
        if answer.status_code == MUST_WRITE:
            return False
        headers = [(name.lower(), value) for name, value in answer.headers.raw if name.lower() not in OWN]
        await send({"type": "http.response.start", "status": answer.status_code, "headers": headers})
        async for part in answer.aiter_raw():
            await send({"type": "http.response.body", "body": part, "more_body": True})
        await send({"type": "http.response.body", "body": b""})
        return True
    finally:
        await answer.aclose()


async def _unless_left(work: Coroutine[Any, Any, bool], receive: Receive) -> bool:
    """The result of the work; if the client disconnects first, the work is cancelled."""
    working, leaving = asyncio.create_task(work), asyncio.create_task(_left(receive))
    try:
        await asyncio.wait((working, leaving), return_when=asyncio.FIRST_COMPLETED)
        return await working if working.done() else True
    finally:
        for task in (working, leaving):
            task.cancel()
        await asyncio.gather(working, leaving, return_exceptions=True)


async def _left(receive: Receive) -> None:
    while (await receive())["type"] != "http.disconnect":
        pass


async def _nothing() -> Message:
    return {"type": "http.disconnect"}


class _Begun:
    """Forwards an answer, and records whether it was begun."""

    def __init__(self, send: Send) -> None:
        self.send, self.done = send, False

    async def __call__(self, message: Message) -> None:
        self.done = True
        await self.send(message)


class _HeldAnswer:
    """Forwards an answer, unless another request is to give it (see `continued`): `path` is that one's, empty for any
    other."""

    def __init__(self, send: Send) -> None:
        self.send, self.path, self.body = send, "", b""
        self.headers: list[tuple[bytes, bytes]] = []

    async def __call__(self, message: Message) -> None:
        if message["type"] == "http.response.start":
            headers = MutableHeaders(raw=list(message["headers"]))
            self.path = headers.get(CONTINUE, "")
            for name in (CONTINUE, "content-length", "content-type"):
                del headers[name]
            self.headers = headers.raw
        if self.path:
            self.body += message.get("body", b"")
        else:
            await self.send(message)

    def follow_up(self, scope: Scope) -> Request:
        """The request that gives the answer."""
        path, _, query = self.path.partition("?")
        headers = [(b"content-type", b"application/json"), (b"content-length", str(len(self.body)).encode())]
        own = {"method": "POST", "path": path, "raw_path": path.encode(), "query_string": query.encode()}
        return Request({**scope, **own, "headers": headers}, self.body)

    async def answer(self, message: Message) -> None:
        """Forward the other request's answer, with the headers of this one."""
        if message["type"] == "http.response.start":
            message = {**message, "headers": [*message["headers"], *self.headers]}
        await self.send(message)


def _target(scope: Scope) -> bytes:
    path = scope.get("raw_path") or str(scope["path"]).encode()
    return path + b"?" + scope["query_string"] if scope["query_string"] else path


async def _body(receive: Receive) -> bytes:
    parts = []
    while True:
        message = await receive()
        parts.append(message.get("body", b""))
        if message["type"] != "http.request" or not message.get("more_body", False):
            return b"".join(parts)


def _replayed(body: bytes, receive: Receive) -> Receive:
    """A received body, followed by whatever comes next."""
    given: list[Message] = [{"type": "http.request", "body": body, "more_body": False}]

    async def again() -> Message:
        return given.pop() if given else await receive()

    return again
