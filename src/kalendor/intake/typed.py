"""Converts columns of texts to typed columns, as a recipe says."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kalendor.core.values.columns import NUMERIC, Column, Kind, Mask, Records, blank_column
from kalendor.core.values.cores import each
from kalendor.core.values.notation import grouped
from kalendor.definitions.recipe import ColumnReading, Recipe
from kalendor.errors import IntakeError
from kalendor.intake.findings import MOST_TEXT, Finding, Rival, find
from kalendor.intake.loose import RawColumn, coded, first_words, made, taken
from kalendor.intake.raw import SHOWN_TEXT, RawTable, Refused
from kalendor.intake.room import anywhere, picked
from kalendor.intake.text import Layout
from kalendor.intake.together import heading_key
from kalendor.intake.totals import FootTotal
from kalendor.intake.values import file_mark, open_mark

NOTHING_TOLD = ColumnReading()
AS_TEXT = ColumnReading(type="text")
MARKED = 100  # texts of each column used to detect the file's decimal mark
WORDS = {
    "whole": "whole number",
    "decimal": "number",
    "approximate": "number",
    "datetime": "date and time",
    "yes_no": "yes or no",
}


@dataclass(frozen=True)
class Misfit:
    """A column that a file lacks (`absent`), or has in another form than the recipe says; `said` describes it."""

    column: str
    absent: bool
    said: str


@dataclass(frozen=True, eq=False)
class Reading:
    """The result of reading a file. `recipe` says how it was read, so that the next file is read the same way.

    `lines`, shape (n,): the line on which each record begins. `rivals` lists columns whose dates fit another order as
    well. `foot` are lines at the end that look like totals; `sheets` a workbook's, the chosen one first; `layout` is
    that of a delimited file; `foot_left_out` is the number of foot lines that are not records, and `notes` are other
    remarks. `files`, shape (n,), is which of several files each record is from; None if there is one. `empty` counts
    lines that contain only separators. `headed` has the heading of each column in the file, an empty one if the file
    lacks it; `misfits` are columns that differ from the recipe, which were read freely. `open_marks` has an example for
    each column of numbers like 1,234, whose mark may be a decimal or a thousands mark.
    """

    name: str
    records: Records
    lines: NDArray[np.integer]
    refused: tuple[Refused, ...]
    recipe: Recipe
    rivals: dict[str, Rival]
    headings: tuple[str, ...] = ()
    foot: tuple[FootTotal, ...] = ()
    sheets: tuple[str, ...] = ()
    layout: Layout | None = None
    foot_left_out: int = 0
    notes: tuple[str, ...] = ()
    files: NDArray[np.int32] | None = None
    empty: int = 0
    headed: dict[str, str] = field(default_factory=dict)
    misfits: tuple[Misfit, ...] = ()
    open_marks: dict[str, str] = field(default_factory=dict)


@dataclass(frozen=True)
class _Told:
    """A recipe's settings for a heading: the column's name, and how it is read."""

    name: str
    reading: ColumnReading


def typed(raw: RawTable, name: str, recipe: Recipe, strict: bool = False, later: bool = False) -> Reading:
    """Text columns converted to their kinds; records with a text that cannot be read are refused.

    `strict`: a column in which fewer than nine tenths of the records fit the recipe is read freely, and is among the
    misfits, as is one that is absent. `later`: nearly unique texts may stay uncoded until they are used.

    Raises IntakeError if a column is absent and `strict` is not set, or if none is left to read.
    """
    told, absent, unread = _told(raw, recipe, strict)
    misfits = [Misfit(column, True, _missing(raw, name, column)) for column in absent]
    if misfits and not strict:
        raise IntakeError(f"{misfits[0].said}. The file has {', '.join(raw.headings)}")
    wanted = [(h, column) for h, column in zip(raw.headings, raw.columns, strict=True) if not told[h].reading.skip]
    findings: dict[str, Finding] = {}
    mark = file_mark(first_words(column, MARKED) for _, column in wanted)
    looked_at = each(lambda one: _looked_at(one[1], told[one[0]].reading, strict, mark), wanted, len(raw.lines))
    for (heading, column), (found, fits) in zip(wanted, looked_at, strict=True):
        if not fits:
            misfits.append(Misfit(told[heading].name, False, _retyped(name, heading, column, told[heading].reading)))
        findings[heading] = found if later else replace(found, column=made(found.column))
    if not findings:
        raise IntakeError(f"{name}: no column is left to read")
    failed = anywhere([f.failed for f in findings.values() if f.failed is not None], len(raw.lines))
    rows = [] if failed is None else np.flatnonzero(failed).tolist()
    refused = [*raw.refused, *(_refusal(raw, findings, row) for row in rows)]
    columns, lines, files = _without({told[h].name: f.column for h, f in findings.items()}, raw, failed)
    lacking = [n for n, reading in unread.items() if reading.optional]
    columns |= {n: blank_column(Kind(unread[n].type or "text"), len(lines), unread[n].places or 0) for n in lacking}
    columns = _with_units(columns, {told[h].name: told[h].reading for h in findings}, name)
    skipped = {one.name: one.reading for one in told.values() if one.reading.skip}
    how = {told[h].name: _kept(f.reading, told[h].reading) for h, f in findings.items()} | skipped | unread
    return Reading(
        name, Records(columns, len(lines)), lines, tuple(sorted(refused, key=lambda r: r.line)),
        recipe.model_copy(update={"columns": how}),
        {told[h].name: f.rival for h, f in findings.items() if f.rival and told[h].reading.format is None},
        raw.headings,
        notes=tuple(f"{told[h].name}: {found.note}" for h, found in findings.items() if found.note),
        files=files, headed={told[h].name: h for h in findings} | dict.fromkeys(lacking, ""), misfits=tuple(misfits),
        open_marks={} if mark is not None else _open_marks(wanted, told, findings, strict),
    )  # fmt: skip


def _without(
    columns: dict[str, Any], raw: RawTable, failed: Mask | None
) -> tuple[dict[str, Any], NDArray[np.integer], NDArray[np.int32] | None]:
    """Columns, and the line and file of each record, without failed records."""
    if failed is None:
        return columns, raw.lines, raw.files
    kept = ~failed
    found = {h: taken(column, kept) for h, column in columns.items()}
    return found, picked(raw.lines, kept), None if raw.files is None else raw.files[kept]


def _open_marks(
    wanted: Sequence[tuple[str, RawColumn]], told: Mapping[str, _Told], findings: Mapping[str, Finding], strict: bool
) -> dict[str, str]:
    """An example text of each column of numbers whose mark may be a decimal or a thousands mark."""
    found = {}
    for heading, column in wanted:
        asked = strict or told[heading].reading.decimal_mark is None
        if asked and findings[heading].column.kind in NUMERIC and (marked := open_mark(first_words(column, MARKED))):
            found[told[heading].name] = marked
    return found


def _looked_at(column: RawColumn, told: ColumnReading, strict: bool, mark: str | None) -> tuple[Finding, bool]:
    """A column as read, and whether it is as told."""
    if strict and mark is not None and told.decimal_mark is not None:
        told = told.model_copy(update={"decimal_mark": None})  # the file has its own unit column
    found = find(column, told, strict, mark)
    if found is not None:
        return found, True
    free = find(column, ColumnReading(fold_case=told.fold_case, zone=told.zone), mark=mark)
    assert free is not None
    return free, False


def _kept(found: ColumnReading, told: ColumnReading) -> ColumnReading:
    """The reading that was found, with the told settings of the column beside its type."""
    return found.model_copy(update={"headings": told.headings, "optional": told.optional, "unit": told.unit})


def _with_units(columns: dict[str, Column], told: dict[str, ColumnReading], name: str) -> dict[str, Column]:
    """The columns, those of amounts with the column that holds their unit."""
    for amounts, reading in told.items():
        column = columns[amounts]
        if reading.unit is None or column.kind not in NUMERIC:
            continue
        if reading.unit.column not in columns:
            raise IntakeError(
                f"{name}: {amounts!r} is to have its unit in {reading.unit.column!r}, and there is no such column. The file"
                f" has {', '.join(columns)}"
            )
        columns = {**columns, amounts: replace(column, unit=(reading.unit.column,))}
    return columns


def _told(raw: RawTable, recipe: Recipe, strict: bool) -> tuple[dict[str, _Told], list[str], dict[str, ColumnReading]]:
    """What the recipe says of each heading; the columns that are absent and may not be; and what it says of those that are
    absent and may be. Columns have the names of the file's headings, or where `strict` those of the recipe."""
    by_key = {heading_key(h): h for h in raw.headings}
    own = {heading_key(wanted) for wanted in recipe.columns}
    told = {h: _Told(h, AS_TEXT if h in raw.texts else raw.told.get(h, NOTHING_TOLD)) for h in raw.headings}
    absent: list[str] = []
    unread: dict[str, ColumnReading] = {}
    for wanted, reading in recipe.columns.items():
        heading = by_key.get(heading_key(wanted))
        others = [by_key[k] for k in map(heading_key, reading.headings) if k in by_key and k not in own]
        if heading is not None:
            told[heading] = _Told(wanted if strict else heading, reading)
        elif others:
            told[others[0]] = _Told(wanted, reading)
        elif reading.skip or reading.optional:
            unread[wanted] = reading
        else:
            absent.append(wanted)
    return told, absent, unread


