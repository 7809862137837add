"""Whether what an edition says is still what its report gives for that period."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date
from typing import cast

from kalendor.core.sheet.moves import Places, any_moved
from kalendor.core.values.keys import Key
from kalendor.definitions.report import Report
from kalendor.desk.desk import Desk
from kalendor.desk.editions.issuing import opened, says
from kalendor.desk.ingredients import Ingredients, around, now, rests
from kalendor.desk.sheets import sheet_from
from kalendor.desk.summaries import fresh_sheet
from kalendor.errors import KalendorError
from kalendor.store.editions import Edition


@dataclass(frozen=True)
class Standing:
    """Whether an edition's numbers have moved since; None where that is not worked out yet, or where its report is gone.
    `why` it cannot be worked out."""

    moved: bool | None
    why: str = ""


def report_then(report: Report, edition: Edition) -> Report:
    """A report as it would be issued for an edition's period."""
    return report.model_copy(update={"as_of": date.fromisoformat(edition.last_day)})


def standing(desk: Desk, editions: Sequence[Edition], most: int | None = None) -> dict[int, Standing]:
    """How editions stand, by their ids. Of those that must be worked out no more than `most` are (None: all); the rest are
    not known yet."""
    found: dict[int, Standing] = {}
    with desk.workspace.snapshot():
        keys = _rests_now(desk, editions)
        known = desk.editions.standing()
    open_: list[tuple[Edition, Key]] = []
    for edition in editions:
        own = keys.get(edition.id)
        if own is None:
            found[edition.id] = Standing(None, "its report can no longer be worked out")
        elif own == edition.rests:
            found[edition.id] = Standing(False)
        elif known.get(edition.id, ("", False))[0] == own:
            found[edition.id] = Standing(known[edition.id][1])
        else:
            found[edition.id] = Standing(None)
            open_.append((edition, own))
    worked = []
    for edition, own in open_ if most is None else open_[:most]:
        try:
            found[edition.id] = Standing(_moved(desk, edition))
            worked.append((edition.id, own, bool(found[edition.id].moved)))
        except KalendorError as error:
            found[edition.id] = Standing(None, str(error))
    if worked:
        desk.editions.tell_standing(worked)
    return found


def _rests_now(desk: Desk, editions: Iterable[Edition]) -> dict[int, Key]:
    """What each edition's numbers would rest on now; those whose report is gone or lacks its source are left out."""
    found: dict[int, Key] = {}
    reports: dict[int, tuple[Report, Key] | None] = {}
    for edition in editions:
        if edition.report_id not in reports:
            reports[edition.report_id] = _report_now(desk, edition.report_id)
        known = reports[edition.report_id]
        if known is not None:
            found[edition.id] = rests(report_then(known[0], edition), known[1])
    return found


def _report_now(desk: Desk, id: int) -> tuple[Report, Key] | None:
    try:
        report = cast(Report, desk.definitions.one(id).body)
        return report, around(now(desk, report))
    except KalendorError:
        return None


def _moved(desk: Desk, edition: Edition) -> bool:
    sheet = sheet_from(desk, ingredients_now(desk, edition))
    if says(sheet) == edition.says:
        return False
    return any_moved(Places(opened(desk, edition.id).sheet), Places(sheet))


def ingredients_now(desk: Desk, edition: Edition) -> Ingredients:
    """What an edition's report would be made from for its period now.

    Raises MissingError where the report is gone, DefinitionError where it cannot be worked out.
    """
    report = report_then(cast(Report, desk.definitions.one(edition.report_id).body), edition)
    fresh_sheet(desk, report)
    with desk.workspace.snapshot():
        return now(desk, report)
