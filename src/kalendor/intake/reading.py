"""A file read by a recipe: typed records, the line each came from, and what was refused."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from kalendor.core.values.columns import Records
from kalendor.core.values.cores import each
from kalendor.definitions.recipe import ColumnReading, Recipe
from kalendor.errors import IntakeError
from kalendor.intake.content import Bytes, blocks, content_of, mapped, unpacked
from kalendor.intake.delimited import read_delimited
from kalendor.intake.findings import MOST_TEXT, Finding, Rival, find
from kalendor.intake.guarding import unguarded
from kalendor.intake.loose import RawColumn, coded, first_of, made, taken
from kalendor.intake.raw import SHOWN_TEXT, RawTable, ReadSoFar, Refused, unwatched
from kalendor.intake.room import anywhere, picked
from kalendor.intake.structured import read_json_records, read_parquet
from kalendor.intake.text import Layout, as_utf8, layout_of, text_notes, without_lone_returns
from kalendor.intake.together import heading_key, together
from kalendor.intake.totals import FootTotal, foot_totals, proven_foot
from kalendor.intake.workbook import read_workbook

MOST_HEADINGS, LONGEST_LINE, NEWLINE = 5_000, 64 << 20, 10
NOTHING_TOLD = ColumnReading()
AS_TEXT = ColumnReading(type="text")
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
    well. `foot` are lines at the end that look like totals; `sheets` a workbook's, the chosen one first;
    `layout` is how a delimited file is laid out; `foot_left_out` says how many of the foot lines are no records, and
    `notes` what else is to be known, in words. `files`, shape (n,), says of which of several files each record is; None
    where there is one. `empty` counts lines of nothing but separators.
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


def read_file(
    path: Path,
    recipe: Recipe | None = None,
    name: str | None = None,
    strict: bool = False,
    so_far: ReadSoFar = unwatched,
    guarded: bool = False,
) -> Reading:
    """A file's records, the file mapped and not held in memory; what must be unpacked or recoded stands beside it.

    `guarded`: the file is one of ours, in which texts that a program might run bear an apostrophe, to be taken off.

    Raises IntakeError where the file cannot be read, DefinitionError where the recipe does not fit it.
    """
    return _read(mapped(path), name or path.name, recipe or Recipe(), strict, so_far, path.parent, guarded)


def read_bytes(data: bytes, name: str, recipe: Recipe, strict: bool = False) -> Reading:
    """A file's records, from its bytes: delimited text, a workbook, Parquet or JSON, told apart by what is in it.

    With `strict` the recipe is a source's, and a column that can no longer be read as it says is an IntakeError.
    """
    return _read(content_of(data), name, recipe, strict)


def read_files(paths: Sequence[Path], recipe: Recipe | None = None) -> Reading:
    """Several files with the same columns as one, in order: what a column is, is found out from all of them; columns of
    nearly unique texts are coded when they are first looked at.

    Raises IntakeError where a file cannot be read or its columns are not those of the first.
    """
    if len(paths) == 1:
        return _read(mapped(paths[0]), paths[0].name, recipe or Recipe(), False, scratch=paths[0].parent, later=True)
    how = recipe or Recipe()
    raws = [(path.name, _raw(mapped(path), path.name, how, unwatched, path.parent)[0]) for path in paths]
    whole = together([(name, _without_foot(raw, _foot_lines(raw, how))) for name, raw in raws])
    return replace(typed(whole, ", ".join(name for name, _ in raws), how, later=True), empty=whole.empty)


def _read(
    content: Bytes,
    name: str,
    recipe: Recipe,
    strict: bool,
    so_far: ReadSoFar = unwatched,
    scratch: Path | None = None,
    guarded: bool = False,
    later: bool = False,
) -> Reading:
    raw, layout = _raw(content, name, recipe, so_far, scratch)
    if guarded:
        raw = replace(raw, columns=[_unguarded(column) for column in raw.columns])
    foot, out = foot_totals(raw), _foot_lines(raw, recipe)
    reading = typed(_without_foot(raw, out), name, recipe, strict, later)
    notes = (*raw.notes, *_untitled(raw), *_empty_said(raw), *reading.notes, *_foot_said(foot, out, recipe))
    return replace(
        reading, foot=foot, sheets=raw.sheets, layout=layout, foot_left_out=out, notes=notes, empty=raw.empty
    )


def _unguarded(column: RawColumn) -> RawColumn:
    text = coded(column)
    return replace(text, words=tuple(unguarded(word) for word in text.words))


def _foot_lines(raw: RawTable, recipe: Recipe) -> int:
    """How many lines at the foot are left out: as the recipe says, else those that prove to be totals."""
    return proven_foot(foot_totals(raw)) if recipe.foot_lines is None else recipe.foot_lines


def _foot_said(foot: tuple[FootTotal, ...], out: int, recipe: Recipe) -> list[str]:
    if not out or recipe.foot_lines is not None:
        return []
    lines = ", ".join(str(one.line) for one in foot[-out:])
    return [f"line {lines} is left out: it is a total, and its amounts are the sums of the columns above" if out == 1
            else f"lines {lines} are left out: they are totals, and their amounts are the sums of the columns above"]  # fmt: skip


def _empty_said(raw: RawTable) -> tuple[str, ...]:
    """How many lines hold nothing but separators."""
    if not raw.empty:
        return ()
    said = "1 line holds" if raw.empty == 1 else f"{raw.empty:,} lines hold"
    return (f"{said} nothing but separators and {'is no record' if raw.empty == 1 else 'are no records'}",)


def _untitled(raw: RawTable) -> list[str]:
    names = [h for h in raw.headings if h.startswith("column ") and h[7:].isdigit()]
    if not names:
        return []
    return [f"{', '.join(names)} {'has' if len(names) == 1 else 'have'} no title in the file"]


def _raw(
    content: Bytes, name: str, recipe: Recipe, so_far: ReadSoFar, scratch: Path | None
) -> tuple[RawTable, Layout | None]:
    """The texts of a file's records, and how it is laid out where it is delimited."""
    content = unpacked(content, name, scratch)
    start = content[:256].tobytes()
    if start[:4] == b"PK\x03\x04":
        return read_workbook(content.tobytes(), name, recipe.sheet, recipe.area, recipe.heading_line), None
    if start[:4] == b"PAR1":
        return read_parquet(content, name, so_far), None
    if _is_json(start):
        return read_json_records(content, name, so_far), None
    _check_lines(content, name)
    text, encoding = as_utf8(content, name, recipe.encoding, scratch)
    notes = text_notes(content, encoding, told=recipe.encoding is not None)
    text, lone = without_lone_returns(text, scratch)
    if lone:
        notes.append(
            f"{lone:,} carriage {'return' if lone == 1 else 'returns'} within lines {'was' if lone == 1 else 'were'} read as spaces"
        )
    layout = layout_of(text, name, encoding, recipe.delimiter, recipe.heading_line)
    if len(layout.headings) > MOST_HEADINGS:
        raise IntakeError(
            f"{name}: its heading line {layout.heading_line} has {len(layout.headings):,} columns; at most"
            f" {MOST_HEADINGS:,} are read. Leave some out, or bring it in by parts"
        )
    return replace(read_delimited(text, name, layout, so_far), notes=tuple(notes)), layout


