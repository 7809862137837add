"""Stores the queries that feed sources, and the outcome of their last run."""

from dataclasses import dataclass
from datetime import datetime

from kalendor.definitions.fetching import Fetching
from kalendor.store.definitions import stamp
from kalendor.store.workspace import Workspace


@dataclass(frozen=True)
class Fed:
    """A source fed by a query: since when, when it last ran (None: never), and the outcome: `in`, `same`, `held` or
    `failed`, with the reason."""

    source_id: int
    fetching: Fetching
    since: datetime
    asked_at: datetime | None
    outcome: str
    reason: str


class Fetches:
    """The queries of a workspace."""

    def __init__(self, workspace: Workspace) -> None:
        self.workspace = workspace

    def all(self) -> list[Fed]:
        """Every source fed by a query."""
        rows = self.workspace.db.execute(
            "SELECT f.* FROM fetching f JOIN source s ON s.id = f.source_id ORDER BY s.name"
        ).fetchall()
        return [
            Fed(
                row["source_id"], Fetching.model_validate_json(row["body"]), datetime.fromisoformat(row["since"]),
                datetime.fromisoformat(row["asked_at"]) if row["asked_at"] else None, row["outcome"], row["reason"],
            )
            for row in rows
        ]  # fmt: skip

    def of(self, source_id: int) -> Fed | None:
        """The query that feeds a source."""
        return next((fed for fed in self.all() if fed.source_id == source_id), None)

    def set(self, source_id: int, fetching: Fetching, at: datetime) -> None:
        """Set the query that feeds a source."""
        with self.workspace.change() as db:
            db.execute("DELETE FROM fetching WHERE source_id = ?", (source_id,))
            db.execute(
                "INSERT INTO fetching (source_id, body, since) VALUES (?, ?, ?)",
                (source_id, fetching.model_dump_json(by_alias=True, exclude_defaults=True), stamp(at)),
            )

    def remove(self, source_id: int) -> None:
        """Remove the query that feeds a source."""
        with self.workspace.change() as db:
            db.execute("DELETE FROM fetching WHERE source_id = ?", (source_id,))

    def note(self, source_id: int, at: datetime, outcome: str, reason: str) -> None:
        """Store the outcome of a query's run."""
        with self.workspace.change() as db:
            db.execute(
                "UPDATE fetching SET asked_at = ?, outcome = ?, reason = ? WHERE source_id = ?",
                (stamp(at), outcome, reason, source_id),
            )
