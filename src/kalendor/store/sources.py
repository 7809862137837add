"""Stores sources: columns, recipes, made columns, and records as columns."""

import sqlite3
from collections import defaultdict
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from functools import lru_cache
from pathlib import Path

from pydantic import TypeAdapter

from kalendor.core.values.columns import Column, Kind, Records
from kalendor.core.values.notation import grouped
from kalendor.definitions.document import parse, read_json
from kalendor.definitions.recipe import Join, Recipe
from kalendor.definitions.report import MadeColumn
from kalendor.errors import DefinitionError, IntakeError
from kalendor.store import column_cache
from kalendor.store.column_cache import Kept
from kalendor.store.definitions import MOST_ID, MissingError, stamp
from kalendor.store.locks import OrderedLock, Rank, writing
from kalendor.store.record_rows import RecordRows, SourceColumn, table_of
from kalendor.store.rows import sql_type
from kalendor.store.workspace import Workspace, quoted

ROW_COLUMNS = ("row_id", "intake_id", "line_no")
MOST_NAME, MOST_COLUMNS = 200, 1_900
_MADE: TypeAdapter[list[MadeColumn]] = TypeAdapter(list[MadeColumn])


@lru_cache(maxsize=1024)
def recipe_from(text: str) -> Recipe:
    """Parse a recipe from JSON."""
    return parse(Recipe, read_json(text, "recipe"), "recipe")


def recipe_json(recipe: Recipe) -> str:
    """Serialize a recipe as the JSON that is stored."""
    return recipe.model_dump_json(by_alias=True, exclude_defaults=True)


def as_joined(reading: Recipe, joining: Recipe) -> Recipe:
    """A recipe that reads like `reading` and joins like `joining`."""
    return reading.model_copy(update={name: getattr(joining, name) for name in ("join", "join_by", "held_over")})


def _free_name(name: str, taken: set[str]) -> str:
    """A free column name similar to `name`; `taken` are the case-folded names in use."""
    while name.casefold() in taken or name.casefold() in ROW_COLUMNS:
        name += " "
    return name


@lru_cache(maxsize=1024)
def _made(text: str) -> tuple[MadeColumn, ...]:
    return tuple(_MADE.validate_json(text))


@dataclass(frozen=True)
class Source:
    """A source's current state; `revision` increases with every change of its records or made columns.

    `report_id` is set for a source that is a report's summary; `report_key` is the key of what it was computed from,
    `report_digest` that of its table.
    """

    id: int
    name: str
    recipe: Recipe
    made: tuple[MadeColumn, ...]
    revision: int
    columns: tuple[SourceColumn, ...]
    report_id: int | None = None
    report_key: str | None = None
    report_digest: str | None = None

    @property
    def table(self) -> str:
        """The quoted name of its records table."""
        return table_of(self.id)

    @property
    def folder(self) -> str:
        """The name of the folder in the cache that holds the records of this revision."""
        return f"{self.id}-{self.revision}"


