"""Server-sent events (WHATWG HTML): notifies whoever has a report open of each new revision."""

import asyncio
from collections.abc import AsyncIterator
from threading import Event

from fastapi import APIRouter, Request
from fastapi.responses import StreamingResponse
from starlette.concurrency import run_in_threadpool

from kalendor.api.desk import AtDesk
from kalendor.desk.desk import Desk
from kalendor.store.definitions import MissingError

router = APIRouter(prefix="/api", tags=["reports"])
EVERY, STILL_THERE = (
    1.0,
    15,
)  # seconds between polls; polls between two comments that keep proxies from closing the connection
PAUSES = 5  # steps in which the polling interval is waited for, so that a stop of the server is noticed soon


@router.get(
    "/reports/{id}/events",
    response_class=StreamingResponse,
    responses={200: {"content": {"text/event-stream": {"schema": {"type": "string"}}}}},
)
async def report_events(desk: AtDesk, id: int, request: Request) -> StreamingResponse:
    """Stream the report's revision and each later one as server-sent events, until the report is deleted or the server stops."""
    await run_in_threadpool(desk.definitions.one, id)
    told = _revisions(desk, id, request.app.state.stopping)
    return StreamingResponse(told, media_type="text/event-stream", headers={"Cache-Control": "no-store"})


async def _revisions(desk: Desk, id: int, stopping: Event) -> AsyncIterator[str]:
    known, looks = None, 0
    while True:
        try:
            now = (await run_in_threadpool(desk.definitions.one, id)).revision
        except MissingError:
            return
        if now != known:
            known = now
            yield f"data: {now}\n\n"
        elif looks % STILL_THERE == 0:
            yield ":\n\n"
        looks += 1
        for _ in range(PAUSES):
            if stopping.is_set():
                return
            await asyncio.sleep(EVERY / PAUSES)
