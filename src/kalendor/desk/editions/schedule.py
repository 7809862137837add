"""Schedules: due editions are issued automatically if their checks pass, otherwise the reason is logged."""

import threading
from collections.abc import Sequence
from dataclasses import dataclass

from kalendor.core.groupings.cadence_periods import Recurring
from kalendor.core.values.columns import day_number
from kalendor.desk.desk import Desk
from kalendor.desk.editions.checks import checked
from kalendor.desk.editions.issuing import Issued, issue
from kalendor.desk.editions.owed import Recurs, owed, recurring_reports
from kalendor.desk.editions.sending import send
from kalendor.desk.notation import begin_in
from kalendor.errors import KalendorError
from kalendor.log import log_unexpected
from kalendor.store.editions import Edition
from kalendor.store.workspace import WHO

EVERY_SECONDS = 30.0
BY = "schedule"


@dataclass(frozen=True)
class Outcome:
    """The outcome for a report's period: its edition, or why none was issued."""

    report: str
    period: Recurring
    edition: Edition | None = None
    reason: str = ""


def waiting(desk: Desk, reports: Sequence[Recurs]) -> list[tuple[Recurs, Recurring]]:
    """Due periods without an edition, including those missed while the server was down, the earliest first."""
    issued = desk.editions.latest()
    today = day_number(desk.today())
    found = []
    for one in reports:
        for period in owed(one, list(issued.values()), today):
            key = (one.id, *period.days)
            if key not in issued and one.due(period) <= today:
                found.append((one, period))
    return sorted(found, key=lambda pair: pair[1].last)


def run_due(desk: Desk, titles: Sequence[str] = ()) -> list[Outcome]:
    """Issue what is due: of the reports that are issued automatically, or of those with the given titles. Each period
    is tried once; of two concurrent runs only one issues it."""
    wanted = {title.casefold() for title in titles}
    reports = [
        one
        for one in recurring_reports(desk)[0]
        if (one.report.title.casefold() in wanted if wanted else one.cadence.issue == "when_ready")
    ]
    found = []
    for one, period in waiting(desk, reports):
        outcome = tried(desk, one, period)
        _log(desk, one, outcome)
        found.append(outcome)
    return found


def tried(desk: Desk, one: Recurs, period: Recurring) -> Outcome:
    """Issue a period if its checks pass; otherwise return the reason."""
    how = checked(desk, one, period)
    if not how.ready:
        return Outcome(one.report.title, period, reason="; ".join(how.reasons))
    try:
        done = issue(desk, one.id, period)
    except KalendorError as error:
        return Outcome(one.report.title, period, reason=str(error))
    return Outcome(one.report.title, period, done.edition, sent_along(desk, one, done))


def sent_along(desk: Desk, one: Recurs, done: Issued) -> str:
    """Send an edition that was just issued, if its report says so; returns why it could not be sent, if so."""
    delivery = one.report.delivery
    if not done.fresh or delivery is None or not delivery.when_issued:
        return ""
    try:
        send(desk, done.edition.id, delivery)
    except KalendorError as error:
        return f"issued, and not sent: {error}"
    return ""


def _log(desk: Desk, one: Recurs, outcome: Outcome) -> None:
    state = "left" if outcome.edition is None else "issued"
    period = outcome.period
    desk.schedule_log.note(desk.now(), one.id, period.label, period.days[1], state, outcome.reason)


def keep_running(desk: Desk, stop: threading.Event) -> None:
    """Run due schedules every half minute until stopped; to be run in a thread of its own. A failed period is retried
    when something has changed since, or on the next day."""
    WHO.set(BY)
    before: tuple[object, ...] = ()
    while not stop.wait(EVERY_SECONDS):
        try:
            begin_in(desk)
            now = desk.today(), *desk.schedule_log.hangs_on()
            if now != before:
                run_due(desk)
                before = now
        except Exception as error:
            log_unexpected(error, "schedules")
    desk.workspace.close()
