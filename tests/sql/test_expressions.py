"""Scalar expressions and conditions give the same as in SQLite."""

import sqlite3
from datetime import date
from decimal import Decimal
from fractions import Fraction
from functools import reduce
from typing import Any

import pytest
from hypothesis import given, reject
from hypothesis import strategies as st

from kalendor.core.formulas.formulas import evaluate, holds
from kalendor.core.formulas.scope import Scope
from tests.core.build import records

ROWS: list[tuple[Any, ...]] = [
    (7, 0, "BRA-TAR", "x", "2024-02-29"),
    (-3, 12, "hal_skr", "", "2026-07-31"),
    (None, 5, "50% off", "Übel", None),
    (0, None, None, "x", "2025-12-31"),
    (2, 2, "BRA", None, "2023-01-01"),
    (-8, 3, "é", "BRA", "2026-02-28"),
    (1_000_000, -1, "a", "A", "1999-12-31"),
]
NAMES = ("n", "m", "t", "u", "d")


def dates(column: list[Any]) -> list[Any]:
    return [None if v is None else date.fromisoformat(v) for v in column]


COLUMNS = dict(zip(NAMES, (list(c) for c in zip(*ROWS, strict=True)), strict=True))
DATA = records(**{**COLUMNS, "d": dates(COLUMNS["d"]), "u": [v or None for v in COLUMNS["u"]]})
SCOPE = Scope(DATA.columns, DATA.count)


def database() -> sqlite3.Connection:
    db = sqlite3.connect(":memory:")
    db.create_function("position", 2, lambda part, text: None if None in (part, text) else text.find(part) + 1)
    db.execute("PRAGMA case_sensitive_like = ON")
    db.execute("CREATE TABLE r (n INTEGER, m INTEGER, t TEXT, u TEXT, d TEXT)")
    db.executemany("INSERT INTO r VALUES (?, ?, ?, nullif(?, ''), ?)", ROWS)
    return db


DB = database()

NUMBER = st.deferred(
    lambda: st.one_of(
        st.sampled_from(["n", "m"]),
        st.integers(-9, 9).map(lambda i: f"({i})"),
        st.builds("({} {} {})".format, NUMBER, st.sampled_from("+-*"), NUMBER),
        st.builds("ABS({})".format, NUMBER),
        st.builds("-({})".format, NUMBER),
        st.builds("COALESCE({}, {})".format, NUMBER, NUMBER),
        st.builds("NULLIF({}, {})".format, NUMBER, NUMBER),
        st.builds("CASE WHEN {} THEN {} ELSE {} END".format, CONDITION, NUMBER, NUMBER),
        st.builds("CASE WHEN {} THEN {} WHEN {} THEN {} END".format, CONDITION, NUMBER, CONDITION, NUMBER),
        st.builds("CASE {} WHEN {} THEN {} END".format, NUMBER, NUMBER, NUMBER),
        st.builds("CHAR_LENGTH({})".format, TEXT),
        st.builds("POSITION({} ~IN~ {})".format, TEXT, TEXT),
    )
)
TEXT = st.deferred(
    lambda: st.one_of(
        st.sampled_from(["t", "u"]),
        st.sampled_from(["'x'", "'BRA'", "'a b'", "'it''s'"]),
        st.builds("({} || {})".format, TEXT, TEXT),
        st.builds("COALESCE({}, {})".format, TEXT, TEXT),
        st.builds("REPLACE({}, {}, {})".format, TEXT, st.sampled_from(["'A'", "'RA'", "'x'"]), TEXT),
        st.builds("SUBSTRING({}, CHAR_LENGTH({}) + 1)".format, TEXT, TEXT),
        st.builds("TRIM({})".format, TEXT),
        st.builds("SUBSTRING({}, {}, {})".format, TEXT, st.integers(1, 4), st.integers(0, 4)),
        st.builds("CASE WHEN {} THEN {} ELSE {} END".format, CONDITION, TEXT, TEXT),
    )
)
COMPARED = st.sampled_from(["=", "<>", "<", "<=", ">", ">="])
CONDITION = st.deferred(
    lambda: st.one_of(
        st.builds("{} {} {}".format, NUMBER, COMPARED, NUMBER),
        st.builds("{} {} {}".format, TEXT, COMPARED, TEXT),
        st.builds("d {} DATE '{}'".format, COMPARED, st.sampled_from(["2024-02-29", "2026-01-01"])),
        st.builds("({} AND {})".format, CONDITION, CONDITION),
        st.builds("({} OR {})".format, CONDITION, CONDITION),
        st.builds("NOT ({})".format, CONDITION),
        st.builds("{} IS NULL".format, st.sampled_from(NAMES)),
        st.builds("({}) IS NOT NULL".format, NUMBER),
        st.builds("{} BETWEEN {} AND {}".format, NUMBER, NUMBER, NUMBER),
        st.builds("{} NOT BETWEEN {} AND {}".format, NUMBER, NUMBER, NUMBER),
        st.builds("{} IN ({}, {})".format, NUMBER, NUMBER, NUMBER),
        st.builds("{} NOT IN ({}, NULL)".format, NUMBER, NUMBER),
        st.builds("{} IN ('x', 'BRA', {})".format, TEXT, TEXT),
        st.builds("{} {} '{}'".format, TEXT, st.sampled_from(["LIKE", "NOT LIKE"]), st.sampled_from(["BRA%", "%a%", "_", "%\\_%", ""])),
        st.builds("{} LIKE '50!%%' ESCAPE '!'".format, TEXT),
        st.builds("{} LIKE {}".format, TEXT, TEXT),
    )
)  # fmt: skip


