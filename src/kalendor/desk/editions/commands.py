"""Editions from the command line: issued and listed over a workspace, with or without a running server."""

from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any, cast

from kalendor.core.groupings.cadence_periods import Recurring
from kalendor.definitions.report import Report
from kalendor.desk.desk import Desk
from kalendor.desk.editions.handing import edition_file
from kalendor.desk.editions.issuing import issue
from kalendor.desk.editions.owed import named_periods
from kalendor.desk.editions.schedule import run_due
from kalendor.desk.editions.standing import standing
from kalendor.desk.notation import begin_in
from kalendor.errors import DefinitionError, KalendorError
from kalendor.output.writers import form_of
from kalendor.store.definitions import Stored
from kalendor.store.editions import Edition

Said = tuple[str, list[tuple[str, bytes]], KalendorError | None]


def issued_by_command(
    workspace: Path, titles: Sequence[str], period: str | None, due: bool, forms: Sequence[str]
) -> Iterator[Said]:
    """For each edition tried: the outcome in words, its files, and its errors.

    Raises DefinitionError for incompatible arguments, and for reports, periods and formats that do not exist.
    """
    if due == (period is not None):
        raise DefinitionError("name either --period or --due")
    for form in forms:
        form_of(form)
    desk = _desk(workspace)
    chosen = _reports(desk, titles)
    if due:
        yield from _due(desk, [stored.name for stored in chosen] if titles else [], forms)
        return
    assert period is not None
    if not titles:
        chosen = [stored for stored in chosen if cast(Report, stored.body).cadence is not None]
        if not chosen:
            raise DefinitionError("no report here has a cadence; name one with --report")
    wanted = _wanted(desk, chosen, period, bool(titles))
    for stored, one in wanted:
        try:
            done = issue(desk, stored.id, one)
        except KalendorError as error:
            yield f"{stored.name} · {one.label}: not issued: {error}", [], error
            continue
        said = f"issued by {done.edition.issued_by}" if done.fresh else "stands already, and has not moved"
        yield (
            f"{stored.name} · {done.edition.named}: {said} · {done.edition.sha256}",
            _files(desk, done.edition, forms),
            None,
        )


def _wanted(desk: Desk, chosen: Sequence[Stored], period: str, named: bool) -> list[tuple[Stored, Recurring]]:
    """The reports' periods of that name; of many reports those without such a period are skipped.

    Raises DefinitionError if a named report has none, or if none has.
    """
    found: list[tuple[Stored, Recurring]] = []
    failed: DefinitionError | None = None
    for stored in chosen:
        try:
            found += [(stored, one) for one in named_periods(desk, stored, period)[1]]
        except DefinitionError as error:
            failed = error
            if named:
                raise
    if failed is not None and not found:
        raise failed
    return found


def _due(desk: Desk, titles: list[str], forms: Sequence[str]) -> Iterator[Said]:
    for outcome in run_due(desk, titles):
        if outcome.edition is None:
            yield f"{outcome.report} · {outcome.period.label}: left: {outcome.reason}", [], None
        else:
            said = f"{outcome.report} · {outcome.edition.named}: issued · {outcome.edition.sha256}"
            yield said, _files(desk, outcome.edition, forms), None


def _files(desk: Desk, edition: Edition, forms: Sequence[str]) -> list[tuple[str, bytes]]:
    found = [edition_file(desk, edition.id, form, None) for form in forms]
    return [(file.name, file.content) for file in found]


def listed(workspace: Path, title: str | None) -> list[dict[str, Any]]:
    """The editions of a workspace, or of one report, in the order in which they were issued.

    Raises DefinitionError if there is no such workspace or report.
    """
    desk = _desk(workspace)
    chosen = None if title is None else {stored.id for stored in _reports(desk, [title])}
    found = [edition for edition in desk.editions.all() if chosen is None or edition.report_id in chosen]
    latest = {(e.report_id, e.first_day, e.last_day): e.id for e in found}
    stands = standing(desk, found)
    return [
        {
            "report": e.title, "period": e.label, "first_day": e.first_day, "last_day": e.last_day, "number": e.number,
            "issued_at": e.issued_at, "by": e.issued_by, "sha256": e.sha256, "before": e.before,
            "stands": latest[(e.report_id, e.first_day, e.last_day)] == e.id, "moved": stands[e.id].moved,
        }
        for e in found
    ]  # fmt: skip


def _desk(workspace: Path) -> Desk:
    if not (workspace / "kalendor.sqlite").is_file():
        raise DefinitionError(f"{workspace}: there is no workspace there")
    desk = Desk(workspace)
    begin_in(desk)
    return desk


def _reports(desk: Desk, titles: Sequence[str]) -> list[Stored]:
    """The reports with the given titles, by default all that are not archived."""
    found = desk.definitions.all("report")
    if not titles:
        return [stored for stored in found if not stored.archived]
    by_title = {stored.name.casefold(): stored for stored in found}
    missing = next((title for title in titles if title.casefold() not in by_title), None)
    if missing is not None:
        raise DefinitionError(f"there is no report {missing!r}; there are {', '.join(d.name for d in found) or 'none'}")
    return [by_title[title.casefold()] for title in titles]