def _check_lines(content: Bytes, name: str) -> None:
    """Raises IntakeError where a line of a large file is longer than any that can hold a record."""
    if len(content) <= LONGEST_LINE:
        return
    begun, lines = 0, 0
    for at, block in blocks(content):
        ends = np.flatnonzero(block == NEWLINE)
        if len(ends):
            begun, lines = at + int(ends[-1]) + 1, lines + len(ends)
        elif at + len(block) - begun > LONGEST_LINE:
            raise IntakeError(
                f"{name}: line {lines + 1:,} is longer than {LONGEST_LINE >> 20} MiB, and a text has at most a million"
                " characters; look for a value that was not ended, and save the file again"
            )


def _is_json(data: bytes) -> bool:
    """An object or an array at the very start; a delimited file begins with a heading."""
    start = data[:64].lstrip(b"\xef\xbb\xbf \t\r\n")
    if start.startswith(b"{"):
        return True
    return start.startswith(b"[") and data.replace(b"[", b"", 1).lstrip(b"\xef\xbb\xbf \t\r\n")[:1] in (b"{", b"]")


def _without_foot(raw: RawTable, foot_lines: int) -> RawTable:
    if not foot_lines:
        return raw
    count = max(0, len(raw.lines) - foot_lines)
    return replace(raw, columns=[first_of(c, count) for c in raw.columns], lines=raw.lines[:count])


