"""Parquet, JSON Lines and JSON arrays as texts, read piece by piece."""

import codecs
import json
import re
from array import array
from collections.abc import Callable, Iterator, Sequence
from datetime import UTC, datetime, timedelta, tzinfo
from typing import Any
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
from numpy.typing import NDArray

from kalendor.core.values.columns import Column
from kalendor.definitions.recipe import ColumnReading
from kalendor.errors import IntakeError
from kalendor.intake.arrays import coded_column
from kalendor.intake.content import Bytes, blocks, of_the_disk
from kalendor.intake.fetched import READ_AS
from kalendor.intake.gathering import Gathering
from kalendor.intake.loose import RawColumn
from kalendor.intake.numbers import Numbers, direct
from kalendor.intake.raw import SHOWN_TEXT, RawTable, ReadSoFar, Refused, unwatched
from kalendor.intake.room import kept
from kalendor.intake.text import unique_headings

BATCH = 1 << 17
_SURROGATE = re.compile("[\ud800-\udfff]")
_SPACE = re.compile(r"[ \t\r\n]*")


def is_parquet(content: Bytes) -> bool:
    """Whether a file's bytes begin as those of Parquet do."""
    return content[:4].tobytes() == b"PAR1"


def headings_in(content: Bytes, name: str) -> list[str]:
    """The names of all columns of a Parquet file.

    Raises IntakeError for files that cannot be read.
    """
    return list(_opened(content, name).schema_arrow.names)


def row_groups(content: Bytes, name: str) -> list[int]:
    """About how many bytes each row group of a Parquet file has once it is unpacked.

    Raises IntakeError for files that cannot be read.
    """
    about = _opened(content, name).metadata
    return [about.row_group(at).total_byte_size for at in range(about.num_row_groups)]


def _opened(content: Bytes, name: str) -> Any:
    import pyarrow.parquet as pq  # takes a while to load

    try:
        return pq.ParquetFile(pa.BufferReader(pa.py_buffer(content)))
    except (pa.ArrowInvalid, OSError) as error:
        raise _unreadable(error, name) from None


def _unreadable(error: Exception, name: str) -> Exception:
    if of_the_disk(error):
        return error
    return IntakeError(f"{name}: a Parquet file that cannot be read ({str(error).splitlines()[0]})")


def read_parquet(
    content: Bytes,
    name: str,
    so_far: ReadSoFar = unwatched,
    groups: Sequence[int] = (),
    wanted: Callable[[str], bool] | None = None,
) -> RawTable:
    """A Parquet file's records; its text columns stay text. Given some row groups or which columns are `wanted`, those alone.

    Raises IntakeError for files that cannot be read and for columns of lists or structures.
    """
    file = _opened(content, name)
    try:
        kinds = file.schema_arrow
        headings = unique_headings(kinds.names)
        for heading, kind in zip(headings, kinds.types, strict=True):
            if pa.types.is_nested(kind):
                raise IntakeError(
                    f"{name}: the column {heading!r} holds {kind}, not single values; leave it out of the export"
                )
        kept_at = [k for k, heading in enumerate(headings) if wanted is None or wanted(heading)]
        read = [kinds.names[k] for k in kept_at] if len(kept_at) < len(headings) else None
        headings, kinds = tuple(headings[k] for k in kept_at), pa.schema([kinds.field(k) for k in kept_at])
        gathered = [Gathering() if (made := direct(kind)) is None else Together(made) for kind in kinds.types]
        rows = 0
        for batch in file.iter_batches(BATCH, row_groups=list(groups) or None, columns=read):
            for column, values in zip(gathered, batch.columns, strict=True):
                column.add(values if isinstance(column, Together) else column.prepared(_as_texts(values)))
            rows += batch.num_rows
            so_far(rows, file.metadata.num_rows)
    except (pa.ArrowInvalid, OSError) as error:
        raise _unreadable(error, name) from None
    told = _told_of((file.metadata.metadata or {}).get(READ_AS, b""), kinds.names, headings)
    texts = frozenset(h for h, kind in zip(headings, kinds.types, strict=True) if _is_text(kind) and h not in told)
    return RawTable(headings, [g.column() for g in gathered], np.arange(1, rows + 1), texts=texts, told=told)


class Together:
    """Numbers or dates gathered batch by batch."""

    def __init__(self, made: type[Numbers]) -> None:
        self._made = made
        self._parts: list[pa.Array] = []

    def add(self, values: pa.Array) -> None:
        """More of them, the next in order."""
        self._parts.append(values)

    def column(self) -> Numbers:
        """Those so far."""
        return self._made(self._parts)


