"""Reads a file by a recipe: typed records, the line of each, and refused lines."""

import os
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np

from kalendor.core.values.notation import grouped
from kalendor.definitions.recipe import Recipe
from kalendor.errors import IntakeError
from kalendor.intake.content import Bytes, blocks, content_of, mapped, unpacked
from kalendor.intake.delimited import read_delimited
from kalendor.intake.guarding import unguarded
from kalendor.intake.loose import RawColumn, coded, first_of
from kalendor.intake.parquet import is_parquet, read_parquet
from kalendor.intake.raw import RawTable, ReadSoFar, unwatched
from kalendor.intake.structured import read_json_records
from kalendor.intake.text import Layout, as_utf8, layout_of, text_notes, without_lone_returns
from kalendor.intake.together import together
from kalendor.intake.totals import FootTotal, foot_totals, proven_foot
from kalendor.intake.typed import Misfit, Reading, typed
from kalendor.intake.workbook import read_workbook

MOST_HEADINGS, LONGEST_LINE, NEWLINE = 5_000, 64 << 20, 10
NO_TABLES = {
    b"%PDF-": "a PDF",
    b"\xd0\xcf\x11\xe0": "a document of an old binary kind, as a workbook ending in .xls",
    b"\x89PNG": "a picture",
    b"\xff\xd8\xff": "a picture",
    b"GIF8": "a picture",
    b"{\\rtf": "a text document",
}
"""How files begin from which no table is read, and what they are."""
LAID_OUT = ("sheet", "area", "delimiter", "encoding", "heading_line", "foot_lines")


def read_file(
    path: Path,
    recipe: Recipe | None = None,
    name: str | None = None,
    strict: bool = False,
    so_far: ReadSoFar = unwatched,
    guarded: bool = False,
    earlier: Sequence[Recipe] = (),
) -> Reading:
    """A file's records, with the file memory-mapped; decompressed or recoded content is stored beside it.

    `strict`: the recipe is a source's, and deviations from it are among the misfits; if there are any, the file is read
    by whichever of it and the `earlier` recipes fits best. `guarded`: the file is one of our exports, in which texts
    that a program might execute have an apostrophe, which is removed.

    Raises IntakeError if the file cannot be read, DefinitionError if the recipe does not fit it.
    """
    file = _File(mapped(path), name or path.name, so_far, path.parent, guarded)
    return _best(file, (recipe or Recipe(), *earlier)) if strict else _read(file, recipe or Recipe())


def read_bytes(data: bytes, name: str, recipe: Recipe, strict: bool = False) -> Reading:
    """A file's records, from its bytes: delimited text, a workbook, Parquet or JSON, by its content."""
    file = _File(content_of(data), name)
    return _best(file, (recipe,)) if strict else _read(file, recipe)


def read_files(
    paths: Sequence[Path], recipe: Recipe | None = None, wanted: Callable[[str], bool] | None = None
) -> Reading:
    """Several files with the same columns as one, in order: kinds are detected from all of them; columns of nearly
    unique texts are coded on first use. Of Parquet only the columns `wanted` are read.

    Raises IntakeError if a file cannot be read or its columns differ from those of the first.
    """
    if len(paths) == 1:
        one = _File(mapped(paths[0]), paths[0].name, scratch=paths[0].parent, wanted=wanted)
        return _read(one, recipe or Recipe(), later=True)
    how = recipe or Recipe()
    raws = [(p.name, _File(mapped(p), p.name, scratch=p.parent, wanted=wanted).raw(how)[0]) for p in paths]
    whole = together([(name, _without_foot(raw, _foot_lines(raw, how))) for name, raw in raws])
    return replace(typed(whole, ", ".join(name for name, _ in raws), how, later=True), empty=whole.empty)


