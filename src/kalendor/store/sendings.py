"""The outgoing queue of editions: waiting, sent and failed."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Literal

from kalendor.store.definitions import MissingError, stamp
from kalendor.store.workspace import Workspace

State = Literal["waiting", "sent", "failed"]


@dataclass(frozen=True)
class Sending:
    """An edition for one receiver: `address` (a folder if it begins with a slash), `member` (empty: the whole), `how`
    the delivery as JSON, `tries` so far, `told` the last answer."""

    id: int
    edition_id: int
    address: str
    member: str
    how: str
    state: State
    tries: int
    next_at: str
    told: str
    made_at: str
    done_at: str | None


class Sendings:
    """The sendings of a workspace."""

    def __init__(self, workspace: Workspace) -> None:
        self.workspace = workspace

    def queue(self, edition_id: int, to: Sequence[tuple[str, str]], how: str, at: datetime) -> list[Sending]:
        """Queue an edition for receivers, each an address and a member."""
        with self.workspace.change() as db:
            ids = []
            for address, member in to:
                ids.append(self.workspace.next_id("sending"))
                db.execute(
                    "INSERT INTO sending (id, edition_id, address, member, how, state, next_at, made_at)"
                    " VALUES (?, ?, ?, ?, ?, 'waiting', ?, ?)",
                    (ids[-1], edition_id, address, member, how, "", stamp(at)),
                )
        return [self.one(id) for id in ids]

    def one(self, id: int) -> Sending:
        """A sending by its id; MissingError if there is none."""
        row = self.workspace.db.execute("SELECT * FROM sending WHERE id = ?", (id,)).fetchone()
        if row is None:
            raise MissingError(f"there is no sending {id} here")
        return Sending(**{name: row[name] for name in Sending.__dataclass_fields__})

    def of(self, edition_id: int) -> list[Sending]:
        """An edition's sendings, in order."""
        rows = self.workspace.db.execute("SELECT * FROM sending WHERE edition_id = ? ORDER BY id", (edition_id,))
        return [Sending(**{name: row[name] for name in Sending.__dataclass_fields__}) for row in rows]

    def latest(self, most: int = 200) -> list[Sending]:
        """The latest sendings of all editions, the last first."""
        rows = self.workspace.db.execute("SELECT * FROM sending ORDER BY id DESC LIMIT ?", (most,))
        return [Sending(**{name: row[name] for name in Sending.__dataclass_fields__}) for row in rows]

    def ready(self, at: datetime) -> list[Sending]:
        """The queued sendings whose next attempt is due."""
        rows = self.workspace.db.execute(
            "SELECT * FROM sending WHERE state = 'waiting' AND next_at <= ? ORDER BY id", (stamp(at),)
        )
        return [Sending(**{name: row[name] for name in Sending.__dataclass_fields__}) for row in rows]

    def claim(self, id: int, until: datetime, at: datetime) -> bool:
        """Claim a sending, so that no other process sends it before `until`; False if another has it."""
        with self.workspace.change() as db:
            done = db.execute(
                "UPDATE sending SET next_at = ?, tries = tries + 1 WHERE id = ? AND state = 'waiting' AND next_at <= ?",
                (stamp(until), id, stamp(at)),
            )
            return done.rowcount == 1

    def tell(self, id: int, state: State, told: str, next_at: datetime | None, at: datetime) -> None:
        """Store the outcome of an attempt."""
        with self.workspace.change() as db:
            db.execute(
                "UPDATE sending SET state = ?, told = ?, next_at = ?, done_at = ? WHERE id = ?",
                (state, told, stamp(next_at) if next_at else "", stamp(at) if state != "waiting" else None, id),
            )

    def again(self, id: int) -> Sending:
        """Queue a failed sending once more."""
        with self.workspace.change() as db:
            self.one(id)
            db.execute(
                "UPDATE sending SET state = 'waiting', tries = 0, next_at = '' WHERE id = ? AND state = 'failed'", (id,)
            )
        return self.one(id)
