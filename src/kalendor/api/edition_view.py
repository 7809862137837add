"""Builds the response models of the board and editions."""

from collections.abc import Sequence
from dataclasses import replace
from datetime import date
from decimal import Decimal
from typing import Any

import numpy as np

from kalendor.api import edition_models as models
from kalendor.api.notation_models import NotationView
from kalendor.core.groupings.cadence_periods import Recurring
from kalendor.core.sheet.moves import Move, Place, Places
from kalendor.core.sheet.scales import places_of
from kalendor.core.sheet.sheet import ShownFigure
from kalendor.core.values.columns import day_of
from kalendor.desk.desk import Desk
from kalendor.desk.editions.board import Board, Crossing
from kalendor.desk.editions.checks import Checked
from kalendor.desk.editions.issuing import Opened
from kalendor.desk.editions.moved import Cause, Part, difference
from kalendor.desk.editions.owed import Recurs
from kalendor.desk.editions.standing import Standing
from kalendor.desk.editions.steps import Moved
from kalendor.output.shown import shown_cells, shown_number
from kalendor.store.editions import Edition

MOST_MOVED, MOST_DIGITS = 2_000, 14
BESIDE = 6


def board_view(desk: Desk, found: Board) -> models.BoardView:
    """The board, including the reasons why schedules did not issue a period."""
    why = desk.schedule_log.left()
    return models.BoardView(
        calendar=found.calendar,
        calendars=list(found.calendars),
        every=found.every,
        year=found.year,
        columns=[models.BoardColumn(label=c.label, **_days(c)) for c in found.columns],
        rows=[
            models.BoardRowView(
                id=row.id, title=row.title, cadence=row.cadence, by_itself=row.by_itself,
                cells=[[_crossing(c, why.get((row.id, _iso(c.period.last)), "")) for c in cell] for cell in row.cells],
            )
            for row in found.rows
        ],
        sources=list(found.sources),
        rest=[models.NamedReport(id=id, title=title) for id, title in found.rest],
        said=[models.SaidPart(words=words, needs=needs) for words, needs in found.said()],
        pending=sum(1 for row in found.rows for cell in row.cells for c in cell if _pending(c)),
        later=found.later,
    )  # fmt: skip


def _pending(crossing: Crossing) -> bool:
    return crossing.standing is not None and crossing.standing.moved is None and not crossing.standing.why


def _crossing(one: Crossing, why: str) -> models.CrossingView:
    edition, stands = one.edition, one.standing
    return models.CrossingView(
        label=one.period.label, sign=one.period.sign, **_days(one.period), state=one.state, due=day_of(one.due),
        edition=edition.id if edition else None, number=edition.number if edition else 0,
        moved=stands.needs if stands else None, as_is=stands.left.why if stands and stands.left else "", waits=one.waits,
        left="" if edition else why,
    )  # fmt: skip


def _days(period: Recurring) -> dict[str, date]:
    return {"first_day": day_of(period.first), "last_day": day_of(period.last)}


def _iso(day: int) -> str:
    return day_of(day).isoformat()


def checked_view(
    one: Recurs, period: Recurring, found: Checked, edition: Edition | None, stands: Standing | None
) -> models.CheckedView:
    """The checks of a report's edition for a period."""
    return models.CheckedView(
        report=one.id, title=one.report.title, label=period.label, **_days(period), due=day_of(one.due(period)),
        ready=found.ready, checks=list(found.checks),
        headline=list(found.headline), figure=found.figure, lines=list(found.lines),
        edition=edition.id if edition else None, moved=stands.moved if stands else None,
        as_is=stands.left.why if stands and stands.left else "", four_eyes=found.four_eyes,
    )  # fmt: skip


def edition_line(edition: Edition, latest: bool, stands: Standing | None = None) -> models.EditionLine:
    """An edition in a list."""
    return models.EditionLine(
        id=edition.id, report=edition.report_id, title=edition.title, label=edition.label, sign=edition.sign,
        named=edition.named, first_day=date.fromisoformat(edition.first_day), last_day=date.fromisoformat(edition.last_day),
        number=edition.number, issued_at=edition.issued_at, issued_by=edition.issued_by, sha256=edition.sha256,
        latest=latest, moved=stands.moved if stands else None,
    )  # fmt: skip


def lines_of(editions: Sequence[Edition], stands: dict[int, Standing] | None = None) -> list[models.EditionLine]:
    """Editions in a list, with the last of each period marked."""
    latest = {(e.report_id, e.first_day, e.last_day): e.id for e in editions}
    known = stands or {}
    return [edition_line(e, latest[(e.report_id, e.first_day, e.last_day)] == e.id, known.get(e.id)) for e in editions]


