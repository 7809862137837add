"""Renames columns of a source, or reads them differently, after its files were imported."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import cast

import numpy as np
from numpy.typing import NDArray

from kalendor.core.formulas.expressions import with_column_renamed
from kalendor.core.placing.made_columns import with_made
from kalendor.core.values.columns import EXACT, NUMERIC, Column, Kind, blank_column, brought_to
from kalendor.core.values.notation import grouped
from kalendor.definitions.recipe import ColumnReading
from kalendor.definitions.renaming import ColumnRenamed
from kalendor.definitions.report import Report
from kalendor.desk.desk import Desk
from kalendor.desk.ingredients import looked_up_by
from kalendor.desk.records import complete
from kalendor.errors import ConflictError, DefinitionError, IntakeError
from kalendor.intake.apart import Asked
from kalendor.intake.findings import find, is_as_told
from kalendor.intake.raw import ReadSoFar, unwatched
from kalendor.intake.together import heading_key
from kalendor.intake.typed import WORDS
from kalendor.store.columns import ReadAgain, read_again, renamed
from kalendor.store.columns import set_unit as store_unit
from kalendor.store.intakes import Intake
from kalendor.store.sources import MOST_NAME, Source

SHOWN_UNREAD = 3


def rename_column(desk: Desk, source: Source, old: str, new: str) -> Source:
    """Rename a column of a source; reports, made columns, look-ups and recipes are updated in the same transaction.

    Raises DefinitionError if there is no such column, or the new name is taken or invalid.
    """
    new = new.strip()
    _check_column(source, old)
    if not new or len(new) > MOST_NAME:
        raise DefinitionError(f"a column's name has 1 to {MOST_NAME} characters")
    follow = ColumnRenamed(source.name, old, new, with_column_renamed)
    reports = [(stored, cast(Report, stored.body)) for stored in desk.definitions.all("report")]
    _check_free(source, [report for _, report in reports], old, new)
    with desk.sources.making(source.name), desk.workspace.change() as db:
        source = desk.sources.one(source.id)
        renamed(desk.sources, db, source, old, new, follow.made(list(source.made), source.name))
        for other in desk.sources.all():
            made = follow.made(list(other.made), other.name)
            if other.id != source.id and made != list(other.made):
                desk.sources.set_made(db, other.id, made)
        for stored, report in reports:
            after = follow.report(report)
            if after != report:
                desk.definitions.save(stored.id, after, desk.now())
    return desk.sources.one(source.id)


def _check_column(source: Source, name: str) -> None:
    names = [column.name for column in source.columns]
    if source.report_id is not None:
        raise DefinitionError(f"{source.name} is a report's summary; change the columns in the report")
    if name not in names:
        raise DefinitionError(f"{source.name} has no column {name!r}; it has {', '.join(names)}")


def _check_free(source: Source, reports: list[Report], old: str, new: str) -> None:
    taken = {heading_key(c.name) for c in source.columns if c.name != old} | {heading_key(m.name) for m in source.made}
    if heading_key(new) in taken:
        raise DefinitionError(f"{source.name} already has a column named {new!r}; choose another name")
    for report in reports:
        own = {heading_key(column.name) for column in report.columns}
        if report.source.casefold() == source.name.casefold() and heading_key(new) in own:
            raise DefinitionError(
                f"the report {report.title!r} has a column of its own named {new!r}; choose another name"
            )


def set_unit(desk: Desk, source: Source, name: str, unit: str) -> Source:
    """Set the column that holds the unit of another column's amounts, such as their currency; empty: none.

    Raises DefinitionError if there is no such column, or it does not hold numbers.
    """
    _check_column(source, name)
    amounts = next(c for c in source.columns if c.name == name)
    if unit:
        _check_column(source, unit)
    if unit and (amounts.kind not in NUMERIC or amounts.percent or unit == name):
        raise DefinitionError(f"{name!r} holds no amounts, which could be in a currency or another unit")
    with desk.sources.making(source.name), desk.workspace.change() as db:
        store_unit(db, desk.sources.one(source.id), name, unit)
    return desk.sources.one(source.id)


@dataclass(frozen=True)
class _Unread:
    """A value that cannot be read as requested."""

    text: str
    line: int
    file: str


def read_column_as(
    desk: Desk,
    source: Source,
    name: str,
    told: ColumnReading,
    blank_unread: bool = False,
    so_far: ReadSoFar = unwatched,
) -> Source:
    """Read a column of a source as another kind, again from all its stored files. `blank_unread`: values that cannot be
    read become blank.

    Raises DefinitionError if some cannot be read and `blank_unread` is not set, or if a made column can no longer be
    computed; ConflictError if the source changed meanwhile.
    """
    _check_column(source, name)
    desk.linked.check_kept(source.id, source.name)
    parts: dict[int, ReadAgain] = {}
    unread: list[_Unread] = []
    intakes = desk.intakes.of(source)[::-1]
    for done, intake in enumerate(intakes):
        so_far(done, len(intakes))
        found = _column_of(desk, source, intake, name, told, unread)
        if found is not None:
            parts[intake.id] = found
    if unread and not blank_unread:
        raise DefinitionError(_said(unread, name, told))
    alike = _of_one_kind(parts)
    with desk.sources.making(source.name), desk.workspace.change() as db:
        now = desk.sources.one(source.id)
        if now.revision != source.revision:
            raise ConflictError(f"{source.name} was changed meanwhile; nothing was done, try again")
        read_again(desk.sources, db, now, name, alike)
        _check_made(desk, desk.sources.one(source.id), name)
    return desk.sources.one(source.id)


def _check_made(desk: Desk, source: Source, name: str) -> None:
    """Raises DefinitionError if a made column can no longer be computed. Runs within the transaction, which the error
    rolls back."""
    if not source.made:
        return
    records = desk.sources.rows.from_rows(source).records
    others = {
        n: complete(desk, o).records for n in looked_up_by(source.made) if (o := desk.sources.named(n)) is not None
    }
    try:
        with_made(records, source.made, others)
    except DefinitionError as error:
        raise DefinitionError(f"{name!r} stays as it is: {error}. Change that made column first") from None


def _column_of(
    desk: Desk, source: Source, intake: Intake, name: str, told: ColumnReading, unread: list[_Unread]
) -> ReadAgain | None:
    """An intake's values of a column as read now; None if its file has no such column."""
    recipe = desk.intakes.recipe_of(intake)
    before = next(
        (reading for known, reading in recipe.columns.items() if heading_key(known) == heading_key(name)), None
    )
    if before is None or before.skip:
        return None
    as_text = ColumnReading(type="text", headings=before.headings, optional=before.optional)
    columns = {known: as_text if reading is before else reading for known, reading in recipe.columns.items()}
    asked = Asked(desk.workspace.files / intake.sha256, intake.file_name, recipe.model_copy(update={"columns": columns}),
                  guarded=intake.mends is not None)  # fmt: skip
    reading = desk.readers.read(asked)
    texts = next(c for known, c in reading.records.columns.items() if heading_key(known) == heading_key(name))
    rows, lines = desk.intakes.rows_of(intake)
    at = _places(np.asarray(reading.lines), lines, intake.file_name)
    found = find(texts, told)
    assert found is not None
    column, failed = found.column.take(at), np.zeros(len(at), dtype=bool) if found.failed is None else found.failed[at]
    if told.type == "whole" and column.kind is Kind.DECIMAL:
        failed = failed | ((column.values % 10**column.places != 0) & column.present)
        column = Column(Kind.WHOLE, column.values // 10**column.places, column.blank)
    elif not is_as_told(column.kind, told):  # no value is of that kind
        column, failed = blank_column(Kind(told.type or "text"), len(at)), texts.take(at).present
    if failed.any():
        bad = np.flatnonzero(failed).tolist()
        unread += [_Unread(str(texts.item(int(at[i]))), int(lines[i]), intake.file_name) for i in bad]
        column = replace(column, blank=column.blanks | failed)
    if found.rival is not None and told.format is None:
        raise DefinitionError(
            f"the dates of {name!r} in {intake.file_name} can be read day first and month first; say which"
        )
    how = found.reading.model_copy(
        update={"headings": before.headings, "optional": before.optional, "unit": before.unit}
    )
    return ReadAgain(rows, column, how)


def _places(lines: NDArray[np.integer], wanted: NDArray[np.int64], file: str) -> NDArray[np.int64]:
    """Positions of a file's stored records among the records that it yields now."""
    order = np.argsort(lines, kind="stable")
    at = np.minimum(np.searchsorted(lines[order], wanted), max(0, len(lines) - 1))
    if len(wanted) and (not len(lines) or (lines[order][at] != wanted).any()):
        raise IntakeError(f"{file}: its records are no longer found on their lines; undo it and bring it in again")
    return order[at] if len(wanted) else np.zeros(0, dtype=np.int64)


def _of_one_kind(parts: dict[int, ReadAgain]) -> dict[int, ReadAgain]:
    """The values of all files, converted to the kind and decimal places that can hold them all."""
    filled = [part.values for part in parts.values() if part.values.present.any()] or [p.values for p in parts.values()]
    kinds = {column.kind for column in filled}
    places = max(column.places for column in filled)
    kind = Kind.DECIMAL if kinds == EXACT else Kind.APPROXIMATE if Kind.APPROXIMATE in kinds else next(iter(kinds))
    return {id: replace(part, values=_as(part.values, kind, places, filled[0].percent)) for id, part in parts.items()}


def _as(column: Column, kind: Kind, places: int, percent: bool) -> Column:
    if not column.present.any():
        return blank_column(kind, len(column), places)
    if kind is Kind.APPROXIMATE and column.kind in EXACT:
        return Column(kind, column.floats(), column.blank, percent=percent)
    if kind in EXACT and column.places != places:
        values = brought_to(column, places)
        if values is None:
            raise DefinitionError(f"its amounts are too large to be kept with {places} places")
        return Column(kind, values, column.blank, places, percent=percent)
    return replace(column, kind=kind, percent=percent)


def _said(unread: list[_Unread], name: str, told: ColumnReading) -> str:
    kind = WORDS.get(told.type or "", told.type or "")
    shown = ", ".join(_each(unread[:SHOWN_UNREAD]))
    more = f" and {grouped(len(unread) - SHOWN_UNREAD)} more" if len(unread) > SHOWN_UNREAD else ""
    count = f"{grouped(len(unread))} {'value' if len(unread) == 1 else 'values'} of {name!r}"
    return f"{count} cannot be read as a {kind}: {shown}{more}. Leave {'it' if len(unread) == 1 else 'them'} blank, or keep the column as it is"


def _each(unread: list[_Unread]) -> Iterator[str]:
    for one in unread:
        yield f"{one.text[:60]!r} on line {grouped(one.line)} of {one.file}"
