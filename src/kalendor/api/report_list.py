"""Routes of the list of reports: kind, owner, and the caller's own marks."""

from typing import Annotated, cast

from fastapi import APIRouter
from pydantic import Field, StringConstraints

from kalendor.api import models
from kalendor.api.desk import AtDesk
from kalendor.api.strict import BaseModel
from kalendor.definitions.report import Report
from kalendor.desk.reports import report_at, said

router = APIRouter(prefix="/api", tags=["reports"])

Mark = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=40)]


class MarksPut(BaseModel):
    """The new marks of a report."""

    names: Annotated[list[Mark], Field(max_length=20)]


@router.get("/reports")
def list_reports(desk: AtDesk) -> list[models.ReportLine]:
    """List all reports by title."""
    marks, makers = desk.marks.all(), desk.definitions.made_by("report")
    return [
        models.ReportLine(
            id=d.id,
            title=d.name,
            source=body.source,
            saved_at=d.saved_at,
            archived=d.archived,
            said=said(desk, d),
            made_by=makers.get(d.id, ""),
            marks=marks.get(d.id, []),
        )
        for d in desk.definitions.all("report")
        for body in [cast(Report, d.body)]
    ]


@router.put("/reports/{id}/marks", status_code=204)
def put_marks(desk: AtDesk, id: int, asked: MarksPut) -> None:
    """Set your own marks on a report; nobody else sees them."""
    report_at(desk, id)
    desk.marks.put(id, asked.names)
