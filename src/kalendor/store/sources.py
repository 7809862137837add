"""Sources: their records as plain rows, their intakes, their recipes."""

import sqlite3
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime
from itertools import repeat
from typing import Any

import numpy as np

from kalendor.core.columns import DATED, DAY_MICROSECONDS, Column, Kind, Records, concat, text_column
from kalendor.definitions.document import parse, read_json
from kalendor.definitions.recipe import Recipe
from kalendor.errors import IntakeError
from kalendor.intake.delimited import Refused
from kalendor.intake.reading import Reading, heading_key
from kalendor.store import column_cache
from kalendor.store.definitions import MissingError, stamp
from kalendor.store.workspace import Workspace, quoted

SQL_TYPES = {Kind.TEXT: "TEXT", Kind.DATE: "TEXT", Kind.DATETIME: "TEXT", Kind.TIME: "TEXT", Kind.APPROXIMATE: "REAL"}
ROW_COLUMNS = ("intake_id", "line_no", "gone_by")


@dataclass(frozen=True)
class SourceColumn:
    """A column of a source; `sql_name` is its name in the records table."""

    name: str
    sql_name: str
    kind: Kind
    places: int


@dataclass(frozen=True)
class Source:
    """A source as it stands; `revision` grows with every change of its records."""

    id: int
    name: str
    recipe: Recipe
    revision: int
    columns: tuple[SourceColumn, ...]

    @property
    def table(self) -> str:
        return quoted(f"records_{self.id}")


@dataclass(frozen=True)
class Intake:
    """One file brought in."""

    id: int
    source_id: int
    file_name: str
    sha256: str
    brought_at: str
    joined_by: str
    records: int
    refused: int
    replaced: int
    first_day: str | None
    last_day: str | None
    undone_at: str | None


