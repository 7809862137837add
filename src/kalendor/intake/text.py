"""Decodes the text of a file, and detects its delimiter and heading line."""

import codecs
import csv
import io
import unicodedata
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from kalendor.core.values.notation import grouped
from kalendor.errors import IntakeError
from kalendor.intake.content import Bytes, blocks, gathered
from kalendor.intake.encodings import MIXED, OTHERS, encoding_of, is_utf8, lines_of, odd_lines

DELIMITERS = ",;\t|"
SAMPLE_LINES = 200
MOST_HEADING = 190  # leaves room for the number of a repeated heading
NEWLINE, RETURN, SPACE = 10, 13, 32
LINES_AT_ONCE = 10_000


@dataclass(frozen=True)
class Layout:
    """The layout of a delimited file; `heading_line` counts from 1, as in a text editor."""

    encoding: str
    delimiter: str
    heading_line: int
    headings: tuple[str, ...]


def text_notes(content: Bytes, encoding: str, told: bool = False) -> list[str]:
    """Remarks on how a file's text is written; `content` is as it came, `told`: the encoding was given, not detected."""
    if encoding in OTHERS and not told:
        return [f"by its writing it is in {OTHERS[encoding]}; choose another encoding where its names look wrong"]
    if encoding != MIXED:
        return []
    odd = [is_utf8(line) for line in odd_lines(content)]
    return [
        f"{grouped(odd.count(True))} of its lines are UTF-8 and {grouped(odd.count(False))} are Windows-1252; each was read as it is written"
    ]


def as_utf8(content: Bytes, name: str, encoding: str | None = None, scratch: Path | None = None) -> tuple[Bytes, str]:
    """The content in UTF-8 without a byte order mark, and its original encoding."""
    found = encoding or encoding_of(content, name)
    if found == "utf-8":
        return content, found
    if found == "utf-8-sig" and content[:3].tobytes() == b"\xef\xbb\xbf":
        return content[3:], found
    try:
        recoded = _mixed(content) if found == MIXED else _recoded(content, found)
        return gathered(recoded, scratch), found
    except (UnicodeError, LookupError):
        raise IntakeError(f"{name}: cannot be read as {found}; choose another encoding") from None


def _recoded(content: Bytes, encoding: str) -> Iterator[bytes]:
    decoder = codecs.getincrementaldecoder(encoding)()
    for _, block in blocks(content):
        yield decoder.decode(block.tobytes()).encode("utf-8")
    yield decoder.decode(b"", final=True).encode("utf-8")


def _mixed(content: Bytes) -> Iterator[bytes]:
    """Lines that are UTF-8 unchanged, others converted from Windows-1252."""
    part: list[bytes] = []
    for line in lines_of(content):
        part.append(line if is_utf8(line) else line.decode("cp1252", "replace").encode("utf-8"))
        if len(part) >= LINES_AT_ONCE:
            yield b"".join(part)
            part.clear()
    yield b"".join(part)


def without_lone_returns(text: Bytes, scratch: Path | None = None) -> tuple[Bytes, int]:
    """Text in which carriage returns within lines are replaced by spaces, if lines end in line feeds; and their number."""
    if not all(any((block == byte).any() for _, block in blocks(text)) for byte in (RETURN, NEWLINE)):
        return text, 0
    lone = sum(int(_lone(block, text, at).sum()) for at, block in blocks(text))
    if not lone:
        return text, 0

    def spaced() -> Iterator[bytes]:
        for at, block in blocks(text):
            yield np.where(_lone(block, text, at), np.uint8(SPACE), block).tobytes()

    return gathered(spaced(), scratch), lone


def _lone(block: Bytes, text: Bytes, at: int) -> np.ndarray:
    following = text[at + 1 : at + 1 + len(block)]
    after = np.full(len(block), NEWLINE, dtype=np.uint8)
    after[: len(following)] = following
    found: np.ndarray = (block == RETURN) & (after != NEWLINE)
    return found


def layout_of(content: Bytes, name: str, encoding: str, delimiter: str | None, heading_line: int | None) -> Layout:
    """The delimiter and the heading line of UTF-8 text, detected from its first lines unless given.

    Raises IntakeError for an empty file and for one without a heading line.
    """
    sample = content[: 1 << 18].tobytes().decode("utf-8", errors="ignore")
    if not sample.strip():
        raise IntakeError(f"{name}: the file is empty")
    found = delimiter or _delimiter(sample)
    rows = _sample_rows(sample, found)
    if not rows:
        raise IntakeError(f"{name}: there is nothing in it but separators and quotes")
    if heading_line is not None:
        at = next((row for row in rows if row[0] == heading_line), None)
        if at is None:
            raise IntakeError(f"{name}: there is no heading line {heading_line}")
    else:
        at = find_heading(rows)
    return Layout(encoding, found, at[0], unique_headings(at[1]))


def _delimiter(sample: str) -> str:
    """The delimiter that gives most lines the same, largest number of fields."""

    def score(delimiter: str) -> tuple[int, int]:
        sizes = Counter(len(cells) for _, cells in _sample_rows(sample, delimiter) if len(cells) > 1)
        if not sizes:
            return (0, 0)
        width, lines = max(sizes.items(), key=lambda pair: (pair[1] * (pair[0] - 1), pair[0]))
        return (lines * (width - 1), -DELIMITERS.index(delimiter))

    return max(DELIMITERS, key=score)


def _sample_rows(sample: str, delimiter: str) -> list[tuple[int, list[str]]]:
    """The first rows that are not blank, with the line each begins on."""
    rows: list[tuple[int, list[str]]] = []
    reader = csv.reader(io.StringIO(sample, newline=""), delimiter=delimiter)
    line = 1
    try:
        for cells in reader:
            if any(cell.strip() for cell in cells):
                rows.append((line, cells))
            line = reader.line_num + 1
            if len(rows) >= SAMPLE_LINES:
                break
    except csv.Error:
        pass
    return rows


def find_heading(rows: list[tuple[int, list[str]]]) -> tuple[int, list[str]]:
    """The first row that is as wide as most and consists of words; title lines above it are narrower."""
    widths = Counter(len(cells) for _, cells in rows)
    usual = max(widths.items(), key=lambda pair: (pair[1], pair[0]))[0]
    for line, cells in rows:
        filled = sum(1 for cell in cells if cell.strip())
        if len(cells) >= usual and filled * 2 > len(cells) and not any(_is_number(cell) for cell in cells):
            return line, cells
    return next((row for row in rows if len(row[1]) >= usual), rows[0])


def _is_number(cell: str) -> bool:
    try:
        float(cell.replace(",", ""))
    except ValueError:
        return False
    return True


def unique_headings(cells: list[str]) -> tuple[str, ...]:
    """Trimmed headings; an empty one is named by its position, a repeated one numbered.

    >>> unique_headings([" route", "route", ""])
    ('route', 'route (2)', 'column 3')
    """
    names: list[str] = []
    for i, cell in enumerate(cells, start=1):
        base = " ".join(unicodedata.normalize("NFC", cell).split())[:MOST_HEADING] or f"column {i}"
        name, count = base, 1
        while name in names:
            count += 1
            name = f"{base} ({count})"
        names.append(name)
    return tuple(names)
