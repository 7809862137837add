"""The workspace folder: one SQLite file, the imported files, and a cache that can be deleted.

Opens connections, migrates the schema, and runs transactions.
"""

import fcntl
import getpass
import sqlite3
import threading
import time
from collections.abc import Iterator, Sequence
from contextlib import contextmanager, suppress
from contextvars import ContextVar
from importlib import resources
from pathlib import Path

from kalendor.errors import KalendorError, StoreError, WriteRefusedError
from kalendor.store.locks import OrderedLock, Rank

MIGRATIONS = (
    "schema.sql",
    "schema_2.sql",
    "schema_3.sql",
    "schema_4.sql",
    "schema_5.sql",
    "schema_6.sql",
    "schema_7.sql",
    "schema_8.sql",
    "schema_9.sql",
    "schema_10.sql",
    "schema_11.sql",
    "schema_12.sql",
    "schema_13.sql",
    "schema_14.sql",
    "schema_15.sql",
)
BUSY_MILLISECONDS, BUSY_TRIES = 30_000, 200
ANALYST, OTHERS = "analyst", "\nreached by others"
# the user on whose behalf this thread or task works; empty if not set
WHO: ContextVar[str] = ContextVar("who", default="")
FAULTS = {
    "locked": "it is being written by another; try again when that is done",
    "busy": "it is being written by another; try again when that is done",
    "disk is full": "the disk is full; make room and try again",
    "disk I/O error": "the disk cannot be read or written; check it",
    "readonly": "it may only be read; give yourself the right to write there",
    "unable to open": "its database cannot be opened; check the folder's rights",
    "malformed": "its database is damaged; kalendor check tells more, kalendor restore brings a backup back",
    "not a database": "its database is damaged; kalendor check tells more, kalendor restore brings a backup back",
}


