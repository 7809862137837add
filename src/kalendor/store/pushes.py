"""Files sent by programs, by idempotency key."""

from dataclasses import dataclass
from datetime import datetime

from kalendor.store.definitions import stamp
from kalendor.store.workspace import Workspace


@dataclass(frozen=True)
class Noted:
    """The content sent with a key, by its SHA-256, and the answer, as JSON."""

    sha256: str
    answer: str


class Pushes:
    """The outcomes for files that programs sent to a workspace's sources."""

    def __init__(self, workspace: Workspace) -> None:
        self.workspace = workspace

    def noted(self, source_id: int, key: str) -> Noted | None:
        """The stored answer for a key of a source, if any."""
        row = self.workspace.db.execute(
            "SELECT sha256, answer FROM pushed WHERE source_id = ? AND key = ?", (source_id, key)
        ).fetchone()
        return Noted(row["sha256"], row["answer"]) if row else None

    def note(self, source_id: int, key: str, what: Noted, at: datetime) -> None:
        """Store the answer for a key; the first one is kept."""
        with self.workspace.change() as db:
            db.execute(
                "INSERT OR IGNORE INTO pushed VALUES (?, ?, ?, ?, ?)",
                (source_id, key, what.sha256, what.answer, stamp(at)),
            )
