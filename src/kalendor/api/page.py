"""Serves the built front end: static files, and the HTML document with a Content-Security-Policy nonce for each response."""

import secrets
from collections.abc import Callable
from importlib import resources
from pathlib import Path

from fastapi import FastAPI
from fastapi.responses import FileResponse, HTMLResponse, Response
from starlette.exceptions import HTTPException
from starlette.staticfiles import StaticFiles
from starlette.types import Scope

from kalendor.api.problems import problem

POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self'{nonce}; img-src 'self' data: blob:; font-src 'self'; "
    "connect-src 'self'; frame-ancestors 'none'; base-uri 'none'; form-action 'self'"
)
NONCE_META = '<meta name="csp-nonce" content="{nonce}" />'
SIGN_IN_META = '<meta name="sign-in" content="needed" />'
FOREVER = {"Cache-Control": "public, max-age=31536000, immutable"}


def page_folder() -> Path:
    """The folder of the built page."""
    return Path(str(resources.files("kalendor"))) / "page"


def policy(nonce: str = "") -> str:
    """The Content-Security-Policy of an answer; styles added by script need the nonce."""
    return POLICY.format(nonce=f" 'nonce-{nonce}'" if nonce else "")


class _Assets(StaticFiles):
    """Files whose names change with their content; none if the page is not built."""

    async def check_config(self) -> None:
        if not Path(str(self.directory)).is_dir():
            raise HTTPException(404)

    async def get_response(self, path: str, scope: Scope) -> Response:
        answer = await super().get_response(path, scope)
        if answer.status_code == 200:
            answer.headers.update(FOREVER)
        return answer


def serve_page(app: FastAPI, folder: Path, signed_in: Callable[[], bool]) -> None:
    """Serve the page for every path that is not the API's; it is told whether accounts are used, so that it sends no
    requests before signing in."""
    app.mount("/assets", _Assets(directory=folder / "assets", check_dir=False))

    @app.get("/{path:path}", include_in_schema=False)
    def page(path: str) -> Response:
        if path.startswith("api/") or path == "api":
            return problem(404, f"there is no /{path}")
        file = _file_of(folder, path)
        if file is not None:
            return FileResponse(file, headers={"Cache-Control": "no-cache"})
        index = folder / "index.html"
        if not index.is_file():
            return problem(503, "the page is not built; run make page")
        nonce = secrets.token_urlsafe(16)
        told = NONCE_META.format(nonce=nonce) + (SIGN_IN_META if signed_in() else "")
        text = index.read_text("utf-8").replace("<head>", f"<head>\n    {told}", 1)
        return HTMLResponse(text, headers={"Cache-Control": "no-store", "Content-Security-Policy": policy(nonce)})


def _file_of(folder: Path, path: str) -> Path | None:
    """The page's file at a path; None if there is none, also for paths that are too long for the file system."""
    try:
        file = (folder / path.replace("\0", "")).resolve()
        found = path not in ("", "index.html") and file.is_file() and file.is_relative_to(folder.resolve())
    except OSError:
        return None
    return file if found else None
