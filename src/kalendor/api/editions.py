"""Routes of the board and editions. No route changes or deletes an edition."""

from collections.abc import Callable
from contextlib import AbstractContextManager
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Annotated, Literal

from fastapi import APIRouter, Query, Response

from kalendor.api import edition_models as models
from kalendor.api.desk import AtDesk
from kalendor.api.downloads import attachment
from kalendor.api.edition_view import (
    board_view,
    checked_view,
    edition_line,
    edition_view,
    lines_of,
    moved_causes_view,
    moved_cell_view,
    moved_view,
)
from kalendor.api.pieces import Place as At
from kalendor.api.pieces import Seen, add_pieces, as_json
from kalendor.api.sheet_models import SheetView
from kalendor.api.sheet_view import sheet_view
from kalendor.api.workers.marking import in_worker
from kalendor.core.groupings.cadence_periods import Recurring
from kalendor.core.sheet.moves import Place, paths
from kalendor.core.sheet.sheet import Sheet
from kalendor.core.trail.cell import Cell
from kalendor.core.values.columns import day_number
from kalendor.core.values.keys import Key
from kalendor.core.values.keys import key as name
from kalendor.core.values.notation import written_in
from kalendor.definitions.report import Report
from kalendor.desk.desk import Desk
from kalendor.desk.editions.beneath import changed_beneath
from kalendor.desk.editions.board import Grain, board
from kalendor.desk.editions.checks import checked
from kalendor.desk.editions.four_eyes import approve, prepare
from kalendor.desk.editions.handing import edition_file
from kalendor.desk.editions.issuing import for_period, issue, opened
from kalendor.desk.editions.moved import causes, parts
from kalendor.desk.editions.owed import Recurs, owed, recurring_reports, recurs
from kalendor.desk.editions.restating import Dealt, leave_as_they_are, restate
from kalendor.desk.editions.schedule import sent_along, tried
from kalendor.desk.editions.standing import standing
from kalendor.desk.editions.steps import Moved, moved
from kalendor.desk.editions.trails import edition_trail
from kalendor.desk.linked.sheets import on_screen
from kalendor.desk.sheets import all_groupings
from kalendor.desk.trails import Found
from kalendor.errors import DefinitionError

router = APIRouter(prefix="/api", tags=["editions"])
Back = Annotated[int, Query(ge=0, le=200)]
SETTLED_AT_ONCE = 12


@router.get("/board")
@in_worker
def the_board(desk: AtDesk, calendar: str | None = None, every: Grain = "month", back: Back = 0) -> models.BoardView:
    """Return the board: reports by period, from what is known without comparing editions again."""
    return board_view(desk, board(desk, calendar, every, back))


@router.post("/board/settled")
def settled(desk: AtDesk, calendar: str | None = None, every: Grain = "month", back: Back = 0) -> models.BoardView:
    """Return the board with more of its editions compared with the current data; poll until none is pending."""
    return board_view(desk, board(desk, calendar, every, back, SETTLED_AT_ONCE))


def _at_period(desk: Desk, id: int, last_day: date) -> tuple[Recurs, Recurring]:
    stored = desk.definitions.one(id)
    one = recurs(stored, all_groupings(desk))
    period = one.on(day_number(last_day))
    if period.last != day_number(last_day):
        raise DefinitionError(f"no {one.cadence.every} of {one.calendar.name} ends on {last_day}")
    return one, period


@router.get("/reports/{id}/periods/{last_day}")
def period_checks(desk: AtDesk, id: int, last_day: date) -> models.CheckedView:
    """Return the checks of a report for the period that ends on a day."""
    one, period = _at_period(desk, id, last_day)
    found = checked(desk, one, period)
    editions = desk.editions.of(id, *period.days)
    with on_screen():
        stands = standing(desk, editions[-1:]) if editions else {}
    last = editions[-1] if editions else None
    return checked_view(one, period, found, last, stands.get(last.id) if last else None)


@router.post("/reports/{id}/periods/{last_day}/issue", status_code=201)
def issue_edition(desk: AtDesk, response: Response, id: int, last_day: date) -> models.IssuedView:
    """Issue a report for the period that ends on a day: 201, or 200 if the existing edition says the same."""
    one, period = _at_period(desk, id, last_day)
    if last_day >= desk.today():
        raise DefinitionError(f"{period.label} ends on {last_day}, and has not ended yet; issue it then")
    done = issue(desk, one.id, period)
    sent_along(desk, one, done)
    response.status_code = 201 if done.fresh else 200
    return models.IssuedView(edition=edition_line(done.edition, True), fresh=done.fresh)


