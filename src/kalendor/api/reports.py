"""Reports, groupings and sheets over HTTP."""

import json
from collections.abc import Callable
from contextlib import AbstractContextManager, suppress
from dataclasses import dataclass, fields
from typing import Annotated, Literal, cast
from urllib.parse import urlencode

from fastapi import APIRouter, File, Response, UploadFile
from pydantic import TypeAdapter

from kalendor.api import models
from kalendor.api import sheet_models as sheets
from kalendor.api.desk import AtDesk
from kalendor.api.downloads import whole
from kalendor.api.pieces import Seen, add_pieces, as_json
from kalendor.api.revisions import Expected, tagged
from kalendor.api.sheet_view import InView, sheet_view
from kalendor.api.workers.marking import in_worker
from kalendor.api.workers.spread import continued
from kalendor.core.sheet.sheet import Sheet
from kalendor.core.trail.cell import Cell
from kalendor.core.values.keys import Key
from kalendor.definitions.report import Control, Report
from kalendor.desk import new_report
from kalendor.desk.control_files import controls_from_file
from kalendor.desk.desk import Desk
from kalendor.desk.gathered import gather, ungroup
from kalendor.desk.glances import glance
from kalendor.desk.linked.sheets import UnreadError, on_screen
from kalendor.desk.mixed import WayOut, ways_out
from kalendor.desk.narrowing import narrowed
from kalendor.desk.putting_over import Needed, needed, put_over
from kalendor.desk.renamed import Place, rename
from kalendor.desk.reports import report_at
from kalendor.desk.sentences import Shown, shown
from kalendor.desk.small_files import small_reader
from kalendor.desk.summaries import fresh_sheet, keep_summary
from kalendor.desk.trails import Found, trail_at
from kalendor.desk.warnings import warnings
from kalendor.errors import ConflictError, DefinitionError, FootingError, IntakeError, KalendorError
from kalendor.store.definitions import Stored
from kalendor.store.sources import Source

router = APIRouter(prefix="/api", tags=["reports"])
_SHOWN = TypeAdapter(Shown)


def _view(response: Response, stored: Stored) -> models.ReportView:
    tagged(response, stored.revision)
    return models.ReportView(
        id=stored.id,
        revision=stored.revision,
        saved_at=stored.saved_at,
        can_undo=stored.can_undo,
        can_redo=stored.can_redo,
        document=cast(Report, stored.body),
    )


@router.post("/controls/from-file")
def controls_of_file(desk: AtDesk, file: Annotated[UploadFile, File()]) -> list[Control]:
    """Read control totals from a delimited file or a workbook. Saves nothing."""
    return controls_from_file(file.filename or "file", whole(file), small_reader(desk))


@router.post("/reports", status_code=201, response_model_exclude_defaults=True)
def add_report(desk: AtDesk, response: Response, asked: models.NewReport) -> models.ReportView:
    """Create a report over a source, with a first figure or from a document."""
    if asked.document is None:
        return _view(response, new_report.add(desk, asked.source, asked.title))
    title = new_report.free_title(desk, asked.document.title)
    return _view(response, desk.definitions.add(asked.document.model_copy(update={"title": title}), desk.now()))


@router.patch("/reports/{id}", status_code=204)
def archive(desk: AtDesk, id: int, asked: models.Archived) -> None:
    """Archive a report, or restore it to the list."""
    report_at(desk, id)
    desk.definitions.archive(id, desk.now() if asked.archived else None)


@router.get("/reports/{id}/glance")
@in_worker
def report_glance(desk: AtDesk, id: int) -> models.GlanceView:
    """Return a report's key number and trend, or why it cannot be computed."""
    report = report_at(desk, id)
    try:
        with on_screen():
            found = glance(desk, report)
    except UnreadError:
        fault = f"open it to read what it needs of {report.source}"
        return models.GlanceView(figure="", number="", moved="", bars=[], fault=fault)
    except (DefinitionError, FootingError, IntakeError) as error:
        return models.GlanceView(figure="", number="", moved="", bars=[], fault=str(error))
    return models.GlanceView(
        figure=found.figure, number=found.number, moved=found.moved, bars=list(found.bars), fault=""
    )


@router.get("/reports/{id}/mixed", response_model_exclude_defaults=True)
@in_worker
def ways_out_of_mixed(desk: AtDesk, id: int, figure: str) -> list[WayOut]:
    """Return solutions for a figure whose amounts are in several units, such as currencies."""
    return ways_out(desk, report_at(desk, id), figure)


