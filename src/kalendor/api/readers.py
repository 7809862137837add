"""Routes of links for readers, of what a link opens, and of what readers with an account see.

Routes under `/api/read` and `/api/published` change nothing.
"""

from collections.abc import Callable
from contextlib import AbstractContextManager
from dataclasses import dataclass
from datetime import date
from typing import Any, Protocol, cast

from fastapi import APIRouter, Depends, Response

from kalendor.api import edition_models as models
from kalendor.api.caching import Digest
from kalendor.api.desk import AtDesk
from kalendor.api.downloads import attachment
from kalendor.api.edition_view import edition_view, lines_of, moved_view
from kalendor.api.pieces import Seen, add_pieces
from kalendor.api.sheet_models import SheetView
from kalendor.api.sheet_view import sheet_view
from kalendor.api.workers.marking import in_worker
from kalendor.core.sheet.sheet import Sheet
from kalendor.core.trail.cell import Cell
from kalendor.core.values.keys import Key
from kalendor.core.values.keys import key as name
from kalendor.core.values.notation import written_in
from kalendor.definitions.recurring import Readers
from kalendor.definitions.report import Report
from kalendor.desk.desk import Desk
from kalendor.desk.editions.handing import edition_file
from kalendor.desk.editions.issuing import opened
from kalendor.desk.editions.steps import moved
from kalendor.desk.editions.trails import edition_trail
from kalendor.desk.reports import report_at
from kalendor.desk.trails import Found
from kalendor.errors import DefinitionError
from kalendor.store.definitions import MissingError, Stored
from kalendor.store.editions import Edition
from kalendor.store.links import Depth, Link

links = APIRouter(prefix="/api", tags=["readers"])
router = APIRouter(prefix="/api/read/{secret}", tags=["readers"])
published = APIRouter(prefix="/api/published", tags=["readers"])


def _view(desk: Desk, link: Link, secret: str = "") -> models.LinkView:
    return models.LinkView(
        id=link.id, edition=link.edition_id, trail=link.trail, made_at=link.made_at,
        ends_on=date.fromisoformat(link.ends_on) if link.ends_on else None,
        withdrawn_at=link.withdrawn_at, open=link.open_on(desk.today()), path=f"/read/{secret}" if secret else "",
    )  # fmt: skip


@links.get("/reports/{id}/links")
def list_links(desk: AtDesk, id: int) -> list[models.LinkView]:
    """List a report's links, latest first."""
    report_at(desk, id)
    return [_view(desk, link) for link in desk.links.of(id)]


@links.post("/reports/{id}/links", status_code=201)
def make_link(desk: AtDesk, id: int, asked: models.LinkAsked) -> models.LinkView:
    """Create a link to an edition, or to all editions of a report. Its path is returned only here."""
    report_at(desk, id)
    if asked.edition is not None and desk.editions.one(asked.edition).report_id != id:
        raise DefinitionError("that edition is of another report")
    if asked.ends_on is not None and asked.ends_on < desk.today():
        raise DefinitionError(f"{asked.ends_on} is past; choose a later day, or none")
    return _view(desk, *desk.links.make(id, asked.edition, asked.trail, asked.ends_on, desk.now()))


@links.delete("/links/{id}")
def withdraw_link(desk: AtDesk, id: int) -> models.LinkView:
    """Revoke a link."""
    return _view(desk, desk.links.withdraw(id, desk.now()))


class Reading(Protocol):
    """What a caller may read: a link's editions, or those issued for everyone with an account."""

    @property
    def desk(self) -> Desk: ...

    def editions(self) -> list[Edition]:
        """The editions that may be read."""
        ...

    def depth(self, edition: Edition) -> Depth:
        """The depth to which numbers of an edition are explained."""
        ...

    def view(self) -> models.ReaderView:
        """What may be read, listed."""
        ...


def allowed(reading: Reading, id: int) -> Edition:
    """One of the editions that may be read; MissingError for any other."""
    found = next((e for e in reading.editions() if e.id == id), None)
    if found is None:
        raise MissingError("there is no such edition to be read here")
    return found


@dataclass(frozen=True)
class _ByLink:
    """The editions of a link."""

    desk: Desk
    link: Link

    def editions(self) -> list[Edition]:
        own = self.desk.editions.all(self.link.report_id)
        return [e for e in own if self.link.edition_id in (None, e.id)]

    def depth(self, edition: Edition) -> Depth:
        return self.link.trail

    def view(self) -> models.ReaderView:
        found = self.editions()
        title = found[-1].title if found else self.desk.definitions.one(self.link.report_id).name
        name = self.desk.workspace.told("name") or ""
        return models.ReaderView(title=title, workspace=name, trail=self.link.trail, editions=lines_of(found))


@dataclass(frozen=True)
class _Issued:
    """The issued editions, as far as each report shows them to readers."""

    desk: Desk

    def editions(self) -> list[Edition]:
        shown = {stored.id for stored in self.desk.definitions.all("report") if _readers(stored) != "nothing"}
        return [edition for edition in self.desk.editions.all() if edition.report_id in shown]

    def depth(self, edition: Edition) -> Depth:
        return DEPTHS[_readers(self.desk.definitions.one(edition.report_id))]

    def view(self) -> models.ReaderView:
        name = self.desk.workspace.told("name") or ""
        return models.ReaderView(
            title="Issued reports", workspace=name, trail="words", editions=lines_of(self.editions())
        )


