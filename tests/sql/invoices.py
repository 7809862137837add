"""Made-up invoices, as records for a report and as a table for SQL; answers are compared line by line, in order."""

import sqlite3
from datetime import date, datetime, timedelta
from decimal import Decimal, InvalidOperation
from typing import Any

import numpy as np

from kalendor.core.values.columns import Column, Kind, Records
from tests.core.build import column, table
from tests.sql.calendars import add_calendars

# Kinds in label order, blanks last.
KIND_PLACE = "kind IS NULL, lower(kind)"
ROUTE_PLACE = (
    "route IS NULL, CASE lower(route) WHEN 'ferry b' THEN 1 WHEN 'ferry-a' THEN 2 WHEN 'r1' THEN 3 WHEN 'r2' THEN 4"
    " WHEN 'r10' THEN 5 ELSE 6 END"
)
COUNT = 1500
KINDS = ["boat hire", "Freight", "mooring", "parcel", None]
ROUTES = [f"R{i}" for i in (1, 2, 10, 21)] + ["Ferry-A", "ferry b", None]


def made() -> list[dict[str, Any]]:
    """The invoices: some without kind, route, date or amount; two thirds paid."""
    rng = np.random.Generator(np.random.PCG64(7))
    found = []
    for number in range(COUNT):
        day = date(2023, 9, 1) + timedelta(days=int(rng.integers(0, 1100)))
        missing = rng.random(4) < 0.03
        amount = Decimal(int(rng.integers(-20_000, 300_000))) / 100
        due = day + timedelta(days=int(rng.integers(-5, 60)))
        paid = due + timedelta(days=int(rng.integers(-30, 120))) if rng.random() < 0.66 else None
        at = datetime(day.year, day.month, day.day) + timedelta(minutes=int(rng.integers(0, 1440)))
        found.append(
            {
                "no": number,
                "kind": None if missing[0] else KINDS[int(rng.integers(0, 4))],
                "route": ROUTES[int(rng.integers(0, len(ROUTES)))],
                "day": None if missing[1] else day,
                "at": None if missing[1] else at,
                "due": None if missing[2] else due,
                "paid": paid,
                "amount": None if missing[3] else amount,
                "crates": int(rng.integers(0, 40)),
            }
        )
    return found


INVOICES = made()


def as_records() -> Records:
    """The invoices as columns."""
    lists = {name: [row[name] for row in INVOICES] for name in INVOICES[0]}
    moments = lists.pop("at")
    columns = {name: column(values) for name, values in lists.items()}
    epoch = datetime(1970, 1, 1)
    seconds = [0 if m is None else int((m - epoch).total_seconds()) * 1_000_000 for m in moments]
    columns["at"] = Column(Kind.DATETIME, np.array(seconds), np.array([m is None for m in moments]))
    return Records(columns, COUNT)


def as_table() -> sqlite3.Connection:
    """The invoices as the table `r`; `amount` in cents."""
    db = sqlite3.connect(":memory:")
    db.execute(
        "CREATE TABLE r (no INTEGER, kind TEXT, route TEXT, day TEXT, at TEXT, due TEXT, paid TEXT, amount INTEGER,"
        " crates INTEGER)"
    )
    for row in INVOICES:
        cents = None if row["amount"] is None else int(row["amount"] * 100)
        texts = {k: v.isoformat() if isinstance(v, date) else v for k, v in row.items()} | {"amount": cents}
        db.execute(f"INSERT INTO r VALUES ({', '.join(':' + name for name in INVOICES[0])})", texts)
    add_calendars(db)
    return db


DATA, DB = as_records(), as_table()


def answers(sql: str, *given: Any) -> list[tuple[Any, ...]]:
    """The rows of an SQL query; `{euros}` is replaced by cents as an amount, `{month}` by a date's month label."""
    return DB.execute(sql, given).fetchall()


def same(want: Any, got: str) -> bool:
    """Equal as text, or as numbers within 1e-9 of each other."""
    if want is None:
        return got == ""
    try:
        a, b = Decimal(str(want)), Decimal(got)
    except InvalidOperation:
        return str(want) == got
    return abs(a - b) <= abs(a) * Decimal("1e-9")


def agree(sql: str, names: list[str], *with_: dict[str, Any], **report: Any) -> None:
    """Assert that the columns `names` of the flat sheet equal the rows of an SQL query, in order."""
    got = [tuple(row[name] for name in names) for row in table(DATA, *with_, **report)]
    want = answers(sql)
    for at, (w, g) in enumerate(zip(want, got, strict=False)):
        assert all(same(a, b) for a, b in zip(w, g, strict=True)), f"row {at + 1}: wanted {w}, got {g}"
    assert len(got) == len(want)