def typed(raw: RawTable, name: str, recipe: Recipe, strict: bool = False, later: bool = False) -> Reading:
    """Text columns read as what they are; records with a text that cannot be read are refused.

    `later`: nearly unique texts may stay uncoded until they are looked at.
    """

    def look(heading: str, column: RawColumn) -> Finding | None:
        found = find(column, told[heading], strict)
        return found if found is None or later else replace(found, column=made(found.column))

    told = _told(raw.headings, raw.texts, name, recipe)
    wanted = [(h, column) for h, column in zip(raw.headings, raw.columns, strict=True) if not told[h].skip]
    findings: dict[str, Finding] = {}
    for (heading, column), found in zip(wanted, each(lambda one: look(*one), wanted, len(raw.lines)), strict=True):
        if found is None:
            raise IntakeError(_retyped(name, heading, column, told[heading]))
        findings[heading] = found
    if not findings:
        raise IntakeError(f"{name}: no column is left to read")
    failed = anywhere([f.failed for f in findings.values() if f.failed is not None], len(raw.lines))
    rows = [] if failed is None else np.flatnonzero(failed).tolist()
    refused = [*raw.refused, *(_refusal(raw, findings, row) for row in rows)]
    columns, lines, files = {h: f.column for h, f in findings.items()}, raw.lines, raw.files
    if failed is not None:
        kept = ~failed
        columns = {h: taken(column, kept) for h, column in columns.items()}
        lines, files = picked(lines, kept), None if files is None else files[kept]
    how = {h: f.reading for h, f in findings.items()} | {h: t for h, t in told.items() if t.skip}
    settled = recipe.model_copy(update={"columns": how})
    rivals = {h: f.rival for h, f in findings.items() if f.rival and told[h].format is None}
    records = Records(columns, len(lines))
    in_order = tuple(sorted(refused, key=lambda r: r.line))
    notes = tuple(f"{heading}: {found.note}" for heading, found in findings.items() if found.note)
    return Reading(name, records, lines, in_order, settled, rivals, raw.headings, notes=notes, files=files)


def _told(headings: tuple[str, ...], texts: frozenset[str], name: str, recipe: Recipe) -> dict[str, ColumnReading]:
    """What the recipe says of each heading."""
    by_key = {heading_key(h): h for h in headings}
    told = {h: AS_TEXT if h in texts else NOTHING_TOLD for h in headings}
    for wanted, reading in recipe.columns.items():
        heading = by_key.get(heading_key(wanted))
        if heading is None:
            if reading.skip:
                continue
            raise IntakeError(
                f"{name}: the column {wanted!r} is missing; nothing was brought in. The file has {', '.join(headings)}"
            )
        told[heading] = reading
    return told


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
                long = f"{heading}: a text of {len(text):,} characters; at most {MOST_TEXT:,} are kept"
                return Refused(int(raw.lines[row]), heading, text[:SHOWN_TEXT], long, cells)
            reason = f"{heading}: {text[:80]!r} is not a {WORDS.get(kind, kind)}"
            return Refused(int(raw.lines[row]), heading, text[:500], reason, cells)
    raise AssertionError("a refused row without a failed column")
