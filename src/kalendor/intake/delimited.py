"""Delimited text read into text columns: codes into a dictionary, with the line each record came from."""

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.csv as pacsv
from numpy.typing import NDArray

from kalendor.errors import IntakeError
from kalendor.intake.content import Bytes, blocks
from kalendor.intake.gathering import Gathering
from kalendor.intake.raw import SHOWN_TEXT, RawTable, ReadSoFar, Refused, unwatched
from kalendor.intake.text import Layout

BLOCK = 8 << 20
THREADS = 4
NEWLINE, RETURN, QUOTE = 10, 13, 34
Note = Callable[[Any], str]


def read_delimited(text: Bytes, name: str, layout: Layout, so_far: ReadSoFar = unwatched) -> RawTable:
    """The records below the heading line of UTF-8 text.

    Lines with another number of fields than the heading are refused with their line number; blank lines are passed
    over. `so_far` is told how many records are read, of how many. Raises IntakeError for text that no table can be made
    of, such as a quote that is never closed.
    """
    body = text[_offset_of_line(text, layout.heading_line) :]
    quotes = sum(int(np.count_nonzero(block == QUOTE)) for _, block in blocks(body))
    if quotes % 2:
        raise IntakeError(f"{name}: a quote is opened and never closed; look for a line with one quote too many")
    starts = _record_lines(body, layout.heading_line, quotes > 0)
    bad: list[tuple[int, int, str]] = []

    def note(row: Any) -> str:
        bad.append((row.number, row.actual_columns, row.text or ""))
        return "skip"

    def told(rows: int) -> None:
        so_far(rows, len(starts) - 1)

    try:
        try:
            gathered = _read(body, layout, quotes > 0, None, told)
        except pa.ArrowInvalid:
            gathered = _read(body, layout, quotes > 0, note, told)
    except pa.ArrowInvalid as error:
        raise IntakeError(f"{name}: cannot be read as delimited text: {str(error).splitlines()[0][:200]}") from None
    with ThreadPoolExecutor(THREADS) as pool:
        columns = list(pool.map(Gathering.column, gathered))
    refused = [
        Refused(int(starts[n - 1]), "", text[:SHOWN_TEXT], _ragged(actual, len(layout.headings)), (text,))
        for n, actual, text in bad
    ]
    lines = np.delete(starts, [0, *(n - 1 for n, _, _ in bad)]) if len(starts) else starts
    if len(lines) != len(columns[0]):
        raise IntakeError(f"{name}: its quotes do not pair up; look for a quote in the middle of a field")
    return _without_blank_rows(RawTable(layout.headings, columns, lines, refused))


def _read(body: Bytes, layout: Layout, quoted: bool, note: Note | None, told: Callable[[int], None]) -> list[Gathering]:
    """The columns below the heading. Ragged lines go to `note`, one thread reading; without it they raise, and threads
    share the work."""
    gathered = [Gathering() for _ in layout.headings]
    names = [f"c{i}" for i in range(len(layout.headings))]
    batches = pacsv.open_csv(
        pa.BufferReader(pa.py_buffer(body)),
        read_options=pacsv.ReadOptions(
            use_threads=note is None, block_size=BLOCK, column_names=names, skip_rows_after_names=1
        ),
        parse_options=pacsv.ParseOptions(
            delimiter=layout.delimiter, newlines_in_values=quoted, invalid_row_handler=note or (lambda _: "error")
        ),
        convert_options=pacsv.ConvertOptions(
            column_types={n: pa.string() for n in names}, strings_can_be_null=False, check_utf8=False
        ),
    )
    rows = 0
    with ThreadPoolExecutor(THREADS) as pool:
        for batch in batches:
            list(pool.map(Gathering.extend, gathered, batch.columns))
            rows += batch.num_rows
            told(rows)
    return gathered


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


def _record_lines(body: Bytes, first_line: int, quoted: bool) -> NDArray[np.int32]:
    """The line on which each record begins (blank lines are none), quotes over line ends taken into account."""
    newline = NEWLINE if any((block == NEWLINE).any() for _, block in blocks(body)) else RETURN
    found: list[NDArray[np.int32]] = []
    start, start_line, passed, open_quotes = 0, first_line, 0, 0
    for at, block in blocks(body):
        ends = np.flatnonzero(block == newline)
        numbers = np.arange(passed, passed + len(ends)) + first_line + 1
        passed += len(ends)
        if quoted:
            quotes = np.flatnonzero(block == QUOTE)
            whole = (open_quotes + np.searchsorted(quotes, ends)) % 2 == 0
            ends, numbers = ends[whole], numbers[whole]
            open_quotes += len(quotes)
        if not len(ends):
            continue
        ends += at
        starts = np.concatenate([[start], ends[:-1] + 1])
        start_lines = np.concatenate([[start_line], numbers[:-1]])
        length = ends - starts
        length -= (length > 0) & (body[np.maximum(ends - 1, 0)] == RETURN)
        found.append(start_lines[length > 0].astype(np.int32))
        start, start_line = int(ends[-1]) + 1, int(numbers[-1])
    last = body[start : start + 2].tobytes()
    if last and last != b"\r":
        found.append(np.array([start_line], dtype=np.int32))
    return np.concatenate(found) if found else np.zeros(0, dtype=np.int32)


def _without_blank_rows(table: RawTable) -> RawTable:
    """Rows of nothing but delimiters are blank lines, too."""
    if not len(table.lines) or any(c.blank is None for c in table.columns):
        return table
    empty = np.logical_and.reduce([c.blanks for c in table.columns])
    if not empty.any():
        return table
    return RawTable(table.headings, [c.take(~empty) for c in table.columns], table.lines[~empty], table.refused)
