"""Accounts with a role, their sessions, and API tokens. Only hashes of secrets are stored."""

import hashlib
import secrets
import sqlite3
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from functools import cache
from typing import Literal

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError

from kalendor.core.values.notation import grouped
from kalendor.errors import DefinitionError
from kalendor.store.definitions import MissingError, stamp
from kalendor.store.workspace import Workspace, served_to_others

Role = Literal["analyst", "reader"]
ROLES: tuple[Role, ...] = ("analyst", "reader")
IDLE, LONGEST = timedelta(hours=12), timedelta(days=7)
SEEN_AGAIN = timedelta(minutes=5)  # minimum interval between updates of a session's last use
SHORTEST, LONGEST_PASSWORD, LONGEST_NAME = 10, 1000, 100
HASHER = PasswordHasher()  # Argon2id with the parameters of RFC 9106's second choice


@dataclass(frozen=True)
class Account:
    """An account. An analyst may do everything, a reader may read issued editions."""

    id: int
    name: str
    role: Role
    made_at: str


@dataclass(frozen=True)
class MachineToken:
    """A token with which a program may read what its account may read, until it expires or is revoked; one with a source may
    only import files into that source."""

    id: int
    account: str
    name: str
    made_at: str
    ends_on: str | None
    withdrawn_at: str | None
    source_id: int | None = None