class Sources:
    """The sources of a workspace."""

    def __init__(self, workspace: Workspace) -> None:
        self.workspace = workspace

    def all(self) -> list[Source]:
        """All sources, by name."""
        return [self.one(row["id"]) for row in self.workspace.db.execute("SELECT id FROM source ORDER BY name")]

    def one(self, id: int) -> Source:
        """A source by its id.

        Raises MissingError where there is none.
        """
        row = self.workspace.db.execute("SELECT * FROM source WHERE id = ?", (id,)).fetchone()
        if row is None:
            raise MissingError(f"there is no source {id} here; it may have been removed")
        return self._source(row)

    def named(self, name: str) -> Source | None:
        """The source of that name, if there is one."""
        row = self.workspace.db.execute("SELECT * FROM source WHERE name = ?", (name,)).fetchone()
        return self._source(row) if row else None

    def _source(self, row: sqlite3.Row) -> Source:
        found = self.workspace.db.execute(
            "SELECT * FROM source_column WHERE source_id = ? ORDER BY position", (row["id"],)
        )
        columns = tuple(SourceColumn(c["name"], c["sql_name"], Kind(c["kind"]), c["places"]) for c in found)
        recipe = parse(Recipe, read_json(row["recipe"], row["name"]), row["name"])
        return Source(row["id"], row["name"], recipe, row["revision"], columns)

    def intakes(self, source: Source) -> list[Intake]:
        """The files brought in, the latest first."""
        rows = self.workspace.db.execute("SELECT * FROM intake WHERE source_id = ? ORDER BY id DESC", (source.id,))
        return [Intake(**{k: r[k] for k in r.keys() if k not in ("size", "stored_as")}) for r in rows]  # noqa: SIM118

    def refused(self, intake_id: int) -> list[Refused]:
        """The lines of a file that did not become records."""
        rows = self.workspace.db.execute("SELECT * FROM refused_line WHERE intake_id = ? ORDER BY line", (intake_id,))
        return [Refused(r["line"], r["column_name"], r["text"], r["reason"]) for r in rows]

    def refused_count(self, source: Source) -> int:
        """Refused lines of all intakes that stand."""
        row = self.workspace.db.execute(
            "SELECT coalesce(sum(refused), 0) FROM intake WHERE source_id = ? AND undone_at IS NULL", (source.id,)
        ).fetchone()
        return int(row[0])

    def brought_before(self, source: Source, sha256: str) -> Intake | None:
        """The standing intake of a file with the same content, if any."""
        return next((i for i in self.intakes(source) if i.sha256 == sha256 and i.undone_at is None), None)

    def bring_in(self, name: str, reading: Reading, sha256: str, size: int, at: datetime) -> tuple[Source, Intake]:
        """Add a file's records to the source of that name, made where there is none, in one transaction.

        Raises IntakeError where the file's columns are not the source's; nothing is kept then.
        """
        source = self.named(name)
        before = self.records(source) if source else None
        records = _in_source_order(source, reading) if source else reading.records
        with self.workspace.change() as db:
            source_id = source.id if source else self._add(db, name, reading, at)
            row = db.execute(
                "INSERT INTO intake (source_id, file_name, sha256, size, stored_as, brought_at, joined_by, records, refused,"
                " first_day, last_day) VALUES (?, ?, ?, ?, ?, ?, 'add', ?, ?, ?, ?)",
                (
                    source_id,
                    reading.name,
                    sha256,
                    size,
                    sha256,
                    stamp(at),
                    records.count,
                    len(reading.refused),
                    *days_spanned(records),
                ),
            )
            assert row.lastrowid is not None
            intake_id = row.lastrowid
            _insert(db, source_id, intake_id, reading.lines.tolist(), records)
            db.executemany(
                "INSERT INTO refused_line VALUES (?, ?, ?, ?, ?)",
                [(intake_id, r.line, r.column, r.text, r.reason) for r in reading.refused],
            )
            recipe = reading.recipe.model_dump_json(by_alias=True, exclude_defaults=True)
            db.execute("UPDATE source SET revision = revision + 1, recipe = ? WHERE id = ?", (recipe, source_id))
        source = self.one(source_id)
        self._keep(source, records if before is None else _after(before, records))
        return source, next(i for i in self.intakes(source) if i.id == intake_id)

    def _add(self, db: sqlite3.Connection, name: str, reading: Reading, at: datetime) -> int:
        made = db.execute("INSERT INTO source (name, recipe, created_at) VALUES (?, '{}', ?)", (name, stamp(at)))
        assert made.lastrowid is not None
        fields = ["intake_id INTEGER NOT NULL REFERENCES intake (id)", "line_no INTEGER NOT NULL", "gone_by INTEGER"]
        for position, (heading, column) in enumerate(reading.records.columns.items()):
            sql_name = f"{heading} " if heading.casefold() in ROW_COLUMNS else heading
            db.execute(
                "INSERT INTO source_column VALUES (?, ?, ?, ?, ?, ?)",
                (made.lastrowid, position, heading, sql_name, column.kind.value, column.places),
            )
            fields.append(f"{quoted(sql_name)} {SQL_TYPES.get(column.kind, 'INTEGER')}")
        db.execute(f"CREATE TABLE {quoted(f'records_{made.lastrowid}')} ({', '.join(fields)})")
        return made.lastrowid

    def undo(self, intake_id: int, at: datetime) -> Source:
        """Take an intake back: its records leave the source, and those that it replaced return."""
        return self._marked(intake_id, stamp(at))

    def redo(self, intake_id: int) -> Source:
        """Bring an undone intake back."""
        return self._marked(intake_id, None)

    def _marked(self, intake_id: int, undone_at: str | None) -> Source:
        with self.workspace.change() as db:
            row = db.execute("SELECT source_id FROM intake WHERE id = ?", (intake_id,)).fetchone()
            if row is None:
                raise MissingError(f"there is no intake {intake_id} here")
            db.execute("UPDATE intake SET undone_at = ? WHERE id = ?", (undone_at, intake_id))
            db.execute("UPDATE source SET revision = revision + 1 WHERE id = ?", (row["source_id"],))
        return self.one(row["source_id"])

    def remove(self, source: Source) -> None:
        """Take a source away, with its records and intakes."""
        with self.workspace.change() as db:
            db.execute(f"DROP TABLE {source.table}")
            db.execute("DELETE FROM source WHERE id = ?", (source.id,))
        column_cache.drop(self.workspace.cache, f"{source.id}-", "")

    def records(self, source: Source) -> Records:
        """The source's records as columns, from the cache where it has them, in the order they came."""
        kept = column_cache.kept_records(self.workspace.cache / _folder(source))
        return kept if kept is not None else self._keep(source, self._from_rows(source))

    def _keep(self, source: Source, records: Records) -> Records:
        folder = _folder(source)
        column_cache.keep_records(self.workspace.cache / folder, records)
        column_cache.drop(self.workspace.cache, f"{source.id}-", folder)
        return column_cache.kept_records(self.workspace.cache / folder) or records

    def _from_rows(self, source: Source) -> Records:
        names = ", ".join(quoted(c.sql_name) for c in source.columns)
        rows = self.workspace.db.execute(
            f"SELECT {names} FROM {source.table} r JOIN intake i ON i.id = r.intake_id"
            " WHERE i.undone_at IS NULL AND (r.gone_by IS NULL OR r.gone_by IN"
            " (SELECT id FROM intake WHERE undone_at IS NOT NULL)) ORDER BY r.rowid"
        ).fetchall()
        columns = {c.name: _from_sql([row[k] for row in rows], c) for k, c in enumerate(source.columns)}
        return Records(columns, len(rows))


