"""Routes for parts of a sheet (lines, trails, records), shared by reports, editions and what readers may see."""

from collections.abc import Callable
from contextlib import AbstractContextManager
from typing import Annotated, Any, Protocol

from fastapi import APIRouter, Depends, Query, Response

from kalendor.api import sheet_models as sheets
from kalendor.api import trail_models as trails
from kalendor.api.downloads import attachment
from kalendor.api.sheet_view import InView, chosen_view, like_view, lines_view, listed_records
from kalendor.api.strict import BaseModel
from kalendor.api.trail_view import drivers_view, records_view, trail_view
from kalendor.api.workers.marking import in_worker
from kalendor.core.sheet.sheet import Sheet
from kalendor.core.trail.cell import Cell
from kalendor.core.values.keys import Key
from kalendor.core.values.keys import key as name
from kalendor.definitions.report import Report
from kalendor.desk.trails import Found
from kalendor.output.trail_file import records_csv

MOST_AT_ONCE = 500
Place = Annotated[int, Query(ge=0, le=2**31)]


class Shown(Protocol):
    """A sheet that is shown somewhere; `records`: the individual records behind its numbers may be seen."""

    @property
    def records(self) -> bool: ...

    def sheet(self, key: str) -> Sheet:
        """The sheet with that key; ConflictError if it is no longer cached or was changed."""
        ...

    def definition(self, key: str) -> Report:
        """The report of the sheet with that key; ConflictError if it was changed."""
        ...

    def reading(self) -> AbstractContextManager[object]:
        """A snapshot for everything that is read in it."""
        ...

    def answer(self, what: Key, make: Callable[[], bytes]) -> bytes:
        """An answer about the sheet, cacheable if it never changes."""
        ...

    def trail(self, key: str, cell: Cell, worded: bool, records: bool) -> Found:
        """The trail of one of its cells; ConflictError if the sheet is no longer cached, MissingError if it may not be
        seen. `records`: including its individual records."""
        ...


async def in_view(
    at: Annotated[int, Query(ge=0)] = 0,
    open: Annotated[int, Query(ge=0)] = 99,
    first: Annotated[int, Query(ge=0)] = 0,
    columns: Annotated[int, Query(ge=0)] = 0,
) -> InView:
    """The part of the sheet in the page's view: the row at the top, how far it is opened, and the columns (0: all)."""
    return InView(at, open, first, columns)


Seen = Annotated[InView, Depends(in_view)]


def as_json(view: BaseModel) -> Response:
    """A model as JSON, without validating it again."""
    return Response(view.model_dump_json(), media_type="application/json")


def add_pieces(router: APIRouter, prefix: str, found: Callable[..., Any]) -> None:
    """Add the routes for parts of the sheets under a path; `found` is the dependency that gives the sheet shown there."""
    path = prefix + "/sheets/{key}"
    for add in (_add_lines, _add_trail, _add_records):
        add(router, path, Depends(found))


def _add_lines(router: APIRouter, path: str, found: Any) -> None:
    @router.post(f"{path}/lines", response_model=sheets.LinesView)
    @in_worker
    def sheet_lines(key: str, asked: sheets.LinesAsked, shown: Shown = found) -> Response:
        """Return the cells of some lines of a sheet that was requested before; 409 if that sheet is no longer cached."""
        return as_json(lines_view(shown.sheet(key), asked))

    @router.post(f"{path}/listed")
    @in_worker
    def sheet_listed(key: str, asked: sheets.ListedAsked, shown: Shown = found) -> list[list[str]]:
        """Return some of the records listed under a line, one text for each column. 409 as for lines."""
        return listed_records(shown.sheet(key), asked)

    @router.post(f"{path}/chosen")
    @in_worker
    def sheet_chosen(key: str, asked: sheets.ChosenAsked, shown: Shown = found) -> sheets.ChosenView:
        """Add up a block of cells exactly, and return it as text to copy. 409 as for lines."""
        return chosen_view(shown.sheet(key), asked)

    @router.post(f"{path}/like")
    @in_worker
    def sheet_like_periods(key: str, asked: sheets.LikeAsked, shown: Shown = found) -> sheets.LikeView:
        """Return the latest period's numbers and what they are compared with. 409 as for lines."""
        return like_view(shown.definition(key), shown.sheet(key), asked)


def _add_trail(router: APIRouter, path: str, found: Any) -> None:
    @router.get(f"{path}/trail", response_model=trails.TrailView)
    @in_worker
    def trail(key: str, figure: str, line: Place = 0, column: Place = 0, shown: Shown = found) -> Response:
        """Explain a number; 409 if the sheet is no longer cached."""

        def told() -> bytes:
            with shown.reading():
                view = trail_view(shown.trail(key, Cell(figure, line, column), True, False))
            return (view if shown.records else view.model_copy(update={"first": None})).model_dump_json().encode()

        return Response(shown.answer(name("trail", figure, line, column), told), media_type="application/json")

    @router.get(f"{path}/drivers")
    @in_worker
    def drivers(
        key: str, figure: str, line: Place = 0, column: Place = 0, shown: Shown = found
    ) -> list[trails.DriversView]:
        """Split a change by each column that allows it; empty for figures that are not the change of a sum."""
        with shown.reading():
            return drivers_view(shown.trail(key, Cell(figure, line, column), False, False).trail)


def _add_records(router: APIRouter, path: str, found: Any) -> None:
    @router.get(f"{path}/records")
    @in_worker
    def records(
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
        shown: Shown = found,
    ) -> trails.RecordsView:
        """Return a page of the records behind a number, sorted and filtered by a search text."""
        with shown.reading():
            known = shown.trail(key, Cell(figure, line, column), False, True)
            return records_view(known, part, start, count, sort, desc, search)

    @router.get(f"{path}/records/file", response_class=Response)
    @in_worker
    def records_file(key: str, figure: str, line: Place = 0, column: Place = 0, shown: Shown = found) -> Response:
        """Export all records behind a number as delimited text, in file order."""
        with shown.reading():
            known = shown.trail(key, Cell(figure, line, column), False, True).listing()
            content = records_csv(known.trail, known.origins, list(known.trail.records.columns))
        file = attachment(f"{known.trail.report.title} {figure} records.csv")
        return Response(content, media_type="text/csv; charset=utf-8", headers={"Content-Disposition": file})
