"""Renames a source's columns, or stores them as another type.

Imported values stay in the records table unchanged, for editions made from them.
"""

import json
import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kalendor.core.values.columns import Column
from kalendor.definitions.recipe import ColumnReading, Recipe, UnitIn
from kalendor.definitions.report import MadeColumn
from kalendor.store.digests import digest_of
from kalendor.store.rows import sql_type, to_sql
from kalendor.store.sources import Source, Sources, recipe_from, recipe_json
from kalendor.store.workspace import quoted


@dataclass(frozen=True, eq=False)
class ReadAgain:
    """A column of an intake's records, read again: the rows' ids, rising, their values, and how they were read."""

    rows: NDArray[np.int64]
    values: Column
    reading: ColumnReading


def recipe_renamed(recipe: Recipe, old: str, new: str) -> Recipe:
    """A recipe with a column renamed, and its files' headings unchanged.

    >>> told = recipe_renamed(Recipe(columns={"a": ColumnReading(type="text")}, join_by=["a"]), "a", "b")
    >>> told.columns["b"].headings, told.join_by
    (['a'], ['b'])
    """
    columns = {}
    for name, reading in recipe.columns.items():
        if reading.unit is not None and reading.unit.column == old:
            reading = reading.model_copy(update={"unit": UnitIn(column=new)})
        if name == old:
            headings = [h for h in dict.fromkeys([old, *reading.headings]) if h != new]
            columns[new] = reading.model_copy(update={"headings": headings})
        else:
            columns[name] = reading
    by = [new if name == old else name for name in recipe.join_by]
    return recipe.model_copy(update={"columns": columns, "join_by": by})


def renamed(
    sources: Sources, db: sqlite3.Connection, source: Source, old: str, new: str, made: Sequence[MadeColumn]
) -> None:
    """Rename a column of a source, inside a transaction; its files are still matched by their headings."""
    db.execute("UPDATE source_column SET name = ? WHERE source_id = ? AND name = ?", (new, source.id, old))
    db.execute("UPDATE source_column SET unit = ? WHERE source_id = ? AND unit = ?", (new, source.id, old))
    for row in db.execute(
        "SELECT id, recipe FROM intake WHERE source_id = ? AND recipe IS NOT NULL", (source.id,)
    ).fetchall():
        told = recipe_json(recipe_renamed(recipe_from(row["recipe"]), old, new))
        db.execute("UPDATE intake SET recipe = ? WHERE id = ?", (told, row["id"]))
    db.execute(
        "UPDATE source SET recipe = ? WHERE id = ?", (recipe_json(recipe_renamed(source.recipe, old, new)), source.id)
    )
    sources.set_made(db, source.id, made)


def set_unit(db: sqlite3.Connection, source: Source, name: str, unit: str) -> None:
    """Set the column that holds the unit of a column's amounts, inside a transaction; empty: none."""
    db.execute("UPDATE source_column SET unit = ? WHERE source_id = ? AND name = ?", (unit, source.id, name))
    reading = source.recipe.columns.get(name, ColumnReading())
    told = reading.model_copy(update={"unit": UnitIn(column=unit) if unit else None})
    recipe = source.recipe.model_copy(update={"columns": {**source.recipe.columns, name: told}})
    db.execute("UPDATE source SET recipe = ?, revision = revision + 1 WHERE id = ?", (recipe_json(recipe), source.id))


def read_again(
    sources: Sources, db: sqlite3.Connection, source: Source, name: str, parts: Mapping[int, ReadAgain]
) -> None:
    """Store a column of a source as another kind, inside a transaction: `parts` are its values by intake, of one kind
    and one number of places; it is blank in the rows of other intakes."""
    kind, places, percent = next((p.values.kind, p.values.places, p.values.percent) for p in parts.values())
    old = next(c for c in source.columns if c.name == name)
    sql_name = sources.add_sql_column(db, source, old.sql_name, sql_type(kind))
    for id, part in parts.items():
        written = zip(to_sql(part.values), part.rows.tolist(), strict=True)
        db.executemany(f"UPDATE {source.table} SET {quoted(sql_name)} = ? WHERE row_id = ?", written)
        (digests, recipe) = db.execute("SELECT digests, recipe FROM intake WHERE id = ?", (id,)).fetchone()
        if digests is not None:
            more = [*json.loads(digests), [sql_name, kind.value, places, digest_of([part.values])]]
            db.execute("UPDATE intake SET digests = ? WHERE id = ?", (json.dumps(more), id))
        if recipe is not None:
            told = recipe_from(recipe)
            told = told.model_copy(update={"columns": {**told.columns, name: part.reading}})
            db.execute("UPDATE intake SET recipe = ? WHERE id = ?", (recipe_json(told), id))
    db.execute(
        "UPDATE source_column SET sql_name = ?, kind = ?, places = ?, percent = ? WHERE source_id = ? AND name = ?",
        (sql_name, kind.value, places, percent, source.id, name),
    )
    last = parts[max(parts)].reading
    recipe = source.recipe.model_copy(update={"columns": {**source.recipe.columns, name: last}})
    db.execute("UPDATE source SET recipe = ?, revision = revision + 1 WHERE id = ?", (recipe_json(recipe), source.id))