def read_content(
    content: Bytes,
    path: Path,
    recipe: Recipe | None,
    groups: Sequence[int] = (),
    wanted: Callable[[str], bool] | None = None,
    strict: bool = False,
) -> Reading:
    """The records of a part of a file; of Parquet those of some row groups, and only the columns `wanted`. `strict` as
    in `read_file`.

    Raises IntakeError if it cannot be read.
    """
    scratch = path.parent if os.access(path.parent, os.W_OK) else None
    file = _File(content, path.name, scratch=scratch, groups=groups, wanted=wanted)
    how = recipe or Recipe()
    if wanted is not None and is_parquet(content):
        how = how.model_copy(update={"columns": {name: one for name, one in how.columns.items() if wanted(name)}})
    return _read(file, how, strict)


@dataclass
class _File:
    """A file to be read, perhaps by several recipes; texts split in the same way are split once."""

    content: Bytes
    name: str
    so_far: ReadSoFar = unwatched
    scratch: Path | None = None
    guarded: bool = False
    groups: Sequence[int] = ()
    wanted: Callable[[str], bool] | None = None
    _last: tuple[tuple[object, ...], RawTable, Layout | None] | None = None

    def raw(self, recipe: Recipe) -> tuple[RawTable, Layout | None]:
        """The texts of the file's records, and its layout if it is delimited."""
        key = (recipe.sheet, recipe.area, recipe.delimiter, recipe.encoding, recipe.heading_line)
        if self._last is None or self._last[0] != key:
            if is_parquet(self.content):
                raw, layout = read_parquet(self.content, self.name, self.so_far, self.groups, self.wanted), None
            else:
                raw, layout = _raw(self.content, self.name, recipe, self.so_far, self.scratch)
            if self.guarded:
                raw = replace(raw, columns=[_unguarded(column) for column in raw.columns])
            self._last = key, raw, layout
        return self._last[1:]


def _best(file: _File, recipes: Sequence[Recipe]) -> Reading:
    """The reading by the first recipe that fits, else by the one with the fewest misfits."""
    best: Reading | None = None
    for recipe in recipes:
        for reading in _strictly(file, recipe):
            if not reading.misfits:
                return reading
            best = reading if best is None or len(reading.misfits) < len(best.misfits) else best
    assert best is not None
    return best


def _strictly(file: _File, recipe: Recipe) -> Iterator[Reading]:
    """The file read in a recipe's layout; if that does not fit, also in the detected layout."""
    free = recipe.model_copy(update=dict.fromkeys(LAID_OUT, None))
    try:
        found = _read(file, recipe, strict=True)
    except IntakeError as error:
        if free == recipe:
            raise
        found = _read(file, free, strict=True)
        said = str(error).removeprefix(f"{file.name}: ")
        if not found.misfits:  # a sheet named after its month: all columns exist and read as before
            yield replace(found, notes=(*found.notes, f"{said}; it was read as it is laid out"))
            return
        yield replace(found, misfits=(Misfit("", False, said), *found.misfits))
        return
    yield found
    if free != recipe and any(one.absent for one in found.misfits):
        other = _read(file, free, strict=True)
        said = "it is laid out otherwise than the files before"
        yield replace(other, misfits=(Misfit("", False, said), *other.misfits))


def _read(file: _File, recipe: Recipe, strict: bool = False, later: bool = False) -> Reading:
    raw, layout = file.raw(recipe)
    foot, out = foot_totals(raw), _foot_lines(raw, recipe)
    reading = typed(_without_foot(raw, out), file.name, recipe, strict, later)
    notes = (*raw.notes, *_untitled(raw), *_empty_said(raw), *reading.notes, *_foot_said(foot, out, recipe))
    return replace(
        reading, foot=foot, sheets=raw.sheets, layout=layout, foot_left_out=out, notes=notes, empty=raw.empty
    )


def _unguarded(column: RawColumn) -> RawColumn:
    text = coded(column)
    return replace(text, words=tuple(unguarded(word) for word in text.words))


def _foot_lines(raw: RawTable, recipe: Recipe) -> int:
    """The number of lines at the foot that are left out: the recipe's, else those that prove to be totals."""
    return proven_foot(foot_totals(raw)) if recipe.foot_lines is None else recipe.foot_lines


