"""Stores reports and groupings with all their revisions."""

import json
from collections import OrderedDict
from contextlib import suppress
from dataclasses import dataclass
from datetime import datetime
from sqlite3 import Connection
from typing import Any

from kalendor.definitions.document import read_json
from kalendor.definitions.kinds import Definition, definition
from kalendor.definitions.report import Report
from kalendor.errors import DefinitionError, KalendorError, RevisionError
from kalendor.store.workspace import Workspace

MOST_ID = 2**63


class MissingError(KalendorError):
    """The requested object does not exist in the workspace."""

    exit_code = 2


@dataclass(frozen=True)
class Stored:
    """A definition's current revision, and whether it can be undone or redone."""

    id: int
    kind: str
    name: str
    revision: int
    saved_at: str
    body: Definition
    can_undo: bool
    can_redo: bool
    archived: bool = False


@dataclass(frozen=True)
class Revision:
    """A revision of a definition: its document, that of the revision it follows (None for the first), when and by whom it
    was made, and whether it is current."""

    id: int
    kind: str
    revision: int
    saved_at: str
    saved_by: str
    body: Definition
    before: Definition | None
    stands: bool
    removed: bool


def name_of(body: Definition) -> str:
    """A document's title or name."""
    return body.title if isinstance(body, Report) else getattr(body, "name", "")


_STANDING = (
    "SELECT d.id, d.kind, d.name, d.current, d.archived_at, r.follows, r.body, r.saved_at,"
    " EXISTS (SELECT 1 FROM definition_revision n WHERE n.definition_id = d.id AND n.follows = d.current) AS after"
    " FROM definition d JOIN definition_revision r ON r.definition_id = d.id AND r.revision = d.current"
    " WHERE d.removed_at IS NULL"
)
_REVISED = "INSERT INTO definition_revision (definition_id, revision, follows, body, saved_at, saved_by) VALUES"
MOST_PARSED = 4096