class Workspace:
    """An open workspace. Each thread has its own connection; only one writes at a time.

    With `reads_only`, any change raises WriteRefusedError.
    """

    def __init__(self, folder: Path, reads_only: bool = False) -> None:
        self.folder, self.reads_only = folder, reads_only
        try:
            for part in (folder, folder / "files", folder / "cache"):
                part.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise KalendorError(f"{folder}: the workspace cannot be made there ({error.strerror})") from None
        self._local = threading.local()
        self._writing = OrderedLock(Rank.WRITER)
        if not reads_only:
            self._migrate()

    @property
    def files(self) -> Path:
        """The folder of the imported files' bytes, named by their SHA-256."""
        return self.folder / "files"

    @property
    def cache(self) -> Path:
        """The folder of columns as arrays; everything in it can be rebuilt."""
        return self.folder / "cache"

    @property
    def db(self) -> sqlite3.Connection:
        """This thread's connection."""
        found: sqlite3.Connection | None = getattr(self._local, "connection", None)
        if found is None:
            found = self._connected()
            self._local.connection, self._local.closing = found, _Closing(found)
        return found

    def _connected(self) -> sqlite3.Connection:
        try:
            db = sqlite3.connect(self.folder / "kalendor.sqlite", isolation_level=None)
            db.row_factory = sqlite3.Row
            db.execute(f"PRAGMA busy_timeout = {BUSY_MILLISECONDS}")
            _write_ahead(db)
            db.execute("PRAGMA foreign_keys = ON")
            db.execute("PRAGMA synchronous = FULL")
            db.execute("PRAGMA recursive_triggers = ON")  # so that REPLACE cannot delete an edition either
            if self.reads_only:
                db.execute("PRAGMA query_only = ON")
        except sqlite3.DatabaseError as error:
            raise KalendorError(
                f"{self.folder / 'kalendor.sqlite'}: not a workspace that can be opened ({error})"
            ) from None
        return db

    @contextmanager
    def change(self) -> Iterator[sqlite3.Connection]:
        """One transaction, all or nothing. A nested change is part of the outer one.

        Raises StoreError if the workspace cannot be written, WriteRefusedError if it is read-only.
        """
        if self.reads_only:
            raise WriteRefusedError
        db = self.db
        if self._changing:
            yield db
            return
        with self._writing:
            try:
                db.execute("BEGIN IMMEDIATE")
                self._local.changing = True
                yield db
                db.execute("COMMIT")
            except BaseException as error:
                if db.in_transaction:
                    with suppress(sqlite3.Error):
                        db.execute("ROLLBACK")
                self._explain(error)
                raise
            finally:
                self._local.changing = False

    @property
    def _changing(self) -> bool:
        return bool(getattr(self._local, "changing", False))

    @contextmanager
    def snapshot(self) -> Iterator[sqlite3.Connection]:
        """Everything read in it is consistent, whatever is written meanwhile, by this process or another.

        Raises StoreError if the workspace cannot be read.
        """
        db = self.db
        if db.in_transaction:
            yield db
            return
        try:
            db.execute("BEGIN")
            db.execute("SELECT 1 FROM workspace LIMIT 1").fetchone()
            yield db
        except sqlite3.DatabaseError as error:
            self._explain(error)
            raise
        finally:
            if db.in_transaction:
                db.execute("ROLLBACK")

    @property
    def who(self) -> str:
        """The user who makes the current change: the one that this thread works for, else the workspace's analyst, else
        the machine's user."""
        return WHO.get() or self.told(ANALYST) or _user()

    def next_id(self, kind: str) -> int:
        """A new id of a kind, inside a change; ids are never reused, even after deletion."""
        self.db.execute("UPDATE last_id SET id = id + 1 WHERE kind = ?", (kind,))
        return int(self.db.execute("SELECT id FROM last_id WHERE kind = ?", (kind,)).fetchone()[0])

    def _explain(self, error: BaseException) -> None:
        """Raises StoreError for failures caused by the disk or another process; programming errors are unchanged."""
        if isinstance(error, sqlite3.Error):
            words = next((words for sign, words in FAULTS.items() if sign in str(error)), None)
            if words is not None:
                raise StoreError(f"{self.folder}: {words}; nothing was changed") from error

    def _migrate(self) -> None:
        """Migrate the schema; of several processes that open a workspace at once, one does each step."""
        with self._writing:
            while (done := self._version()) < len(MIGRATIONS):
                self.db.execute("BEGIN IMMEDIATE")
                try:
                    if self._version() == done:
                        script = resources.files("kalendor.store").joinpath(MIGRATIONS[done]).read_text("utf-8")
                        for statement in _statements(script):
                            self.db.execute(statement)
                        self.db.execute(f"PRAGMA user_version = {done + 1}")
                    self.db.execute("COMMIT")
                except BaseException as error:
                    with suppress(sqlite3.Error):
                        self.db.execute("ROLLBACK")
                    self._explain(error)
                    raise
            if done > len(MIGRATIONS):
                raise KalendorError(f"{self.folder}: the workspace was written by a newer Kalendor; update this one")

    def _version(self) -> int:
        return int(self.db.execute("PRAGMA user_version").fetchone()[0])

    def write_if_free(self, statement: str, given: Sequence[object]) -> bool:
        """Run one statement unless another process or thread is writing; False if so, for writes that may be skipped."""
        if self.reads_only or not self._writing.acquire(blocking=False):
            return False
        try:
            self.db.execute("PRAGMA busy_timeout = 0")
            self.db.execute(statement, given)
        except sqlite3.OperationalError:
            return False
        finally:
            self.db.execute(f"PRAGMA busy_timeout = {BUSY_MILLISECONDS}")
            self._writing.release()
        return True

    def copy_to(self, path: Path) -> None:
        """Write a consistent copy of the database, completely or not at all."""
        part = path.with_name(f".{path.name}.part")
        try:
            target = sqlite3.connect(part)
            self.db.backup(target)
            target.close()
            part.replace(path)
        except (OSError, sqlite3.Error) as error:
            part.unlink(missing_ok=True)
            raise KalendorError(f"{path}: the copy cannot be written ({error})") from None

    def told(self, key: str) -> str | None:
        """A setting of the workspace."""
        row = self.db.execute("SELECT value FROM workspace WHERE key = ?", (key,)).fetchone()
        return row["value"] if row else None

    def tell(self, key: str, value: str) -> None:
        """Store a setting of the workspace."""
        with self.change() as db:
            db.execute(
                "INSERT INTO workspace VALUES (?, ?) ON CONFLICT (key) DO UPDATE SET value = excluded.value",
                (key, value),
            )

    def close(self) -> None:
        """Close this thread's connection."""
        found = getattr(self._local, "connection", None)
        if found is not None:
            found.close()
            self._local.connection = self._local.closing = None