def _foot_said(foot: tuple[FootTotal, ...], out: int, recipe: Recipe) -> list[str]:
    if not out or recipe.foot_lines is not None:
        return []
    lines = ", ".join(str(one.line) for one in foot[-out:])
    return [f"line {lines} is left out: it is a total, and its amounts are the sums of the columns above" if out == 1
            else f"lines {lines} are left out: they are totals, and their amounts are the sums of the columns above"]  # fmt: skip


def _empty_said(raw: RawTable) -> tuple[str, ...]:
    """The note on lines that contain only separators."""
    if not raw.empty:
        return ()
    said = "1 line holds" if raw.empty == 1 else f"{grouped(raw.empty)} lines hold"
    return (f"{said} nothing but separators and {'is no record' if raw.empty == 1 else 'are no records'}",)


def _untitled(raw: RawTable) -> list[str]:
    names = [h for h in raw.headings if h.startswith("column ") and h[7:].isdigit()]
    if not names:
        return []
    return [f"{', '.join(names)} {'has' if len(names) == 1 else 'have'} no title in the file"]


def _raw(
    content: Bytes, name: str, recipe: Recipe, so_far: ReadSoFar, scratch: Path | None
) -> tuple[RawTable, Layout | None]:
    """The texts of a file's records, and its layout if it is delimited."""
    content = unpacked(content, name, scratch)
    start = content[:256].tobytes()
    if start[:4] == b"PK\x03\x04":
        return read_workbook(content.tobytes(), name, recipe.sheet, recipe.area, recipe.heading_line), None
    if is_parquet(content):
        return read_parquet(content, name, so_far), None
    for mark, kind in NO_TABLES.items():
        if start.startswith(mark):
            raise IntakeError(
                f"{name}: it is {kind}; save it as delimited text, a workbook (.xlsx), Parquet or JSON first"
            )
    if _is_json(start):
        return read_json_records(content, name, so_far), None
    _check_lines(content, name)
    text, encoding = as_utf8(content, name, recipe.encoding, scratch)
    notes = text_notes(content, encoding, told=recipe.encoding is not None)
    text, lone = without_lone_returns(text, scratch)
    if lone:
        notes.append(
            f"{grouped(lone)} carriage {'return' if lone == 1 else 'returns'} within lines {'was' if lone == 1 else 'were'} read as spaces"
        )
    layout = layout_of(text, name, encoding, recipe.delimiter, recipe.heading_line)
    if len(layout.headings) > MOST_HEADINGS:
        raise IntakeError(
            f"{name}: its heading line {layout.heading_line} has {grouped(len(layout.headings))} columns; at most"
            f" {grouped(MOST_HEADINGS)} are read. Leave some out, or bring it in by parts"
        )
    return replace(read_delimited(text, name, layout, so_far), notes=tuple(notes)), layout


def _check_lines(content: Bytes, name: str) -> None:
    """Raises IntakeError if a line of a large file is too long to be a record."""
    if len(content) <= LONGEST_LINE:
        return
    begun, lines = 0, 0
    for at, block in blocks(content):
        ends = np.flatnonzero(block == NEWLINE)
        if len(ends):
            begun, lines = at + int(ends[-1]) + 1, lines + len(ends)
        elif at + len(block) - begun > LONGEST_LINE:
            raise IntakeError(
                f"{name}: line {grouped(lines + 1)} is longer than {LONGEST_LINE >> 20} MiB, and a text has at most a million"
                " characters; look for a value that was not ended, and save the file again"
            )


def _is_json(data: bytes) -> bool:
    """Whether the text starts with an object or an array; a delimited file begins with a heading."""
    start = data[:64].lstrip(b"\xef\xbb\xbf \t\r\n")
    if start.startswith(b"{"):
        return True
    return start.startswith(b"[") and data.replace(b"[", b"", 1).lstrip(b"\xef\xbb\xbf \t\r\n")[:1] in (b"{", b"]")


def _without_foot(raw: RawTable, foot_lines: int) -> RawTable:
    if not foot_lines:
        return raw
    count = max(0, len(raw.lines) - foot_lines)
    return replace(raw, columns=[first_of(c, count) for c in raw.columns], lines=raw.lines[:count])