@router.post("/reports/{id}/periods/{last_day}/prepare")
def prepare_edition(desk: AtDesk, id: int, last_day: date) -> models.CheckedView:
    """Mark an edition as prepared, waiting for another account's approval."""
    one, period = _at_period(desk, id, last_day)
    prepare(desk, one, period, for_period(one.report, period))
    return period_checks(desk, id, last_day)


@router.post("/reports/{id}/periods/{last_day}/approve")
def approve_edition(desk: AtDesk, id: int, last_day: date) -> models.CheckedView:
    """Approve an edition that another account prepared; whatever changed since must be prepared again."""
    one, period = _at_period(desk, id, last_day)
    approve(desk, one, period, for_period(one.report, period))
    return period_checks(desk, id, last_day)


@router.post("/board/issue-ready")
def issue_ready(desk: AtDesk) -> list[models.IssueOutcome]:
    """Issue every edition that is due and passes its checks; return the reason for each one that was not issued."""
    today = day_number(desk.today())
    issued = desk.editions.latest()
    found = []
    reports, unclear = recurring_reports(desk)
    for one in reports:
        for period in owed(one, list(issued.values()), today):
            if (one.id, *period.days) not in issued:
                outcome = tried(desk, one, period)
                edition = outcome.edition.id if outcome.edition else None
                found.append(
                    models.IssueOutcome(
                        title=outcome.report, label=period.label, edition=edition, reason=outcome.reason
                    )
                )
    return [*found, *(models.IssueOutcome(title=one.title, label="", reason=one.why) for one in unclear)]


@router.post("/board/restate")
def restate_moved(desk: AtDesk, body: models.WithALine) -> list[models.IssueOutcome]:
    """Restate moved editions, with a reason; return the outcome of each."""
    return [_dealt(one) for one in restate(desk, body.editions, body.why)]


@router.post("/board/left")
def leave_moved(desk: AtDesk, body: models.WithALine) -> list[models.IssueOutcome]:
    """Acknowledge moved editions without issuing them again, with a reason, until they move again."""
    return [_dealt(one) for one in leave_as_they_are(desk, body.editions, body.why)]


def _dealt(one: Dealt) -> models.IssueOutcome:
    edition = one.restated.id if one.restated else None
    return models.IssueOutcome(title=one.edition.title, label=one.edition.label, edition=edition, reason=one.reason)


@router.post("/reports/{id}/past")
def issue_past(desk: AtDesk, id: int, since: date) -> list[models.IssueOutcome]:
    """Issue a report for every period since a day that has ended and has no edition yet."""
    one = recurs(desk.definitions.one(id), all_groupings(desk))
    wanted = Recurs(one.id, one.report, one.cadence.model_copy(update={"since": since}), one.calendar, one.holidays)
    if since < desk.today() - timedelta(days=366 * 20):
        raise DefinitionError(f"{since} is more than twenty years ago; begin later")
    issued = desk.editions.latest()
    found = []
    for period in owed(wanted, [], day_number(desk.today())):
        if (one.id, *period.days) not in issued:
            done = issue(desk, one.id, period)
            found.append(models.IssueOutcome(title=one.report.title, label=period.label, edition=done.edition.id))
    return found


@router.get("/schedules/log")
def schedule_log(desk: AtDesk) -> list[models.LogLine]:
    """List what schedules did, latest first."""
    return [
        models.LogLine(at=one.at, report=one.report_id, label=one.label, outcome=one.outcome, reason=one.reason)
        for one in desk.schedule_log.latest()
    ]


@router.get("/editions")
def list_editions(desk: AtDesk, report: int | None = None) -> list[models.EditionLine]:
    """List all editions, or those of a report, in the order they were issued."""
    return lines_of(desk.editions.all(report))


@router.get("/editions/{id}")
@in_worker
def one_edition(desk: AtDesk, id: int) -> models.EditionView:
    """Return an edition with its headline and brief."""
    found = opened(desk, id)
    with on_screen():
        stands = standing(desk, [found.edition])[id]
    with written_in(found.notation):
        beneath = changed_beneath(desk, found)
        return edition_view(found, desk.editions.all(found.edition.report_id), stands, "records", beneath)


