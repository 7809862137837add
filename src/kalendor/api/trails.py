"""The trail of a number over HTTP: its explanation, its records, and what drove a change."""

from typing import Annotated

from fastapi import APIRouter, Query, Response

from kalendor.api import trail_models as models
from kalendor.api.desk import AtDesk
from kalendor.api.downloads import attachment
from kalendor.api.trail_view import drivers_view, records_view, trail_view
from kalendor.core.trail.cell import Cell
from kalendor.desk.desk import Desk
from kalendor.desk.reports import report_at
from kalendor.desk.trails import Found, trail_at
from kalendor.output.trail_file import records_csv

router = APIRouter(prefix="/api/reports/{id}/sheets/{key}", tags=["trail"])
MOST_AT_ONCE = 500
Place = Annotated[int, Query(ge=0, le=2**31)]


def _found(desk: Desk, id: int, key: str, cell: Cell, worded: bool = False) -> Found:
    return trail_at(desk, report_at(desk, id), key, cell, worded)


@router.get("/trail")
def trail(desk: AtDesk, id: int, key: str, figure: str, line: Place = 0, column: Place = 0) -> models.TrailView:
    """A number explained; 409 where the sheet is no longer at hand as it was."""
    with desk.workspace.snapshot():
        return trail_view(_found(desk, id, key, Cell(figure, line, column), worded=True))


@router.get("/drivers")
def drivers(
    desk: AtDesk, id: int, key: str, figure: str, line: Place = 0, column: Place = 0
) -> list[models.DriversView]:
    """What drove a change, by each column that can tell; empty for figures that are no change of a sum."""
    with desk.workspace.snapshot():
        return drivers_view(_found(desk, id, key, Cell(figure, line, column)).trail)


@router.get("/records")
def records(
    desk: AtDesk,
    id: int,
    key: str,
    figure: str,
    line: Place = 0,
    column: Place = 0,
    part: str = "",
    start: Place = 0,
    count: Annotated[int, Query(ge=1, le=MOST_AT_ONCE)] = 100,
    sort: str | None = None,
    desc: bool = False,
    search: str = "",
) -> models.RecordsView:
    """Some of the records behind a number, in an order of choice, those alone in which a text stands."""
    with desk.workspace.snapshot():
        found = _found(desk, id, key, Cell(figure, line, column))
        return records_view(found, part, start, count, sort, desc, search)


@router.get("/records/file")
def records_file(desk: AtDesk, id: int, key: str, figure: str, line: Place = 0, column: Place = 0) -> Response:
    """All records behind a number as delimited text, in the order in which they came."""
    with desk.workspace.snapshot():
        found = _found(desk, id, key, Cell(figure, line, column))
        content = records_csv(found.trail, found.origins, list(found.trail.records.columns))
    name = f"{found.trail.report.title} {figure} records.csv"
    return Response(content, media_type="text/csv; charset=utf-8", headers={"Content-Disposition": attachment(name)})
