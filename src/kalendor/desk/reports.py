"""Looks up reports and groupings, checking their kind."""

from contextlib import suppress
from threading import Event
from typing import cast

from kalendor.definitions.kinds import Grouping
from kalendor.definitions.report import Report
from kalendor.desk.desk import Desk
from kalendor.errors import DefinitionError
from kalendor.sentence.writing import brief
from kalendor.store.definitions import Stored


def report_at(desk: Desk, id: int) -> Report:
    """The current report with that id.

    Raises MissingError if there is none, DefinitionError if it is a definition of another kind.
    """
    stored = desk.definitions.one(id)
    if not isinstance(stored.body, Report):
        raise DefinitionError(f"{stored.name!r} is not a report")
    return stored.body


def stored_grouping(desk: Desk, id: int) -> Stored:
    """The current tree, calendar or bucket set with that id.

    Raises MissingError if there is none, DefinitionError if it is a report.
    """
    stored = desk.definitions.one(id)
    if isinstance(stored.body, Report):
        raise DefinitionError(f"{stored.name!r} is a report, not a grouping")
    return stored


def grouping_at(desk: Desk, id: int) -> Grouping:
    """The current document of the grouping of that id."""
    return cast(Grouping, stored_grouping(desk, id).body)


def said(desk: Desk, stored: Stored) -> str:
    """A stored report as a sentence, cached by revision."""
    known = desk.briefs.get(stored.id)
    if known is None or known[0] != stored.revision:
        known = desk.briefs[stored.id] = (stored.revision, brief(cast(Report, stored.body)))
    return known[1]


def word_all(desk: Desk, stopping: Event) -> None:
    """Word all reports in advance, so that the first list is fast; `stopping` ends it."""
    for stored in desk.definitions.all("report"):
        if stopping.is_set():
            return
        with suppress(DefinitionError):
            said(desk, stored)
