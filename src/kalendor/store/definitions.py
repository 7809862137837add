"""Reports and groupings with all their revisions."""

import json
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from kalendor.definitions.document import read_json
from kalendor.definitions.kinds import Definition, definition
from kalendor.definitions.report import Report
from kalendor.errors import DefinitionError, KalendorError
from kalendor.store.workspace import Workspace


class MissingError(KalendorError):
    """What was asked for is not in the workspace."""


@dataclass(frozen=True)
class Stored:
    """A definition as it stands: its revision, and whether there is one to undo to or redo."""

    id: int
    kind: str
    name: str
    revision: int
    saved_at: str
    body: Definition
    can_undo: bool
    can_redo: bool


def name_of(body: Definition) -> str:
    """A document's title or name."""
    return body.title if isinstance(body, Report) else getattr(body, "name", "")


class Definitions:
    """The definitions of a workspace."""

    def __init__(self, workspace: Workspace) -> None:
        self.workspace = workspace

    def all(self, *kinds: str) -> list[Stored]:
        """All definitions of the given kinds, by name."""
        marks = ", ".join("?" * len(kinds))
        rows = self.workspace.db.execute(
            f"SELECT id FROM definition WHERE removed_at IS NULL AND kind IN ({marks}) ORDER BY name", kinds
        ).fetchall()
        return [self.one(row["id"]) for row in rows]

    def one(self, id: int) -> Stored:
        """A definition by its id.

        Raises MissingError where there is none.
        """
        row = self.workspace.db.execute(
            "SELECT d.id, d.kind, d.name, d.current, r.follows, r.body, r.saved_at,"
            " EXISTS (SELECT 1 FROM definition_revision n WHERE n.definition_id = d.id AND n.follows = d.current) AS after"
            " FROM definition d JOIN definition_revision r ON r.definition_id = d.id AND r.revision = d.current"
            " WHERE d.id = ? AND d.removed_at IS NULL",
            (id,),
        ).fetchone()
        if row is None:
            raise MissingError(f"there is no definition {id} here; it may have been removed")
        body = definition(read_json(row["body"], row["name"]), row["name"])
        return Stored(
            row["id"],
            row["kind"],
            row["name"],
            row["current"],
            row["saved_at"],
            body,
            row["follows"] > 0,
            bool(row["after"]),
        )

    def named(self, kind: str, name: str) -> Stored | None:
        """The definition of that kind and name, if there is one."""
        row = self.workspace.db.execute(
            "SELECT id FROM definition WHERE kind = ? AND name = ? AND removed_at IS NULL", (kind, name)
        ).fetchone()
        return self.one(row["id"]) if row else None

    def add(self, body: Definition, at: datetime) -> Stored:
        """A new definition.

        Raises DefinitionError where its name is taken.
        """
        name = name_of(body)
        if self.named(body.kind, name):
            raise DefinitionError(f"there is already a {body.kind} named {name!r}; choose another name")
        with self.workspace.change() as db:
            made = db.execute("INSERT INTO definition (kind, name, current) VALUES (?, ?, 1)", (body.kind, name))
            db.execute(
                "INSERT INTO definition_revision VALUES (?, 1, 0, ?, ?)", (made.lastrowid, dumped(body), stamp(at))
            )
        assert made.lastrowid is not None
        return self.one(made.lastrowid)

    def save(self, id: int, body: Definition, at: datetime) -> Stored:
        """A new revision of a definition; one that changes nothing is not kept."""
        now = self.one(id)
        if body.kind != now.kind:
            raise DefinitionError(f"{now.name!r} is a {now.kind}, and cannot become a {body.kind}")
        if body == now.body:
            return now
        name = name_of(body)
        other = self.named(body.kind, name)
        if other is not None and other.id != id:
            raise DefinitionError(f"there is already a {body.kind} named {name!r}; choose another name")
        with self.workspace.change() as db:
            last = db.execute(
                "SELECT max(revision) FROM definition_revision WHERE definition_id = ?", (id,)
            ).fetchone()[0]
            db.execute(
                "INSERT INTO definition_revision VALUES (?, ?, ?, ?, ?)",
                (id, last + 1, now.revision, dumped(body), stamp(at)),
            )
            db.execute("UPDATE definition SET current = ?, name = ? WHERE id = ?", (last + 1, name, id))
        return self.one(id)

    def undo(self, id: int) -> Stored:
        """Back to the revision that the current one was made from."""
        now = self.one(id)
        row = self._row(
            "SELECT follows AS to_ FROM definition_revision WHERE definition_id = ? AND revision = ?",
            (id, now.revision),
        )
        return self._moved(id, row["to_"]) if row["to_"] else now

    def redo(self, id: int) -> Stored:
        """On to the latest revision that was made from the current one."""
        now = self.one(id)
        row = self._row(
            "SELECT max(revision) AS to_ FROM definition_revision WHERE definition_id = ? AND follows = ?",
            (id, now.revision),
        )
        return self._moved(id, row["to_"]) if row["to_"] else now

    def _row(self, sql: str, values: tuple[Any, ...]) -> Any:
        return self.workspace.db.execute(sql, values).fetchone()

    def _moved(self, id: int, revision: int) -> Stored:
        row = self._row("SELECT body FROM definition_revision WHERE definition_id = ? AND revision = ?", (id, revision))
        name = name_of(definition(read_json(row["body"], "revision"), "revision"))
        with self.workspace.change() as db:
            db.execute("UPDATE definition SET current = ?, name = ? WHERE id = ?", (revision, name, id))
        return self.one(id)

    def remove(self, id: int, at: datetime) -> None:
        """Take a definition away; its revisions stay in the file."""
        self.one(id)
        with self.workspace.change() as db:
            db.execute("UPDATE definition SET removed_at = ? WHERE id = ?", (stamp(at), id))


def dumped(body: Definition) -> str:
    """A document as JSON, without what is left at its default."""
    plain = body.model_dump(mode="json", by_alias=True, exclude_defaults=True)
    return json.dumps({"kalendor": 1, "kind": body.kind, **plain}, ensure_ascii=False)


def stamp(at: datetime) -> str:
    """A moment as the store keeps it: ISO 8601 to the second."""
    return at.isoformat(timespec="seconds")