def _folder(source: Source) -> str:
    return f"{source.id}-{source.revision}"


def days_spanned(records: Records) -> tuple[str | None, str | None]:
    """The first and last day of the first date column."""
    for column in records.columns.values():
        if column.kind in DATED and column.present.any():
            values = column.values if column.blank is None else column.values[column.present]
            ends = Column(column.kind, np.array([values.min(), values.max()]))
            return str(ends.item(0))[:10], str(ends.item(1))[:10]
    return None, None


def _in_source_order(source: Source, reading: Reading) -> Records:
    """The file's columns in the source's order and kinds.

    Raises IntakeError for columns that are missing, added or of another kind.
    """
    here = {heading_key(name): name for name in reading.records.columns}
    columns: dict[str, Column] = {}
    for wanted in source.columns:
        name = here.pop(heading_key(wanted.name), None)
        if name is None:
            raise IntakeError(f"{reading.name}: the column {wanted.name!r} is missing; nothing was brought in")
        columns[wanted.name] = _as_source_has_it(reading, name, wanted)
    if here:
        raise IntakeError(
            f"{reading.name}: the column {next(iter(here.values()))!r} is not in the source; nothing was brought in"
        )
    return Records(columns, reading.records.count)


def _as_source_has_it(reading: Reading, name: str, wanted: SourceColumn) -> Column:
    column = reading.records.columns[name]
    if column.kind is wanted.kind and column.places == wanted.places:
        return column
    if not column.present.any():
        return Column(
            wanted.kind,
            np.zeros(len(column), dtype=_dtype(wanted.kind)),
            column.blanks.copy(),
            wanted.places,
            ("",) if wanted.kind is Kind.TEXT else (),
        )
    if (
        wanted.kind in (Kind.WHOLE, Kind.DECIMAL)
        and column.kind in (Kind.WHOLE, Kind.DECIMAL)
        and column.places <= wanted.places
    ):
        return Column(wanted.kind, column.values * 10 ** (wanted.places - column.places), column.blank, wanted.places)
    raise IntakeError(
        f"{reading.name}: {name!r} reads as {column.kind.value} with {column.places} places, and in the source it is "
        f"{wanted.kind.value} with {wanted.places}; nothing was brought in"
    )


def _dtype(kind: Kind) -> Any:
    return {Kind.TEXT: np.int32, Kind.DATE: np.int32, Kind.APPROXIMATE: np.float64, Kind.YES_NO: bool}.get(
        kind, np.int64
    )


def _after(before: Records, more: Records) -> Records:
    columns = {name: concat([column, more.columns[name]]) for name, column in before.columns.items()}
    return Records(columns, before.count + more.count)


def _insert(db: sqlite3.Connection, source_id: int, intake_id: int, lines: Sequence[int], records: Records) -> None:
    marks = ", ".join("?" * (len(records.columns) + 3))
    fields: list[Iterable[Any]] = [repeat(intake_id, records.count), lines, repeat(None, records.count)]
    fields += [_to_sql(column) for column in records.columns.values()]
    db.executemany(f"INSERT INTO {quoted(f'records_{source_id}')} VALUES ({marks})", zip(*fields, strict=False))


def _to_sql(column: Column) -> list[Any]:
    match column.kind:
        case Kind.TEXT:
            words = np.array(column.words or ("",), dtype=object)
            values = words[column.values]
        case Kind.DATE:
            values = column.values.astype("datetime64[D]").astype(str).astype(object)
        case Kind.DATETIME:
            values = np.array(
                [str(v) for v in column.values.astype("datetime64[us]").astype("datetime64[s]")], dtype=object
            )
        case Kind.TIME:
            values = np.array([str(column.item(i)) for i in range(len(column))], dtype=object)
        case Kind.YES_NO:
            values = column.values.astype(np.int64).astype(object)
        case _:
            values = column.values.astype(object)
    if column.blank is not None:
        values = values.copy()
        values[column.blank] = None
    plain: list[Any] = values.tolist()
    return plain


def _from_sql(values: list[Any], column: SourceColumn) -> Column:
    if column.kind is Kind.TEXT:
        return text_column(values)
    blank = np.array([v is None for v in values], dtype=bool)
    match column.kind:
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
            array = np.array([0 if v is None else v for v in values], dtype=_dtype(column.kind))
    return Column(column.kind, array, blank, column.places)
