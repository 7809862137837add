"""A file read by a recipe: typed records, the line each came from, and what was refused."""

from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from kalendor.core.columns import Records, concat
from kalendor.definitions.recipe import ColumnReading, Recipe
from kalendor.errors import IntakeError
from kalendor.intake.delimited import RawTable, Refused, read_delimited
from kalendor.intake.findings import Finding, find
from kalendor.intake.text import as_utf8, layout_of, unpacked

NOTHING_TOLD = ColumnReading()
WORDS = {
    "whole": "whole number",
    "decimal": "number",
    "approximate": "number",
    "datetime": "date and time",
    "yes_no": "yes or no",
}


@dataclass(frozen=True, eq=False)
class Reading:
    """What came of a file. `recipe` says how it was read, so that the next file is read the same way.

    `lines`, shape (n,): the line on which each record begins. `rivals` names columns whose dates fit another order as
    well, with that order.
    """

    name: str
    records: Records
    lines: NDArray[np.int64]
    refused: tuple[Refused, ...]
    recipe: Recipe
    rivals: dict[str, str]


def heading_key(heading: str) -> str:
    """Headings are matched without regard to case, spaces and underscores.

    >>> heading_key("Sold on") == heading_key("sold_ON")
    True
    """
    return heading.casefold().replace(" ", "").replace("_", "")


def read_file(path: Path, recipe: Recipe | None = None) -> Reading:
    """A delimited file's records.

    Raises IntakeError where the file cannot be read, DefinitionError where the recipe does not fit it.
    """
    return read_bytes(unpacked(path), path.name, recipe or Recipe())


def read_bytes(data: bytes, name: str, recipe: Recipe) -> Reading:
    """A delimited file's records, from its bytes."""
    text, encoding = as_utf8(data, name, recipe.encoding)
    layout = layout_of(text, name, encoding, recipe.delimiter, recipe.heading_line)
    raw = read_delimited(text, name, layout)
    raw = _without_foot(raw, recipe.foot_lines)
    return typed(raw, name, recipe, encoding, layout.delimiter)


def _without_foot(raw: RawTable, foot_lines: int) -> RawTable:
    if not foot_lines:
        return raw
    kept = np.arange(max(0, len(raw.lines) - foot_lines))
    return RawTable(raw.headings, [c.take(kept) for c in raw.columns], raw.lines[kept], raw.refused)


def typed(raw: RawTable, name: str, recipe: Recipe, encoding: str | None, delimiter: str | None) -> Reading:
    """Text columns read as what they are; records with a text that cannot be read are refused."""
    told = _told(raw.headings, name, recipe)
    findings: dict[str, Finding] = {}
    for heading, column in zip(raw.headings, raw.columns, strict=True):
        if not told[heading].skip:
            findings[heading] = find(column, told[heading])
    if not findings:
        raise IntakeError(f"{name}: no column is left to read")
    failed = np.logical_or.reduce([finding.failed for finding in findings.values()])
    refused = list(raw.refused)
    for row in np.flatnonzero(failed).tolist():
        refused.append(_refusal(raw, findings, row))
    kept = np.flatnonzero(~failed)
    columns = {h: f.column.take(kept) if len(refused) else f.column for h, f in findings.items()}
    settled = Recipe(
        delimiter=recipe.delimiter or delimiter,
        encoding=recipe.encoding,
        heading_line=recipe.heading_line,
        foot_lines=recipe.foot_lines,
        columns={h: f.reading for h, f in findings.items()} | {h: t for h, t in told.items() if t.skip},
        join=recipe.join,
        join_by=recipe.join_by,
    )
    rivals = {h: f.rival for h, f in findings.items() if f.rival and told[h].format is None}
    return Reading(
        name,
        Records(columns, len(kept)),
        raw.lines[kept],
        tuple(sorted(refused, key=lambda r: r.line)),
        settled,
        rivals,
    )


def _told(headings: tuple[str, ...], name: str, recipe: Recipe) -> dict[str, ColumnReading]:
    """What the recipe says of each heading."""
    by_key = {heading_key(h): h for h in headings}
    told = dict.fromkeys(headings, NOTHING_TOLD)
    for wanted, reading in recipe.columns.items():
        heading = by_key.get(heading_key(wanted))
        if heading is None:
            if reading.skip:
                continue
            raise IntakeError(
                f"{name}: there is no column {wanted!r}, which the recipe reads; the file has {', '.join(headings)}"
            )
        told[heading] = reading
    return told


def _refusal(raw: RawTable, findings: dict[str, Finding], row: int) -> Refused:
    for at, heading in enumerate(raw.headings):
        finding = findings.get(heading)
        if finding is not None and finding.failed[row]:
            text = raw.columns[at].item(row) or ""
            kind = finding.reading.type or "text"
            return Refused(
                int(raw.lines[row]), heading, text[:500], f"{heading}: {text[:80]!r} is not a {WORDS.get(kind, kind)}"
            )
    raise AssertionError("a refused row without a failed column")


def joined(readings: list[Reading]) -> Records:
    """Several files with the same columns as one table, in order.

    Raises IntakeError where a file lacks a column of the first, or reads it as another kind.
    """
    first = readings[0]
    names = {heading_key(n): n for n in first.records.columns}
    aligned: list[dict[str, str]] = []
    for reading in readings:
        here = {heading_key(n): n for n in reading.records.columns}
        if set(here) != set(names):
            odd = sorted(set(here) ^ set(names))[0]
            raise IntakeError(
                f"{reading.name}: its columns are not those of {first.name}; they differ in {names.get(odd) or here[odd]!r}"
            )
        aligned.append(here)
    columns = {}
    for key, name in names.items():
        parts = [r.records.columns[here[key]] for r, here in zip(readings, aligned, strict=True)]
        kinds = {part.kind for part in parts}
        if len(kinds) > 1:
            raise IntakeError(
                f"{name!r} is {' in one file and '.join(sorted(kinds))} in another; give a recipe that settles its type"
            )
        columns[name] = concat(parts)
    return Records(columns, sum(r.records.count for r in readings))
