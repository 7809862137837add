"""Reads JSON Lines and JSON arrays as texts, incrementally."""

import codecs
import json
import re
from array import array
from collections.abc import Iterator
from typing import Any

import numpy as np
import pyarrow as pa
from numpy.typing import NDArray

from kalendor.core.values.columns import Column
from kalendor.errors import IntakeError
from kalendor.intake.arrays import coded_column
from kalendor.intake.content import Bytes, blocks
from kalendor.intake.loose import RawColumn
from kalendor.intake.raw import SHOWN_TEXT, RawTable, ReadSoFar, Refused, unwatched
from kalendor.intake.room import kept
from kalendor.intake.text import unique_headings

BATCH = 1 << 17
_SURROGATE = re.compile("[\ud800-\udfff]")
_SPACE = re.compile(r"[ \t\r\n]*")


class _KeyColumn:
    """The texts of one key, coded as they come; `digits` is False once a text is not all digits, `text` once one was a
    JSON string."""

    def __init__(self, before: int) -> None:
        self.settled: list[NDArray[np.int32]] = [kept(np.full(before, -1, dtype=np.int32))]
        self.codes = array("i")
        self.words: dict[str, int] = {}
        self.text = True

    def add(self, value: Any) -> None:
        if value is None:
            self.codes.append(-1)
            return
        if self.text and (not isinstance(value, str) or isinstance(value, _Digits)):
            self.text = False
        word = ("yes" if value else "no") if isinstance(value, bool) else whole_text(str(value)).strip()
        self.codes.append(self.words.setdefault(word, len(self.words)) if word else -1)

    def settle(self) -> None:
        """Move what came so far to the current `Room`."""
        self.settled.append(kept(np.array(self.codes, dtype=np.int32)))
        self.codes = array("i")

    def column(self) -> Column:
        self.settle()
        return coded_column(self.settled, pa.array(self.words, pa.large_string()))

    @property
    def codes_alone(self) -> bool:
        """Text of digits only stays text; other text may contain dates, which are detected."""
        return self.text and all(word.isdigit() for word in self.words)


def whole_text(text: str) -> str:
    """A text in which unpaired surrogates, which are not characters, are replaced."""
    return text if text.isascii() else _SURROGATE.sub("\ufffd", text)


def read_json_records(content: Bytes, name: str, so_far: ReadSoFar = unwatched) -> RawTable:
    """JSON Lines, or an array of objects; every key is a column. Lines that are not objects are refused.

    Raises IntakeError if an array cannot be parsed or nothing in the file is an object.
    """
    refused: list[Refused] = []
    is_array = content[:64].tobytes().lstrip(b"\xef\xbb\xbf \t\r\n").startswith(b"[")
    numbered = _from_array(content, name) if is_array else _from_lines(content, refused)
    columns: dict[str, _KeyColumn] = {}
    lines = array("i")
    for line, value in numbered:
        nested = next((k for k, v in value.items() if isinstance(v, dict | list)), None)
        if nested is not None:
            reason = f"{nested}: holds a list or an object, not a single value"
            refused.append(Refused(line, nested, whole_text(json.dumps(value)[:SHOWN_TEXT]), reason))
            continue
        value = {whole_text(key): one for key, one in value.items()}
        for key in value:
            if key not in columns:
                columns[key] = _KeyColumn(len(lines))
        for key, column in columns.items():
            column.add(value.get(key))
        lines.append(line)
        if len(lines) % BATCH == 0:
            so_far(len(lines), 0)
            for column in columns.values():
                column.settle()
    if not columns:
        raise IntakeError(f"{name}: no JSON object with single values was found in it")
    texts = frozenset(key for key, column in columns.items() if column.codes_alone)
    numbers = np.frombuffer(lines, dtype=np.int32) if lines else np.zeros(0, np.int32)
    found: list[RawColumn] = [column.column() for column in columns.values()]
    return RawTable(unique_headings(list(columns)), found, numbers, refused, texts=texts)


class _Digits(str):
    """A number's digits as written in the file."""


_DECODER = json.JSONDecoder(parse_float=_Digits, parse_int=_Digits)


def _texts(content: Bytes) -> Iterator[str]:
    """The content decoded incrementally, without a byte order mark."""
    decoder = codecs.getincrementaldecoder("utf-8-sig")(errors="replace")
    for _, block in blocks(content):
        yield decoder.decode(block.tobytes())
    yield decoder.decode(b"", final=True)


def _lines(content: Bytes) -> Iterator[str]:
    rest = ""
    for text in _texts(content):
        whole = (rest + text).replace("\r\n", "\n").split("\n")
        rest = whole.pop()
        yield from whole
    yield rest


def _from_lines(content: Bytes, refused: list[Refused]) -> Iterator[tuple[int, dict[str, Any]]]:
    for number, line in enumerate(_lines(content), start=1):
        if not line.strip():
            continue
        try:
            value = _DECODER.decode(line)
        except RecursionError:
            refused.append(Refused(number, "", whole_text(line.strip()[:SHOWN_TEXT]), "is nested too deeply"))
            continue
        except json.JSONDecodeError as error:
            reason = f"is not JSON: {error.msg} at character {error.colno}"
            refused.append(Refused(number, "", line.strip()[:SHOWN_TEXT], reason))
            continue
        if isinstance(value, dict):
            yield number, value
        else:
            refused.append(Refused(number, "", line.strip()[:SHOWN_TEXT], "is JSON, but no object with keys"))


class _Window:
    """The text of a JSON array, of which only the unparsed part is in memory."""

    def __init__(self, texts: Iterator[str], name: str) -> None:
        self.texts, self.name = texts, name
        self.held, self.at, self.line = "", 0, 1

    def more(self) -> bool:
        """Read the next block of text; False at its end."""
        text = next(self.texts, None)
        if text is None:
            return False
        self.line += self.held.count("\n", 0, self.at)
        self.held, self.at = self.held[self.at :] + text, 0
        return True

    def peek(self) -> str:
        """The next character that is not white space; empty at the end."""
        while True:
            self.at = _SPACE.match(self.held, self.at).end()  # type: ignore[union-attr]
            if self.at < len(self.held):
                return self.held[self.at]
            if not self.more():
                return ""

    def pass_over(self, wanted: str) -> None:
        """Skip a character that must come next."""
        if self.peek() != wanted:
            line = self.line + self.held.count("\n", 0, self.at)
            raise IntakeError(f"{self.name}: not valid JSON at line {line}: {wanted!r} is missing")
        self.at += 1

    def value(self) -> Any:
        """Parse the next value."""
        self.peek()
        while True:
            try:
                found, self.at = _DECODER.raw_decode(self.held, self.at)
                return found
            except RecursionError:
                line = self.line + self.held.count("\n", 0, self.at)
                raise IntakeError(f"{self.name}: the value at line {line} is nested too deeply") from None
            except json.JSONDecodeError as error:
                if not self.more():
                    line = self.line + error.lineno - 1
                    raise IntakeError(
                        f"{self.name}: not valid JSON at line {line}, column {error.colno}: {error.msg}"
                    ) from None


def _from_array(content: Bytes, name: str) -> Iterator[tuple[int, dict[str, Any]]]:
    window, number = _Window(_texts(content), name), 0
    window.pass_over("[")
    while window.peek() != "]":
        if number:
            window.pass_over(",")
        value, number = window.value(), number + 1
        if not isinstance(value, dict):
            raise IntakeError(
                f"{name}: an array in which not everything is an object; each record is an object with keys"
            )
        yield number, value
    window.at += 1
    if window.peek():
        raise IntakeError(f"{name}: not valid JSON: something stands after the end of its array")