class Sources:
    """The sources of a workspace."""

    def __init__(self, workspace: Workspace) -> None:
        self.workspace = workspace
        self._opened: dict[tuple[int, int], Kept] = {}
        self.damaged: Callable[[], None] = lambda: None
        self.rows = RecordRows(workspace, self._opened_of)
        self._making: defaultdict[str, OrderedLock] = defaultdict(lambda: OrderedLock(Rank.SOURCE))

    def making(self, name: str) -> OrderedLock:
        """The lock to hold while building the columns of the source of that name."""
        return self._making[name.casefold()]

    def all(self) -> list[Source]:
        """All sources, by name."""
        rows = self.workspace.db.execute("SELECT * FROM source ORDER BY name").fetchall()
        return [self._source(row) for row in rows]

    def one(self, id: int) -> Source:
        """A source by its id.

        Raises MissingError if there is none.
        """
        known = abs(id) < MOST_ID
        row = self.workspace.db.execute("SELECT * FROM source WHERE id = ?", (id if known else 0,)).fetchone()
        if row is None:
            raise MissingError(f"there is no source {id} here; it may have been removed")
        return self._source(row)

    def at(self, id: int) -> Source | None:
        """The source by its id, or None."""
        row = self.workspace.db.execute("SELECT * FROM source WHERE id = ?", (id,)).fetchone()
        return self._source(row) if row else None

    def named(self, name: str) -> Source | None:
        """The source of that name, or None."""
        row = self.workspace.db.execute("SELECT * FROM source WHERE name = ?", (name,)).fetchone()
        return self._source(row) if row else None

    def _source(self, row: sqlite3.Row) -> Source:
        found = self.workspace.db.execute(
            "SELECT * FROM source_column WHERE source_id = ? ORDER BY position", (row["id"],)
        )
        columns = tuple(
            SourceColumn(c["name"], c["sql_name"], Kind(c["kind"]), c["places"], bool(c["percent"]), c["unit"])
            for c in found
        )
        return Source(
            row["id"], row["name"], recipe_from(row["recipe"]), _made(row["made"]), row["revision"], columns,
            row["report_id"], row["report_key"], row["report_digest"],
        )  # fmt: skip

    def set_joining(
        self, db: sqlite3.Connection, source_id: int, join: Join, join_by: Sequence[str], held_over: float
    ) -> None:
        """Set how a source's files join its records, from the next one on; the rest of its recipe is unchanged."""
        (text,) = db.execute("SELECT recipe FROM source WHERE id = ?", (source_id,)).fetchone()
        told = recipe_from(text).model_copy(update={"join": join, "join_by": list(join_by), "held_over": held_over})
        db.execute("UPDATE source SET recipe = ? WHERE id = ?", (recipe_json(told), source_id))

    def set_reading(self, db: sqlite3.Connection, source_id: int, recipe: str) -> None:
        """Set the recipe (JSON) for a source's next file; how it joins is unchanged."""
        (text,) = db.execute("SELECT recipe FROM source WHERE id = ?", (source_id,)).fetchone()
        told = recipe_json(as_joined(recipe_from(recipe), recipe_from(text)))
        db.execute("UPDATE source SET recipe = ? WHERE id = ?", (told, source_id))

    def add(self, db: sqlite3.Connection, name: str, at: datetime) -> int:
        """Insert a source without columns, inside a transaction; returns its id."""
        id = self.workspace.next_id("source")
        db.execute("INSERT INTO source (id, name, recipe, created_at) VALUES (?, ?, '{}', ?)", (id, name, stamp(at)))
        db.execute(
            f"CREATE TABLE {quoted(f'records_{id}')} (row_id INTEGER PRIMARY KEY,"
            " intake_id INTEGER NOT NULL, line_no INTEGER NOT NULL)"
        )
        return id

    def add_columns(self, db: sqlite3.Connection, source_id: int, columns: Mapping[str, Column]) -> None:
        """Add columns to a source, of the kinds given, inside a transaction; existing records are blank in them."""
        there = len(db.execute(f"PRAGMA table_info({quoted(f'records_{source_id}')})").fetchall())
        if there + len(columns) > MOST_COLUMNS:
            raise IntakeError(
                f"it has {grouped(len(columns))} columns, and a source may have {grouped(MOST_COLUMNS - len(ROW_COLUMNS))} in all;"
                " leave some out, or bring it in by parts"
            )
        at = db.execute("SELECT count(*) FROM source_column WHERE source_id = ?", (source_id,)).fetchone()[0]
        taken = {row["name"].casefold() for row in db.execute(f"PRAGMA table_info({quoted(f'records_{source_id}')})")}
        for position, (name, column) in enumerate(columns.items(), start=at):
            sql_name = _free_name(name, taken)
            taken.add(sql_name.casefold())
            unit = column.unit[0] if column.unit else ""
            db.execute(
                "INSERT INTO source_column VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
                (source_id, position, name, sql_name, column.kind.value, column.places, column.percent, unit),
            )
            db.execute(
                f"ALTER TABLE {quoted(f'records_{source_id}')} ADD COLUMN {quoted(sql_name)} {sql_type(column.kind)}"
            )

    def widen(self, db: sqlite3.Connection, source: Source, wider: Mapping[str, int]) -> Source:
        """Give some numeric columns of a source more decimal places, inside a transaction. Values stay the same; the previous
        column of the records table is kept for editions made from it."""
        for name, places in wider.items():
            old = next(c for c in source.columns if c.name == name)
            sql_name = self.add_sql_column(db, source, old.sql_name, sql_type(Kind.DECIMAL))
            factor = 10 ** (places - old.places)
            db.execute(f"UPDATE {source.table} SET {quoted(sql_name)} = {quoted(old.sql_name)} * ?", (factor,))
            db.execute(
                "UPDATE source_column SET sql_name = ?, kind = ?, places = ? WHERE source_id = ? AND name = ?",
                (sql_name, Kind.DECIMAL.value, places, source.id, name),
            )
        return self.one(source.id)

    def add_sql_column(self, db: sqlite3.Connection, source: Source, like: str, type: str) -> str:
        """Add a column to a source's records table, named after an existing one, inside a transaction; returns its name."""
        taken = {row["name"].casefold() for row in db.execute(f"PRAGMA table_info({source.table})")}
        sql_name = _free_name(like, taken)
        db.execute(f"ALTER TABLE {source.table} ADD COLUMN {quoted(sql_name)} {type}")
        return sql_name

    def set_made(self, db: sqlite3.Connection, source_id: int, made: Sequence[MadeColumn]) -> None:
        """Replace a source's made columns, inside a transaction."""
        body = _MADE.dump_json(list(made), by_alias=True, exclude_none=True).decode()
        db.execute("UPDATE source SET made = ?, revision = revision + 1 WHERE id = ?", (body, source_id))

    def reshaped(self, db: sqlite3.Connection, source: Source, records: Records) -> Source:
        """Drop the source's columns that `records` lack or have as another kind, inside a transaction that
        replaces all its records."""
        told = {name: (column.kind, column.places) for name, column in records.columns.items()}
        stay = [c for c in source.columns if told.get(c.name) == (c.kind, c.places)]
        db.execute("DELETE FROM source_column WHERE source_id = ?", (source.id,))
        names = {c.name for c in stay}
        rows = [
            (source.id, i, c.name, c.sql_name, c.kind.value, c.places, c.percent, c.unit if c.unit in names else "")
            for i, c in enumerate(stay)
        ]
        db.executemany("INSERT INTO source_column VALUES (?, ?, ?, ?, ?, ?, ?, ?)", rows)
        return self.one(source.id)

    def save_made(self, source: Source, made: Sequence[MadeColumn]) -> Source:
        """Replace a source's made columns."""
        with self.making(source.name):
            with self.workspace.change() as db:
                before = self.kept(self.one(source.id))
                self.set_made(db, source.id, made)
                after = self.one(source.id)
                part = column_cache.written_beside(self.folder(after), before, after.revision)
            self.publish(after, before, part)
        return after

    def rename(self, source: Source, name: str) -> Source:
        """Rename a source; DefinitionError if the name is taken or invalid."""
        if not name.strip() or len(name) > MOST_NAME:
            raise DefinitionError(f"a source's name has 1 to {MOST_NAME} characters")
        with self.workspace.change() as db:
            other = self.named(name)
            if other is not None and other.id != source.id:
                raise DefinitionError(f"there is already a source named {name!r}; choose another name")
            db.execute("UPDATE source SET name = ? WHERE id = ?", (name, source.id))
        return self.one(source.id)

    def tell_report(self, db: sqlite3.Connection, source_id: int, report_id: int, key: str, digest: str) -> None:
        """Mark a source as a report's summary: `key` names what it was computed from, `digest` is its table's SHA-256."""
        db.execute(
            "UPDATE source SET report_id = ?, report_key = ?, report_digest = ? WHERE id = ?",
            (report_id, key, digest, source_id),
        )

    def remove(self, source: Source) -> None:
        """Delete a source with its records and intakes."""
        with self.workspace.change() as db:
            db.execute(f"DROP TABLE {source.table}")
            db.execute(
                "UPDATE refused_line SET mended_by = NULL WHERE intake_id IN (SELECT id FROM intake WHERE source_id = ?)",
                (source.id,),
            )
            db.execute("UPDATE intake SET mends = NULL WHERE source_id = ?", (source.id,))
            db.execute("DELETE FROM fetching WHERE source_id = ?", (source.id,))
            db.execute("DELETE FROM source WHERE id = ?", (source.id,))
        for id, revision in list(self._opened):
            if id == source.id:
                self._opened.pop((id, revision), None)
        column_cache.drop(self.workspace.cache, source.id)

    def folder(self, source: Source) -> Path:
        """The cache folder of a source's revision."""
        return self.workspace.cache / source.folder

    def records(self, source: Source) -> Records:
        """The source's records as imported, as columns, in import order."""
        return self.kept(source).records

    def kept(self, source: Source) -> Kept:
        """The records with their row ids, at the source's revision or, if that is outdated, at the current one.

        Revision and rows are read in one snapshot, so that neither is taken for another's.
        """
        opened = self.whole(source)
        if opened is not None:
            return opened
        if writing() and not self.making(source.name).held:  # the order of locks: a source's comes before the writer's
            return self.rows.from_rows(self.one(source.id))
        with self.making(source.name), self.workspace.snapshot():
            now = self.one(source.id)
            opened = self._opened.get((now.id, now.revision))
            if opened is not None:
                return opened
            kept = column_cache.kept_records(self.folder(now), now.revision)
            if kept is None:
                kept = self.rows.standing(now)
                column_cache.put_in_place(
                    column_cache.written_beside(self.folder(now), kept, now.revision), self.folder(now)
                )
                column_cache.drop(self.workspace.cache, now.id, now.revision)
            return self._published(now, kept)

    def whole(self, source: Source) -> Kept | None:
        """The mapped records of a source's revision; None if not mapped, or if one of the files was truncated, after which
        it must not be read: `damaged` is called then."""
        opened = self._opened.get((source.id, source.revision))
        if opened is not None and not opened.whole:
            self._opened.pop((source.id, source.revision), None)
            self.damaged()
            return None
        return opened

    def publish(self, source: Source, kept: Kept, part: Path | None) -> None:
        """Publish the records of a new revision after its transaction; earlier revisions are removed from the cache."""
        column_cache.put_in_place(part, self.folder(source))
        self._published(source, kept)
        column_cache.drop(self.workspace.cache, source.id, source.revision)

    def _published(self, source: Source, kept: Kept) -> Kept:
        """Map the records from the cache if it has them, so that they take no memory. The last two revisions of a
        source stay mapped, for requests that began before the last."""
        kept = column_cache.kept_records(self.folder(source), source.revision) or kept
        self._opened[(source.id, source.revision)] = kept
        for id, revision in list(self._opened):
            if id == source.id and revision < source.revision - 1:
                self._opened.pop((id, revision), None)
        return kept

    def _opened_of(self, id: int) -> list[Kept]:
        """The mapped records of a source, latest revision first."""
        return [kept for (of, _), kept in sorted(self._opened.items(), reverse=True) if of == id]
