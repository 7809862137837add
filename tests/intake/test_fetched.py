"""Results of database queries: each type exactly; read-only; and errors that reveal no secret."""

import sqlite3
import time
from collections.abc import Iterator
from datetime import date, datetime
from decimal import Decimal
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kalendor.core.values.columns import Kind
from kalendor.errors import IntakeError
from kalendor.intake.apart import Apart, Asked, Bounds
from kalendor.intake.fetched import Query, fetch
from kalendor.intake.reading import read_file
from kalendor.intake.typed import Reading
from tests.intake import postgres


@pytest.fixture(scope="module")
def shop() -> Iterator[str]:
    with postgres.running() as url:
        with postgres.owner() as db:
            db.execute("CREATE TYPE mood AS ENUM ('calm', 'brisk')")
            db.execute(
                "CREATE TABLE sold (id int, net numeric(12,2), free numeric, wide numeric(30,4), code text, on_day date,"
                " at timestamp, moment timestamptz, hour time, ok boolean, ratio double precision, mood mood, who uuid,"
                " tags text[], body jsonb, cash money, none_yet date)"
            )
            db.execute(
                "INSERT INTO sold VALUES (1, 1234567890.10, 0.125, 99999999999999999999.1234, '007', '2026-07-31',"
                " '2026-07-31 23:59:59.5', '2026-07-31 22:30:00+00', '08:15', true, 0.1, 'calm',"
                " '0b8e1f4e-0000-4000-8000-000000000001', '{a}', '{}', '1.50', NULL),"
                " (2, -0.01, 1e-3, -1, ' x ', '1899-12-31', NULL, NULL, NULL, false, NULL, NULL, NULL, NULL, NULL, NULL, NULL)"
            )
            db.execute("GRANT SELECT ON sold TO reader")
            db.execute("CREATE TABLE hers (n int)")
            db.execute("GRANT ALL ON hers TO reader")
        yield url


def result(url: str, sql: str, folder: Path, **more: Any) -> Reading:
    to = folder / "result.parquet"
    fetch(Query(url, sql, "shop", **more), to)
    return read_file(to)


def values(reading: Reading) -> dict[str, list[Any]]:
    return {n: [c.item(i) for i in range(len(c))] for n, c in reading.records.columns.items()}


PLAIN = "id, net, free, code, on_day, at, hour, ok, ratio, mood, who, none_yet"


def test_each_type_of_postgresql_is_taken_as_itself(shop: str, tmp_path: Path) -> None:
    reading = result(shop, f"SELECT {PLAIN} FROM sold ORDER BY id;", tmp_path)
    kinds = {name: (column.kind, column.places) for name, column in reading.records.columns.items()}
    assert kinds == {
        "id": (Kind.WHOLE, 0), "net": (Kind.DECIMAL, 2), "free": (Kind.DECIMAL, 3), "code": (Kind.TEXT, 0),
        "on_day": (Kind.DATE, 0), "at": (Kind.DATETIME, 0), "hour": (Kind.TIME, 0), "ok": (Kind.YES_NO, 0),
        "ratio": (Kind.APPROXIMATE, 0), "mood": (Kind.TEXT, 0), "who": (Kind.TEXT, 0), "none_yet": (Kind.DATE, 0),
    }  # fmt: skip
    found = values(reading)
    assert found["net"] == [Decimal("1234567890.10"), Decimal("-0.01")]
    assert found["free"] == [Decimal("0.125"), Decimal("0.001")]
    assert found["code"] == ["007", "x"]
    assert found["on_day"] == [date(2026, 7, 31), date(1899, 12, 31)]
    assert found["at"] == [datetime(2026, 7, 31, 23, 59, 59, 500000), None]
    assert found["ok"] == [True, False]
    assert found["ratio"] == [0.1, None]
    assert found["none_yet"] == [None, None]


def test_a_moment_is_the_local_time_of_the_database(shop: str, tmp_path: Path) -> None:
    zoned = f"{shop}?options=-c%20timezone%3DEurope/Oslo"
    for url in (shop, zoned):
        reading = result(url, "SELECT moment FROM sold ORDER BY id", tmp_path)
        assert reading.records.columns["moment"].kind is Kind.DATETIME
    assert values(reading)["moment"][0] == datetime(2026, 7, 31, 22, 30)  # options are ours to give


@given(st.lists(st.tuples(st.integers(-(10**14), 10**14), st.integers(0, 9)), min_size=1, max_size=30))
def test_any_exact_numbers_stay_exact(shop: str, tmp_path_factory: pytest.TempPathFactory, drawn: list[Any]) -> None:
    numbers = [Decimal(units).scaleb(-places) for units, places in drawn]
    if max(abs(n) for n in numbers) * 10 ** max(p for _, p in drawn) >= 2**63:
        return
    rows = ", ".join(f"({i}, {number:f}::numeric)" for i, number in enumerate(numbers))
    folder = tmp_path_factory.mktemp("exact")
    reading = result(shop, f"SELECT n FROM (VALUES {rows}) AS t (i, n) ORDER BY i", folder)
    assert values(reading)["n"] == numbers


