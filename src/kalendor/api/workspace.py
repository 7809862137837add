"""The workspace over HTTP: its name and day, and whose it is, as it stands on covers and before readers."""

from typing import Annotated

from fastapi import APIRouter
from pydantic import Field, StringConstraints

from kalendor import VERSION
from kalendor.api.desk import AtDesk
from kalendor.api.strict import BaseModel
from kalendor.desk.packs import ORGANISATION

router = APIRouter(prefix="/api", tags=["workspace"])


class WorkspaceView(BaseModel):
    """A workspace: `name` is the organisation's, or its folder's where none was given."""

    name: str
    organisation: str
    today: str
    sources: int
    reports: int
    version: str = ""


class Organisation(BaseModel):
    """The organisation's name; empty for none."""

    name: Annotated[str, StringConstraints(strip_whitespace=True), Field(max_length=120)]


@router.get("/workspace")
def workspace(desk: AtDesk) -> WorkspaceView:
    """The workspace's name and day."""
    organisation = desk.workspace.told(ORGANISATION) or ""
    return WorkspaceView(
        name=organisation or desk.workspace.folder.name,
        organisation=organisation,
        today=desk.today().isoformat(),
        sources=len(desk.sources.all()),
        reports=len(desk.definitions.all("report")),
        version=VERSION,
    )


@router.put("/workspace")
def name_organisation(desk: AtDesk, asked: Organisation) -> Organisation:
    """Say whose the workspace is."""
    desk.workspace.tell(ORGANISATION, asked.name)
    return asked
