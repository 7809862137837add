"""Routes of the workspace: name, date, organisation, mark and notation."""

from typing import Annotated

from fastapi import APIRouter, File, UploadFile
from fastapi.responses import Response
from pydantic import Field, StringConstraints

from kalendor import VERSION
from kalendor.api.desk import AtDesk
from kalendor.api.notation_models import NotationView
from kalendor.api.strict import BaseModel
from kalendor.desk.notation import notation, set_notation
from kalendor.desk.organisation import MOST_BYTES, NAME, organisation, set_accent, set_mark
from kalendor.store.definitions import MissingError

router = APIRouter(prefix="/api", tags=["workspace"])


class WorkspaceView(BaseModel):
    """A workspace: `name` is the organisation's, by default the folder's; `accent` its colour as `#0d5a6a`, empty for
    the product's own; `marked` if it has a mark."""

    name: str
    organisation: str
    accent: str
    marked: bool
    today: str
    sources: int
    reports: int
    notation: NotationView
    version: str = ""


class WorkspacePut(BaseModel):
    """The organisation's name and accent colour (`#0d5a6a`), empty for none, and the notation of numbers and days;
    unchanged if omitted."""

    name: Annotated[str, StringConstraints(strip_whitespace=True), Field(max_length=120)] | None = None
    accent: Annotated[str, StringConstraints(strip_whitespace=True), Field(max_length=20)] | None = None
    notation: NotationView | None = None


@router.get("/workspace")
def workspace(desk: AtDesk) -> WorkspaceView:
    """Return the workspace's name, date and settings."""
    whose = organisation(desk)
    return WorkspaceView(
        name=whose.name or desk.workspace.folder.name,
        organisation=whose.name,
        accent=whose.accent,
        marked=bool(whose.mark),
        today=desk.today().isoformat(),
        sources=len(desk.sources.all()),
        reports=len(desk.definitions.all("report")),
        notation=NotationView.of(notation(desk)),
        version=VERSION,
    )


@router.put("/workspace")
def put_workspace(desk: AtDesk, asked: WorkspacePut) -> WorkspaceView:
    """Set the organisation's name, accent colour and notation. A colour without enough contrast, or an ambiguous notation, is
    refused."""
    if asked.notation is not None:
        set_notation(desk, asked.notation.chosen())
    if asked.accent is not None:
        set_accent(desk, asked.accent)
    if asked.name is not None:
        desk.workspace.tell(NAME, asked.name)
    return workspace(desk)


@router.get("/workspace/mark", response_class=Response)
def organisation_mark(desk: AtDesk, at: int = 0) -> Response:
    """Return the organisation's mark as an image; `at` keeps caches apart."""
    whose = organisation(desk)
    if not whose.mark:
        raise MissingError("no mark was given for this workspace")
    media = "image/png" if whose.kind == "png" else "image/svg+xml"
    return Response(whose.mark, media_type=media, headers={"Content-Security-Policy": "sandbox; default-src 'none'"})


@router.put("/workspace/mark", status_code=204)
def put_mark(desk: AtDesk, file: Annotated[UploadFile, File()]) -> None:
    """Set the organisation's mark (SVG or PNG) for the covers of packs."""
    set_mark(desk, file.file.read(MOST_BYTES + 1))


@router.delete("/workspace/mark", status_code=204)
def remove_mark(desk: AtDesk) -> None:
    """Delete the organisation's mark."""
    set_mark(desk, b"")
