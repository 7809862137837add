"""A report's sheet kept as a source of its own, brought in again when what it rests on has changed it."""

import hashlib
from typing import cast

from kalendor.core.sheet.sheet import Sheet
from kalendor.core.values.keys import Key
from kalendor.definitions.recipe import ColumnReading, Recipe
from kalendor.definitions.report import Report
from kalendor.desk.desk import Desk
from kalendor.desk.holding import hold
from kalendor.desk.sheets import sheet_key, sheet_of
from kalendor.errors import DefinitionError
from kalendor.intake.reading import read_bytes
from kalendor.output.flat import FlatTable, flat
from kalendor.output.writers import delimited
from kalendor.store.definitions import MissingError
from kalendor.store.intakes import Bringing
from kalendor.store.sources import Source


def keep_summary(desk: Desk, report_id: int, name: str) -> Source:
    """A new source that is the innermost lines of a report's sheet.

    Raises DefinitionError where the name is taken.
    """
    if desk.sources.named(name) is not None:
        raise DefinitionError(f"there is already a source named {name!r}; choose another name")
    return _brought_in(desk, report_id, name, None)


def _brought_in(desk: Desk, report_id: int, name: str, before: Source | None) -> Source:
    """The summary as it is now, brought in unless it is what it was."""
    report = cast(Report, desk.definitions.one(report_id).body)
    own, sheet = sheet_of(desk, report)
    table = flat(sheet, totals=False)
    data = delimited_as_it_is(table)
    digest = hashlib.sha256(data).hexdigest()
    if before is not None and before.report_digest == digest:
        with desk.workspace.change() as db:
            desk.sources.tell_report(db, before.id, report_id, own, digest)
        return desk.sources.one(before.id)
    reading = read_bytes(data, f"{report.title}.csv", _recipe(table))
    way = Bringing(
        name, reading, hold(desk, [data]).sha256, len(data), desk.now(), "replace_all", again=True, reshape=True
    )
    source, _ = desk.intakes.bring_in(
        way, then=lambda db, source: desk.sources.tell_report(db, source.id, report_id, own, digest)
    )
    return source


def delimited_as_it_is(table: FlatTable) -> bytes:
    """A table as delimited text for ourselves, nothing guarded."""
    return delimited(table.headings, table.rows, guarded=False)


def _recipe(table: FlatTable) -> Recipe:
    """How the table is read back: labels as text, starts as dates, figures as what they are."""
    told: dict[str, ColumnReading] = {}
    for heading, figure in zip(table.headings, table.figures, strict=True):
        if heading in table.starts:
            told[heading] = ColumnReading()
        elif figure is None:
            told[heading] = ColumnReading(type="text")
        else:
            told[heading] = ColumnReading(type=figure.kind.value, places=figure.places or None)
    return Recipe(delimiter=",", encoding="utf-8", heading_line=1, columns=told)


def refreshed(desk: Desk, source: Source) -> Source:
    """The source, brought in again first where it is a summary whose report or sources have changed it since."""
    if source.report_id is None:
        return source
    try:
        report = cast(Report, desk.definitions.one(source.report_id).body)
    except MissingError:
        return source
    base = desk.sources.named(report.source)
    if base is None or base.id == source.id:
        return source
    refreshed(desk, base)
    if sheet_key(desk, report, None) == source.report_key:
        return source
    return _brought_in(desk, source.report_id, source.name, source)


def fresh_sheet(desk: Desk, report: Report) -> tuple[Key, Sheet]:
    """A report's key and sheet, a summary that it rests on worked out again first where it must be."""
    source = desk.sources.named(report.source)
    if source is not None:
        refreshed(desk, source)
    return sheet_of(desk, report)
