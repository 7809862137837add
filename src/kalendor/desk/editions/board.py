"""The board: reports by the periods of a calendar, the state of each edition, and how far the sources are filled."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal, cast

import numpy as np

from kalendor.core.groupings.cadence_periods import Recurring, period_before, period_on, periods_before
from kalendor.core.groupings.calendars import Calendar
from kalendor.core.groupings.ground import CIVIL
from kalendor.core.values.columns import day_number
from kalendor.definitions.recurring import Cadence
from kalendor.definitions.report import Report
from kalendor.desk.desk import Desk
from kalendor.desk.editions.coverage import Cover, Covers, cover, filling
from kalendor.desk.editions.owed import Recurs, owed, recurring_reports
from kalendor.desk.editions.standing import Standing, standing
from kalendor.desk.ingredients import looked_up_by
from kalendor.desk.linked.sheets import on_screen
from kalendor.desk.sheets import all_groupings
from kalendor.errors import KalendorError
from kalendor.store.editions import Edition
from kalendor.store.sources import Source

State = Literal["issued", "restated", "due", "late", "waiting", "past", "open"]
Grain = Literal["week", "month", "quarter", "year"]
LEAST, MOST = {"week": 8, "month": 6, "quarter": 6, "year": 4}, {"week": 13, "month": 13, "quarter": 8, "year": 6}
EVERY = {"week": "weekly", "month": "monthly", "quarter": "quarterly", "half": "half-yearly", "year": "yearly"}
NUMBERS = ("no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve")


@dataclass(frozen=True)
class Crossing:
    """A report's period: the state of its edition, the latest edition, when it is due, and why it waits."""

    period: Recurring
    state: State
    due: int
    edition: Edition | None = None
    standing: Standing | None = None
    waits: str = ""


@dataclass(frozen=True)
class Row:
    """A report on the board: for each column of the board, the periods that end in it; `cadence` in words, or why its
    periods are unknown."""

    id: int
    title: str
    cadence: str
    by_itself: bool
    cells: tuple[tuple[Crossing, ...], ...]


@dataclass(frozen=True)
class SourceRow:
    """A source on the board: for each column how far it is filled; `of` is the date column used."""

    id: int
    name: str
    of: str
    cells: tuple[Cover, ...]


@dataclass(frozen=True)
class Board:
    """Reports by period. `columns` are the periods of the calendar up to the one that ended last; `rest` are the titles
    of reports without a cadence, by id."""

    calendar: str
    calendars: tuple[str, ...]
    every: Grain
    year: str
    columns: tuple[Recurring, ...]
    rows: tuple[Row, ...]
    sources: tuple[SourceRow, ...]
    rest: tuple[tuple[int, str], ...]
    later: bool

    def said(self) -> list[tuple[str, bool]]:
        """The state in parts of one sentence, and which of them need somebody to act."""
        all_ = [crossing for row in self.rows for cell in row.cells for crossing in cell]
        states = [c.state for c in all_]
        moved = sum(1 for c in all_ if c.standing is not None and c.standing.needs)
        found = [
            (_counted(states.count("due"), "edition is due", "editions are due"), True),
            (_counted(states.count("late"), "is late", "are late"), True),
            (_counted(states.count("waiting"), "waits for its source", "wait for their sources"), False),
            (_counted(moved, "issued edition has moved since", "issued editions have moved since"), False),
        ]
        return [(words, needs) for words, needs in found if words]


def _counted(n: int, one: str, more: str) -> str:
    number = NUMBERS[n] if n < len(NUMBERS) else str(n)
    return "" if not n else f"{number} {one if n == 1 else more}"


def board(desk: Desk, calendar: str | None = None, every: Grain = "month", back: int = 0, work: int = 0) -> Board:
    """The board of a calendar (default: that of most reports), `back` times as many periods ago as it shows; `work`
    limits how many editions are compared with the current data on the way.

    Raises DefinitionError for a calendar that does not exist.
    """
    with desk.workspace.snapshot():
        known = all_groupings(desk)
        reports, unclear = recurring_reports(desk)
        name = calendar or _usual_calendar(reports)
        chosen = known.calendar(None if name == CIVIL else name)
        today = day_number(desk.today())
        columns = _columns(chosen, every, today, back)
        issued = desk.editions.latest()
        everything = list(issued.values())
        sources = {source.name.casefold(): source for source in desk.sources.all()}
        with_cadence = {one.id for one in reports} | {one.id for one in unclear}
        stored = desk.definitions.all("report")
        rest = [(d.id, d.name) for d in stored if not d.archived and d.id not in with_cadence]
        by_report: dict[int, list[Edition]] = {}
        for edition in everything:
            by_report.setdefault(edition.report_id, []).append(edition)
        covers = Covers(desk, sources, today)
        crossings = [
            _crossings(one, columns, issued, by_report.get(one.id, []), covers.of(one), today) for one in reports
        ]
        rows = _source_rows(desk, sources, chosen, columns, today)
    shown = [c.edition for cells in crossings for cell in cells for c in cell if c.edition is not None]
    with on_screen():
        stands = standing(desk, shown, work)
    return Board(
        name, (CIVIL, *(c for c in known.calendars if c != CIVIL)), every, _year(chosen, columns), tuple(columns),
        tuple(
            Row(one.id, one.report.title, cadence_words(one.cadence), one.cadence.issue == "when_ready", _stand(cells, stands))
            for one, cells in zip(reports, crossings, strict=True)
        )
        + tuple(Row(one.id, one.title, one.why, False, tuple(() for _ in columns)) for one in unclear),
        tuple(row for row in rows if row.of), tuple(rest), back > 0,
    )  # fmt: skip


