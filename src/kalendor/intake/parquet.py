"""Reads Parquet as columns of texts, numbers and dates, batch by batch."""

import json
from collections.abc import Callable, Sequence
from datetime import UTC, datetime, timedelta, tzinfo
from typing import Any
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from kalendor.definitions.recipe import ColumnReading
from kalendor.errors import IntakeError
from kalendor.intake.content import Bytes, of_the_disk
from kalendor.intake.fetched import READ_AS
from kalendor.intake.gathering import Gathering
from kalendor.intake.numbers import Numbers, direct
from kalendor.intake.raw import RawTable, ReadSoFar, unwatched
from kalendor.intake.text import unique_headings

CODED_BYTES = 3  # bytes of a value below which it is stored as a code: a text needs four for its length
BATCH = 1 << 17


def is_parquet(content: Bytes) -> bool:
    """Whether a file's bytes begin like Parquet."""
    return content[:4].tobytes() == b"PAR1"


def headings_in(content: Bytes, name: str) -> list[str]:
    """The names of all columns of a Parquet file.

    Raises IntakeError for files that cannot be read.
    """
    return list(_opened(content, name).schema_arrow.names)


def row_groups(content: Bytes, name: str) -> list[int]:
    """The approximate uncompressed size of each row group of a Parquet file, in bytes.

    Raises IntakeError for files that cannot be read.
    """
    about = _opened(content, name).metadata
    return [about.row_group(at).total_byte_size for at in range(about.num_row_groups)]


def rows_in(content: Bytes, name: str) -> list[int]:
    """The number of records in each row group of a Parquet file.

    Raises IntakeError for files that cannot be read.
    """
    about = _opened(content, name).metadata
    return [about.row_group(at).num_rows for at in range(about.num_row_groups)]


def _opened(content: Bytes, name: str, coded: Sequence[str] = ()) -> Any:
    """An opened file; the text columns in `coded` are read as codes."""
    import pyarrow.parquet as pq  # takes a while to load

    try:
        return pq.ParquetFile(pa.BufferReader(pa.py_buffer(content)), read_dictionary=list(coded))
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
    """A Parquet file's records; its text columns stay text. Optionally only some row groups or the columns `wanted`.

    Raises IntakeError for files that cannot be read and for columns of lists or structures.
    """
    file = _opened(content, name)
    coded = _coded(file, groups)
    file = _opened(content, name, coded) if coded else file
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


def _coded(file: Any, groups: Sequence[int]) -> list[str]:
    """The text columns that the file stores as codes: they take fewer bytes than a text's length alone would."""
    about, kinds = file.metadata, file.schema_arrow
    if about.num_columns != len(kinds.names):
        return []  # lists or structures, which will be refused
    found = []
    for at, (heading, kind) in enumerate(zip(kinds.names, kinds.types, strict=True)):
        if not (pa.types.is_string(kind) or pa.types.is_large_string(kind)):
            continue
        chunks = [about.row_group(group).column(at) for group in groups or range(about.num_row_groups)]
        size, values = sum(c.total_uncompressed_size for c in chunks), sum(c.num_values for c in chunks)
        if all(c.has_dictionary_page for c in chunks) and size < CODED_BYTES * values:
            found.append(heading)
    return found


class Together:
    """Numbers or dates gathered batch by batch."""

    def __init__(self, made: type[Numbers]) -> None:
        self._made = made
        self._parts: list[pa.Array] = []

    def add(self, values: pa.Array) -> None:
        """Add a batch, in order."""
        self._parts.append(values)

    def column(self) -> Numbers:
        """The values so far."""
        return self._made(self._parts)


def _told_of(written: bytes, names: Sequence[str], headings: Sequence[str]) -> dict[str, ColumnReading]:
    """How the columns of a query result are read, from the file's own metadata."""
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
    """Time-zone-aware moments as local times with their offsets, as text: 2026-07-31T22:30:00.000000-04:00."""
    zone = _zone(values.type.tz)
    coded = values.cast(pa.timestamp("us", values.type.tz), safe=False).dictionary_encode()
    moments = [
        None if m is None else _EPOCH + timedelta(microseconds=m) for m in coded.dictionary.cast(pa.int64()).to_pylist()
    ]
    written = [None if m is None else m.astimezone(zone).isoformat(timespec="microseconds") for m in moments]
    return pa.DictionaryArray.from_arrays(coded.indices, pa.array(written, pa.string())).cast(pa.string())


_EPOCH = datetime(1970, 1, 1, tzinfo=UTC)


def _zone(name: str) -> tzinfo:
    """The time zone in a file's schema: an IANA name, or an offset from UTC."""
    try:
        return datetime.strptime(name, "%z").tzinfo or UTC
    except ValueError:
        pass
    try:
        return ZoneInfo(name)
    except (ZoneInfoNotFoundError, ValueError, OSError):
        raise IntakeError(f"its times are of the zone {name!r}, which is not known; write it as Europe/Oslo") from None