@router.post("/reports/tried")
@in_worker
def try_report(desk: AtDesk, document: Report) -> models.Tried:
    """Validate a report; returns what is wrong, or nothing. Saves nothing."""
    try:
        with on_screen(), suppress(UnreadError):
            fresh_sheet(desk, document)
    except KalendorError as error:
        return models.Tried(fault=str(error))
    return models.Tried(fault="")


@router.post("/reports/tried/sheet", response_model=sheets.SheetView)
@in_worker
def try_sheet(desk: AtDesk, seen: Seen, document: Report) -> Response:
    """Return the sheet of an unsaved report; 409 if much of a linked source would have to be read for it."""
    try:
        return as_json(_seen(desk, document, seen))
    except UnreadError as error:
        source = document.source
        raise ConflictError(f"{source} is a linked folder, which is read for this once the report is saved") from error


@router.get("/reports/{id}", response_model_exclude_defaults=True)
def one_report(desk: AtDesk, response: Response, id: int) -> models.ReportView:
    """Return the current revision of a report."""
    report_at(desk, id)
    return _view(response, desk.definitions.one(id))


@router.put("/reports/{id}", response_model_exclude_defaults=True)
def save_report(desk: AtDesk, response: Response, expected: Expected, id: int, document: Report) -> models.ReportView:
    """Save a new revision of a report; 412 if If-Match does not name the current one."""
    return _view(response, desk.definitions.save(id, document, desk.now(), expected))


@router.delete("/reports/{id}", status_code=204)
def remove_report(desk: AtDesk, expected: Expected, id: int) -> None:
    """Delete a report, unless a source is kept from it."""
    report_at(desk, id)
    summary = next((s.name for s in desk.sources.all() if s.report_id == id), None)
    if summary is not None:
        raise DefinitionError(f"the source {summary!r} is made from it; remove that first")
    desk.definitions.remove(id, desk.now(), expected)


@router.post("/reports/{id}/undo", response_model_exclude_defaults=True)
def undo(desk: AtDesk, response: Response, expected: Expected, id: int) -> models.ReportView:
    """Undo one change."""
    report_at(desk, id)
    return _view(response, desk.definitions.undo(id, expected))


@router.post("/reports/{id}/redo", response_model_exclude_defaults=True)
def redo(desk: AtDesk, response: Response, expected: Expected, id: int) -> models.ReportView:
    """Redo one change."""
    report_at(desk, id)
    return _view(response, desk.definitions.redo(id, expected))


@router.post("/reports/{id}/copy", status_code=201, response_model_exclude_defaults=True)
def copy(desk: AtDesk, response: Response, id: int) -> models.ReportView:
    """Copy a report under a new name."""
    return _view(response, new_report.copied(desk, report_at(desk, id)))


@router.post("/reports/{id}/edits", response_model=sheets.EditView)
def edit(
    desk: AtDesk, expected: Expected, id: int, seen: Seen, step: Literal["undo", "redo"] | None = None,
    document: Report | None = None,
) -> Response:  # fmt: skip
    """Save a change of a report, or undo or redo one, and return the resulting sheet; 412 as for PUT."""
    if (document is None) == (step is None):
        raise DefinitionError("an edit is either a document or a step, undo or redo")
    report_at(desk, id)
    if document is not None:
        stored = desk.definitions.save(id, document, desk.now(), expected)
    else:
        stored = (desk.definitions.undo if step == "undo" else desk.definitions.redo)(id, expected)
    return _edited(id, stored, seen)


@router.post("/reports/{id}/gather", response_model=sheets.EditView)
def gather_lines(desk: AtDesk, expected: Expected, id: int, seen: Seen, asked: models.Gathering) -> Response:
    """Gather lines into a category. The report and its tree are changed, and undone, together."""
    return _edited(id, gather(desk, id, asked.entry, asked.values, asked.label, expected), seen)


@router.post("/reports/{id}/rename", response_model=sheets.EditView)
def rename_line(desk: AtDesk, expected: Expected, id: int, seen: Seen, asked: models.Renaming) -> Response:
    """Rename a line or column; undone as one change."""
    place = Place(asked.entry, asked.path, asked.across)
    return _edited(id, rename(desk, id, place, asked.label, asked.every, expected), seen)


@router.post("/reports/{id}/ungroup", response_model=sheets.EditView)
def ungroup_line(desk: AtDesk, expected: Expected, id: int, seen: Seen, asked: sheets.Ungrouping) -> Response:
    """Ungroup a category: its members take its place; undone as one change."""
    return _edited(id, ungroup(desk, id, asked.entry, asked.path, expected), seen)


@router.get("/reports/{id}/over")
@in_worker
def columns_over(desk: AtDesk, id: int, source: str) -> list[Needed]:
    """List the columns a report uses, each with its most likely match in another source."""
    return needed(desk, report_at(desk, id), _source(desk, source))