class Accounts:
    """The accounts of a workspace."""

    def __init__(self, workspace: Workspace) -> None:
        self.workspace = workspace

    def any(self) -> bool:
        """Whether there is an account; if so, everyone must sign in."""
        return bool(
            self.workspace.db.execute("SELECT EXISTS (SELECT 1 FROM account WHERE closed_at IS NULL)").fetchone()[0]
        )

    def all(self) -> list[Account]:
        """All open accounts, by name."""
        rows = self.workspace.db.execute("SELECT * FROM account WHERE closed_at IS NULL ORDER BY lower(name)")
        return [_account(row) for row in rows]

    def named(self, name: str) -> Account:
        """An account by its name, ignoring case; MissingError if there is none."""
        row = self._row(name)
        if row is None:
            raise MissingError(f"there is no account named {name!r}")
        return _account(row)

    def add(self, name: str, role: str, password: str, at: datetime) -> Account:
        """Create an account.

        Raises DefinitionError for a taken or empty name, an unknown role, or a password that is too short.
        """
        plain = name.strip()
        if not plain or len(plain) > LONGEST_NAME or not plain.isprintable():
            raise DefinitionError(f"{name!r} is not a name for an account; give one of 1 to {LONGEST_NAME} characters")
        if role not in ROLES:
            raise DefinitionError(f"{role!r} is not a role; there are {' and '.join(ROLES)}")
        hashed = _hashed(password)
        with self.workspace.change() as db:
            if self._row(plain) is not None:
                raise DefinitionError(f"there is an account named {plain!r} already")
            id = self.workspace.next_id("account")
            db.execute(
                "INSERT INTO account (id, name, role, password, made_at) VALUES (?, ?, ?, ?, ?)",
                (id, plain, role, hashed, stamp(at)),
            )
        return self.named(plain)

    def set_password(self, name: str, password: str) -> None:
        """Change the password; all sessions of the account end."""
        hashed, account = _hashed(password), self.named(name)
        with self.workspace.change() as db:
            db.execute("UPDATE account SET password = ? WHERE id = ?", (hashed, account.id))
            db.execute("DELETE FROM session WHERE account_id = ?", (account.id,))

    def close(self, name: str, at: datetime) -> None:
        """Close an account; its sessions end and its tokens are revoked. Its name stays where it says who did what.

        Raises DefinitionError for the last account that can change anything, while the server is reachable from
        elsewhere.
        """
        account = self.named(name)
        with self.workspace.change() as db:
            left = [one for one in self.all() if one.id != account.id]
            if served_to_others(self.workspace.folder) and not any(one.role == "analyst" for one in left):
                raise DefinitionError(
                    f"{account.name!r} is the last analyst's account, and others can reach the server; stop it first, or"
                    " make another account"
                )
            db.execute("UPDATE account SET closed_at = ? WHERE id = ?", (stamp(at), account.id))
            db.execute("DELETE FROM session WHERE account_id = ?", (account.id,))
            db.execute(
                "UPDATE machine_token SET withdrawn_at = coalesce(withdrawn_at, ?) WHERE account_id = ?",
                (stamp(at), account.id),
            )

    def proven(self, name: str, password: str) -> Account | None:
        """The account of a name if the password is right; takes equally long for unknown names."""
        row = self._row(name)
        try:
            HASHER.verify(_nobody() if row is None else row["password"], password[: LONGEST_PASSWORD + 1])
        except (VerificationError, InvalidHashError):
            return None
        return None if row is None else _account(row)

    # -- sessions

    def begin(self, account: Account, at: datetime) -> str:
        """Begin a session; returns its secret, which is not stored."""
        secret = secrets.token_urlsafe(32)
        with self.workspace.change() as db:
            db.execute("DELETE FROM session WHERE seen_at < ? OR began_at < ?", (stamp(at - IDLE), stamp(at - LONGEST)))
            db.execute(
                "INSERT INTO session (secret, account_id, began_at, seen_at) VALUES (?, ?, ?, ?)",
                (digest(secret), account.id, stamp(at), stamp(at)),
            )
        return secret

    def by_session(self, secret: str, at: datetime) -> Account | None:
        """The account of a session; None if there is none or it has expired."""
        row = self.workspace.db.execute(
            "SELECT account.*, seen_at, began_at FROM session JOIN account ON account.id = account_id"
            " WHERE session.secret = ? AND closed_at IS NULL",
            (digest(secret),),
        ).fetchone()
        if row is None or row["seen_at"] < stamp(at - IDLE) or row["began_at"] < stamp(at - LONGEST):
            return None
        if row["seen_at"] < stamp(at - SEEN_AGAIN):
            seen = "UPDATE session SET seen_at = ? WHERE secret = ?"
            self.workspace.write_if_free(seen, (stamp(at), digest(secret)))  # a long write does not delay look-ups
        return _account(row)

    def end(self, secret: str) -> None:
        """End a session."""
        with self.workspace.change() as db:
            db.execute("DELETE FROM session WHERE secret = ?", (digest(secret),))

    def end_all(self, name: str) -> None:
        """End all sessions of an account."""
        account = self.named(name)
        with self.workspace.change() as db:
            db.execute("DELETE FROM session WHERE account_id = ?", (account.id,))

    # -- tokens for machines

    def make_token(
        self, name: str, what_for: str, ends_on: date | None, at: datetime, source_id: int | None = None
    ) -> tuple[MachineToken, str]:
        """Create a token of an account; returns it and its secret, which is not stored; with a source it may only
        import files into that.

        Raises DefinitionError for a reader's token that is to import files.
        """
        account, secret = self.named(name), f"kal_{secrets.token_urlsafe(32)}"
        if source_id is not None and account.role != "analyst":
            raise DefinitionError(f"{account.name} is a {account.role}; files are brought in by an analyst's token")
        with self.workspace.change() as db:
            id = self.workspace.next_id("machine_token")
            db.execute(
                "INSERT INTO machine_token (id, secret, account_id, name, made_at, ends_on, source_id)"
                " VALUES (?, ?, ?, ?, ?, ?, ?)",
                (
                    id,
                    digest(secret),
                    account.id,
                    what_for[:LONGEST_NAME],
                    stamp(at),
                    ends_on and ends_on.isoformat(),
                    source_id,
                ),
            )
        return next(one for one in self.tokens() if one.id == id), secret

    def tokens(self) -> list[MachineToken]:
        """All tokens, including expired and revoked ones."""
        rows = self.workspace.db.execute(
            "SELECT machine_token.*, account.name AS account FROM machine_token JOIN account ON account.id = account_id"
            " ORDER BY machine_token.id"
        )
        return [MachineToken(**{name: row[name] for name in MachineToken.__dataclass_fields__}) for row in rows]

    def by_token(self, secret: str, day: date) -> tuple[Account, int | None] | None:
        """The token's account, and the source that it may import files into; None if there is none, or it has expired
        or was revoked."""
        row = self.workspace.db.execute(
            "SELECT account.*, ends_on, withdrawn_at, source_id FROM machine_token JOIN account ON account.id = account_id"
            " WHERE machine_token.secret = ? AND closed_at IS NULL",
            (digest(secret),),
        ).fetchone()
        if row is None or row["withdrawn_at"] or (row["ends_on"] and row["ends_on"] < day.isoformat()):
            return None
        return _account(row), row["source_id"]

    def withdraw_token(self, id: int, at: datetime) -> None:
        """Revoke a token; MissingError if there is none."""
        if all(one.id != id for one in self.tokens()):
            raise MissingError(f"there is no token {id} here")
        with self.workspace.change() as db:
            db.execute(
                "UPDATE machine_token SET withdrawn_at = coalesce(withdrawn_at, ?) WHERE id = ?", (stamp(at), id)
            )

    def _row(self, name: str) -> sqlite3.Row | None:
        row: sqlite3.Row | None = self.workspace.db.execute(
            "SELECT * FROM account WHERE lower(name) = lower(?) AND closed_at IS NULL", (name.strip(),)
        ).fetchone()
        return row


def digest(secret: str) -> str:
    """The SHA-256 of a secret, which is what is stored."""
    return hashlib.sha256(secret.encode("utf-8", "replace")).hexdigest()


def _account(row: sqlite3.Row) -> Account:
    return Account(row["id"], row["name"], row["role"], row["made_at"])


def _hashed(password: str) -> str:
    if not SHORTEST <= len(password) <= LONGEST_PASSWORD:
        raise DefinitionError(f"a password has {SHORTEST} to {grouped(LONGEST_PASSWORD)} characters")
    return HASHER.hash(password)


@cache
def _nobody() -> str:
    """The hash of a password that nobody has, so that signing in under an unknown name takes as long."""
    return HASHER.hash("nobody has this password")
