"""Links for readers; only the SHA-256 of a link's secret is stored."""

import hashlib
import secrets
from dataclasses import dataclass
from datetime import date, datetime
from typing import Literal

from kalendor.store.definitions import MissingError, stamp
from kalendor.store.workspace import Workspace

Depth = Literal["none", "words", "records"]


@dataclass(frozen=True)
class Link:
    """A link to an edition, or (`edition_id` None) to all of a report's; `trail` is the depth to which numbers are
    explained."""

    id: int
    report_id: int
    edition_id: int | None
    trail: Depth
    made_at: str
    ends_on: str | None
    withdrawn_at: str | None

    def open_on(self, day: date) -> bool:
        """Whether it is valid on a day."""
        return self.withdrawn_at is None and (self.ends_on is None or day.isoformat() <= self.ends_on)


class Links:
    """The links of a workspace."""

    def __init__(self, workspace: Workspace) -> None:
        self.workspace = workspace

    def make(
        self, report_id: int, edition_id: int | None, trail: Depth, ends_on: date | None, at: datetime
    ) -> tuple[Link, str]:
        """Create a link; returns it and its secret, which is not stored."""
        secret = secrets.token_urlsafe(24)
        with self.workspace.change() as db:
            id = self.workspace.next_id("link")
            db.execute(
                "INSERT INTO link (id, token, report_id, edition_id, trail, made_at, ends_on) VALUES (?, ?, ?, ?, ?, ?, ?)",
                (id, _hashed(secret), report_id, edition_id, trail, stamp(at), ends_on and ends_on.isoformat()),
            )
        return self.one(id), secret

    def one(self, id: int) -> Link:
        """A link by its id; MissingError if there is none."""
        return self._found("id = ?", id)

    def by_secret(self, secret: str, day: date) -> Link:
        """The link that a secret opens on a day.

        Raises MissingError if there is none, or it was revoked or has expired.
        """
        found = self._found("token = ?", _hashed(secret))
        if not found.open_on(day):
            raise MissingError("this link was withdrawn or has ended; ask whoever gave it to you for another")
        return found

    def _found(self, which: str, value: str | int) -> Link:
        row = self.workspace.db.execute(f"SELECT * FROM link WHERE {which}", (value,)).fetchone()
        if row is None:
            raise MissingError("there is no such link; check that it was copied whole")
        return Link(**{name: row[name] for name in Link.__dataclass_fields__})

    def of(self, report_id: int) -> list[Link]:
        """A report's links, the latest first."""
        rows = self.workspace.db.execute("SELECT * FROM link WHERE report_id = ? ORDER BY id DESC", (report_id,))
        return [Link(**{name: row[name] for name in Link.__dataclass_fields__}) for row in rows]

    def withdraw(self, id: int, at: datetime) -> Link:
        """Revoke a link; MissingError if there is none."""
        with self.workspace.change() as db:
            self.one(id)
            db.execute("UPDATE link SET withdrawn_at = coalesce(withdrawn_at, ?) WHERE id = ?", (stamp(at), id))
        return self.one(id)


def _hashed(secret: str) -> str:
    return hashlib.sha256(secret.encode()).hexdigest()
