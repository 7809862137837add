"""The editions that reports owe: their periods and due days."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date
from typing import cast

from kalendor.core.groupings.cadence_periods import (
    Recurring,
    civil_span,
    due_day,
    grain_named,
    period_on,
    periods_ending,
    periods_named,
)
from kalendor.core.groupings.calendars import Calendar
from kalendor.core.groupings.ground import Groupings
from kalendor.core.values.columns import day_number, day_of
from kalendor.definitions.recurring import Cadence, Every
from kalendor.definitions.report import Report
from kalendor.desk.desk import Desk
from kalendor.desk.sheets import all_groupings
from kalendor.errors import DefinitionError, KalendorError
from kalendor.store.definitions import Stored
from kalendor.store.editions import Edition


@dataclass(frozen=True, eq=False)
class Recurs:
    """A report with its cadence and its calendar."""

    id: int
    report: Report
    cadence: Cadence
    calendar: Calendar
    holidays: tuple[date, ...] = ()

    def due(self, period: Recurring) -> int:
        """The day on which a period's edition is due."""
        return due_day(period, self.cadence.due, self.holidays)

    def on(self, day: int) -> Recurring:
        """The period that contains a day."""
        return period_on(self.calendar, self.cadence.every, day)


def recurs(stored: Stored, known: Groupings, cadence: Cadence | None = None) -> Recurs:
    """A report with its own cadence, or a given one.

    Raises DefinitionError if it is not a report or has none, and for a calendar that does not exist.
    """
    report = stored.body
    if not isinstance(report, Report):
        raise DefinitionError(f"{stored.name!r} is not a report")
    found = cadence or report.cadence
    if found is None:
        raise DefinitionError(f"the report {report.title!r} has no cadence; name the period to issue it for")
    document = known.calendar_document(found.calendar)
    return Recurs(stored.id, report, found, known.calendar(found.calendar), tuple(document.holidays))


@dataclass(frozen=True)
class Unclear:
    """A report whose periods are unknown: its calendar was deleted, or does not cover today."""

    id: int
    title: str
    why: str


def recurring_reports(desk: Desk) -> tuple[list[Recurs], list[Unclear]]:
    """All reports that have a cadence, by title, except archived ones; and those whose periods are unknown."""
    known = all_groupings(desk)
    calendars: dict[str | None, Calendar] = {}  # one object for each calendar, since periods are cached by it
    today = day_number(desk.today())
    found: list[Recurs] = []
    unclear: list[Unclear] = []
    for stored in desk.definitions.all("report"):
        if stored.archived or cast(Report, stored.body).cadence is None:
            continue
        try:
            one = recurs(stored, known)
            one = replace(one, calendar=calendars.setdefault(one.cadence.calendar, one.calendar))
            owed(one, [], today)
        except KalendorError as error:
            unclear.append(Unclear(stored.id, stored.name, str(error)))
        else:
            found.append(one)
    return found, unclear


def owed(one: Recurs, issued: Sequence[Edition], today: int) -> list[Recurring]:
    """The periods that have ended by `today` for which a report owes an edition, issued or not: from the one that
    contains the cadence's `since`, else from its first edition's, else the one that ended last."""
    since = one.cadence.since
    own = [edition for edition in issued if edition.report_id == one.id and edition.every == one.cadence.every]
    if since is not None:
        first = one.on(day_number(since)).first
    elif own:
        first = min(day_number(date.fromisoformat(edition.first_day)) for edition in own)
    else:
        first = one.on(one.on(today).first - 1).first
    return periods_ending(one.calendar, one.cadence.every, first, today - 1)


def named_periods(desk: Desk, stored: Stored, text: str) -> tuple[Recurs, list[Recurring]]:
    """The periods of a report that a text refers to; without a cadence, those of the civil year.

    Raises DefinitionError if there is none, or if one of them has not ended.
    """
    known = all_groupings(desk)
    report = cast(Report, stored.body)
    cadence = report.cadence or Cadence(every=cast(Every, grain_named(text)))
    one = recurs(stored, known, cadence)
    today = day_number(desk.today())
    labels = [] if civil_span(text) else periods_ending(one.calendar, cadence.every, today - 366 * 12, today + 366)
    found = periods_named(one.calendar, cadence.every, text, labels)
    open_ = next((period for period in found if period.last >= today), None)
    if open_ is not None:
        raise DefinitionError(
            f"{report.title}: {open_.label} ends on {day_of(open_.last).isoformat()}, and has not ended yet; issue it then"
        )
    return one, found