@pytest.mark.parametrize(
    ("sql", "why"),
    [
        ("SELECT tags FROM sold", "holds text; take single values"),
        ("SELECT body FROM sold", "holds jsonb; take single values"),
        ("SELECT cash FROM sold", "holds money; write it as a number"),
        ("SELECT id, id FROM sold", "two columns of the query are called 'id'"),
        ("SELECT nothing FROM sold", 'column "nothing" does not exist .at character 8'),
        ("SELECT 1 AS a; SELECT 2 AS b", "cannot insert multiple commands"),
        ("SELECT 1 AS a; COMMIT; BEGIN READ WRITE; DELETE FROM hers", "cannot insert multiple commands"),
        ("DELETE FROM hers RETURNING n", "syntax error"),
        (
            "WITH gone AS (DELETE FROM hers RETURNING n) SELECT * FROM gone",
            "must not contain data-modifying statements",
        ),
        ("SELECT set_config('transaction_read_only', 'off', false)", "before any query|read-only"),
        ("SELECT nextval('counted')", "does not exist|read-only"),
        ("SELECT * FROM pg_authid", "permission denied"),
        ("SELECT 'NaN'::numeric(9, 2) AS n", "NaN"),
        ("SELECT 'infinity'::date AS d", "infinity|too large"),
    ],
)
def test_what_is_no_reading_or_no_values_is_refused_in_words(shop: str, tmp_path: Path, sql: str, why: str) -> None:
    with postgres.owner() as db:
        db.execute("DELETE FROM hers")
        db.execute("INSERT INTO hers VALUES (1)")
    with pytest.raises(IntakeError, match=why):
        result(shop, sql, tmp_path)
    with postgres.owner() as db:
        assert db.execute("SELECT count(*) FROM hers").fetchone() == (1,)


def test_no_secret_is_told(tmp_path: Path, shop: str) -> None:
    wrong = shop.replace("reader:", "nobody:")
    for url in (wrong, shop.replace("127.0.0.1", "127.0.0.1.invalid"), shop.replace("/shop", "/shops")):
        with pytest.raises(IntakeError) as told:
            result(url, "SELECT 1 AS n", tmp_path)
        assert postgres.SECRET not in str(told.value)
        assert postgres.URL_SECRET not in str(told.value)


def test_a_query_that_takes_too_long_is_ended(shop: str, tmp_path: Path) -> None:
    began = time.monotonic()
    with pytest.raises(IntakeError, match="took longer than 1 seconds"):
        result(shop, "SELECT pg_sleep(30)::text AS n", tmp_path, seconds=1)
    assert time.monotonic() - began < 15


def test_a_result_comes_from_a_process_of_its_own(shop: str, tmp_path: Path) -> None:
    apart = Apart(tmp_path / "scratch", Bounds(1 << 30))
    to = tmp_path / "many.parquet"
    try:
        sql = "SELECT i AS id, (i / 100.0)::numeric(12,2) AS net FROM generate_series(1, 50000) AS i"
        seen: list[int] = []
        assert apart.fetch(Query(shop, sql, "shop"), to, lambda done, total: seen.append(done)) == 50_000
        reading = apart.read(Asked(to, "many.parquet"))
        assert reading.records.columns["net"].values.sum() == 50_000 * 50_001 // 2
        with pytest.raises(IntakeError, match="does not exist"):
            apart.fetch(Query(shop, "SELECT x", "shop"), to)
    finally:
        apart.close()


# -- SQLite


@pytest.fixture
def till(tmp_path: Path) -> str:
    path = tmp_path / "till of # us.db"
    with sqlite3.connect(path) as db:
        db.execute("CREATE TABLE sold (id INTEGER, net REAL, code TEXT, on_day TEXT, at TEXT, mixed, blank, body BLOB)")
        rows = [
            (1, 10.1, "007", "2026-07-31", "2026-07-31 10:00:00", 1, None, b"x"),
            (2, 1e-7, "x", "2026-02-28", "2026-07-31T11:30", "n", None, None),
        ]
        db.executemany("INSERT INTO sold VALUES (?, ?, ?, ?, ?, ?, ?, ?)", rows)
    return f"sqlite:{path}".replace(" ", "%20").replace("#", "%23")


def test_values_of_sqlite_are_read_by_what_all_of_a_column_are(till: str, tmp_path: Path) -> None:
    reading = result(till, "SELECT id, net, code, on_day, at, mixed, blank FROM sold ORDER BY id;", tmp_path)
    assert [column.kind for column in reading.records.columns.values()] == [
        Kind.WHOLE, Kind.DECIMAL, Kind.TEXT, Kind.DATE, Kind.DATETIME, Kind.TEXT, Kind.TEXT,
    ]  # fmt: skip
    found = values(reading)
    assert found["net"] == [Decimal("10.1"), Decimal("0.0000001")]
    assert found["code"] == ["007", "x"]
    assert found["mixed"] == ["1", "n"]
    assert found["at"][1] == datetime(2026, 7, 31, 11, 30)


@pytest.mark.parametrize(
    ("sql", "why"),
    [
        ("DELETE FROM sold", "not authorized; a query may read"),
        ("ATTACH 'other.db' AS o", "not authorized; a query may read"),
        ("PRAGMA journal_mode=WAL", "not authorized; a query may read"),
        ("SELECT 1 AS a; SELECT 2", "one statement at a time"),
        ("SELECT load_extension('x')", "not authorized"),
        ("SELECT body FROM sold", "holds bytes"),
        ("SELECT id, id FROM sold", "two columns of the query are called 'id'"),
        ("SELECT", "incomplete input"),
        ("WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n) SELECT max(i) AS m FROM n", "took too long"),
    ],
)
def test_sqlite_reads_and_does_nothing_else(till: str, tmp_path: Path, sql: str, why: str) -> None:
    with pytest.raises(IntakeError, match=why):
        result(till, sql, tmp_path, seconds=1)


@pytest.mark.parametrize(
    ("url", "why"),
    [("sqlite:/nowhere/x.db", "no file 'x.db'"), ("mysql://a/b", "begins with mysql"), ("x", "begins with no scheme")],
)
def test_an_address_that_cannot_be(url: str, why: str, tmp_path: Path) -> None:
    with pytest.raises(IntakeError, match=why):
        result(url, "SELECT 1", tmp_path)
