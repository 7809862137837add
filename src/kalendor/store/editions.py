"""Stores editions: complete, immutable, each with a SHA-256 that includes that of the edition before it."""

import hashlib
import json
import sqlite3
import zlib
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from kalendor.errors import DamagedError
from kalendor.store.definitions import MOST_ID, MissingError
from kalendor.store.workspace import Workspace

FIRST = "0" * 64
LISTED = (
    "id, report_id, calendar, every, first_day, last_day, label, sign, number, title, issued_at, issued_by, says, rests,"
    " before, sha256"
)


@dataclass(frozen=True)
class Edition:
    """An edition in a list: its report and period, its number within the period (from 1), and when it was issued by
    whom.

    `says` is the SHA-256 of its labels and numbers, `rests` is the key of what they were computed from, `sha256` covers
    all of it and the edition `before` it in the workspace.
    """

    id: int
    report_id: int
    calendar: str
    every: str
    first_day: str
    last_day: str
    label: str
    sign: str
    number: int
    title: str
    issued_at: str
    issued_by: str
    says: str
    rests: str
    before: str
    sha256: str

    @property
    def named(self) -> str:
        """As `Mar 2026 · 2nd edition`."""
        return f"{self.label} · {ordinal(self.number)} edition" if self.number > 1 else self.label


@dataclass(frozen=True)
class Compared:
    """The result of comparing an edition with its report: the ingredients' key (`rests`), whether numbers had moved, and the
    SHA-256 of the report's sheet."""

    rests: str
    moved: bool
    says: str = ""


@dataclass(frozen=True)
class Left:
    """A decision to leave a moved edition as it is: the SHA-256 of the report's sheet then, the reason, who and when."""

    says: str
    why: str
    by: str
    at: str


@dataclass(frozen=True)
class Fresh:
    """An edition to be stored; `document` is everything but its number, its id and its predecessor."""

    report_id: int
    calendar: str
    every: str
    first_day: str
    last_day: str
    label: str
    sign: str
    title: str
    issued_at: str
    issued_by: str
    says: str
    rests: str
    document: dict[str, Any]
    sources: tuple[int, ...]


def ordinal(n: int) -> str:
    """As 1st, 2nd, 11th.

    >>> [ordinal(n) for n in (1, 2, 3, 4, 11, 22, 113)]
    ['1st', '2nd', '3rd', '4th', '11th', '22nd', '113th']
    """
    ending = "th" if n % 100 in (11, 12, 13) else {1: "st", 2: "nd", 3: "rd"}.get(n % 10, "th")
    return f"{n}{ending}"


