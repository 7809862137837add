"""Issues a report's sheet for a period as an edition, atomically and never twice."""

import hashlib
import json
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import asdict, dataclass
from typing import Any, cast

from kalendor.core.groupings.cadence_periods import Recurring
from kalendor.core.sheet.plain import from_plain, plain, said
from kalendor.core.sheet.sheet import Sheet
from kalendor.core.values.columns import day_of
from kalendor.core.values.keys import key
from kalendor.core.values.notation import COMMON, Notation, written_in
from kalendor.definitions.report import Report
from kalendor.desk.desk import Desk
from kalendor.desk.editions.files_beneath import files_beneath
from kalendor.desk.editions.four_eyes import approved
from kalendor.desk.editions.kept_ingredients import from_told, told
from kalendor.desk.ingredients import Ingredients, now
from kalendor.desk.organisation import organisation
from kalendor.desk.sheets import sheet_from, trail_from
from kalendor.desk.summaries import fresh_sheet
from kalendor.output.handover import Handover, handed
from kalendor.store.approvals import Approval
from kalendor.store.definitions import stamp
from kalendor.store.editions import Edition, Fresh


@dataclass(frozen=True)
class Issued:
    """An edition, and whether it is new; False if the existing one says the same."""

    edition: Edition
    fresh: bool


def for_period(report: Report, period: Recurring) -> Report:
    """A report for a period: its as-of date is the period's last day, from which its window counts."""
    return report.model_copy(update={"as_of": day_of(period.last)})


def issue(desk: Desk, report_id: int, period: Recurring, why: str = "") -> Issued:
    """Issue a report for a period; again if its content has changed since, otherwise the existing edition is returned.
    An added note is not such a change. `why` is a line stored with the edition.

    One transaction: of two concurrent calls the second finds the first one's edition. Raises MissingError if there is
    no such report, DefinitionError if it cannot be computed or is not approved, FootingError if its sheet does not
    foot.
    """
    report = for_period(cast(Report, desk.definitions.one(report_id).body), period)
    fresh_sheet(desk, report)
    with desk.workspace.snapshot():
        sheet_from(desk, now(desk, report))  # slow work is done before the write lock is taken
    with desk.workspace.change() as db:
        report = for_period(cast(Report, desk.definitions.one(report_id).body), period)
        found = now(desk, report)
        sheet = sheet_from(desk, found)
        given = handed(report, sheet, lambda cell: trail_from(desk, found, sheet, cell))
        seen = approved(desk, report_id, report, period, found)
        fresh = _fresh(desk, report_id, period, found, given, _said(why, seen))
        earlier = desk.editions.of(report_id, fresh.first_day, fresh.last_day)
        if earlier and _shown(desk.editions.document(earlier[-1].id)) == _shown(_as_kept(fresh)):
            return Issued(earlier[-1], False)
        return Issued(desk.editions.add(db, fresh), True)


def _fresh(
    desk: Desk, report_id: int, period: Recurring, found: Ingredients, given: Handover, more: dict[str, str]
) -> Fresh:
    files, beneath = files_beneath(desk, found.sources[0])
    document: dict[str, Any] = {
        **told(found),
        "report_revision": desk.definitions.one(report_id).revision,
        "today": desk.today().isoformat(),
        "files": files,
        **beneath,
        "brief": given.brief,
        "headline": list(given.headline),
        **({"short": given.short} if given.short else {}),
        "told": [[name, list(lines)] for name, lines in given.told],
        "sheet": plain(given.sheet),
        **({"notation": asdict(given.notation)} if given.notation != COMMON else {}),
        **({"organisation": whose} if (whose := organisation(desk).name) else {}),
        **more,
    }
    return Fresh(
        report_id, period.calendar, period.every, *period.days,
        period.label, period.sign, found.report.title, stamp(desk.now()), desk.workspace.who, says(given.sheet), found.rests,
        document, tuple(s.id for s in found.sources),
    )  # fmt: skip


def _said(why: str, seen: Approval | None) -> dict[str, str]:
    """Why an edition is issued again, who prepared and who approved it, as stored with it."""
    told = {} if seen is None else {"prepared_by": seen.prepared_by, "prepared_at": seen.prepared_at,
                                    "approved_by": seen.approved_by or "", "approved_at": seen.approved_at or ""}  # fmt: skip
    return told | ({"why": why} if why else {})


def says(sheet: Sheet) -> str:
    """The SHA-256 of a sheet's labels and numbers."""
    return hashlib.sha256(json.dumps(said(sheet), separators=(",", ":")).encode("ascii")).hexdigest()


def _as_kept(fresh: Fresh) -> dict[str, Any]:
    return {**fresh.document, "says": fresh.says, "title": fresh.title}


def _shown(document: dict[str, Any]) -> list[Any]:
    """What decides whether an edition says something new; generated sentences add nothing to the numbers."""
    own = document["report"].get("headline") is not None
    return [document["title"], document["says"], document["headline"] if own else None]


@dataclass(frozen=True, eq=False)
class Opened:
    """An opened edition: its sheet as issued, with its texts, and its ingredients; `document` is everything else."""

    edition: Edition
    sheet: Sheet
    report: Report
    ingredients: Ingredients
    document: dict[str, Any]

    @property
    def handover(self) -> Handover:
        """The sheet with its stored texts."""
        document = self.document
        lines = tuple((name, tuple(lines)) for name, lines in document["told"])
        stated = f"{self.edition.named}, issued {self.edition.issued_at[:10]} · sealed {self.edition.sha256[:12]}"
        return Handover(
            self.sheet,
            self.report.export,
            document["brief"],
            tuple(document["headline"]),
            lines,
            edition=stated,
            report=self.report,
            short=self.short,
            notation=self.notation,
            organisation=self.document.get("organisation", ""),
        )

    @property
    def notation(self) -> Notation:
        """The notation in which it was issued and is always shown."""
        return Notation(**self.document.get("notation", {}))

    @contextmanager
    def reading(self, desk: Desk) -> Iterator[None]:
        """A context that reads the workspace in one snapshot and writes in the edition's notation."""
        with desk.workspace.snapshot(), written_in(self.notation):
            yield

    @property
    def short(self) -> str:
        """Its summary in one line; for editions issued without one, their first sentence."""
        return str(self.document.get("short", next(iter(self.document["headline"]), "")))


def opened(desk: Desk, id: int) -> Opened:
    """An edition as issued.

    Raises MissingError if there is none, DamagedError if it was changed.
    """
    edition = desk.editions.one(id)

    def read() -> Opened:
        document = desk.editions.document(id)
        found, sheet = from_told(document), from_plain(document.pop("sheet"))
        return Opened(edition, sheet, found.report, found, document)

    return desk.sheets(key("edition", id, edition.sha256), read)
