"""Delimited text read into text columns: codes into a dictionary, with the line each record came from."""

from collections.abc import Callable
from dataclasses import replace
from itertools import pairwise
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.csv as pacsv
from numpy.typing import NDArray

from kalendor.core.values.cores import MANY, each, in_turn
from kalendor.errors import IntakeError
from kalendor.intake.content import Bytes, blocks
from kalendor.intake.gathering import Gathered, Gathering
from kalendor.intake.loose import taken
from kalendor.intake.raw import SHOWN_TEXT, RawTable, ReadSoFar, Refused, unwatched
from kalendor.intake.room import anywhere, joined, kept, picked
from kalendor.intake.text import Layout

BLOCK = 8 << 20
THREADS = 4
SHORT_LINE = 20  # bytes
NEWLINE, RETURN, QUOTE = 10, 13, 34
Note = Callable[[Any], str]


def read_delimited(text: Bytes, name: str, layout: Layout, so_far: ReadSoFar = unwatched) -> RawTable:
    """The records below the heading line of UTF-8 text.

    Lines with a different number of fields than the heading are refused with their line number; blank lines are
    skipped. `so_far` receives the number of records read and their total. Raises IntakeError for text that is not a
    table, for example with an unclosed quote.
    """
    body = text[_offset_of_line(text, layout.heading_line) :]
    starts, cuts, quotes = _record_lines(body, layout.heading_line)
    if quotes % 2:
        raise IntakeError(f"{name}: a quote is opened and never closed; look for a line with one quote too many")
    bad: list[tuple[int, int, str]] = []

    def note(row: Any) -> str:
        bad.append((row.number, row.actual_columns, row.text or ""))
        return "skip"

    def told(rows: int) -> None:
        so_far(rows, len(starts) - 1)

    try:
        try:
            gathered = _read_by_parts(body, cuts, layout, quotes > 0, told)
        except pa.ArrowInvalid:
            gathered = _read_in_order(body, layout, quotes > 0, note, told)
    except pa.ArrowInvalid as error:
        raise IntakeError(f"{name}: cannot be read as delimited text: {str(error).splitlines()[0][:200]}") from None
    columns = each(Gathering.column, gathered, len(starts))
    if len(columns[0]) + len(bad) != max(0, len(starts) - 1) or any(n > len(starts) for n, _, _ in bad):
        raise IntakeError(f"{name}: its quotes do not pair up; look for a quote in the middle of a field")
    refused = [
        Refused(int(starts[n - 1]), "", text[:SHOWN_TEXT], _ragged(actual, len(layout.headings)), (text,))
        for n, actual, text in bad
        if text.strip(f'{layout.delimiter}" \t\r')
    ]
    lines, empty = _kept_lines(starts, [n for n, _, _ in bad]), len(bad) - len(refused)
    return _without_blank_rows(RawTable(layout.headings, columns, lines, refused, empty=empty))


def _kept_lines(starts: NDArray[np.int32], bad: list[int]) -> NDArray[np.int32]:
    """The lines of the records, below the heading and without the refused ones, which count from 1."""
    if not bad:
        return starts[1:]
    good = np.ones(len(starts), dtype=bool)
    good[[0, *(n - 1 for n in bad)]] = False
    return picked(starts, good)


def _read_by_parts(
    body: Bytes, cuts: list[int], layout: Layout, quoted: bool, told: Callable[[int], None]
) -> list[Gathering]:
    """The columns below the heading, with parts of the body read in parallel; ragged lines raise ArrowInvalid."""
    gathered = [Gathering() for _ in layout.headings]
    parts = [body[start:stop] for start, stop in pairwise([0, *cuts, len(body)]) if stop > start]
    parsing = _parsing(layout, quoted, None)

    def read(part: Bytes, headings: int = 0) -> list[Gathered]:
        table = pacsv.read_csv(
            pa.BufferReader(pa.py_buffer(part)),
            _reading(layout, len(part) + 1, headings),
            parsing,
            _converting(layout),
        )
        columns = (pa.concat_arrays(c.chunks) if c.num_chunks else pa.array([], pa.string()) for c in table.columns)
        return [one.prepared(texts) for one, texts in zip(gathered, columns, strict=True)]

    def add(prepared: list[Gathered], rows: int) -> int:
        for one, texts in zip(gathered, prepared, strict=True):
            one.add(texts)
        told(rows + len(prepared[0]))
        return rows + len(prepared[0])

    rows = add(read(parts[0], headings=1), 0)  # before the others: it determines how each column is gathered
    for prepared in in_turn(read, parts[1:], MANY, THREADS):
        rows = add(prepared, rows)
    return gathered


