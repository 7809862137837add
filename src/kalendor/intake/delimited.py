"""Delimited text read into text columns: codes into a dictionary, with the line each record came from."""

from concurrent.futures import ThreadPoolExecutor
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
import pyarrow.csv as pacsv
from numpy.typing import NDArray

from kalendor.core.columns import Column, Kind, text_column
from kalendor.errors import IntakeError
from kalendor.intake.raw import SHOWN_TEXT, RawTable, Refused
from kalendor.intake.text import Layout

BLOCK = 16 << 20
THREADS = 4
SCAN = 1 << 26


class _Dictionary:
    """A text column that grows by batches, each different text kept once, outer white space taken off."""

    def __init__(self) -> None:
        self.chunks: list[pa.DictionaryArray] = []

    def extend(self, batch: pa.Array) -> None:
        coded = batch.dictionary_encode()
        trimmed = pc.utf8_trim_whitespace(coded.dictionary)
        if not trimmed.equals(coded.dictionary):
            again = trimmed.dictionary_encode()
            coded = pa.DictionaryArray.from_arrays(again.indices.take(coded.indices), again.dictionary)
        self.chunks.append(coded)

    def column(self) -> Column:
        if not self.chunks:
            return text_column([])
        unified = pa.chunked_array(self.chunks).unify_dictionaries()
        words = tuple(unified.chunk(unified.num_chunks - 1).dictionary.to_pylist())
        codes = np.concatenate([c.indices.to_numpy(zero_copy_only=False) for c in unified.chunks]).astype(np.int32)
        blank = codes == words.index("") if "" in words else None
        return Column(Kind.TEXT, codes, blank, words=words or ("",))


def read_delimited(data: bytes, name: str, layout: Layout) -> RawTable:
    """The records below the heading line of UTF-8 text.

    Lines with another number of fields than the heading are refused with their line number; blank lines are passed
    over. Raises IntakeError for text that no table can be made of, such as a quote that is never closed.
    """
    start = _offset_of_line(data, layout.heading_line)
    body = data[start:]
    if body.count(b'"') % 2:
        raise IntakeError(f"{name}: a quote is opened and never closed; look for a line with one quote too many")
    starts = _record_lines(body, layout.heading_line)
    bad: list[tuple[int, int, str]] = []
    try:
        try:
            dictionaries = _read(body, layout, None)
        except pa.ArrowInvalid:
            dictionaries = _read(body, layout, bad)
    except pa.ArrowInvalid as error:
        raise IntakeError(f"{name}: cannot be read as delimited text: {str(error).splitlines()[0][:200]}") from None
    with ThreadPoolExecutor(THREADS) as pool:
        columns = list(pool.map(_Dictionary.column, dictionaries))
    refused = [
        Refused(int(starts[n - 1]), "", text[:SHOWN_TEXT], _ragged(actual, len(layout.headings)), (text,))
        for n, actual, text in bad
    ]
    lines = np.delete(starts, [0, *(n - 1 for n, _, _ in bad)]) if len(starts) else starts
    if len(lines) != len(columns[0]):
        raise IntakeError(f"{name}: its quotes do not pair up; look for a quote in the middle of a field")
    return _without_blank_rows(RawTable(layout.headings, columns, lines, refused))


def _read(body: bytes, layout: Layout, bad: list[tuple[int, int, str]] | None) -> list[_Dictionary]:
    """The columns below the heading. Ragged lines are noted in `bad` (row, fields, text), one thread reading; without
    `bad` they raise, and threads share the work."""

    def note(row: Any) -> str:
        if bad is None:
            return "error"
        bad.append((row.number, row.actual_columns, row.text or ""))
        return "skip"

    dictionaries = [_Dictionary() for _ in layout.headings]
    names = [f"c{i}" for i in range(len(layout.headings))]
    batches = pacsv.open_csv(
        pa.BufferReader(body),
        read_options=pacsv.ReadOptions(
            use_threads=bad is None, block_size=BLOCK, column_names=names, skip_rows_after_names=1
        ),
        parse_options=pacsv.ParseOptions(delimiter=layout.delimiter, newlines_in_values=True, invalid_row_handler=note),
        convert_options=pacsv.ConvertOptions(
            column_types={n: pa.string() for n in names}, strings_can_be_null=False, check_utf8=False
        ),
    )
    with ThreadPoolExecutor(THREADS) as pool:
        for batch in batches:
            list(pool.map(_Dictionary.extend, dictionaries, batch.columns))
    return dictionaries


def _ragged(actual: int, expected: int) -> str:
    return f"has {actual} {'field' if actual == 1 else 'fields'} where the heading has {expected}"


def _offset_of_line(data: bytes, line: int) -> int:
    at = 0
    for _ in range(line - 1):
        found = data.find(b"\n", at)
        if found < 0:
            return at
        at = found + 1
    return at


def _record_lines(body: bytes, first_line: int) -> NDArray[np.int64]:
    """The line on which each record begins (blank lines are none), quotes over line ends taken into account."""
    newline = 10 if b"\n" in body else 13
    newlines = _places(body, newline)
    ends = newlines
    if b'"' in body:
        ends = newlines[np.searchsorted(_places(body, 34), newlines) % 2 == 0]
    starts = np.concatenate([[0], ends + 1])
    length = np.concatenate([ends, [len(body)]]) - starts
    codes = np.frombuffer(body, dtype=np.uint8)
    some = np.flatnonzero(length > 0)
    length[some] -= codes[starts[some] + length[some] - 1] == 13
    kept = starts[length > 0]
    lines: NDArray[np.int64] = first_line + np.searchsorted(newlines, kept)
    return lines


def _places(body: bytes, code: int) -> NDArray[np.int64]:
    """Where a byte occurs, found a block at a time."""
    codes = np.frombuffer(body, dtype=np.uint8)
    found = [np.flatnonzero(codes[at : at + SCAN] == code) + at for at in range(0, len(codes), SCAN)]
    return np.concatenate(found) if found else np.zeros(0, dtype=np.int64)


def _without_blank_rows(table: RawTable) -> RawTable:
    """Rows of nothing but delimiters are blank lines, too."""
    if not len(table.lines) or any(c.blank is None for c in table.columns):
        return table
    empty = np.logical_and.reduce([c.blanks for c in table.columns])
    if not empty.any():
        return table
    return RawTable(table.headings, [c.take(~empty) for c in table.columns], table.lines[~empty], table.refused)
