"""Intakes: imported files, each one transaction; undo, redo and correction."""

import json
import sqlite3
from collections.abc import Callable, Sequence
from contextlib import suppress
from dataclasses import dataclass, replace
from datetime import datetime
from itertools import repeat

import numpy as np
from numpy.typing import NDArray

from kalendor.core.values.columns import DATED, Column, Records
from kalendor.definitions.recipe import Recipe
from kalendor.errors import IntakeError, StoreError
from kalendor.intake.raw import Refused
from kalendor.store.bringing import Bringing, Origin, check_held, joined, recipe_after, stored
from kalendor.store.by_hand import filed
from kalendor.store.column_cache import Kept, let_go, written_beside
from kalendor.store.definitions import MOST_ID, MissingError, stamp
from kalendor.store.holding import Joint
from kalendor.store.inserting import Progress, digests_of, inserted
from kalendor.store.joining import Fitted, dated_by, fitted, replaced
from kalendor.store.linked import LinkedSources
from kalendor.store.mending import matched_lines
from kalendor.store.record_rows import Held
from kalendor.store.sources import Source, Sources, as_joined, recipe_from

MOST_EARLIER = 5
OF_FILES = "undone_at IS NULL AND recipe IS NOT NULL AND origin <> 'hand'"
"""SQL condition for intakes whose recipes may be tried on a source's next file."""
Then = Callable[[sqlite3.Connection, Source], None]


def nothing_more(_: sqlite3.Connection, source: Source) -> None:
    """Default callback: nothing else is written in the transaction."""


def no_progress(_: int) -> None:
    """Default callback: nothing is checked."""


@dataclass(frozen=True)
class Intake:
    """An imported file."""

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
    mends: int | None
    brought_by: str
    origin: Origin
    reason: str
    reverses: int | None


@dataclass(frozen=True)
class RefusedLine(Refused):
    """A refused line as stored; `mended_by` is the intake that imported its correction."""

    mended_by: int | None = None


