"""Reports, groupings and sheets over HTTP."""

from typing import Annotated, cast

from fastapi import APIRouter, File, Response, UploadFile

from kalendor.api import models
from kalendor.api.desk import AtDesk
from kalendor.api.sheet_view import cells_of, sheet_view
from kalendor.core.sheet.sheet import Sheet
from kalendor.definitions.report import Control, Report
from kalendor.desk import new_report
from kalendor.desk.control_files import controls_from_file
from kalendor.desk.desk import Desk
from kalendor.desk.summaries import fresh_sheet, keep_summary
from kalendor.errors import DefinitionError
from kalendor.output.writers import write
from kalendor.store.definitions import Stored

router = APIRouter(prefix="/api", tags=["reports"])
MEDIA = {"csv": "text/csv; charset=utf-8", "json": "application/json", "parquet": "application/vnd.apache.parquet"}


def _view(stored: Stored) -> models.ReportView:
    return models.ReportView(
        id=stored.id,
        revision=stored.revision,
        saved_at=stored.saved_at,
        can_undo=stored.can_undo,
        can_redo=stored.can_redo,
        document=cast(Report, stored.body),
    )


def _report(desk: Desk, id: int) -> Report:
    stored = desk.definitions.one(id)
    if not isinstance(stored.body, Report):
        raise DefinitionError(f"{stored.name!r} is not a report")
    return stored.body


@router.post("/controls/from-file")
async def controls_of_file(file: Annotated[UploadFile, File()]) -> list[Control]:
    """Control totals read from a delimited file or a workbook; nothing is kept."""
    return controls_from_file(file.filename or "file", await file.read())


@router.get("/reports")
def list_reports(desk: AtDesk) -> list[models.ReportLine]:
    """All reports by title."""
    found = desk.definitions.all("report")
    return [
        models.ReportLine(id=d.id, title=d.name, source=cast(Report, d.body).source, saved_at=d.saved_at) for d in found
    ]


@router.post("/reports", status_code=201, response_model_exclude_defaults=True)
def add_report(desk: AtDesk, asked: models.NewReport) -> models.ReportView:
    """A new report over a source, with a first figure to begin from."""
    return _view(new_report.add(desk, asked.source, asked.title))


@router.get("/reports/{id}", response_model_exclude_defaults=True)
def one_report(desk: AtDesk, id: int) -> models.ReportView:
    """A report as it stands."""
    return _view(desk.definitions.one(id))


@router.put("/reports/{id}", response_model_exclude_defaults=True)
def save_report(desk: AtDesk, id: int, document: Report) -> models.ReportView:
    """A new revision of a report."""
    return _view(desk.definitions.save(id, document, desk.now()))


@router.delete("/reports/{id}", status_code=204)
def remove_report(desk: AtDesk, id: int) -> None:
    """Take a report away."""
    _report(desk, id)
    desk.definitions.remove(id, desk.now())


@router.post("/reports/{id}/undo", response_model_exclude_defaults=True)
def undo(desk: AtDesk, id: int) -> models.ReportView:
    """Back by one change."""
    return _view(desk.definitions.undo(id))


@router.post("/reports/{id}/redo", response_model_exclude_defaults=True)
def redo(desk: AtDesk, id: int) -> models.ReportView:
    """On by one change."""
    return _view(desk.definitions.redo(id))


@router.post("/reports/{id}/copy", status_code=201, response_model_exclude_defaults=True)
def copy(desk: AtDesk, id: int) -> models.ReportView:
    """A copy of a report under a name of its own."""
    return _view(new_report.copied(desk, _report(desk, id)))


@router.get("/reports/{id}/sheet")
def sheet(desk: AtDesk, id: int) -> models.SheetView:
    """A report's sheet as it stands."""
    report = _report(desk, id)
    return sheet_view(*fresh_sheet(desk, report), report)


@router.post("/reports/{id}/sheets/{key}/lines")
def sheet_lines(desk: AtDesk, id: int, key: str, asked: models.LinesAsked) -> dict[int, list[str]]:
    """The cells of some lines of a sheet that was asked for before."""
    found: Sheet | None = desk.sheets.get(key)
    report = _report(desk, id)
    if found is None:
        _, found = fresh_sheet(desk, report)
    most = found.frame.lines.count
    return cells_of(found, report, [line for line in asked.lines if 0 <= line < most])


@router.get("/reports/{id}/file")
def sheet_file(desk: AtDesk, id: int, format: str = "csv", shape: str | None = None) -> Response:
    """A report's sheet to take away."""
    report = _report(desk, id)
    _, found = fresh_sheet(desk, report)
    content = write(found, format, shape)
    plain = "".join(c if c.isalnum() else "-" for c in report.title.lower()).strip("-")
    safe = plain.encode("ascii", "ignore").decode() or "sheet"
    headers = {"Content-Disposition": f'attachment; filename="{safe}.{format}"'}
    return Response(content, media_type=MEDIA.get(format, "application/octet-stream"), headers=headers)


@router.post("/reports/{id}/summary", status_code=201)
def summary(desk: AtDesk, id: int, name: str) -> models.Named:
    """The report's sheet kept as a source of its own."""
    _report(desk, id)
    source = keep_summary(desk, id, name)
    return models.Named(id=source.id, name=source.name)