class Definitions:
    """The definitions of a workspace. A revision never changes, so each is parsed once; the most recently used few
    thousand stay parsed and are shared between threads."""

    def __init__(self, workspace: Workspace) -> None:
        self.workspace = workspace
        self._parsed: OrderedDict[tuple[int, int], Definition] = OrderedDict()

    def all(self, *kinds: str) -> list[Stored]:
        """All definitions of the given kinds, by name."""
        marks = ", ".join("?" * len(kinds))
        rows = self.workspace.db.execute(f"{_STANDING} AND d.kind IN ({marks}) ORDER BY d.name", kinds).fetchall()
        return [self._stored(row) for row in rows]

    def made_by(self, kind: str) -> dict[int, str]:
        """The author of each definition of a kind: who saved its first revision."""
        rows = self.workspace.db.execute(
            "SELECT r.definition_id, r.saved_by FROM definition_revision r JOIN definition d ON d.id = r.definition_id"
            " WHERE d.kind = ? AND d.removed_at IS NULL AND r.follows = 0", (kind,)
        )  # fmt: skip
        return {row[0]: row[1] for row in rows}

    def one(self, id: int) -> Stored:
        """A definition by its id.

        Raises MissingError if there is none.
        """
        row = self._row(f"{_STANDING} AND d.id = ?", (id,)) if abs(id) < MOST_ID else None
        if row is None:
            raise MissingError(f"there is no definition {id} here; it may have been removed")
        return self._stored(row)

    def _stored(self, row: Any) -> Stored:
        body = self._body(row["id"], row["current"], row["body"], row["name"])
        return Stored(
            row["id"], row["kind"], row["name"], row["current"], row["saved_at"], body, row["follows"] > 0, bool(row["after"]),
            row["archived_at"] is not None,
        )  # fmt: skip

    def _body(self, id: int, revision: int, text: str, name: str) -> Definition:
        found = self._parsed.get((id, revision))
        if found is None:
            found = self._parsed.setdefault((id, revision), definition(read_json(text, name), name))
            while len(self._parsed) > MOST_PARSED:
                with suppress(KeyError):
                    self._parsed.popitem(last=False)
        return found

    def named(self, kind: str, name: str) -> Stored | None:
        """The definition of that kind and name, or None."""
        row = self._row(f"{_STANDING} AND d.kind = ? AND d.name = ?", (kind, name))
        return self._stored(row) if row else None

    def add(self, body: Definition, at: datetime) -> Stored:
        """Insert a definition.

        Raises DefinitionError if its name is taken.
        """
        name = name_of(body)
        with self.workspace.change() as db:
            self._check_free(body.kind, name, None)
            id = self.workspace.next_id("definition")
            db.execute("INSERT INTO definition (id, kind, name, current) VALUES (?, ?, ?, 1)", (id, body.kind, name))
            db.execute(f"{_REVISED} (?, 1, 0, ?, ?, ?)", (id, dumped(body), stamp(at), self.workspace.who))
        return self.one(id)

    def _check_free(self, kind: str, name: str, id: int | None) -> None:
        """Raises DefinitionError if another definition has the name."""
        other = self.named(kind, name)
        if other is not None and other.id != id:
            raise DefinitionError(f"there is already a {kind} named {name!r}; choose another name")

    def save(self, id: int, body: Definition, at: datetime, expected: int | None = None) -> Stored:
        """Save a new revision of a definition; one that changes nothing is not stored.

        `expected` is the revision that the change was made to. Raises RevisionError if that is no longer current, and
        DefinitionError for another kind and for a name that is taken; nothing is changed then.
        """
        with self.workspace.change() as db:
            now = self._expected(id, expected)
            if body.kind != now.kind:
                raise DefinitionError(f"{now.name!r} is a {now.kind}, and cannot become a {body.kind}")
            if body == now.body:
                return now
            self._revised(db, now, body, at)
        return self.one(id)

    def _revised(self, db: Connection, now: Stored, body: Definition, at: datetime) -> int:
        """Insert a revision that follows the current one, inside a transaction; returns its number."""
        name = name_of(body)
        self._check_free(body.kind, name, now.id)
        revision: int = self._row("SELECT max(revision) FROM definition_revision WHERE definition_id = ?", (now.id,))[0]
        db.execute(
            f"{_REVISED} (?, ?, ?, ?, ?, ?)",
            (now.id, revision + 1, now.revision, dumped(body), stamp(at), self.workspace.who),
        )
        db.execute("UPDATE definition SET current = ?, name = ? WHERE id = ?", (revision + 1, name, now.id))
        return revision + 1

    def save_along(
        self,
        id: int,
        body: Definition,
        other: Definition,
        other_id: int | None,
        at: datetime,
        expected: int | None = None,
    ) -> Stored:
        """Save a new revision of a definition together with one of another (a new definition if `other_id` is None), both or
        neither; they are undone and redone together. Raises like `save`."""
        with self.workspace.change() as db:
            now = self._expected(id, expected)
            if other_id is None:
                made = self.add(other, at)
                before, after, other_id = 0, made.revision, made.id
            else:
                there = self.one(other_id)
                before, after = there.revision, self._revised(db, there, other, at)
            revision = self._revised(db, now, body, at)
            db.execute("INSERT INTO made_along VALUES (?, ?, ?, ?, ?)", (id, revision, other_id, before, after))
        return self.one(id)

    def _step_along(self, db: Connection, id: int, revision: int, back: bool, at: str) -> None:
        """Undo or redo the definitions that were saved together with a revision; those changed since stay
        unchanged."""
        rows = db.execute(
            "SELECT other_id, before, after FROM made_along WHERE definition_id = ? AND revision = ?", (id, revision)
        ).fetchall()
        for row in rows:
            here, there = (row["after"], row["before"]) if back else (row["before"], row["after"])
            current = self._row("SELECT current, removed_at FROM definition WHERE id = ?", (row["other_id"],))
            standing = 0 if current["removed_at"] else current["current"]
            if standing != here:
                continue
            if there == 0:
                if not self._named_elsewhere(db, id, row["other_id"]):
                    db.execute("UPDATE definition SET removed_at = ? WHERE id = ?", (at, row["other_id"]))
                continue
            body = self._row(
                "SELECT body FROM definition_revision WHERE definition_id = ? AND revision = ?",
                (row["other_id"], there),
            )["body"]
            found = self._body(row["other_id"], there, body, "")
            self._check_free(found.kind, name_of(found), row["other_id"])
            db.execute(
                "UPDATE definition SET current = ?, name = ?, removed_at = NULL WHERE id = ?",
                (there, name_of(found), row["other_id"]),
            )

    def _named_elsewhere(self, db: Connection, id: int, other_id: int) -> bool:
        """Whether a report other than `id` refers to the other definition."""
        name = json.dumps(self.one(other_id).name, ensure_ascii=False)
        found = db.execute(
            "SELECT 1 FROM definition d JOIN definition_revision r ON r.definition_id = d.id AND r.revision = d.current"
            " WHERE d.kind = 'report' AND d.id <> ? AND d.removed_at IS NULL AND instr(r.body, ?) > 0",
            (id, name),
        ).fetchone()
        return found is not None

    def archive(self, id: int, at: datetime | None) -> Stored:
        """Archive a definition, or restore it (None)."""
        with self.workspace.change() as db:
            self.one(id)
            db.execute("UPDATE definition SET archived_at = ? WHERE id = ?", (stamp(at) if at else None, id))
        return self.one(id)

    def _expected(self, id: int, revision: int | None) -> Stored:
        now = self.one(id)
        if revision is not None and now.revision != revision:
            raise RevisionError(
                f"{now.name!r} was changed since, on {now.saved_at[:16].replace('T', ' at ')}; "
                "look at what it says now, and make the change again if it still should be made"
            )
        return now

    def undo(self, id: int, expected: int | None = None) -> Stored:
        """Return to the revision that the current one follows; `expected` as in `save`.

        Raises DefinitionError if its name was taken by another since.
        """
        return self._stepped(
            id, expected, "SELECT follows FROM definition_revision WHERE definition_id = ? AND revision = ?", back=True
        )

    def redo(self, id: int, expected: int | None = None) -> Stored:
        """Advance to the latest revision that follows the current one; `expected` as in `save`.

        Raises DefinitionError if its name was taken by another since.
        """
        return self._stepped(
            id,
            expected,
            "SELECT max(revision) FROM definition_revision WHERE definition_id = ? AND follows = ?",
            back=False,
        )

    def _stepped(self, id: int, expected: int | None, to: str, back: bool) -> Stored:
        with self.workspace.change() as db:
            now = self._expected(id, expected)
            revision = self._row(to, (id, now.revision))[0]
            if not revision:
                return now
            row = self._row(
                "SELECT body FROM definition_revision WHERE definition_id = ? AND revision = ?", (id, revision)
            )
            name = name_of(self._body(id, revision, row["body"], now.name))
            other = self.named(now.kind, name)
            if other is not None and other.id != id:
                raise DefinitionError(
                    f"this was named {name!r} then, and another {now.kind} has that name now; rename that one first"
                )
            db.execute("UPDATE definition SET current = ?, name = ? WHERE id = ?", (revision, name, id))
            self._step_along(db, id, now.revision if back else revision, back, now.saved_at)
        return self.one(id)

    def revisions(self, id: int | None = None, most: int = 200) -> list[Revision]:
        """The revisions of all definitions, or of one, including deleted ones, latest first."""
        which, given = ("WHERE r.definition_id = ?", (id, most)) if id is not None else ("", (most,))
        rows = self.workspace.db.execute(
            "SELECT r.*, d.kind, d.name, d.current, d.removed_at, f.body AS before FROM definition_revision r"
            " JOIN definition d ON d.id = r.definition_id LEFT JOIN definition_revision f"
            f" ON f.definition_id = r.definition_id AND f.revision = r.follows {which}"
            " ORDER BY r.saved_at DESC, r.rowid DESC LIMIT ?",
            given,
        ).fetchall()
        return [self._revision(row) for row in rows]

    def _revision(self, row: Any) -> Revision:
        id, before = row["definition_id"], row["before"]
        return Revision(
            id, row["kind"], row["revision"], row["saved_at"], row["saved_by"],
            self._body(id, row["revision"], row["body"], row["name"]),
            None if before is None else self._body(id, row["follows"], before, row["name"]),
            row["current"] == row["revision"] and row["removed_at"] is None, row["removed_at"] is not None,
        )  # fmt: skip

    def bring_back(self, id: int, revision: int, at: datetime) -> Stored:
        """Restore a revision of a definition as a new current revision; a deleted definition is restored.

        Raises MissingError if there is none, DefinitionError if its name was taken by another since.
        """
        with self.workspace.change() as db:
            found = next((one for one in self.revisions(id, MOST_PARSED) if one.revision == revision), None)
            if found is None:
                raise MissingError(f"there is no revision {revision} of {id} here")
            if found.removed:
                self._check_free(found.kind, name_of(found.body), id)
                db.execute("UPDATE definition SET removed_at = NULL WHERE id = ?", (id,))
            now = self.one(id)
            if found.body != now.body:
                self._revised(db, now, found.body, at)
        return self.one(id)

    def _row(self, sql: str, values: tuple[Any, ...]) -> Any:
        return self.workspace.db.execute(sql, values).fetchone()

    def remove(self, id: int, at: datetime, expected: int | None = None) -> None:
        """Delete a definition; its revisions stay in the database."""
        with self.workspace.change() as db:
            self._expected(id, expected)
            db.execute("UPDATE definition SET removed_at = ? WHERE id = ?", (stamp(at), id))


def dumped(body: Definition) -> str:
    """A document as JSON, without default values."""
    plain = body.model_dump(mode="json", by_alias=True, exclude_defaults=True)
    return json.dumps({"kalendor": 1, "kind": body.kind, **plain}, ensure_ascii=False)


def stamp(at: datetime) -> str:
    """A timestamp as stored: ISO 8601 to the second."""
    return at.isoformat(timespec="seconds")
