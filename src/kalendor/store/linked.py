"""Stores linked sources: folders of files that are read in place, and the files that each look at them found."""

import json
import sqlite3
from collections.abc import Sequence
from dataclasses import asdict, dataclass

from kalendor.errors import DefinitionError
from kalendor.intake.specimen import Facts
from kalendor.store.workspace import Workspace


@dataclass(frozen=True)
class Link:
    """The folder of a linked source, and the pattern of its files beneath it. `headings` are those of its first file;
    `facts` count the records of the current files."""

    source_id: int
    folder: str
    pattern: str
    headings: tuple[str, ...]
    facts: Facts


@dataclass(frozen=True)
class Part:
    """A partition of a file, as in `intake.partitions.Partition`."""

    weight: int
    groups: tuple[int, ...] = ()
    heading: int = 0
    first: int = 0
    last: int = 0


@dataclass(frozen=True)
class LinkedFile:
    """A file at a look: its path beneath the folder, size (bytes), modification time (ns since 1970) and SHA-256, its
    numbers of records and refused lines, and its partitions."""

    path: str
    size: int
    modified: int
    sha256: str
    records: int
    refused: int
    empty: int
    parts: tuple[Part, ...]


class LinkedSources:
    """The linked sources of a workspace."""

    def __init__(self, workspace: Workspace) -> None:
        self.workspace = workspace

    def all(self) -> list[Link]:
        """Every linked source."""
        rows = self.workspace.db.execute("SELECT * FROM linked ORDER BY source_id").fetchall()
        return [_link(row) for row in rows]

    def of(self, source_id: int) -> Link | None:
        """The link of a source; None if its records are stored in the workspace."""
        row = self.workspace.db.execute("SELECT * FROM linked WHERE source_id = ?", (source_id,)).fetchone()
        return None if row is None else _link(row)

    def files(self, source_id: int, look: int | None = None) -> list[LinkedFile]:
        """The files after a look, given by an intake's id, or the current ones, by path."""
        rows = self.workspace.db.execute(
            "SELECT * FROM linked_file WHERE source_id = :source AND (:look IS NULL AND gone IS NULL"
            " OR came <= :look AND (gone IS NULL OR gone > :look)) ORDER BY path",
            {"source": source_id, "look": look},
        )
        return [_file(row) for row in rows.fetchall()]

    def counted(self, look: int) -> tuple[int, int]:
        """The number of files after a look, and of their records."""
        row = self.workspace.db.execute(
            "SELECT count(*), coalesce(sum(f.records), 0) FROM linked_file f JOIN intake i ON i.source_id = f.source_id"
            " WHERE i.id = :look AND f.came <= :look AND (f.gone IS NULL OR f.gone > :look)",
            {"look": look},
        ).fetchone()
        return int(row[0]), int(row[1])

    def note(
        self, db: sqlite3.Connection, link: Link, look: int, came: Sequence[LinkedFile], gone: Sequence[str]
    ) -> None:
        """Store the result of a look, inside a transaction: new or changed files, and the paths of files that were
        deleted or changed."""
        db.execute(
            "INSERT INTO linked VALUES (?, ?, ?, ?, ?) ON CONFLICT (source_id) DO UPDATE SET folder = excluded.folder,"
            " pattern = excluded.pattern, headings = excluded.headings, facts = excluded.facts",
            (link.source_id, link.folder, link.pattern, json.dumps(link.headings), link.facts.as_json()),
        )
        db.executemany(
            "UPDATE linked_file SET gone = ? WHERE source_id = ? AND path = ? AND gone IS NULL",
            [(look, link.source_id, path) for path in gone],
        )
        db.executemany(
            "INSERT INTO linked_file (source_id, path, size, modified, sha256, records, refused, empty, parts, came)"
            " VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
            [
                (
                    link.source_id, f.path, f.size, f.modified, f.sha256, f.records, f.refused, f.empty,
                    json.dumps([asdict(part) for part in f.parts]), look,
                )
                for f in came
            ],
        )  # fmt: skip

    def touched(self, db: sqlite3.Connection, source_id: int, files: Sequence[LinkedFile]) -> None:
        """Store the modification time of files that were written again with the same content."""
        db.executemany(
            "UPDATE linked_file SET modified = ? WHERE source_id = ? AND path = ? AND gone IS NULL",
            [(one.modified, source_id, one.path) for one in files],
        )

    def check_kept(self, source_id: int, name: str) -> None:
        """Raises DefinitionError for a linked source, whose records cannot be changed by the workspace."""
        link = self.of(source_id)
        if link is not None:
            raise DefinitionError(
                f"{name} is linked: its records are those of the files in {link.folder}; change the files, then look again"
            )


def _link(row: sqlite3.Row) -> Link:
    headings, facts = tuple(json.loads(row["headings"])), Facts.from_json(row["facts"])
    return Link(row["source_id"], row["folder"], row["pattern"], headings, facts)


def _file(row: sqlite3.Row) -> LinkedFile:
    parts = tuple(Part(**{**one, "groups": tuple(one["groups"])}) for one in json.loads(row["parts"]))
    names = ("path", "size", "modified", "sha256", "records", "refused", "empty")
    return LinkedFile(**{name: row[name] for name in names}, parts=parts)
