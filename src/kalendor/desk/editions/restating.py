"""Editions whose numbers moved: issued again, or seen and left as they are, each with a line on why."""

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
    """What became of an edition that moved: the one that was issued in its place, or why there is none."""

    edition: Edition
    restated: Edition | None = None
    reason: str = ""


def restate(desk: Desk, editions: Sequence[int], why: str) -> list[Dealt]:
    """Issue editions again that have moved, in the order of their periods, each with the line on why.

    Raises DefinitionError without a line, and MissingError for an edition that is not there.
    """
    line = _line(why)
    return [_restated(desk, edition, line) for edition in _in_order(desk, editions)]


def leave_as_they_are(desk: Desk, editions: Sequence[int], why: str) -> list[Dealt]:
    """Note that editions that have moved were seen and stay as they are, until they move anew. One that has not moved, or
    cannot be worked out, is given back with the reason.

    Raises DefinitionError without a line, and MissingError for an edition that is not there.
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