def edition_view(
    found: Opened, all_: Sequence[Edition], stands: Standing | None, trail: Any, beneath: str = ""
) -> models.EditionView:
    """An edition with its texts; `all_` are the visible editions of its report."""
    own, report = found.edition, found.report
    lines = lines_of(all_)
    versions = [line for line in lines if (str(line.first_day), str(line.last_day)) == (own.first_day, own.last_day)]
    standing_ = [line for line in lines if line.latest or line.id == own.id]
    at = next((i for i, line in enumerate(sorted(standing_, key=_by_day)) if line.id == own.id), 0)
    near = sorted(standing_, key=_by_day)[max(0, at - BESIDE // 2) : at + BESIDE // 2 + 1]
    return models.EditionView(
        edition=next(line for line in lines if line.id == own.id).model_copy(update={"moved": stands.moved if stands else None}),
        first_issued_at=versions[0].issued_at, as_of=day_of(found.sheet.as_of), source=report.source,
        files=found.document["files"], brief=found.document["brief"], headline=list(found.document["headline"]), short=found.short,
        layout=found.sheet.layout.model_dump(mode="json", exclude_defaults=True),
        notation=NotationView.of(found.notation), versions=versions, beside=near, trail=trail, why=stands.why if stands else "",
        beneath=beneath, prepared_by=found.document.get("prepared_by", ""), approved_by=found.document.get("approved_by", ""),
        line=found.document.get("why", ""), as_is=stands.left.why if stands and stands.left else "",
    )  # fmt: skip


def _by_day(line: models.EditionLine) -> tuple[date, int]:
    return line.last_day, line.number


def moved_view(found: Moved, shown_later: bool, earlier: str, later: str) -> models.WhatMoved:
    """The differences; positions are those of the later sheet if `shown_later`, else of the earlier."""
    first, last = found.steps[0], found.steps[-1]
    cells = []
    for move in found.cells[:MOST_MOVED]:
        at = move.after if shown_later else move.before
        line, column = at if at is not None else (None, None)
        cells.append(
            models.MovedCell(
                figure=move.place.figure, lines=_labels(move.place.line), columns=_labels(move.place.column), line=line,
                column=column, was=_text(first.places, move, False), now=_text(last.places, move, True),
            )
        )  # fmt: skip
    return models.WhatMoved(earlier=earlier, later=later, cells=cells, count=len(found.cells))


def _labels(path: Sequence[tuple[str, int]]) -> list[str]:
    return [label for label, _ in path]


def _text(places: Places, move: Move, after: bool) -> str:
    at = move.after if after else move.before
    return "" if at is None else _shown(places, move.place, at)


def _shown(places: Places, place: Place, at: tuple[int, int]) -> str:
    figure = _figure(places, place.figure)
    return "" if figure is None else shown_cells(figure, np.array([at[0] * places.sheet.columns.count + at[1]]))[0]


def _figure(places: Places, name: str) -> ShownFigure | None:
    return next((f for f in places.sheet.figures if f.name == name), None)


def moved_cell_view(found: Moved, place: Place, parts: Sequence[Part]) -> models.MovedCellView:
    """A changed cell broken down by cause."""
    first, last = found.steps[0].places, found.steps[-1].places
    was, now = (("" if (at := p.at(place)) is None else _shown(p, place, at)) for p in (first, last))
    whole = difference(first.value(place), last.value(place))
    figure = _figure(last, place.figure) or _figure(first, place.figure)
    return models.MovedCellView(
        figure=place.figure, lines=_labels(place.line), columns=_labels(place.column), was=was, now=now,
        by=_signed(whole, figure), exact=_exact(whole), parts=[_part(part, figure) for part in parts],
    )  # fmt: skip


def _part(part: Part, figure: ShownFigure | None) -> models.MovedPart:
    return models.MovedPart(
        title=part.title, kinds=list(part.kinds), by=_signed(part.by, figure), exact=_exact(part.by),
        words=list(part.words), listed=part.records,
    )  # fmt: skip


def moved_causes_view(found: Moved, causes: Sequence[Cause]) -> list[models.MovedCause]:
    """The changes of the whole sheet, by cause."""
    last = found.steps[-1].places
    return [
        models.MovedCause(
            title=cause.title, kinds=list(cause.kinds), words=list(cause.words), listed=cause.records,
            totals=[
                models.MovedTotal(figure=name, by=_signed(by, _figure(last, name)), exact=_exact(by))
                for name, by in cause.totals
            ],
        )
        for cause in causes
    ]  # fmt: skip


def _exact(value: Decimal | None) -> str | None:
    return None if value is None else f"{value:f}"


def _signed(value: Decimal | None, figure: ShownFigure | None) -> str:
    """A change in its figure's format, with its sign; a dash if nothing changed."""
    if value is None or figure is None:
        return ""
    if value == 0:
        return "–"
    text = shown_number(value, figure)
    places = places_of(figure)
    while not any(digit in text for digit in "123456789") and places < MOST_DIGITS:
        places += 1  # a change below the shown digits is not shown as nothing
        text = shown_number(value, replace(figure, format=figure.format.model_copy(update={"places": places})))
    return text if value < 0 or text.startswith("+") else f"+{text}"
