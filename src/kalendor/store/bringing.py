"""Decides what importing a file does to the records and the recipe of its source."""

import os
import shutil
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import Literal
from uuid import uuid4

import numpy as np

from kalendor.core.values.columns import Records, blank_column, concat
from kalendor.definitions.recipe import ColumnReading
from kalendor.errors import HeldError
from kalendor.intake.typed import Reading
from kalendor.store.column_cache import Kept
from kalendor.store.holding import Judged
from kalendor.store.sources import Source, recipe_json

Origin = Literal["file", "push", "query", "hand", "link"]


@dataclass(frozen=True, eq=False)
class Bringing:
    """A file to be imported: how it joins the existing records, whether new columns are accepted, which intake it
    corrects, whether content that exists already is imported again, and whether the source adopts the file's columns.
    `path` is the path of the file's bytes, which are stored with it. `always`: the source's next files join in this
    way, too; with `held_over`, a file that would remove more, or count records twice, is held. With `widen` the source
    adopts the decimal places of numbers that have more. `origin` says where the records came from; those entered by
    hand have a `reason`, and `reverses` is the intake whose amounts they reverse."""

    source: str
    reading: Reading
    sha256: str
    size: int
    at: datetime
    join: str = "add"
    join_by: tuple[str, ...] = ()
    take_added: bool = False
    mends: int | None = None
    again: bool = False
    reshape: bool = False
    path: Path | None = None
    always: bool = False
    held_over: float | None = None
    widen: bool = False
    origin: Origin = "file"
    reason: str = ""
    reverses: int | None = None


def stored(path: Path, place: Path) -> None:
    """A file's bytes at their stored path, written if they are not there already."""
    if not place.exists():
        part = place.with_name(f".{uuid4().hex}")
        try:
            os.link(path, part)
        except OSError:  # a file system without links
            shutil.copyfile(path, part)
        part.replace(place)


def check_held(way: Bringing, found: Judged) -> None:
    """Raises HeldError if a file is held for a person."""
    if found.reasons:
        raise HeldError(f"{way.reading.name}: held, nothing was brought in: {'; '.join(found.reasons)}", found.months)


def recipe_after(way: Bringing, left_out: Sequence[str], source: Source | None) -> str:
    """The recipe for the source's next file, as JSON; how it joins is unchanged unless set for all files."""
    recipe = way.reading.recipe
    columns = recipe.columns | dict.fromkeys(left_out, ColumnReading(skip=True))
    joins: dict[str, object] = {"join": way.join, "join_by": list(way.join_by)}
    if source is not None:
        before = source.recipe
        joins = {"held_over": before.held_over} | (
            joins if way.always else {"join": before.join, "join_by": list(before.join_by)}
        )
    return recipe_json(recipe.model_copy(update={"columns": columns, **joins}))


def joined(before: Kept | None, out: np.ndarray, new: Kept) -> Kept:
    """The earlier records that remain, followed by the new ones."""
    if before is None:
        return new
    stay = np.ones(before.records.count, dtype=bool)
    stay[out] = False
    if not stay.any():
        return new
    columns = {}
    for name, column in new.records.columns.items():
        old = before.records.columns.get(name)
        if old is None:
            old = blank_column(column.kind, before.records.count, column.places)
        columns[name] = concat([old.take(stay) if len(out) else old, column])
    rows = np.concatenate([before.rows[stay], new.rows])
    return Kept(Records(columns, len(rows)), rows)
