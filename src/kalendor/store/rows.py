"""Columns to the rows of a records table, and back."""

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np

from kalendor.core.columns import DAY_MICROSECONDS, Column, Kind, text_column
from kalendor.core.words import Words

SQL_TYPES = {Kind.TEXT: "TEXT", Kind.DATE: "TEXT", Kind.DATETIME: "TEXT", Kind.TIME: "TEXT", Kind.APPROXIMATE: "REAL"}


def sql_type(kind: Kind) -> str:
    """The column type of a records table: decimals are whole units, dates ISO text."""
    return SQL_TYPES.get(kind, "INTEGER")


def to_sql(column: Column) -> list[Any]:
    """A column's values as SQLite keeps them; None for blank."""
    match column.kind:
        case Kind.TEXT:
            values = _each_once(column.values, lambda codes: _words_at(column.words, codes))
        case Kind.DATE:
            values = _each_once(column.values, lambda days: days.astype("datetime64[D]").astype(str).tolist())
        case Kind.DATETIME:
            values = _each_once(column.values, _moments)
        case Kind.TIME:
            values = np.array([str(column.item(i)) for i in range(len(column))], dtype=object)
        case Kind.YES_NO:
            values = column.values.astype(np.int64)
        case _:
            values = column.values
    if column.blank is not None:
        values = values.astype(object)
        values[column.blank] = None
    plain: list[Any] = values.tolist()
    return plain


def _each_once(values: np.ndarray, write: Callable[[np.ndarray], list[str]]) -> np.ndarray:
    """Texts for values, each different value written once where values come again; shape (n,) object."""
    if not len(values):
        return np.zeros(0, dtype=object)
    low, high = int(values.min()), int(values.max())
    if high - low < len(values):
        texts: np.ndarray = np.array(write(np.arange(low, high + 1)), dtype=object)[values - low]
        return texts
    return np.array(write(values), dtype=object)


def _words_at(words: Sequence[str], codes: np.ndarray) -> list[str]:
    if not words:
        return [""] * len(codes)
    if len(codes) and codes[-1] - codes[0] == len(codes) - 1:
        return list(words[int(codes[0]) : int(codes[-1]) + 1])
    return list(words.take(codes.astype(np.int64))) if isinstance(words, Words) else [words[c] for c in codes.tolist()]


def _moments(values: np.ndarray) -> list[str]:
    texts: list[str] = values.astype("datetime64[us]").astype("datetime64[s]").astype(str).tolist()
    return texts


def from_sql(values: list[Any], kind: Kind, places: int) -> Column:
    """A column from values as SQLite keeps them."""
    if kind is Kind.TEXT:
        return text_column(values)
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


def array_type(kind: Kind) -> Any:
    """The dtype of a kind's values."""
    return {Kind.TEXT: np.int32, Kind.DATE: np.int32, Kind.APPROXIMATE: np.float64, Kind.YES_NO: bool}.get(
        kind, np.int64
    )
