"""Log of what schedules did: issued, or the reason why not."""

from dataclasses import dataclass, fields
from datetime import datetime

from kalendor.store.definitions import stamp
from kalendor.store.workspace import Workspace


@dataclass(frozen=True)
class Logged:
    """A line of the log; `outcome` is issued or left, `last_day` that of the period."""

    at: str
    report_id: int
    label: str
    last_day: str
    outcome: str
    reason: str


class ScheduleLog:
    """The log of a workspace."""

    def __init__(self, workspace: Workspace) -> None:
        self.workspace = workspace

    def note(self, at: datetime, report_id: int, label: str, last_day: str, outcome: str, reason: str) -> None:
        """Note an outcome, unless the last one of that period was the same."""
        with self.workspace.change() as db:
            last = db.execute(
                "SELECT outcome, reason FROM schedule_log WHERE report_id = ? AND last_day = ? ORDER BY id DESC LIMIT 1",
                (report_id, last_day),
            ).fetchone()
            if last is None or (last["outcome"], last["reason"]) != (outcome, reason):
                db.execute(
                    "INSERT INTO schedule_log (at, report_id, label, last_day, outcome, reason) VALUES (?, ?, ?, ?, ?, ?)",
                    (stamp(at), report_id, label, last_day, outcome, reason),
                )

    def latest(self, most: int = 200) -> list[Logged]:
        """The latest first."""
        rows = self.workspace.db.execute("SELECT * FROM schedule_log ORDER BY id DESC LIMIT ?", (most,)).fetchall()
        return [Logged(*(row[field.name] for field in fields(Logged))) for row in rows]

    def left(self) -> dict[tuple[int, str], str]:
        """Why periods were last not issued, by report and last day."""
        found: dict[tuple[int, str], str] = {}
        for one in reversed(self.latest(2_000)):
            if one.outcome == "left":
                found[one.report_id, one.last_day] = one.reason
            else:
                found.pop((one.report_id, one.last_day), None)
        return found

    def hangs_on(self) -> tuple[float, ...]:
        """The state of sources, definitions and editions: while it is unchanged, there is nothing new to issue."""
        row = self.workspace.db.execute(
            "SELECT (SELECT total(revision) FROM source), (SELECT count(*) FROM definition_revision),"
            " (SELECT total(current) FROM definition WHERE removed_at IS NULL), (SELECT count(*) FROM edition)"
        ).fetchone()
        return tuple(row)
