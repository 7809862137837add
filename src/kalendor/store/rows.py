"""Columns to the rows of a records table, and back."""

from typing import Any

import numpy as np

from kalendor.core.columns import DAY_MICROSECONDS, Column, Kind, text_column

SQL_TYPES = {Kind.TEXT: "TEXT", Kind.DATE: "TEXT", Kind.DATETIME: "TEXT", Kind.TIME: "TEXT", Kind.APPROXIMATE: "REAL"}


def sql_type(kind: Kind) -> str:
    """The column type of a records table: decimals are whole units, dates ISO text."""
    return SQL_TYPES.get(kind, "INTEGER")


def to_sql(column: Column) -> list[Any]:
    """A column's values as SQLite keeps them; None for blank."""
    match column.kind:
        case Kind.TEXT:
            words = column.words or ("",)
            texts: list[Any] = [words[code] for code in column.values.tolist()]
            for i in () if column.blank is None else np.flatnonzero(column.blank).tolist():
                texts[i] = None
            return texts
        case Kind.DATE:
            return _dates_to_sql(column)
        case Kind.DATETIME:
            values = np.array(
                [str(v) for v in column.values.astype("datetime64[us]").astype("datetime64[s]")], dtype=object
            )
        case Kind.TIME:
            values = np.array([str(column.item(i)) for i in range(len(column))], dtype=object)
        case Kind.YES_NO:
            values = column.values.astype(np.int64).astype(object)
        case _:
            if column.blank is None:
                return list(column.values.tolist())
            values = column.values.astype(object)
    if column.blank is not None:
        values = values.copy()
        values[column.blank] = None
    plain: list[Any] = values.tolist()
    return plain


def _dates_to_sql(column: Column) -> list[Any]:
    """ISO dates, each different day written once."""
    if not len(column):
        return []
    low = int(column.values.min())
    days = np.arange(low, int(column.values.max()) + 1).astype("datetime64[D]").astype(str).tolist()
    texts: list[Any] = [days[day] for day in (column.values.astype(np.int64) - low).tolist()]
    for i in () if column.blank is None else np.flatnonzero(column.blank).tolist():
        texts[i] = None
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