class _Closing:
    """Closes a thread's connection when the thread ends.

    A connection and its statement cache refer to each other (CPython 3.11), so without this it would stay open, with its
    file descriptors, until the garbage collector finds it.
    """

    def __init__(self, db: sqlite3.Connection) -> None:
        self._db = db

    def __del__(self) -> None:
        with suppress(sqlite3.Error):
            self._db.close()


def _write_ahead(db: sqlite3.Connection) -> None:
    """Enable write-ahead logging; while another process does so too, that fails without waiting."""
    for last in [False] * BUSY_TRIES + [True]:
        try:
            if db.execute("PRAGMA journal_mode").fetchone()[0] != "wal":
                db.execute("PRAGMA journal_mode = WAL")
            return
        except sqlite3.OperationalError as error:
            if last or "locked" not in str(error):
                raise
            time.sleep(0.05)


def _statements(script: str) -> Iterator[str]:
    """The statements of a script, one after another."""
    rest = ""
    for line in script.splitlines(keepends=True):
        rest += line
        if sqlite3.complete_statement(rest):
            yield rest
            rest = ""
    if rest.strip():
        yield rest


def _user() -> str:
    try:
        return getpass.getuser()
    except (OSError, KeyError):
        return "somebody"


def served_to_others(folder: Path) -> bool:
    """Whether a server that is reachable from elsewhere runs on a workspace."""
    try:
        with (folder / "server.lock").open("r+") as file:
            try:
                fcntl.flock(file, fcntl.LOCK_SH | fcntl.LOCK_NB)
            except OSError:
                return file.read().endswith(OTHERS)
    except OSError:
        pass
    return False


class ServerLock:
    """Held by the one server that a workspace may have; the system releases it when the server ends, however it ends."""

    def __init__(self, folder: Path, address: str, others: bool = False) -> None:
        """Acquire the lock; `others`: the server is reachable from elsewhere.

        Raises StoreError with the other server's address, if there is one.
        """
        path = folder / "server.lock"
        try:
            self._file = path.open("a+")
        except OSError as error:
            raise StoreError(
                f"{path}: cannot be written ({error.strerror}); give yourself the right to write there"
            ) from None
        try:
            fcntl.flock(self._file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            self._file.seek(0)
            other = self._file.read().removesuffix(OTHERS).strip() or "another address"
            self._file.close()
            raise StoreError(
                f"{folder}: a server at {other} works on this workspace already; stop that one, or open the page there"
            ) from None
        self._file.truncate(0)
        self._file.write(address + (OTHERS if others else ""))
        self._file.flush()

    def let_go(self) -> None:
        """Release the lock."""
        self._file.close()


def quoted(identifier: str) -> str:
    """An SQL identifier in double quotes; the one place where a name becomes part of a statement.

    >>> print(quoted('fare "net'))
    "fare ""net"
    """
    if "\x00" in identifier:
        raise KalendorError("a name cannot hold a NUL character")
    return '"' + identifier.replace('"', '""') + '"'