def plain(expression: str) -> str:
    return expression.replace("~IN~", "IN")


def asked(expression: str) -> list[Any]:
    """SQLite's result for each row."""
    words = {"CHAR_LENGTH": "length", "SUBSTRING": "substr", "DATE '": "'", "POSITION": "position", "~IN~": ","}
    theirs = reduce(lambda text, word: text.replace(word, words[word]), words, expression)
    try:
        return [row[0] for row in DB.execute(f"SELECT {theirs} FROM r ORDER BY rowid")]
    except sqlite3.OperationalError:
        reject()


@given(NUMBER)
def test_numbers(expression: str) -> None:
    found = evaluate(plain(expression), SCOPE)
    got = [None if (v := found.item(i)) is None else Fraction(v) for i in range(DATA.count)]
    assert got == [None if v is None else Fraction(v) for v in asked(expression)]


@given(TEXT)
def test_texts(expression: str) -> None:
    found = evaluate(plain(expression), SCOPE)
    assert [found.item(i) for i in range(DATA.count)] == asked(expression)


@given(CONDITION)
def test_conditions(expression: str) -> None:
    assert holds(plain(expression), SCOPE).tolist() == [v == 1 for v in asked(expression)]


@pytest.mark.parametrize("part", ["YEAR", "MONTH", "DAY"])
def test_parts_of_dates(part: str) -> None:
    found = evaluate(f"EXTRACT({part} FROM d)", SCOPE)
    form = {"YEAR": "%Y", "MONTH": "%m", "DAY": "%d"}[part]
    want = [row[0] for row in DB.execute(f"SELECT CAST(strftime('{form}', d) AS INTEGER) FROM r")]
    assert [found.item(i) for i in range(DATA.count)] == want


@pytest.mark.parametrize("days", [-400, -1, 0, 1, 29, 366])
def test_days_on(days: int) -> None:
    found = evaluate(f"d + INTERVAL '{days}' DAY", SCOPE)
    want = [row[0] for row in DB.execute("SELECT date(d, ?) FROM r", (f"{days} days",))]
    assert [None if (v := found.item(i)) is None else v.isoformat() for i in range(DATA.count)] == want
    apart = evaluate("d - DATE '2025-03-01'", SCOPE)
    want = [row[0] for row in DB.execute("SELECT CAST(julianday(d) - julianday('2025-03-01') AS INTEGER) FROM r")]
    assert [apart.item(i) for i in range(DATA.count)] == want


@given(st.decimals(-(10**6), 10**6, places=4), st.integers(0, 3))
def test_rounding_is_half_away_from_zero(amount: Decimal, places: int) -> None:
    found = evaluate(f"ROUND(a, {places})", Scope(records(a=[str(amount)]).columns, 1)).item(0)
    step = Fraction(1, 10**places)
    units = abs(Fraction(amount)) / step + Fraction(1, 2)
    want = (units.numerator // units.denominator) * step
    assert Fraction(found) == (want if amount >= 0 else -want)