@router.get("/editions/{id}/sheet", response_model=SheetView)
@in_worker
def edition_sheet(desk: AtDesk, id: int, seen: Seen) -> Response:
    """Return an edition's sheet as it was issued."""
    found = opened(desk, id)
    with written_in(found.notation):
        return as_json(sheet_view(found.edition.sha256, found.sheet, seen))


@router.get("/editions/{id}/document", response_class=Response)
def edition_document(desk: AtDesk, id: int) -> Response:
    """Return an edition's document: exactly the bytes that its SHA-256 is computed from."""
    edition = desk.editions.one(id)
    headers = {"Content-Disposition": attachment(f"{edition.title} {edition.last_day} {edition.number}.json")}
    return Response(desk.editions.text(id), media_type="application/json", headers=headers)


@router.get("/editions/{id}/file", response_class=Response)
@in_worker
def edition_as_file(desk: AtDesk, id: int, format: str = "pdf", shape: str | None = None) -> Response:
    """Export an edition as a file."""
    file = edition_file(desk, id, format, shape)
    return Response(file.content, media_type=file.media, headers={"Content-Disposition": attachment(file.name)})


@dataclass(frozen=True)
class _Compared:
    """Two sheets compared, and which of them is the one that is shown."""

    found: Moved
    shown_later: bool
    earlier: str
    later: str


def _compared(desk: Desk, id: int, against: int | None) -> _Compared:
    shown = desk.editions.one(id)
    if against is None:
        return _Compared(moved(desk, id, None), False, shown.named, "now")
    other = desk.editions.one(against)
    first, last = sorted((shown, other), key=lambda e: e.id)
    return _Compared(moved(desk, first.id, last.id), last.id == id, first.named, last.named)


@router.get("/editions/{id}/moved")
@in_worker
def what_moved(desk: AtDesk, id: int, against: int | None = None) -> models.WhatMoved:
    """Return the cells that differ between an edition and another one, or the current sheet."""
    one = _compared(desk, id, against)
    return moved_view(one.found, one.shown_later, one.earlier, one.later)


@router.get("/editions/{id}/moved/causes")
@in_worker
def why_it_moved(desk: AtDesk, id: int, against: int | None = None) -> list[models.MovedCause]:
    """Return what each cause changed on the whole sheet, with all late records in one list."""
    one = _compared(desk, id, against)
    return moved_causes_view(one.found, causes(desk, one.found))


@router.get("/editions/{id}/moved/cell")
@in_worker
def what_moved_in(
    desk: AtDesk,
    id: int,
    figure: str,
    line: At = 0,
    column: At = 0,
    against: int | None = None,
    on: Literal["shown", "other"] = "shown",
) -> models.MovedCellView:
    """Split a cell's change by cause. Line and column are those of the edition's sheet, or with `on=other` of the sheet it is
    compared with."""
    one = _compared(desk, id, against)
    steps = one.found.steps
    sheet = (steps[-1] if one.shown_later == (on == "shown") else steps[0]).sheet
    if not (line < sheet.lines.count and column < sheet.columns.count):
        raise DefinitionError("there is no such line or column on the sheet")
    place = Place(figure, paths(sheet.lines)[line], paths(sheet.columns)[column])
    return moved_cell_view(one.found, place, parts(desk, one.found, place))


@dataclass(frozen=True)
class EditionSheet:
    """An edition's sheet (see `pieces.Shown`)."""

    desk: Desk
    id: int
    records: bool = True

    def sheet(self, key: str) -> Sheet:
        """The sheet as issued, whatever the key: it never changes."""
        return opened(self.desk, self.id).sheet

    def definition(self, key: str) -> Report:
        """The report as it was issued."""
        return opened(self.desk, self.id).report

    def reading(self) -> AbstractContextManager[object]:
        """A snapshot, in the edition's notation."""
        return opened(self.desk, self.id).reading(self.desk)

    def answer(self, what: Key, make: Callable[[], bytes]) -> bytes:
        """Cacheable, since an edition never changes."""
        return self.desk.answers(name("edition", self.desk.editions.one(self.id).sha256, what), make)

    def trail(self, key: str, cell: Cell, worded: bool, records: bool) -> Found:
        """A number explained from the records at that time."""
        return edition_trail(self.desk, opened(self.desk, self.id), cell, worded)


async def _shown(desk: AtDesk, id: int) -> EditionSheet:
    return EditionSheet(desk, id)


add_pieces(router, "/editions/{id}", _shown)
