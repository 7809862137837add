"""Editions whose numbers have changed: issued again, or acknowledged and left as they are, each with a reason."""

from collections.abc import Sequence
from dataclasses import dataclass

from kalendor.core.groupings.cadence_periods import Recurring
from kalendor.core.values.columns import day_number
from kalendor.desk.desk import Desk
from kalendor.desk.editions.issuing import issue
from kalendor.desk.editions.owed import recurs
from kalendor.desk.editions.schedule import sent_along
from kalendor.desk.editions.standing import report_then, standing
from kalendor.desk.sheets import all_groupings
from kalendor.errors import DefinitionError, KalendorError
from kalendor.store.definitions import stamp
from kalendor.store.editions import Edition, Left

LONGEST_LINE = 300


@dataclass(frozen=True)
class Dealt:
    """The outcome for such an edition: the one issued in its place, or why there is none."""

    edition: Edition
    restated: Edition | None = None
    reason: str = ""


def restate(desk: Desk, editions: Sequence[int], why: str) -> list[Dealt]:
    """Issue changed editions again, in the order of their periods, each with the reason.

    Raises DefinitionError without a reason, and MissingError for an edition that does not exist.
    """
    line = _line(why)
    return [_restated(desk, edition, line) for edition in _in_order(desk, editions)]


def leave_as_they_are(desk: Desk, editions: Sequence[int], why: str) -> list[Dealt]:
    """Acknowledge changed editions, which stay as they are until they change again. One that has not changed, or cannot
    be computed, is returned with the reason.

    Raises DefinitionError without a reason, and MissingError for an edition that does not exist.
    """
    line, found = _line(why), _in_order(desk, editions)
    stands = standing(desk, found)
    dealt = []
    for edition in found:
        now = stands[edition.id]
        if now.moved:
            desk.editions.leave(edition.id, Left(now.says, line, desk.workspace.who, stamp(desk.now())))
        dealt.append(Dealt(edition, reason="" if now.moved else now.why or "it has not moved"))
    return dealt


def _line(why: str) -> str:
    line = " ".join(why.split())
    if not line or len(line) > LONGEST_LINE:
        raise DefinitionError(f"say why in 1 to {LONGEST_LINE} characters; the line stays with each edition")
    return line


def _in_order(desk: Desk, editions: Sequence[int]) -> list[Edition]:
    found = [desk.editions.one(id) for id in dict.fromkeys(editions)]
    return sorted(found, key=lambda e: (e.last_day, e.first_day, e.report_id))


def _restated(desk: Desk, edition: Edition, why: str) -> Dealt:
    try:
        stored = desk.definitions.one(edition.report_id)
        one = recurs(stored, all_groupings(desk))
        period = one.on(day_number(report_then(one.report, edition).as_of))  # type: ignore[arg-type]
        _check_same(edition, period)
        done = issue(desk, one.id, period, why)
        reason = sent_along(desk, one, done) if done.fresh else "it has not moved"
        return Dealt(edition, done.edition if done.fresh else None, reason)
    except KalendorError as error:
        return Dealt(edition, reason=str(error))


def _check_same(edition: Edition, period: Recurring) -> None:
    if period.days != (edition.first_day, edition.last_day):
        raise DefinitionError(
            f"the report no longer has the period {edition.label}; its cadence or calendar changed since"
        )
