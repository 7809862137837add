"""Who prepared and who approved an edition before it is issued."""

import sqlite3
from dataclasses import dataclass

from kalendor.store.workspace import Workspace


@dataclass(frozen=True)
class Approval:
    """The approval of a future edition, by the key of what it would be made `of`: prepared by one account, and approved
    by another (None if not yet), each with the time."""

    of: str
    prepared_by: str
    prepared_at: str
    approved_by: str | None = None
    approved_at: str | None = None


class Approvals:
    """The approvals of a workspace, one for each report and period."""

    def __init__(self, workspace: Workspace) -> None:
        self.workspace = workspace

    def of(self, report_id: int, days: tuple[str, str]) -> Approval | None:
        """The state of the approval of a report's period, if it was prepared."""
        row = self.workspace.db.execute(
            "SELECT of, prepared_by, prepared_at, approved_by, approved_at FROM approval"
            " WHERE report_id = ? AND first_day = ? AND last_day = ?",
            (report_id, *days),
        ).fetchone()
        return Approval(*row) if row else None

    def tell(self, db: sqlite3.Connection, report_id: int, days: tuple[str, str], one: Approval) -> None:
        """Store the state, inside a transaction."""
        db.execute(
            "INSERT OR REPLACE INTO approval VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
            (report_id, *days, one.of, one.prepared_by, one.prepared_at, one.approved_by, one.approved_at),
        )
