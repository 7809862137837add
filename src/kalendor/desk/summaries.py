"""Summaries: a report's sheet as a source, imported again when it changes."""

import hashlib
from typing import cast

from kalendor.core.sheet.sheet import Sheet
from kalendor.core.values.keys import Key
from kalendor.definitions.recipe import ColumnReading, Recipe
from kalendor.definitions.report import Report
from kalendor.desk.desk import Desk
from kalendor.desk.ingredients import looked_up_by, now, sources_of
from kalendor.desk.sheets import sheet_now
from kalendor.desk.uploads import hold
from kalendor.errors import DefinitionError, KalendorError
from kalendor.intake.reading import read_bytes
from kalendor.output.delimited import delimited
from kalendor.output.flat import FlatTable, flat
from kalendor.store.bringing import Bringing
from kalendor.store.sources import Source


def keep_summary(desk: Desk, report_id: int, name: str) -> Source:
    """Create a source from the innermost lines of a report's sheet.

    Raises DefinitionError where the name is taken.
    """
    if desk.sources.named(name) is not None:
        raise DefinitionError(f"there is already a source named {name!r}; choose another name")
    return _brought_in(desk, report_id, name, None)


def _brought_in(desk: Desk, report_id: int, name: str, before: Source | None) -> Source:
    """Import the current summary unless it is unchanged."""
    report = cast(Report, desk.definitions.one(report_id).body)
    own, sheet = sheet_now(desk, report)
    table = flat(sheet, totals=False)
    data = delimited_as_it_is(table)
    digest = hashlib.sha256(data).hexdigest()
    if before is not None and before.report_digest == digest:
        with desk.workspace.change() as db:
            desk.sources.tell_report(db, before.id, report_id, own, digest)
        return desk.sources.one(before.id)
    reading = read_bytes(data, f"{report.title}.csv", _recipe(table))
    held = hold(desk, [data])
    way = Bringing(
        name, reading, held.sha256, held.size, desk.now(), "replace_all", again=True, reshape=True, path=held.path
    )
    try:
        source, _ = desk.intakes.bring_in(
            way, then=lambda db, source: desk.sources.tell_report(db, source.id, report_id, own, digest)
        )
    finally:
        held.path.unlink(missing_ok=True)
    return source


def delimited_as_it_is(table: FlatTable) -> bytes:
    """A table as delimited text for our own import, without guarding formulas."""
    return delimited(table.headings, table.rows, guarded=False)


def _recipe(table: FlatTable) -> Recipe:
    """The recipe for reading the table back: labels as text, starts as dates, figures by their kind."""
    told: dict[str, ColumnReading] = {}
    for heading, figure in zip(table.headings, table.figures, strict=True):
        if heading in table.starts:
            told[heading] = ColumnReading()
        elif figure is None:
            told[heading] = ColumnReading(type="text")
        else:
            told[heading] = ColumnReading(type=figure.kind.value, places=figure.places or None)
    return Recipe(delimiter=",", encoding="utf-8", heading_line=1, columns=told)


def refreshed(desk: Desk, source: Source, under: tuple[Source, ...] = ()) -> Source:
    """The source, imported again first if it is a summary that is out of date.

    Raises DefinitionError for a summary whose report cannot be computed, or that depends on itself at any depth.
    """
    if any(source.id == other.id for other in under):
        way = " → ".join(other.name for other in (*under, source))
        raise DefinitionError(f"the source {source.name!r} rests on itself: {way}")
    _refresh(desk, looked_up_by(source.made), (*under, source))
    if source.report_id is None:
        return source
    report = cast(Report, desk.definitions.one(source.report_id).body)
    _refresh(desk, sources_of(report), (*under, source))
    if desk.sources.named(report.source) is not None and now(desk, report).key == source.report_key:
        return source
    try:
        return _brought_in(desk, source.report_id, source.name, source)
    except KalendorError as error:
        raise DefinitionError(
            f"the source {source.name!r} is the sheet of the report {report.title!r}, which cannot be worked out: {error}"
        ) from error


def _refresh(desk: Desk, names: list[str], under: tuple[Source, ...] = ()) -> None:
    for name in names:
        if (source := desk.sources.named(name)) is not None:
            refreshed(desk, source, under)


def as_far_as_known(desk: Desk, source: Source) -> tuple[Source, str]:
    """The source, imported again if possible, and why not otherwise; for display only, never for a sheet."""
    try:
        return refreshed(desk, source), ""
    except KalendorError as error:
        return desk.sources.one(source.id), str(error)


def fresh_sheet(desk: Desk, report: Report) -> tuple[Key, Sheet]:
    """A report's key and sheet, with every outdated summary it depends on imported again first.

    Raises DefinitionError as `refreshed` does, and whatever computing the report raises.
    """
    _refresh(desk, sources_of(report))
    return sheet_now(desk, report)