def _read_in_order(
    body: Bytes, layout: Layout, quoted: bool, note: Note, told: Callable[[int], None]
) -> list[Gathering]:
    """The columns below the heading, read sequentially by one thread; ragged lines go to `note`."""
    gathered = [Gathering() for _ in layout.headings]
    batches = pacsv.open_csv(
        pa.BufferReader(pa.py_buffer(body)),
        _reading(layout, BLOCK, 1),
        _parsing(layout, quoted, note),
        _converting(layout),
    )
    rows = 0
    for batch in batches:
        for one, texts in zip(gathered, batch.columns, strict=True):
            one.add(one.prepared(texts))
        rows += batch.num_rows
        told(rows)
    return gathered


def _reading(layout: Layout, block: int, headings: int) -> pacsv.ReadOptions:
    return pacsv.ReadOptions(
        use_threads=False, block_size=block, column_names=_names(layout), skip_rows_after_names=headings
    )


def _parsing(layout: Layout, quoted: bool, note: Note | None) -> pacsv.ParseOptions:
    return pacsv.ParseOptions(
        delimiter=layout.delimiter, newlines_in_values=quoted, invalid_row_handler=note or (lambda _: "error")
    )


def _converting(layout: Layout) -> pacsv.ConvertOptions:
    return pacsv.ConvertOptions(
        column_types=dict.fromkeys(_names(layout), pa.string()), strings_can_be_null=False, check_utf8=False
    )


def _names(layout: Layout) -> list[str]:
    return [f"c{i}" for i in range(len(layout.headings))]


def _ragged(actual: int, expected: int) -> str:
    return f"has {actual} {'field' if actual == 1 else 'fields'} where the heading has {expected}"


def _offset_of_line(text: Bytes, line: int) -> int:
    passed = 0
    for at, block in blocks(text):
        ends = np.flatnonzero(block == NEWLINE)
        if passed + len(ends) >= line - 1:
            return at + int(ends[line - 2 - passed]) + 1 if line > 1 else 0
        passed += len(ends)
    return 0


def _record_lines(body: Bytes, first_line: int) -> tuple[NDArray[np.int32], list[int], int]:
    """The line on which each record begins (blank lines excluded), taking quotes over line ends into account; offsets,
    a block apart, where one begins; and the number of quotes."""
    newline = NEWLINE if any((block == NEWLINE).any() for _, block in blocks(body)) else RETURN
    found: list[NDArray[np.int32]] = []
    cuts: list[int] = []
    start, start_line, passed, open_quotes = 0, first_line, 0, 0
    scanned = in_turn(lambda piece: _scanned(piece, newline), list(blocks(body)), len(body) // SHORT_LINE)
    for at, ends, quotes in scanned:
        numbers = np.arange(passed, passed + len(ends)) + first_line + 1
        passed += len(ends)
        if open_quotes or len(quotes):
            whole = (open_quotes + np.searchsorted(quotes, ends)) % 2 == 0
            ends, numbers = ends[whole], numbers[whole]
            open_quotes += len(quotes)
        if not len(ends):
            continue
        stops = ends.astype(np.int64) + at
        starts = np.concatenate([[start], stops[:-1] + 1])
        start_lines = np.concatenate([[start_line], numbers[:-1]])
        length = stops - starts
        length -= (length > 0) & (body[np.maximum(stops - 1, 0)] == RETURN)
        found.append(kept(start_lines[length > 0].astype(np.int32)))
        start, start_line = int(stops[-1]) + 1, int(numbers[-1])
        cuts.append(start)
    last = body[start : start + 2].tobytes()
    if last and last != b"\r":
        found.append(np.array([start_line], dtype=np.int32))
    return joined(found, np.int32), cuts, open_quotes


def _scanned(piece: tuple[int, Bytes], newline: int) -> tuple[int, NDArray[np.int32], NDArray[np.int32]]:
    """The offset of a block, and where in it lines end and quotes are."""
    at, block = piece
    ends, quotes = (np.flatnonzero(block == byte).astype(np.int32) for byte in (newline, QUOTE))
    return at, ends, quotes


def _without_blank_rows(table: RawTable) -> RawTable:
    """Rows that contain only delimiters are not records; they are counted."""
    if not len(table.lines) or any(c.blank is None for c in table.columns):
        return table
    filled = anywhere([~c.blanks for c in table.columns], len(table.lines))
    if filled is None or filled.all():
        return table
    columns = [taken(c, filled) for c in table.columns]
    return replace(table, columns=columns, lines=picked(table.lines, filled), empty=table.empty + int((~filled).sum()))
