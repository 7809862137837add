"""Converts columns to rows of a records table, and back."""

from collections.abc import Sequence
from typing import Any

import numpy as np
import pyarrow as pa

from kalendor.core.values.columns import DAY_MICROSECONDS, Column, Kind, array_type
from kalendor.core.values.words import Words
from kalendor.intake.arrays import encoded_column

SQL_TYPES = {Kind.TEXT: "TEXT", Kind.DATE: "TEXT", Kind.DATETIME: "TEXT", Kind.TIME: "TEXT", Kind.APPROXIMATE: "REAL"}

WRITTEN = frozenset({Kind.TEXT, Kind.DATE, Kind.DATETIME, Kind.TIME})
MOST_WRITTEN = 1 << 16


def sql_type(kind: Kind) -> str:
    """The column type of a records table: decimals are whole units, dates ISO text."""
    return SQL_TYPES.get(kind, "INTEGER")


def to_sql(column: Column) -> list[Any]:
    """A column's values as stored in SQLite; None for blank."""
    return SqlValues(column).between(0, len(column))


class SqlValues:
    """A column's values as stored in SQLite, in parts; repeated values are formatted once."""

    def __init__(self, column: Column) -> None:
        self._column = column
        self._written: np.ndarray | None = None
        if column.kind in WRITTEN and len(column):
            self._low, high = int(column.values.min()), int(column.values.max())
            if high - self._low < min(len(column), MOST_WRITTEN):
                self._written = np.array(self._write(np.arange(self._low, high + 1)), dtype=object)

    def between(self, start: int, stop: int) -> list[Any]:
        """The values from `start` up to `stop`, exclusive; None for blank."""
        values, blank = self._column.values[start:stop], self._column.blank
        if self._written is not None:
            values = self._written[values - self._low]
        elif self._column.kind in WRITTEN:
            values = np.array(self._write(values), dtype=object)
        elif self._column.kind is Kind.YES_NO:
            values = values.astype(np.int64)
        if blank is not None and blank[start:stop].any():
            values = values.astype(object)
            values[blank[start:stop]] = None
        plain: list[Any] = values.tolist()
        return plain

    def _write(self, values: np.ndarray) -> list[str]:
        """Each value's text."""
        match self._column.kind:
            case Kind.TEXT:
                return _words_at(self._column.words, values)
            case Kind.DATE:
                return _iso(values.astype("datetime64[D]"))
            case Kind.DATETIME:
                moments = values.astype("datetime64[us]")
                written = np.array(_iso(moments.astype("datetime64[s]")), dtype=object)
                fractions = values % 1_000_000 != 0
                written[fractions] = _iso(moments[fractions])
                texts: list[str] = written.tolist()
                return texts
            case _:
                return [str(Column(Kind.TIME, values).item(i)) for i in range(len(values))]


def _iso(values: np.ndarray) -> list[str]:
    texts: list[str] = values.astype(str).tolist()
    return texts


def _words_at(words: Sequence[str], codes: np.ndarray) -> list[str]:
    if not words:
        return [""] * len(codes)
    if len(codes) and (np.diff(codes) == 1).all():
        return list(words[int(codes[0]) : int(codes[-1]) + 1])
    return list(words.take(codes.astype(np.int64))) if isinstance(words, Words) else [words[c] for c in codes.tolist()]


def from_sql(values: Sequence[Any], kind: Kind, places: int) -> Column:
    """A column from values stored in SQLite."""
    if kind is Kind.TEXT:
        return encoded_column(pa.array(values, pa.string()))
    blank = np.array([v is None for v in values], dtype=bool)
    match kind:
        case Kind.DATE:
            days = np.array(["1970-01-01" if v is None else v for v in values], dtype="datetime64[D]")
            array: np.ndarray = days.astype(np.int64).astype(np.int32)
        case Kind.DATETIME:
            array = np.array(["1970-01-01" if v is None else v for v in values], dtype="datetime64[us]").astype(
                np.int64
            )
        case Kind.TIME:
            moments = np.array(
                ["1970-01-01T00:00" if v is None else f"1970-01-01T{v}" for v in values], dtype="datetime64[us]"
            )
            array = moments.astype(np.int64) % DAY_MICROSECONDS
        case _:
            array = np.array([0 if v is None else v for v in values], dtype=array_type(kind))
    return Column(kind, array, blank, places)
