"""The FastAPI application: routers, the page, and middleware."""

from threading import Event

from fastapi import APIRouter, Depends, FastAPI

from kalendor import VERSION
from kalendor.api import (
    adjustments,
    editions,
    events,
    fetching,
    groupings,
    handing_over,
    history,
    linking,
    readers,
    report_list,
    reports,
    sending,
    sentences,
    signing_in,
    sources,
    waiting,
    workspace,
)
from kalendor.api.access import Access, Sessions
from kalendor.api.caching import EditionCaching
from kalendor.api.described import describe_answers
from kalendor.api.desk import AtDesk
from kalendor.api.guards import Guarded, Leaving
from kalendor.api.page import page_folder, serve_page
from kalendor.api.problems import PROBLEMS, Unexpected, explain_errors
from kalendor.api.resting import Resting
from kalendor.api.signing_in import Attempts
from kalendor.api.strict import known_parameters
from kalendor.api.workers.marking import Marked
from kalendor.api.workers.pool import Pool
from kalendor.api.workers.reading import InNotation, hand_back_writing
from kalendor.api.workers.spread import Spread
from kalendor.demo.workspace import build
from kalendor.desk.desk import Desk
from kalendor.desk.jobs import Jobs
from kalendor.errors import DefinitionError

LOOPBACK = {"127.0.0.1", "localhost", "::1", "testserver"}


router = APIRouter(prefix="/api", tags=["workspace"])
ROUTERS = (
    signing_in.router, sources.router, adjustments.router, fetching.router, linking.router, waiting.router, report_list.router, reports.router, events.router, handing_over.router, workspace.router, groupings.router,
    editions.router, readers.links, readers.router, readers.published, sending.router, history.router, sentences.router, router,
)  # fmt: skip


@router.post("/demo", status_code=204)
def fill_with_demo(desk: AtDesk) -> None:
    """Load the demo's sources, groupings and reports into this workspace, which must be empty."""
    if desk.sources.all() or desk.definitions.all("report", "tree", "calendar", "buckets"):
        raise DefinitionError("this workspace has sources or reports of its own; the demo goes into an empty one")
    build(desk.workspace.folder)


def create_app(
    desk: Desk,
    hosts: set[str] | None = None,
    port: int | None = None,
    behind_proxy: bool = False,
    guarded: bool = False,
    workers: Pool | None = None,
) -> FastAPI:
    """The application over a desk; it answers only requests for `hosts` (default: loopback names), and `port`, if known
    and not behind a proxy. `guarded`: it is reachable from elsewhere, and an account is required. `workers` answer
    requests that only read and compute; without them this process does."""
    app = _routed(desk)
    app.state.sessions = Sessions(desk, port, guarded)
    app.state.behind_proxy = behind_proxy
    app.state.attempts = Attempts()
    app.state.stopping = Event()  # set when the server stops, to end streaming answers
    app.add_middleware(Spread, marked=Marked.of(ROUTERS), workers=workers)
    app.add_middleware(Access, sessions=app.state.sessions)
    app.add_middleware(Unexpected)
    app.add_middleware(Guarded, hosts=LOOPBACK | (hosts or set()), port=None if behind_proxy else port)
    serve_page(app, page_folder(), desk.accounts.any)
    describe_answers(app)
    return app


def worker_app(desk: Desk) -> FastAPI:
    """The application of a worker process over a read-only desk; the server has authorized its requests."""
    app = _routed(desk)
    hand_back_writing(app)
    app.add_middleware(InNotation, desk=desk)
    app.add_middleware(Unexpected)
    return app


def _routed(desk: Desk) -> FastAPI:
    """All routes over a desk, and what every process that answers them needs."""
    app = FastAPI(
        title="Kalendor",
        version=VERSION,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
        separate_input_output_schemas=False,
        responses=PROBLEMS,
        dependencies=[Depends(known_parameters)],
    )
    app.state.desk = desk
    app.state.jobs = Jobs()
    explain_errors(app)
    app.add_middleware(EditionCaching)
    app.add_middleware(Leaving)
    app.add_middleware(Resting, desk=desk)
    for one in ROUTERS:
        app.include_router(one)
    return app
