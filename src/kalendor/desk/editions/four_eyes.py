"""Four eyes: an edition that one account prepares and another approves before it is issued. A change in between, to the
report, its groupings or the records, requires both again."""

from dataclasses import replace
from typing import Literal

from kalendor.core.groupings.cadence_periods import Recurring
from kalendor.core.values.keys import Key, key
from kalendor.definitions.report import Report
from kalendor.desk.desk import Desk
from kalendor.desk.editions.owed import Recurs
from kalendor.desk.ingredients import Ingredients, around, now
from kalendor.errors import ConflictError, DefinitionError
from kalendor.store.approvals import Approval
from kalendor.store.definitions import stamp

ToDo = Literal["", "prepare", "approve", "approved"]
"""What is to be done by one account or another before an edition is issued; nothing where its report asks for no approval."""


def of_sheet(report: Report, found: Ingredients) -> Key:
    """The key of everything that is approved: the report except its due dates and receivers, the groupings, and the
    records."""
    return key("approved", report.model_copy(update={"cadence": None, "delivery": None}), around(found))


def standing_approval(
    desk: Desk, report_id: int, report: Report, period: Recurring, found: Ingredients
) -> Approval | None:
    """The state of the approval of a report's current content for a period; None if it is not prepared, or was before a
    change."""
    known = desk.approvals.of(report_id, period.days)
    return known if known is not None and known.of == of_sheet(report, found) else None


def prepare(desk: Desk, one: Recurs, period: Recurring, report: Report) -> Approval:
    """Record that an edition is prepared and waits for another account's approval.

    Raises DefinitionError for a report that does not require it.
    """
    _check_asked(one)
    with desk.workspace.change() as db:
        made = Approval(of_sheet(report, now(desk, report)), desk.workspace.who, stamp(desk.now()))
        desk.approvals.tell(db, one.id, period.days, made)
    return made


def approve(desk: Desk, one: Recurs, period: Recurring, report: Report) -> Approval:
    """Approve an edition that another account prepared.

    Raises DefinitionError if it is not prepared or by the same account, ConflictError if something changed since.
    """
    _check_asked(one)
    with desk.workspace.change() as db:
        known = desk.approvals.of(one.id, period.days)
        if known is None:
            raise DefinitionError(f"{one.report.title}, {period.label}: it is not prepared yet")
        if known.of != of_sheet(report, now(desk, report)):
            raise ConflictError(
                f"{one.report.title}, {period.label}: it changed since {known.prepared_by} prepared it; prepare it again"
            )
        if known.prepared_by.casefold() == desk.workspace.who.casefold():
            raise DefinitionError(
                f"{one.report.title}, {period.label}: {known.prepared_by} prepared it; another account is to approve it"
            )
        done = replace(known, approved_by=desk.workspace.who, approved_at=stamp(desk.now()))
        desk.approvals.tell(db, one.id, period.days, done)
    return done


def approved(desk: Desk, report_id: int, report: Report, period: Recurring, found: Ingredients) -> Approval | None:
    """The approval under which an edition is issued; None for a report that requires none.

    Raises DefinitionError if it is still to be prepared or approved.
    """
    if report.cadence is None or not report.cadence.four_eyes:
        return None
    known = standing_approval(desk, report_id, report, period, found)
    if known is None or known.approved_by is None:
        raise DefinitionError(f"{report.title}, {period.label}: {waits_for(known)}")
    return known


def to_do(known: Approval | None) -> ToDo:
    """What is still to be done before the edition is issued."""
    if known is None:
        return "prepare"
    return "approve" if known.approved_by is None else "approved"


def waits_for(known: Approval | None) -> str:
    """What is still to be done, in words."""
    if known is None:
        return "it is to be prepared by one account and approved by another"
    return f"prepared by {known.prepared_by}, and waits for another's approval"


def _check_asked(one: Recurs) -> None:
    if not one.cadence.four_eyes:
        raise DefinitionError(f"{one.report.title} asks for no approval; its cadence says so")
