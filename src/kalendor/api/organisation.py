"""Whose a workspace is, as it stands on covers and before readers."""

from typing import Annotated

from fastapi import APIRouter
from pydantic import Field, StringConstraints

from kalendor.api.desk import AtDesk
from kalendor.api.strict import BaseModel
from kalendor.desk.packs import ORGANISATION

router = APIRouter(prefix="/api", tags=["workspace"])


class Organisation(BaseModel):
    """The organisation's name; empty for none."""

    name: Annotated[str, StringConstraints(strip_whitespace=True), Field(max_length=120)]


@router.put("/workspace")
def name_organisation(desk: AtDesk, asked: Organisation) -> Organisation:
    """Say whose the workspace is."""
    desk.workspace.tell(ORGANISATION, asked.name)
    return asked