DEPTHS: dict[Readers, Depth] = {"nothing": "none", "numbers": "none", "words": "words", "records": "records"}


def _readers(stored: Stored) -> Readers:
    delivery = cast(Report, stored.body).delivery
    return delivery.readers if delivery is not None else "words"


def _by_link(desk: AtDesk, secret: str) -> Reading:
    return _ByLink(desk, desk.links.by_secret(secret, desk.today()))


async def _issued(desk: AtDesk) -> Reading:
    return _Issued(desk)


@dataclass(frozen=True)
class _ReadSheet:
    """An edition's sheet as a reader may see it (see `pieces.Shown`)."""

    read: Reading
    id: int

    @property
    def _edition(self) -> Edition:
        return allowed(self.read, self.id)

    @property
    def records(self) -> bool:
        return self.read.depth(self._edition) == "records"

    def sheet(self, key: str) -> Sheet:
        return opened(self.read.desk, self._edition.id).sheet

    def definition(self, key: str) -> Report:
        return opened(self.read.desk, self._edition.id).report

    def reading(self) -> AbstractContextManager[object]:
        return opened(self.read.desk, self._edition.id).reading(self.read.desk)

    def answer(self, what: Key, make: Callable[[], bytes]) -> bytes:
        edition = self._edition
        return self.read.desk.answers(name("read", edition.sha256, self.read.depth(edition), what), make)

    def trail(self, key: str, cell: Cell, worded: bool, records: bool) -> Found:
        if self.read.depth(self._edition) == "none" or (records and not self.records):
            raise MissingError("numbers are not explained so far to readers")
        return edition_trail(self.read.desk, opened(self.read.desk, self._edition.id), cell, worded)


def _add_taking_away(router: APIRouter, read_by: Any, named: Any) -> None:
    """Add the routes for differences between editions, and for exports."""

    @router.get("/editions/{id}/moved", dependencies=[named])
    @in_worker
    def read_moved(id: int, against: int, read: Reading = read_by) -> models.WhatMoved:
        """Return the cells that differ from another edition that may be read."""
        shown, other = allowed(read, id), allowed(read, against)
        first, last = sorted((shown, other), key=lambda e: e.id)
        return moved_view(moved(read.desk, first.id, last.id), last.id == id, first.named, last.named)

    @router.get("/editions/{id}/file", response_class=Response, dependencies=[named])
    @in_worker
    def read_file(id: int, format: str = "pdf", shape: str | None = None, read: Reading = read_by) -> Response:
        """Export an edition as a file."""
        file = edition_file(read.desk, allowed(read, id).id, format, shape)
        return Response(file.content, media_type=file.media, headers={"Content-Disposition": attachment(file.name)})


def _add_reading(router: APIRouter, reading: Callable[..., Any]) -> None:
    """Add the routes for reading the editions that `reading` allows; none of them changes anything."""
    read_by = Depends(reading)

    def check_digest(id: int, digest: Digest = None, read: Reading = read_by) -> None:
        if digest is not None and allowed(read, id).sha256 != digest:
            raise MissingError("the edition has another SHA-256; open it from the list of editions")

    named = Depends(check_digest)

    @router.get("")
    def opens(read: Reading = read_by) -> models.ReaderView:
        """List the editions that may be read."""
        return read.view()

    @router.get("/editions/{id}")
    def read_edition(id: int, read: Reading = read_by) -> models.EditionView:
        """Return an edition with its headline and brief."""
        own = allowed(read, id)
        beside = [edition for edition in read.editions() if edition.report_id == own.report_id]
        found = opened(read.desk, id)
        with written_in(found.notation):
            return edition_view(found, beside, None, read.depth(own))

    _add_sheet(router, read_by, named)
    _add_taking_away(router, read_by, named)

    async def shown(id: int, read: Reading = read_by, _: None = named) -> Any:
        return _ReadSheet(read, id)

    add_pieces(router, "/editions/{id}", shown)


def _add_sheet(router: APIRouter, read_by: Any, named: Any) -> None:
    """Add the route for an edition's sheet."""

    @router.get("/editions/{id}/sheet", response_model=SheetView, dependencies=[named])
    def read_sheet(id: int, seen: Seen, read: Reading = read_by) -> Response:
        """Return an edition's sheet as it was issued."""
        edition = allowed(read, id)

        def told() -> bytes:
            found = opened(read.desk, id)
            with written_in(found.notation):
                return sheet_view(found.edition.sha256, found.sheet, seen).model_dump_json().encode()

        kept = read.desk.answers(name("read sheet", edition.sha256, seen.at, seen.open, seen.first, seen.columns), told)
        return Response(kept, media_type="application/json")


_add_reading(router, _by_link)
_add_reading(published, _issued)
