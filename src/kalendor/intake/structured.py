"""Parquet, JSON Lines and JSON arrays as texts."""

import io
import json
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
import pyarrow.parquet as pq

from kalendor.core.columns import Column, text_column
from kalendor.errors import IntakeError
from kalendor.intake.raw import SHOWN_TEXT, RawTable, Refused
from kalendor.intake.text import unique_headings


def read_parquet(data: bytes, name: str) -> RawTable:
    """A Parquet file's records; its text columns stay text.

    Raises IntakeError for files that cannot be read and for columns of lists or structures.
    """
    try:
        table = pq.read_table(pa.BufferReader(data))
    except (pa.ArrowInvalid, OSError) as error:
        raise IntakeError(f"{name}: a Parquet file that cannot be read ({str(error).splitlines()[0]})") from None
    headings = unique_headings(table.column_names)
    columns, texts = [], set()
    for heading, column in zip(headings, table.columns, strict=True):
        if pa.types.is_nested(column.type):
            raise IntakeError(
                f"{name}: the column {heading!r} holds {column.type}, not single values; leave it out of the export"
            )
        if _is_text(column.type):
            texts.add(heading)
        columns.append(_text(column))
    return RawTable(headings, columns, np.arange(1, table.num_rows + 1), texts=frozenset(texts))


def _is_text(kind: pa.DataType) -> bool:
    if pa.types.is_dictionary(kind):
        kind = kind.value_type
    return bool(pa.types.is_string(kind)) or pa.types.is_large_string(kind) or pa.types.is_binary(kind)


def _text(column: pa.ChunkedArray) -> Column:
    if pa.types.is_boolean(column.type):
        column = pc.if_else(column, "yes", "no")
    if pa.types.is_timestamp(column.type) and column.type.tz is not None:
        column = column.cast(pa.timestamp("us"))
    coded = column.cast(pa.string()).combine_chunks().dictionary_encode()
    words = [w.strip() for w in coded.dictionary.to_pylist()]
    codes = coded.indices.fill_null(-1).to_numpy(zero_copy_only=False)
    return text_column([words[c] or None if c >= 0 else None for c in codes.tolist()])


def read_json_records(data: bytes, name: str) -> RawTable:
    """JSON Lines, or an array of objects; every key is a column. Lines that are no object are refused.

    Raises IntakeError where an array cannot be read or nothing in the file is an object.
    """
    text = data.decode("utf-8-sig", errors="replace")
    refused: list[Refused] = []
    numbered = _from_array(text, name) if text.lstrip().startswith("[") else _from_lines(text, refused)
    keys: dict[str, None] = {}
    kept: list[tuple[int, dict[str, Any]]] = []
    for line, value in numbered:
        nested = next((k for k, v in value.items() if isinstance(v, dict | list)), None)
        if nested is not None:
            refused.append(
                Refused(
                    line,
                    nested,
                    json.dumps(value)[:SHOWN_TEXT],
                    f"{nested}: holds a list or an object, not a single value",
                )
            )
            continue
        keys.update(dict.fromkeys(value))
        kept.append((line, value))
    if not keys:
        raise IntakeError(f"{name}: no JSON object with single values was found in it")
    columns = [text_column([_json_text(value.get(key)) for _, value in kept]) for key in keys]
    texts = frozenset(k for k in keys if any(isinstance(v.get(k), str) for _, v in kept[:1000]) and _all_text(k, kept))
    lines = np.array([line for line, _ in kept], dtype=np.int64)
    return RawTable(unique_headings(list(keys)), columns, lines, refused, texts=_codes_alone(texts, kept))


class _Digits(str):
    """A number's digits as they stand in the file."""


def _all_text(key: str, kept: list[tuple[int, dict[str, Any]]]) -> bool:
    return all(v.get(key) is None or (isinstance(v[key], str) and not isinstance(v[key], _Digits)) for _, v in kept)


def _codes_alone(texts: frozenset[str], kept: list[tuple[int, dict[str, Any]]]) -> frozenset[str]:
    """Text keys that hold digits alone stay text; others may hold dates, which are found out."""
    return frozenset(k for k in texts if all(str(v.get(k) or "0").isdigit() for _, v in kept))


def _loads(text: str) -> Any:
    return json.loads(text, parse_float=_Digits, parse_int=_Digits)


def _from_lines(text: str, refused: list[Refused]) -> list[tuple[int, dict[str, Any]]]:
    found = []
    for number, line in enumerate(io.StringIO(text, newline=None), start=1):
        if not line.strip():
            continue
        try:
            value = _loads(line)
        except json.JSONDecodeError as error:
            refused.append(
                Refused(number, "", line.strip()[:SHOWN_TEXT], f"is not JSON: {error.msg} at character {error.colno}")
            )
            continue
        if isinstance(value, dict):
            found.append((number, value))
        else:
            refused.append(Refused(number, "", line.strip()[:SHOWN_TEXT], "is JSON, but no object with keys"))
    return found


def _from_array(text: str, name: str) -> list[tuple[int, dict[str, Any]]]:
    try:
        values = _loads(text)
    except json.JSONDecodeError as error:
        raise IntakeError(f"{name}: not valid JSON at line {error.lineno}, column {error.colno}: {error.msg}") from None
    if not all(isinstance(value, dict) for value in values):
        raise IntakeError(f"{name}: an array in which not everything is an object; each record is an object with keys")
    return list(enumerate(values, start=1))


def _json_text(value: Any) -> str | None:
    if value is None:
        return None
    if isinstance(value, bool):
        return "yes" if value else "no"
    return str(value).strip() or None