def _source_rows(
    desk: Desk, sources: Mapping[str, Source], calendar: Calendar, columns: Sequence[Recurring], today: int
) -> list[SourceRow]:
    """The rows of the sources that are due in a period."""
    lists = _lists(desk, list(sources.values()))
    fed = [source for name, source in sources.items() if name not in lists]
    return [SourceRow(one.id, one.name, *_filled(desk, one, calendar, columns, today)) for one in fed]


def _lists(desk: Desk, sources: Sequence[Source]) -> set[str]:
    """The names of sources that are only looked up from and have no report: they are not due in any period."""
    reports = [cast(Report, stored.body) for stored in desk.definitions.all("report")]
    looked_up = {
        name for made in (*(s.made for s in sources), *(r.columns for r in reports)) for name in looked_up_by(made)
    }
    over = {name for r in reports for name in (r.source, *(beside.source for beside in r.beside))}
    return {name.casefold() for name in looked_up} - {name.casefold() for name in over}


def _stand(cells: Sequence[Sequence[Crossing]], stands: dict[int, Standing]) -> tuple[tuple[Crossing, ...], ...]:
    def one(crossing: Crossing) -> Crossing:
        found = None if crossing.edition is None else stands.get(crossing.edition.id)
        return Crossing(crossing.period, crossing.state, crossing.due, crossing.edition, found, crossing.waits)

    return tuple(tuple(one(crossing) for crossing in cell) for cell in cells)


def _usual_calendar(reports: Sequence[Recurs]) -> str:
    names = [one.cadence.calendar or CIVIL for one in reports]
    return max(names, key=names.count) if names else CIVIL


def _columns(calendar: Calendar, every: Grain, today: int, back: int) -> list[Recurring]:
    """The calendar's year up to the period that ended last, and some of the year before if it has only just begun."""
    last = period_before(calendar, period_on(calendar, every, today))
    pages = [_page(calendar, every, last)]
    for _ in range(back):
        first = pages[-1][0] if pages[-1] else None
        pages.append(_page(calendar, every, None if first is None else period_before(calendar, first)))
    return pages[-1]


def _page(calendar: Calendar, every: Grain, last: Recurring | None) -> list[Recurring]:
    found: list[Recurring] = []
    at = last
    while at is not None and len(found) < MOST[every]:
        other_year = last is not None and _year_of(calendar, at) != _year_of(calendar, last)
        if other_year and len(found) >= LEAST[every] and every == "month":
            break
        found.append(at)
        at = period_before(calendar, at)
    return found[::-1]


def _year_of(calendar: Calendar, period: Recurring) -> int:
    return int(calendar.ordinals("year", np.array([period.last]))[0])


def _year(calendar: Calendar, columns: Sequence[Recurring]) -> str:
    return calendar.year_name(_year_of(calendar, columns[-1])) if columns else ""


def _crossings(
    one: Recurs,
    columns: Sequence[Recurring],
    issued: dict[tuple[int, str, str], Edition],
    own: Sequence[Edition],
    covered: Callable[[Recurring], Cover | None],
    today: int,
) -> list[list[Crossing]]:
    if not columns:
        return []
    due = {period.ordinal for period in owed(one, own, today)}
    found = []
    for column in columns:
        cell = []
        at: Recurring | None = one.on(column.last)
        while at is not None and at.last >= column.first:
            if at.last <= column.last:
                cell.append(_crossing(one, at, issued, at.ordinal in due, covered, today))
            at = period_before(one.calendar, at)
        found.append(cell[::-1])
    return found


def _crossing(
    one: Recurs,
    period: Recurring,
    issued: dict[tuple[int, str, str], Edition],
    is_owed: bool,
    covered: Callable[[Recurring], Cover | None],
    today: int,
) -> Crossing:
    due = one.due(period)
    edition = issued.get((one.id, *period.days))
    if edition is not None:
        return Crossing(period, "restated" if edition.number > 1 else "issued", due, edition)
    if not is_owed:
        return Crossing(period, "past" if period.last < today else "open", due)
    waits = ""
    how = covered(period)
    if how is not None:
        accepted = {"missing": "empty", "part": "source"}.get(how.filled, "source") in one.cadence.accept
        waits = how.words if how.filled in ("missing", "part") and not accepted else ""
    else:
        waits = "" if one.report.source else "it has no source"
    if today > due:
        return Crossing(period, "late", due, waits=waits)
    return Crossing(period, "waiting" if waits else "due", due, waits=waits)


def _filled(
    desk: Desk, source: Source, calendar: Calendar, columns: Sequence[Recurring], today: int
) -> tuple[str, tuple[Cover, ...]]:
    try:
        found = filling(desk, source)
    except KalendorError:
        found = None
    if found is None or not columns:
        return "", ()
    earlier = periods_before(calendar, columns[0])[::-1]
    whole = [*earlier, *columns]
    start = len(earlier)
    cells = [cover(found, column, whole[: start + i][::-1], today) for i, column in enumerate(columns)]
    return found.of, tuple(cells)


def cadence_words(cadence: Cadence) -> str:
    """A cadence in words, as `monthly, 3 working days after`."""
    n, working = (cadence.due.days, False) if cadence.due.days is not None else (cadence.due.working_days or 0, True)
    after = f"{n} {'working ' if working else ''}day{'' if n == 1 else 's'} after" if n else "at its end"
    return f"{EVERY[cadence.every]}, {after}"
