"""Server-sent events: clients that have a report open are notified of each revision."""

import asyncio
from threading import Event

from fastapi.testclient import TestClient

from kalendor.api import events
from kalendor.api.app import create_app
from kalendor.desk.desk import Desk
from tests.api.test_api import brought, saved


def test_each_revision_is_told_and_a_report_that_is_removed_ends_it(desk: Desk) -> None:
    api = TestClient(create_app(desk))
    brought(api)
    view = saved(api)
    path = f"/api/reports/{view['id']}"

    async def told() -> list[str]:
        listening = events._revisions(desk, view["id"], Event())
        found = [await anext(listening)]
        api.put(path, json={**view["document"], "title": "Second"})
        found.append(await anext(listening))
        api.post(f"{path}/undo")
        found.append(await anext(listening))
        api.delete(path)
        found += [one async for one in listening if one.startswith("data")]
        return found

    events.EVERY = 0.01
    try:
        first, second, undone = asyncio.run(told())
    finally:
        events.EVERY = 1.0
    assert first == f"data: {view['revision']}\n\n"
    assert second == f"data: {view['revision'] + 1}\n\n"
    assert undone == first
    assert api.get(f"{path}/events").status_code == 404


def test_a_server_that_stops_ends_the_events(desk: Desk) -> None:
    api = TestClient(create_app(desk))
    brought(api)
    view, stopping = saved(api), Event()

    async def told() -> list[str]:
        found = []
        async for one in events._revisions(desk, view["id"], stopping):
            found.append(one)
            stopping.set()
        return found

    assert asyncio.run(asyncio.wait_for(told(), 10)) == [f"data: {view['revision']}\n\n"]
