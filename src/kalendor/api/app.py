"""The application: the API, the page, and what guards them."""

from collections.abc import Awaitable, Callable
from importlib import resources
from pathlib import Path
from urllib.parse import urlsplit

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import FileResponse, JSONResponse, Response

from kalendor import errors
from kalendor.api import groupings, models, reports, sources, waiting
from kalendor.api.desk import AtDesk
from kalendor.definitions.document import explain
from kalendor.desk.desk import Desk
from kalendor.desk.jobs import Jobs
from kalendor.store.definitions import MissingError

POLICY = (
    "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; font-src 'self'; "
    "connect-src 'self'; frame-ancestors 'none'; base-uri 'none'; form-action 'self'"
)
LOOPBACK = {"127.0.0.1", "localhost", "::1", "testserver"}


def page_folder() -> Path:
    """Where the built page stands."""
    return Path(str(resources.files("kalendor"))) / "page"


def create_app(desk: Desk, hosts: set[str] | None = None) -> FastAPI:
    """The application over a desk; it answers only requests for `hosts`, loopback names where left out."""
    app = FastAPI(
        title="Kalendor",
        version="1",
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
        separate_input_output_schemas=False,
    )
    app.state.desk = desk
    app.state.jobs = Jobs()
    _guard(app, LOOPBACK | (hosts or set()))
    _explain_errors(app)
    app.include_router(sources.router)
    app.include_router(waiting.router)
    app.include_router(reports.router)
    app.include_router(groupings.router)

    @app.get("/api/workspace", tags=["workspace"])
    def workspace(desk: AtDesk) -> models.WorkspaceView:
        """The workspace's name and day."""
        return models.WorkspaceView(
            name=desk.workspace.told("name") or desk.workspace.folder.name,
            today=desk.today().isoformat(),
            sources=len(desk.sources.all()),
            reports=len(desk.definitions.all("report")),
        )

    _serve_page(app, page_folder())
    return app


def _guard(app: FastAPI, hosts: set[str]) -> None:
    @app.middleware("http")
    async def check(request: Request, go_on: Callable[[Request], Awaitable[Response]]) -> Response:
        host = urlsplit(f"//{request.headers.get('host', '')}").hostname
        origin = request.headers.get("origin")
        if host not in hosts or (origin and urlsplit(origin).hostname not in hosts):
            return JSONResponse({"message": "this address is not one that Kalendor answers to"}, 403)
        response = await go_on(request)
        response.headers["Content-Security-Policy"] = POLICY
        response.headers["X-Content-Type-Options"] = "nosniff"
        response.headers["Referrer-Policy"] = "no-referrer"
        return response


def _explain_errors(app: FastAPI) -> None:
    @app.exception_handler(errors.KalendorError)
    async def known(_: Request, error: errors.KalendorError) -> Response:
        status = 404 if isinstance(error, MissingError) else 500 if isinstance(error, errors.FootingError) else 422
        return JSONResponse({"message": str(error)}, status)

    @app.exception_handler(RequestValidationError)
    async def malformed(_: Request, error: RequestValidationError) -> Response:
        return JSONResponse({"message": str(explain(error.errors()[0], 1))}, 422)


def _serve_page(app: FastAPI, folder: Path) -> None:
    @app.get("/{path:path}", include_in_schema=False)
    def page(path: str) -> Response:
        if path.startswith("api/"):
            return JSONResponse({"message": f"there is no /{path}"}, 404)
        file = (folder / path).resolve()
        if path and file.is_file() and file.is_relative_to(folder.resolve()):
            forever = "public, max-age=31536000, immutable" if path.startswith("assets/") else "no-cache"
            return FileResponse(file, headers={"Cache-Control": forever})
        index = folder / "index.html"
        if not index.is_file():
            return JSONResponse({"message": "the page is not built; run make page"}, 503)
        return FileResponse(index, headers={"Cache-Control": "no-cache"})
