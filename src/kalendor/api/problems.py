"""Turns every error into a problem document (RFC 9457) with a `detail` for people."""

import errno
from collections.abc import Awaitable, Callable, Mapping
from http import HTTPStatus
from typing import Any

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse, Response
from starlette.exceptions import HTTPException
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from kalendor import errors
from kalendor.api.strict import BaseModel
from kalendor.definitions.document import explain
from kalendor.desk.linked.sheets import UnreadError
from kalendor.log import log_unexpected
from kalendor.store.definitions import MissingError

PROBLEM = "application/problem+json"


class Problem(BaseModel):
    """A problem document (RFC 9457): `detail` says what, where and what to do, for people. `job` is one that has to
    finish first, after which the request can be repeated."""

    type: str
    title: str
    status: int
    detail: str
    job: str | None = None


PROBLEMS: dict[int | str, dict[str, Any]] = {
    kind: {"description": words, "content": {PROBLEM: {"schema": Problem.model_json_schema()}}}
    for kind, words in (("4XX", "Refused; nothing was changed"), ("5XX", "It could not be done now"))
}
DISK = {
    errno.ENOSPC: "the disk is full; make room and try again",
    errno.EDQUOT: "the disk's quota is used up; make room and try again",
    errno.EROFS: "the disk may only be read; give yourself the right to write there",
    errno.EACCES: "a folder may only be read; give yourself the right to write there",
    errno.ENAMETOOLONG: "a name is longer than the disk takes; give a shorter one",
}
STATUS: dict[type[errors.KalendorError], int] = {
    MissingError: 404,
    errors.RevisionError: 412,
    errors.ConflictError: 409,
    errors.FootingError: 500,
    errors.StoreError: 503,
    errors.LeftError: 499,
}


def problem(status: int, detail: str, **more: str) -> JSONResponse:
    """A problem document."""
    title = HTTPStatus(status).phrase if status in set(HTTPStatus) else "Left"
    body = {"type": "about:blank", "title": title, "status": status, "detail": detail, **more}
    return JSONResponse(body, status, media_type=PROBLEM)


async def _known(_: Request, error: errors.KalendorError) -> JSONResponse:
    status = next((STATUS[kind] for kind in type(error).__mro__ if kind in STATUS), 422)
    return problem(status, str(error))


async def _unread(request: Request, error: UnreadError) -> JSONResponse:
    """Refused for now, with the job that reads what is missing, shared by all requests for it."""
    desk, jobs = request.app.state.desk, request.app.state.jobs
    job = jobs.once(error.about, lambda job: error.read(job.read_so_far), desk.workspace.close)
    answer = problem(503, str(error), job=job.id)
    answer.headers["Retry-After"] = "1"
    return answer


async def _numbered(request: Request, error: OverflowError) -> JSONResponse:
    if "SQLite INTEGER" not in str(error):
        raise error
    return problem(404, f"there is no {request.url.path} of that number")


async def _of_the_disk(_: Request, error: OSError) -> JSONResponse:
    words = DISK.get(error.errno or 0)
    if words is None:
        raise error
    return problem(503, f"{words}; nothing was changed")


async def _malformed(_: Request, error: RequestValidationError) -> JSONResponse:
    return problem(422, str(explain(error.errors(), 1)))


async def _refused(request: Request, error: HTTPException) -> JSONResponse:
    if isinstance(error.__cause__, OSError) and error.__cause__.errno in DISK:  # while a body was received
        return problem(503, f"{DISK[error.__cause__.errno]}; nothing was changed")
    details = {404: f"there is no {request.url.path}", 405: f"{request.url.path} takes no {request.method}"}
    answer = problem(error.status_code, details.get(error.status_code, str(error.detail)))
    answer.headers.update(error.headers or {})
    return answer


HANDLERS: Mapping[type[Exception], Callable[[Request, Any], Awaitable[Response]]] = {
    errors.KalendorError: _known,
    UnreadError: _unread,
    OverflowError: _numbered,
    OSError: _of_the_disk,
    RequestValidationError: _malformed,
    HTTPException: _refused,
}


def explain_errors(app: FastAPI) -> None:
    """Answer the product's own errors with their messages."""
    for kind, answer in HANDLERS.items():
        app.exception_handler(kind)(answer)


class Unexpected:
    """ASGI middleware: answers unexpected errors with an id, and logs under it the kind of error and its place, never
    the data."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        begun = False

        async def noted(message: Message) -> None:
            nonlocal begun
            begun = begun or message["type"] == "http.response.start"
            await send(message)

        try:
            await self.app(scope, receive, noted)
        except Exception as error:
            id = log_unexpected(error, f"{scope.get('method', '')} {scope.get('path', '')}")
            if not begun:
                detail = (
                    f"an error of Kalendor's own; nothing was changed. It is in the log under {id}: please report it"
                )
                await problem(500, detail, id=id)(scope, receive, send)
