"""A report's sheet kept as a source of its own, worked out again when what it rests on has changed."""

from typing import cast

from kalendor.core.sheet.sheet import Sheet
from kalendor.definitions.recipe import Recipe
from kalendor.definitions.report import Report
from kalendor.desk.desk import Desk
from kalendor.desk.holding import hold
from kalendor.desk.sheets import sheet_key, sheet_of
from kalendor.errors import DefinitionError
from kalendor.intake.reading import read_bytes
from kalendor.output.writers import write
from kalendor.store.intakes import Bringing
from kalendor.store.sources import Source


def keep_summary(desk: Desk, report_id: int, name: str) -> Source:
    """A new source that is a report's flat sheet.

    Raises DefinitionError where the name is taken.
    """
    if desk.sources.named(name) is not None:
        raise DefinitionError(f"there is already a source named {name!r}; choose another name")
    return _worked_out(desk, report_id, name)


def _worked_out(desk: Desk, report_id: int, name: str) -> Source:
    report = cast(Report, desk.definitions.one(report_id).body)
    key, sheet = sheet_of(desk, report)
    data = write(sheet, "csv", "flat")
    reading = read_bytes(data, f"{report.title}.csv", Recipe())
    source, _ = desk.intakes.bring_in(
        Bringing(name, reading, hold(desk, [data]).sha256, len(data), desk.now(), "replace_all")
    )
    with desk.workspace.change() as db:
        desk.sources.tell_report(db, source.id, report_id, key)
    return desk.sources.one(source.id)


def refreshed(desk: Desk, source: Source) -> Source:
    """The source, worked out again first where it is a summary whose report or sources have changed since."""
    if source.report_id is None:
        return source
    report = cast(Report, desk.definitions.one(source.report_id).body)
    base = desk.sources.named(report.source)
    if base is None or base.id == source.id:
        return source
    refreshed(desk, base)
    if sheet_key(desk, report, None) == source.report_key:
        return source
    return _worked_out(desk, source.report_id, source.name)


def fresh_sheet(desk: Desk, report: Report) -> tuple[str, Sheet]:
    """A report's key and sheet, a summary that it rests on worked out again first where it must be."""
    source = desk.sources.named(report.source)
    if source is not None:
        refreshed(desk, source)
    return sheet_of(desk, report)
