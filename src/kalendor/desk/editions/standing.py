"""Whether an edition still says what its report now gives for that period."""

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
from kalendor.store.editions import Compared, Edition, Left


@dataclass(frozen=True)
class Standing:
    """Whether an edition's numbers have changed since; None if not computed yet, or if its report was deleted. `why` it
    cannot be computed; `says` is the SHA-256 of what its report gives now, if that changed; `left`: the change was
    acknowledged."""

    moved: bool | None
    why: str = ""
    says: str = ""
    left: Left | None = None

    @property
    def needs(self) -> bool | None:
        """Whether somebody has to look at the change."""
        return self.moved if self.left is None else False


def report_then(report: Report, edition: Edition) -> Report:
    """A report as it would be issued for an edition's period."""
    return report.model_copy(update={"as_of": date.fromisoformat(edition.last_day)})


def standing(desk: Desk, editions: Sequence[Edition], most: int | None = None) -> dict[int, Standing]:
    """The state of editions, by id. Of those that must be computed at most `most` are (None: all); the rest are unknown
    yet."""
    found: dict[int, Standing] = {}
    with desk.workspace.snapshot():
        keys = _rests_now(desk, editions)
        known, left = desk.editions.standing(), desk.editions.left()
    open_: list[tuple[Edition, Key]] = []
    for edition in editions:
        own = keys.get(edition.id)
        if own is None:
            found[edition.id] = Standing(None, "its report can no longer be worked out")
        elif own == edition.rests:
            found[edition.id] = Standing(False)
        elif edition.id in known and known[edition.id].rests == own:
            found[edition.id] = _as_compared(known[edition.id], left.get(edition.id))
        else:
            found[edition.id] = Standing(None)
            open_.append((edition, own))
    worked = dict[int, Compared]()
    for edition, own in open_ if most is None else open_[:most]:
        try:
            worked[edition.id] = _compared(desk, edition, own)
            found[edition.id] = _as_compared(worked[edition.id], left.get(edition.id))
        except KalendorError as error:
            found[edition.id] = Standing(None, str(error))
    if worked:
        desk.editions.tell_standing(worked)
    return found


def _rests_now(desk: Desk, editions: Iterable[Edition]) -> dict[int, Key]:
    """The key of what each edition's numbers would be computed from now; those whose report was deleted or lacks its
    source are left out."""
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


def _as_compared(one: Compared, left: Left | None) -> Standing:
    same = one.moved and left is not None and left.says == one.says
    return Standing(one.moved, says=one.says, left=left if same else None)


def _compared(desk: Desk, edition: Edition, own: Key) -> Compared:
    sheet = sheet_from(desk, ingredients_now(desk, edition))
    said = says(sheet)
    if said == edition.says:
        return Compared(own, False, said)
    return Compared(own, any_moved(Places(opened(desk, edition.id).sheet), Places(sheet)), said)


def ingredients_now(desk: Desk, edition: Edition) -> Ingredients:
    """The current ingredients of an edition's report for its period.

    Raises MissingError if the report was deleted, DefinitionError if it cannot be computed.
    """
    report = report_then(cast(Report, desk.definitions.one(edition.report_id).body), edition)
    fresh_sheet(desk, report)
    with desk.workspace.snapshot():
        return now(desk, report)