def _missing(raw: RawTable, name: str, column: str) -> str:
    return f"{name}: the column {column!r} is missing; nothing was brought in"


def _retyped(name: str, heading: str, column: RawColumn, told: ColumnReading) -> str:
    example = next((w for w in coded(column).words if w), "")
    kind = WORDS.get(told.type or "", told.type or "")
    return f"{name}: {heading!r} was read as a {kind} so far, and now holds such as {example[:60]!r}; nothing was brought in"


def _refusal(raw: RawTable, findings: dict[str, Finding], row: int) -> Refused:
    cells = tuple((column.item(row) or "")[:MOST_TEXT] for column in raw.columns)
    for at, heading in enumerate(raw.headings):
        finding = findings.get(heading)
        if finding is not None and finding.failed is not None and finding.failed[row]:
            text = raw.columns[at].item(row) or ""
            kind = finding.reading.type or "text"
            if kind == "text":
                long = f"{heading}: a text of {grouped(len(text))} characters; at most {grouped(MOST_TEXT)} are kept"
                return Refused(int(raw.lines[row]), heading, text[:SHOWN_TEXT], long, cells)
            reason = f"{heading}: {text[:80]!r} is not a {WORDS.get(kind, kind)}"
            return Refused(int(raw.lines[row]), heading, text[:500], reason, cells)
    raise AssertionError("a refused row without a failed column")
