"""Inserts records into their source's table, with digests of them."""

import sqlite3
from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kalendor.core.values.columns import Records
from kalendor.store.digests import digest_of
from kalendor.store.rows import SqlValues
from kalendor.store.workspace import quoted

CHUNK = 20_000
ROWS_AT_ONCE, VARIABLES = 100, 30_000
Progress = Callable[[int], None]


def inserted(
    db: sqlite3.Connection,
    source_id: int,
    intake_id: int,
    lines: NDArray[np.integer],
    records: Records,
    progress: Progress,
) -> int:
    """Write records as rows; the first row's id, the others follow on."""
    table = quoted(f"records_{source_id}")
    first = db.execute(f"SELECT coalesce(max(row_id), 0) + 1 FROM {table}").fetchone()[0]
    names = db.execute(
        "SELECT name, sql_name FROM source_column WHERE source_id = ? ORDER BY position", (source_id,)
    ).fetchall()
    named = [n for n in names if n["name"] in records.columns]
    into = ", ".join(["intake_id", "line_no", *(quoted(n["sql_name"]) for n in named)])
    columns = [SqlValues(records.columns[n["name"]]) for n in named]
    width = len(columns) + 1
    at_once = max(1, min(ROWS_AT_ONCE, (VARIABLES - 1) // width))

    def statement(rows: int) -> str:
        """Rows of values; the intake, ?1, is told once."""
        each = (", ".join(f"?{2 + row * width + k}" for k in range(width)) for row in range(rows))
        return f"INSERT INTO {table} ({into}) VALUES {', '.join(f'(?1, {one})' for one in each)}"

    usual = statement(at_once)
    for start in range(0, records.count, CHUNK):
        stop = min(start + CHUNK, records.count)
        flat: list[Any] = [None] * ((stop - start) * width)
        flat[0::width] = lines[start:stop].tolist()
        for k, column in enumerate(columns, start=1):
            flat[k::width] = column.between(start, stop)
        for at in range(0, len(flat), at_once * width):
            part = [intake_id, *flat[at : at + at_once * width]]
            db.execute(usual if len(part) == at_once * width + 1 else statement(len(part) // width), part)
        progress(stop)
    return int(first)


def digests_of(db: sqlite3.Connection, source_id: int, records: Records) -> list[list[str | int]]:
    """Of each column that a file brought: its name in the records table, its kind, its places and its values' digest."""
    found = db.execute("SELECT name, sql_name FROM source_column WHERE source_id = ?", (source_id,)).fetchall()
    named = {row["name"]: row["sql_name"] for row in found}
    return [[named[n], c.kind.value, c.places, digest_of([c])] for n, c in records.columns.items() if n in named]