class Editions:
    """The editions of a workspace."""

    def __init__(self, workspace: Workspace) -> None:
        self.workspace = workspace

    def all(self, report_id: int | None = None) -> list[Edition]:
        """All editions, or a report's, in order of issue."""
        which, given = ("WHERE report_id = ?", (report_id,)) if report_id is not None else ("", ())
        return [_edition(row) for row in self._rows(f"SELECT {LISTED} FROM edition {which} ORDER BY id", given)]

    def latest(self) -> dict[tuple[int, str, str], Edition]:
        """The latest edition of each report and period, by the report's id and the period's first and last day."""
        return {(e.report_id, e.first_day, e.last_day): e for e in self.all()}

    def of(self, report_id: int, first_day: str, last_day: str) -> list[Edition]:
        """The editions of a report for a period, the first issued first."""
        sql = f"SELECT {LISTED} FROM edition WHERE report_id = ? AND first_day = ? AND last_day = ? ORDER BY number"
        return [_edition(row) for row in self._rows(sql, (report_id, first_day, last_day))]

    def one(self, id: int) -> Edition:
        """An edition by its id.

        Raises MissingError if there is none.
        """
        rows = self._rows(f"SELECT {LISTED} FROM edition WHERE id = ?", (id,)) if abs(id) < MOST_ID else []
        if not rows:
            raise MissingError(f"there is no edition {id} here")
        return _edition(rows[0])

    def text(self, id: int) -> bytes:
        """An edition's document as stored, JSON in ASCII.

        Raises MissingError if there is none, DamagedError if it was changed.
        """
        edition = self.one(id)
        blob = self._rows("SELECT document FROM edition WHERE id = ?", (id,))[0]["document"]
        try:
            text = zlib.decompress(blob)
        except zlib.error as error:
            raise DamagedError(f"edition {edition.title}, {edition.named}, cannot be read ({error})") from None
        if hashlib.sha256(text).hexdigest() != edition.sha256:
            raise DamagedError(f"edition {edition.title}, {edition.named}, is no longer what was issued")
        return text

    def document(self, id: int) -> dict[str, Any]:
        """An edition's document, parsed; raises like `text`."""
        found: dict[str, Any] = json.loads(self.text(id))
        return found

    def add(self, db: sqlite3.Connection, fresh: Fresh) -> Edition:
        """Insert an edition, inside a transaction, as the next one of its report and period."""
        id = self.workspace.next_id("edition")
        last = self._rows("SELECT sha256 FROM edition ORDER BY id DESC LIMIT 1")
        before = last[0]["sha256"] if last else FIRST
        number = len(self.of(fresh.report_id, fresh.first_day, fresh.last_day)) + 1
        told = {
            name: getattr(fresh, name) for name in Fresh.__dataclass_fields__ if name not in ("document", "sources")
        }
        whole = {
            "kalendor": 1,
            "kind": "edition",
            "id": id,
            "number": number,
            "before": before,
            **told,
            **fresh.document,
        }
        text = json.dumps(whole, ensure_ascii=True, separators=(",", ":")).encode("ascii")
        digest = hashlib.sha256(text).hexdigest()
        edition = Edition(id=id, number=number, before=before, sha256=digest, **told)
        names = [*Edition.__dataclass_fields__, "document"]
        values = [*(getattr(edition, name) for name in Edition.__dataclass_fields__), zlib.compress(text, 6)]
        db.execute(f"INSERT INTO edition ({', '.join(names)}) VALUES ({', '.join('?' * len(names))})", values)
        db.executemany("INSERT INTO edition_source VALUES (?, ?)", [(id, source) for source in fresh.sources])
        return edition

    def resting_on(self, source_id: int) -> int:
        """How many editions depend on a source's records."""
        row = self._rows("SELECT count(*) AS n FROM edition_source WHERE source_id = ?", (source_id,))[0]
        return int(row["n"])

    def standing(self) -> dict[int, Compared]:
        """The last comparison of each edition with its report."""
        return {
            r["edition_id"]: Compared(r["rests"], bool(r["moved"]), r["says"])
            for r in self._rows("SELECT * FROM edition_standing WHERE says <> '' OR NOT moved")
        }

    def tell_standing(self, found: Mapping[int, Compared]) -> None:
        """Store comparisons of editions, by edition id."""
        with self.workspace.change() as db:
            db.executemany(
                "INSERT INTO edition_standing (edition_id, rests, moved, says) VALUES (?, ?, ?, ?) ON CONFLICT (edition_id)"
                " DO UPDATE SET rests = excluded.rests, moved = excluded.moved, says = excluded.says",
                [(id, one.rests, one.moved, one.says) for id, one in found.items()],
            )

    def left(self) -> dict[int, Left]:
        """The decisions to leave editions as they are, by edition id."""
        return {
            r["edition_id"]: Left(r["says"], r["why"], r["by"], r["at"])
            for r in self._rows("SELECT * FROM edition_left")
        }

    def leave(self, id: int, line: Left) -> None:
        """Store the decision to leave an edition as it is."""
        with self.workspace.change() as db:
            db.execute(
                "INSERT OR REPLACE INTO edition_left VALUES (?, ?, ?, ?, ?)",
                (id, line.says, line.why, line.by, line.at),
            )

    def faults(self) -> Iterator[str]:
        """Faults in the chain of editions, in words."""
        before, wanted = FIRST, 1
        for edition in self.all():
            what = f"edition {edition.title}, {edition.named}"
            if edition.id != wanted:
                yield f"{edition.id - wanted} editions before {what} are missing"
            try:
                document = self.document(edition.id)
            except DamagedError as error:
                yield str(error)
            else:
                wrong = [
                    n for n in Edition.__dataclass_fields__ if n != "sha256" and document.get(n) != getattr(edition, n)
                ]
                if wrong:
                    yield f"{what} is listed with another {wrong[0].replace('_', ' ')} than was issued"
            if edition.before != before and edition.id == wanted:
                yield f"{what} does not follow on the edition before it"
            before, wanted = edition.sha256, edition.id + 1
        given = self._rows("SELECT id FROM last_id WHERE kind = 'edition'")[0]["id"]
        if given >= wanted:
            yield f"the last {given - wanted + 1} of {given} editions are missing"

    def _rows(self, sql: str, given: tuple[Any, ...] = ()) -> list[sqlite3.Row]:
        return self.workspace.db.execute(sql, given).fetchall()


def _edition(row: sqlite3.Row) -> Edition:
    return Edition(**{name: row[name] for name in Edition.__dataclass_fields__})