def _told_of(written: bytes, names: Sequence[str], headings: Sequence[str]) -> dict[str, ColumnReading]:
    """How the columns of a file that was fetched are read; it says so itself."""
    try:
        told = json.loads(written) if written else {}
        return {h: ColumnReading.model_validate(told[n]) for n, h in zip(names, headings, strict=True) if n in told}
    except (ValueError, TypeError):
        return {}


def _is_text(kind: pa.DataType) -> bool:
    if pa.types.is_dictionary(kind):
        kind = kind.value_type
    return bool(pa.types.is_string(kind)) or pa.types.is_large_string(kind) or pa.types.is_binary(kind)


def _as_texts(values: pa.Array) -> pa.Array:
    if pa.types.is_boolean(values.type):
        values = pc.if_else(values, "yes", "no")
    if pa.types.is_timestamp(values.type) and values.type.tz is not None:
        return _local_times(values)
    if pa.types.is_temporal(values.type):
        values = values.dictionary_encode()
    if pa.types.is_dictionary(values.type):
        return pa.DictionaryArray.from_arrays(values.indices, values.dictionary.cast(pa.string()))
    return values.cast(pa.string())


def _local_times(values: pa.Array) -> pa.Array:
    """Moments of a time zone as local times with their offsets, as text: 2026-07-31T22:30:00.000000-04:00."""
    zone = _zone(values.type.tz)
    coded = values.cast(pa.timestamp("us", values.type.tz), safe=False).dictionary_encode()
    moments = [
        None if m is None else _EPOCH + timedelta(microseconds=m) for m in coded.dictionary.cast(pa.int64()).to_pylist()
    ]
    written = [None if m is None else m.astimezone(zone).isoformat(timespec="microseconds") for m in moments]
    return pa.DictionaryArray.from_arrays(coded.indices, pa.array(written, pa.string())).cast(pa.string())


_EPOCH = datetime(1970, 1, 1, tzinfo=UTC)


def _zone(name: str) -> tzinfo:
    """The time zone that a file names: an IANA name, or an offset from universal time."""
    try:
        return datetime.strptime(name, "%z").tzinfo or UTC
    except ValueError:
        pass
    try:
        return ZoneInfo(name)
    except (ZoneInfoNotFoundError, ValueError, OSError):
        raise IntakeError(f"its times are of the zone {name!r}, which is not known; write it as Europe/Oslo") from None


class _KeyColumn:
    """The texts of one key, coded as they come; `digits` is False once a text is not all digits, `text` once one is no text."""

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
        """Put what came so far where there is room for it."""
        self.settled.append(kept(np.array(self.codes, dtype=np.int32)))
        self.codes = array("i")

    def column(self) -> Column:
        self.settle()
        return coded_column(self.settled, pa.array(self.words, pa.large_string()))

    @property
    def codes_alone(self) -> bool:
        """Text that is digits alone stays text; other text may hold dates, which are found out."""
        return self.text and all(word.isdigit() for word in self.words)


def whole_text(text: str) -> str:
    """A text in which half of a surrogate pair, which is no character, is the replacement character."""
    return text if text.isascii() else _SURROGATE.sub("\ufffd", text)


def read_json_records(content: Bytes, name: str, so_far: ReadSoFar = unwatched) -> RawTable:
    """JSON Lines, or an array of objects; every key is a column. Lines that are no object are refused.

    Raises IntakeError where an array cannot be read or nothing in the file is an object.
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
    """A number's digits as they stand in the file."""


_DECODER = json.JSONDecoder(parse_float=_Digits, parse_int=_Digits)


def _texts(content: Bytes) -> Iterator[str]:
    """The content decoded piece by piece, a mark taken off."""
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
    """The text of a JSON array, of which only what is not read yet is held."""

    def __init__(self, texts: Iterator[str], name: str) -> None:
        self.texts, self.name = texts, name
        self.held, self.at, self.line = "", 0, 1

    def more(self) -> bool:
        """Take the next piece of text; False at its end."""
        text = next(self.texts, None)
        if text is None:
            return False
        self.line += self.held.count("\n", 0, self.at)
        self.held, self.at = self.held[self.at :] + text, 0
        return True

    def peek(self) -> str:
        """The next character that is no white space; nothing at the end."""
        while True:
            self.at = _SPACE.match(self.held, self.at).end()  # type: ignore[union-attr]
            if self.at < len(self.held):
                return self.held[self.at]
            if not self.more():
                return ""

    def pass_over(self, wanted: str) -> None:
        """Go past a character that must come next."""
        if self.peek() != wanted:
            line = self.line + self.held.count("\n", 0, self.at)
            raise IntakeError(f"{self.name}: not valid JSON at line {line}: {wanted!r} is missing")
        self.at += 1

    def value(self) -> Any:
        """The next value."""
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
