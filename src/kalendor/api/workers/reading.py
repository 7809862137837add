"""The application of a worker process: the routes over a read-only workspace."""

from fastapi import FastAPI, Request
from fastapi.responses import Response
from starlette.concurrency import run_in_threadpool
from starlette.types import ASGIApp, Receive, Scope, Send

from kalendor.core.values.notation import written_in
from kalendor.desk.desk import Desk
from kalendor.desk.notation import notation
from kalendor.errors import WriteRefusedError

MUST_WRITE = 421
"""The status by which a worker hands a request back, since it cannot be answered without writing (RFC 9110, 15.5.20)."""


def hand_back_writing(app: FastAPI) -> None:
    """Answer requests that would write with the status that makes the server answer them itself."""

    @app.exception_handler(WriteRefusedError)
    async def refused(_: Request, error: WriteRefusedError) -> Response:
        return Response(status_code=MUST_WRITE)


class InNotation:
    """ASGI middleware: answers are written in the workspace's notation."""

    def __init__(self, app: ASGIApp, desk: Desk) -> None:
        self.app, self.desk = app, desk

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        with written_in(await run_in_threadpool(notation, self.desk)):
            await self.app(scope, receive, send)