class Intakes:
    """The intakes of a workspace's sources."""

    def __init__(self, sources: Sources) -> None:
        self.sources, self.workspace = sources, sources.workspace

    def of(self, source: Source) -> list[Intake]:
        """A source's imported files, latest first."""
        rows = self.workspace.db.execute("SELECT * FROM intake WHERE source_id = ? ORDER BY id DESC", (source.id,))
        return [_intake(row) for row in rows]

    def standing(self, source: Source) -> tuple[int, ...]:
        """The ids of the intakes in effect, ascending."""
        rows = self.workspace.db.execute(
            "SELECT id FROM intake WHERE source_id = ? AND undone_at IS NULL ORDER BY id", (source.id,)
        )
        return tuple(row[0] for row in rows)

    def one(self, id: int) -> Intake:
        """An intake by its id.

        Raises MissingError if there is none.
        """
        known = id if abs(id) < MOST_ID else 0
        row = self.workspace.db.execute("SELECT * FROM intake WHERE id = ?", (known,)).fetchone()
        if row is None:
            raise MissingError(f"there is no intake {id} here")
        return _intake(row)

    def recipe_of(self, intake: Intake) -> Recipe:
        """The recipe by which an intake's file was read; for corrected lines, the source's current recipe."""
        (text,) = self.workspace.db.execute("SELECT recipe FROM intake WHERE id = ?", (intake.id,)).fetchone()
        return recipe_from(text) if text else self.sources.one(intake.source_id).recipe

    def earlier_recipes(self, source: Source) -> list[Recipe]:
        """The other recipes by which a source's current files were read, latest first, up to MOST_EARLIER. A column that
        was added later is not expected in such files, but is in others."""
        rows = self.workspace.db.execute(
            f"SELECT recipe FROM intake WHERE source_id = ? AND {OF_FILES} GROUP BY recipe ORDER BY max(id) DESC",
            (source.id,),
        )
        found: list[Recipe] = []
        for row in rows:
            recipe = as_joined(recipe_from(row["recipe"]), source.recipe)
            recipe = recipe.model_copy(update={"columns": source.recipe.columns | recipe.columns})
            if recipe != source.recipe and recipe not in found:
                found.append(recipe)
        return found[:MOST_EARLIER]

    def refused(self, intake_id: int) -> list[RefusedLine]:
        """The refused lines of a file; MissingError if there is no such intake."""
        intake_id = self.one(intake_id).id
        rows = self.workspace.db.execute(
            "SELECT l.line, l.column_name, l.text, l.reason, l.cells, m.id AS mended_by FROM refused_line l LEFT JOIN"
            " intake m ON m.id = l.mended_by AND m.undone_at IS NULL WHERE l.intake_id = ? ORDER BY l.line",
            (intake_id,),
        )
        return [
            RefusedLine(
                r["line"], r["column_name"], r["text"], r["reason"], tuple(json.loads(r["cells"])), r["mended_by"]
            )
            for r in rows
        ]

    def refused_count(self, source: Source) -> tuple[int, int, int]:
        """Counts over all intakes in effect: refused lines, those corrected since, and lines of separators only."""
        row = self.workspace.db.execute(
            "SELECT count(*), coalesce(sum(l.mended_by IS NOT NULL AND m.undone_at IS NULL), 0) FROM refused_line l"
            " JOIN intake i ON i.id = l.intake_id LEFT JOIN intake m ON m.id = l.mended_by"
            " WHERE i.source_id = ? AND i.undone_at IS NULL",
            (source.id,),
        ).fetchone()
        empty = self.workspace.db.execute(
            "SELECT coalesce(sum(empty_lines), 0) FROM intake WHERE source_id = ? AND undone_at IS NULL", (source.id,)
        ).fetchone()
        return int(row[0]), int(row[1]), int(empty[0])

    def by_hand(self, source: Source) -> int:
        """How many of a source's current records were entered by hand."""
        row = self.workspace.db.execute(
            "SELECT coalesce(sum(records), 0) FROM intake WHERE source_id = ? AND origin = 'hand' AND undone_at IS NULL",
            (source.id,),
        ).fetchone()
        return int(row[0])

    def brought_before(self, source: Source, sha256: str) -> Intake | None:
        """The intake in effect of a file with the same content, or None."""
        return next((i for i in self.of(source) if i.sha256 == sha256 and i.undone_at is None), None)

    def bring_in(
        self, way: Bringing, progress: Progress = no_progress, then: Then = nothing_more
    ) -> tuple[Source, Intake]:
        """Import a file's records into the source of that name, creating it if needed, in one transaction.

        The existing records are read in that same transaction, so that a file imported meanwhile by another process
        comes either before or after this one. `progress` receives the number of records written; what it raises rolls
        everything back. `then` is called with the source before the transaction ends. Raises IntakeError if the file's
        columns are not the source's, or if its content exists already and it is not to be imported again.
        """
        with self.sources.making(way.source):
            part = None
            try:
                with self.workspace.change() as db:
                    source_id, intake_id, kept = self._joined_in(db, way, progress)
                    after = self.sources.one(source_id)
                    then(db, after)
                    part = written_beside(self.sources.folder(after), kept, after.revision)
            except BaseException:
                let_go(part)
                self._let_bytes_go(way.sha256)
                raise
            self.sources.publish(after, kept, part)
        return self.sources.one(source_id), self.one(intake_id)

    def _joined_in(self, db: sqlite3.Connection, way: Bringing, progress: Progress) -> tuple[int, int, Kept]:
        """Returns the ids of the source and the intake, and the source's records afterwards."""
        source, fit, before = self._fitting(db, way)
        records = fit.records if fit else way.reading.records
        out = np.zeros(0, dtype=np.int64)
        if source is not None and before is not None:
            files = filed(self.workspace, source, before)
            joint = Joint(files.records, records, dated_by(records, way.join, way.join_by))
            out = replaced(files.records, records, way.join, list(way.join_by), joint.keys)
            if way.held_over is not None and way.mends is None:
                check_held(way, joint.judged(out, way.held_over))
            out = files.at[out]
        source_id = source.id if source else self.sources.add(db, way.source, way.at)
        here = set() if source is None else {c.name for c in source.columns}
        fresh = [n for n in records.columns if n not in here]
        self.sources.add_columns(db, source_id, {name: records.columns[name] for name in fresh})
        intake_id = self._noted(db, source_id, way, records, len(out))
        if way.path is not None:
            stored(way.path, self.workspace.files / way.sha256)
        if source is not None and before is not None and way.join != "add":
            rows_out = np.concatenate([before.rows[out], self._hidden_out(source, records, way)])
            gone = zip(repeat(source_id), rows_out.tolist(), repeat(intake_id))
            db.executemany("INSERT INTO gone VALUES (?, ?, ?)", gone)
        first_row = inserted(db, source_id, intake_id, way.reading.lines, records, progress)
        digests = json.dumps(digests_of(db, source_id, records))
        db.execute("UPDATE intake SET digests = ? WHERE id = ?", (digests, intake_id))
        if way.mends is None:
            left_out = fit.added if fit and not way.take_added else ()
            recipe = recipe_after(way, left_out, source)
            db.execute("UPDATE intake SET recipe = ? WHERE id = ?", (recipe, intake_id))
            if way.origin != "hand":
                db.execute("UPDATE source SET recipe = ? WHERE id = ?", (recipe, source_id))
        db.execute("UPDATE source SET revision = revision + 1 WHERE id = ?", (source_id,))
        rows = np.arange(first_row, first_row + records.count)
        return source_id, intake_id, joined(before, out, Kept(records, rows))

    def _fitting(self, db: sqlite3.Connection, way: Bringing) -> tuple[Source | None, Fitted | None, Kept | None]:
        """Returns the source as changed for the file, the file's records in the source's columns, and the source's
        records before.

        Raises IntakeError if the same content exists already, or does not fit.
        """
        source = self.sources.named(way.source)
        if source is not None and way.origin != "link":
            LinkedSources(self.workspace).check_kept(source.id, source.name)
        already = self.brought_before(source, way.sha256) if source and not way.again else None
        if already is not None:
            raise IntakeError(
                f"{way.reading.name}: the same content was brought in as {already.file_name} on"
                f" {already.brought_at[:10]}; nothing was added"
            )
        if source is not None and way.reshape:
            source = self.sources.reshaped(db, source, way.reading.records)
        fit = fitted(source, way.reading, way.take_added or way.reshape, way.widen) if source else None
        before = self.sources.kept(source) if source else None
        if source is not None and before is not None and fit is not None and fit.wider:
            before = replace(before, records=fit.beside(before.records))
            source = self.sources.widen(db, source, fit.wider)
        return source, fit, before

    def _let_bytes_go(self, sha256: str) -> None:
        """Delete a stored file that no intake refers to."""
        with suppress(StoreError, OSError), self.workspace.change() as db:
            if db.execute("SELECT 1 FROM intake WHERE stored_as = ?", (sha256,)).fetchone() is None:
                (self.workspace.files / sha256).unlink(missing_ok=True)

    def _hidden_out(self, source: Source, records: Records, way: Bringing) -> np.ndarray:
        """Rows already replaced that this file replaces too, so that undoing an earlier file does not restore them."""
        hidden = self.sources.rows.hidden(source)
        files = filed(self.workspace, source, hidden)
        return hidden.rows[files.at[replaced(files.records, records, way.join, list(way.join_by))]]

    def _noted(self, db: sqlite3.Connection, source_id: int, way: Bringing, records: Records, replaced: int) -> int:
        """Insert the intake and its refused lines; a file of corrections marks the lines it corrects."""
        refused = way.reading.refused
        id = self.workspace.next_id("intake")
        db.execute(
            "INSERT INTO intake (id, source_id, file_name, sha256, size, stored_as, brought_at, joined_by, records, refused, replaced,"
            " first_day, last_day, mends, brought_by, empty_lines, origin, reason, reverses)"
            " VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
            (id, source_id, way.reading.name, way.sha256, way.size, way.sha256, stamp(way.at), way.join, records.count, len(refused),
             replaced, *days_spanned(records), way.mends, self.workspace.who, way.reading.empty,
             way.origin, way.reason, way.reverses),
        )  # fmt: skip
        db.executemany(
            "INSERT INTO refused_line VALUES (?, ?, ?, ?, ?, ?, NULL)",
            [(id, r.line, r.column, r.text, r.reason, json.dumps(r.cells, ensure_ascii=False)) for r in refused],
        )
        if way.mends is not None:
            open_ = db.execute(
                "SELECT l.rowid, l.cells FROM refused_line l LEFT JOIN intake m ON m.id = l.mended_by AND m.undone_at IS NULL"
                " WHERE l.intake_id = ? AND m.id IS NULL ORDER BY l.line",
                (way.mends,),
            ).fetchall()
            mended = matched_lines([json.loads(row["cells"]) for row in open_], records)
            db.executemany(
                "UPDATE refused_line SET mended_by = ? WHERE rowid = ?", [(id, open_[at]["rowid"]) for at in mended]
            )
        return id

    def rows_of(self, intake: Intake) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        """The ids of an intake's rows, ascending, and the line of its file that each came from."""
        table = self.sources.one(intake.source_id).table
        found = self.workspace.db.execute(
            f"SELECT row_id, line_no FROM {table} WHERE intake_id = ? ORDER BY row_id", (intake.id,)
        )
        pairs = np.array([tuple(row) for row in found], dtype=np.int64).reshape(-1, 2)
        return pairs[:, 0], pairs[:, 1]

    def origins(self, source: Held, rows: Sequence[int]) -> dict[int, tuple[str, int]]:
        """The file and line of rows of a source, by row id."""
        found = self.workspace.db.execute(
            f"SELECT r.row_id, i.file_name, r.line_no FROM {source.table} r JOIN intake i ON i.id = r.intake_id"
            " WHERE r.row_id IN (SELECT value FROM json_each(?))",
            (json.dumps(rows),),
        )
        return {row[0]: (row[1], row[2]) for row in found}

    def undo(self, intake_id: int, at: datetime) -> Source:
        """Undo an intake: its records leave the source, and those it replaced return."""
        return self._marked(intake_id, stamp(at))

    def redo(self, intake_id: int) -> Source:
        """Redo an undone intake."""
        return self._marked(intake_id, None)

    def _marked(self, intake_id: int, undone_at: str | None) -> Source:
        with self.workspace.change() as db:
            intake = self.one(intake_id)
            LinkedSources(self.workspace).check_kept(intake.source_id, self.sources.one(intake.source_id).name)
            db.execute("UPDATE intake SET undone_at = ? WHERE id = ?", (undone_at, intake_id))
            last = db.execute(
                f"SELECT recipe FROM intake WHERE source_id = ? AND {OF_FILES} ORDER BY id DESC LIMIT 1",
                (intake.source_id,),
            ).fetchone()
            if last is not None:  # the next file is read like the last one in effect
                self.sources.set_reading(db, intake.source_id, last["recipe"])
            db.execute("UPDATE source SET revision = revision + 1 WHERE id = ?", (intake.source_id,))
        return self.sources.one(intake.source_id)


def _intake(row: sqlite3.Row) -> Intake:
    return Intake(**{name: row[name] for name in Intake.__dataclass_fields__})


def days_spanned(records: Records) -> tuple[str | None, str | None]:
    """The first and last day of the first date column."""
    for column in records.columns.values():
        if column.kind in DATED and column.present.any():
            values = column.values if column.blank is None else column.values[column.present]
            ends = Column(column.kind, np.array([values.min(), values.max()]))
            return str(ends.item(0))[:10], str(ends.item(1))[:10]
    return None, None
