"""Links for readers, and what a link opens. Nothing under `/api/read` changes anything."""

from contextlib import AbstractContextManager
from dataclasses import dataclass
from datetime import date
from typing import Annotated, Any

from fastapi import APIRouter, Depends, Response

from kalendor.api import edition_models as models
from kalendor.api.desk import AtDesk
from kalendor.api.downloads import attachment
from kalendor.api.edition_view import edition_view, lines_of, moved_view
from kalendor.api.pieces import Seen, add_pieces, as_json
from kalendor.api.sheet_models import SheetView
from kalendor.api.sheet_view import sheet_view
from kalendor.core.sheet.sheet import Sheet
from kalendor.core.trail.cell import Cell
from kalendor.desk.desk import Desk
from kalendor.desk.editions.handing import edition_file
from kalendor.desk.editions.issuing import opened
from kalendor.desk.editions.steps import moved
from kalendor.desk.editions.trails import edition_trail
from kalendor.desk.reports import report_at
from kalendor.desk.trails import Found
from kalendor.errors import DefinitionError
from kalendor.store.definitions import MissingError
from kalendor.store.editions import Edition
from kalendor.store.links import Link

links = APIRouter(prefix="/api", tags=["readers"])
router = APIRouter(prefix="/api/read/{secret}", tags=["readers"])


def _view(desk: Desk, link: Link, secret: str = "") -> models.LinkView:
    return models.LinkView(
        id=link.id, edition=link.edition_id, trail=link.trail, made_at=link.made_at,
        ends_on=date.fromisoformat(link.ends_on) if link.ends_on else None,
        withdrawn_at=link.withdrawn_at, open=link.open_on(desk.today()), path=f"/read/{secret}" if secret else "",
    )  # fmt: skip


@links.get("/reports/{id}/links")
def list_links(desk: AtDesk, id: int) -> list[models.LinkView]:
    """A report's links, the latest first."""
    report_at(desk, id)
    return [_view(desk, link) for link in desk.links.of(id)]


@links.post("/reports/{id}/links", status_code=201)
def make_link(desk: AtDesk, id: int, asked: models.LinkAsked) -> models.LinkView:
    """A link under which an edition, or all of a report's, can be read; its path is told this once."""
    report_at(desk, id)
    if asked.edition is not None and desk.editions.one(asked.edition).report_id != id:
        raise DefinitionError("that edition is of another report")
    if asked.ends_on is not None and asked.ends_on < desk.today():
        raise DefinitionError(f"{asked.ends_on} is past; choose a later day, or none")
    return _view(desk, *desk.links.make(id, asked.edition, asked.trail, asked.ends_on, desk.now()))


@links.delete("/links/{id}")
def withdraw_link(desk: AtDesk, id: int) -> models.LinkView:
    """Withdraw a link; it opens nothing any more."""
    return _view(desk, desk.links.withdraw(id, desk.now()))


@dataclass(frozen=True)
class _Reading:
    """What a link lets somebody read."""

    desk: Desk
    link: Link

    def editions(self) -> list[Edition]:
        """The editions that may be read."""
        own = self.desk.editions.all(self.link.report_id)
        return [e for e in own if self.link.edition_id in (None, e.id)]

    def edition(self, id: int) -> Edition:
        """One of them; MissingError for any other."""
        found = next((e for e in self.editions() if e.id == id), None)
        if found is None:
            raise MissingError("this link opens no such edition")
        return found


def _reading(desk: AtDesk, secret: str) -> _Reading:
    return _Reading(desk, desk.links.by_secret(secret, desk.today()))


Read = Annotated[_Reading, Depends(_reading)]


@router.get("")
def opens(read: Read) -> models.ReaderView:
    """What a link opens."""
    found = read.editions()
    title = found[-1].title if found else read.desk.definitions.one(read.link.report_id).name
    name = read.desk.workspace.told("name") or ""
    return models.ReaderView(title=title, workspace=name, trail=read.link.trail, editions=lines_of(found))


@router.get("/editions/{id}")
def read_edition(read: Read, id: int) -> models.EditionView:
    """An edition with its words."""
    found = opened(read.desk, read.edition(id).id)
    return edition_view(found, read.editions(), None, read.link.trail)


@router.get("/editions/{id}/sheet", response_model=SheetView)
def read_sheet(read: Read, id: int, seen: Seen) -> Response:
    """An edition's sheet as it was issued."""
    found = opened(read.desk, read.edition(id).id)
    return as_json(sheet_view(found.edition.sha256, found.sheet, seen))


@router.get("/editions/{id}/moved")
def read_moved(read: Read, id: int, against: int) -> models.WhatMoved:
    """What moved from another edition that may be read."""
    shown, other = read.edition(id), read.edition(against)
    first, last = sorted((shown, other), key=lambda e: e.id)
    return moved_view(moved(read.desk, first.id, last.id), last.id == id, first.named, last.named)


@router.get("/editions/{id}/file", response_class=Response)
def read_file(read: Read, id: int, format: str = "pdf", shape: str | None = None) -> Response:
    """An edition to take away."""
    file = edition_file(read.desk, read.edition(id).id, format, shape)
    return Response(file.content, media_type=file.media, headers={"Content-Disposition": attachment(file.name)})


@dataclass(frozen=True)
class _ReadSheet:
    """An edition's sheet as a reader may see it (see `pieces.Shown`)."""

    read: _Reading
    id: int

    @property
    def records(self) -> bool:
        return self.read.link.trail == "records"

    def sheet(self, key: str) -> Sheet:
        return opened(self.read.desk, self.read.edition(self.id).id).sheet

    def reading(self) -> AbstractContextManager[object]:
        return self.read.desk.workspace.snapshot()

    def trail(self, key: str, cell: Cell, worded: bool, records: bool) -> Found:
        if self.read.link.trail == "none" or (records and not self.records):
            raise MissingError("numbers are not explained so far under this link")
        return edition_trail(self.read.desk, opened(self.read.desk, self.read.edition(self.id).id), cell, worded)


def _shown(read: Read, id: int) -> Any:
    return _ReadSheet(read, id)


add_pieces(router, "/editions/{id}", _shown)