@router.post("/reports/{id}/over", response_model=sheets.EditView)
def put_report_over(desk: AtDesk, expected: Expected, id: int, seen: Seen, asked: sheets.OtherSource) -> Response:
    """Move the report to another source, replacing each column as given. Can be undone."""
    body = put_over(desk, report_at(desk, id), _source(desk, asked.source), asked.columns)
    return _edited(id, desk.definitions.save(id, body, desk.now(), expected), seen)


def _source(desk: Desk, name: str) -> Source:
    source = desk.sources.named(name)
    if source is None:
        raise DefinitionError(f"there is no source named {name!r}; bring a file in first")
    return source


@router.post("/reports/{id}/sheets/{key}/narrowed")
@in_worker
def narrowed_by(desk: AtDesk, id: int, key: str, asked: sheets.Narrowing) -> sheets.ConditionView:
    """Return the condition that keeps or leaves out some lines or columns; 409 if the sheet is no longer cached."""
    report = report_at(desk, id)
    return sheets.ConditionView(sql=narrowed(desk, report, key, asked.down, asked.places, asked.depth, asked.keep))


def _edited(id: int, stored: Stored, seen: InView) -> Response:
    """The answer to a saved change: the report, its sentence and its sheet, computed by a worker."""
    report = _view(Response(), stored).model_dump_json(exclude_defaults=True, by_alias=True)
    view = urlencode({field.name: getattr(seen, field.name) for field in fields(seen)})
    return continued(f"/api/reports/{id}/saved?{view}", report.encode(), {"ETag": f'"{stored.revision}"'})


@router.post("/reports/{id}/saved", response_model=sheets.EditView, include_in_schema=False)
@in_worker
def saved(desk: AtDesk, id: int, seen: Seen, report: models.ReportView) -> Response:
    """Return a saved report with its sentence and sheet, as the answer to a change."""
    document, again = report.document, report.model_dump_json(exclude_defaults=True, by_alias=True)
    try:
        words = _SHOWN.dump_json(shown(desk, document)).decode()
    except KalendorError:
        words = "null"  # a source that cannot be read gives no sentence; the change is saved all the same
    try:
        sheet, fault = _seen(desk, document, seen).model_dump_json(), '""'
    except KalendorError as error:
        sheet, fault = "null", json.dumps(str(error))
    content = f'{{"report":{again},"sentence":{words},"sheet":{sheet},"fault":{fault}}}'
    return Response(content, media_type="application/json")


def _seen(desk: Desk, report: Report, seen: InView) -> sheets.SheetView:
    with on_screen():
        key, sheet = fresh_sheet(desk, report)
    return sheet_view(key, sheet, seen, warnings(desk, report, sheet))


@router.get("/reports/{id}/sheet", response_model=sheets.SheetView)
@in_worker
def sheet(desk: AtDesk, id: int, seen: Seen) -> Response:
    """Return a report's current sheet."""
    return as_json(_seen(desk, report_at(desk, id), seen))


@dataclass(frozen=True)
class _ReportSheet:
    """A report's current sheet (see `pieces.Shown`)."""

    desk: Desk
    id: int
    records: bool = True

    def sheet(self, key: str) -> Sheet:
        found: Sheet | None = self.desk.sheets.get(Key(key))
        return self._fresh(key)[1] if found is None else found

    def definition(self, key: str) -> Report:
        return self._fresh(key)[0]

    def _fresh(self, key: str) -> tuple[Report, Sheet]:
        report = report_at(self.desk, self.id)
        again, found = fresh_sheet(self.desk, report)
        if again != key:
            raise ConflictError("the report or its data changed since this sheet was shown; ask for the sheet again")
        return report, found

    def reading(self) -> AbstractContextManager[object]:
        return self.desk.workspace.snapshot()

    def answer(self, what: Key, make: Callable[[], bytes]) -> bytes:
        return make()

    def trail(self, key: str, cell: Cell, worded: bool, records: bool) -> Found:
        return trail_at(self.desk, report_at(self.desk, self.id), key, cell, worded)


async def _shown(desk: AtDesk, id: int) -> _ReportSheet:
    return _ReportSheet(desk, id)


add_pieces(router, "/reports/{id}", _shown)


@router.post("/reports/{id}/summary", status_code=201)
def summary(desk: AtDesk, id: int, name: str) -> models.Named:
    """Save the report's sheet as a source."""
    report_at(desk, id)
    source = keep_summary(desk, id, name)
    return models.Named(id=source.id, name=source.name)
