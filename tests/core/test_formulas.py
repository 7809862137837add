"""Formulas: SQL expressions with three-valued logic, exact where they can be."""

import os
from contextlib import suppress
from datetime import date
from decimal import Decimal
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from kalendor.core.formulas.formulas import evaluate, holds
from kalendor.core.formulas.scope import Scope
from kalendor.core.values.columns import day_number
from kalendor.errors import DefinitionError, KalendorError
from tests.core.build import records, table

EXAMPLES = int(os.environ.get("KALENDOR_EXAMPLES", "30"))

DATA = records(
    a=["1.25", None, "-3.00"],
    n=[7, 0, None],
    t=["BRA-X", "hal", None],
    d=[date(2024, 2, 29), None, date(2026, 7, 31)],
    **{"two words": ["x", "y", "z"]},
)
SCOPE = Scope(DATA.columns, DATA.count, day_number(date(2026, 8, 1)))


def values(formula: str) -> list[Any]:
    found = evaluate(formula, SCOPE)
    return [found.item(i) for i in range(3)]


VALUES: list[tuple[str, list[Any]]] = [
    ("a * 2 + 1", [Decimal("3.50"), None, Decimal("-5.00")]),
    ("a * a", [Decimal("1.5625"), None, Decimal("9.0000")]),
    ("a / 0", [None, None, None]),
    ("n / 2", [3.5, 0.0, None]),
    ("MOD(n, 4)", [3, 0, None]),
    ("COALESCE(a, 0)", [Decimal("1.25"), Decimal("0.00"), Decimal("-3.00")]),
    ("NULLIF(n, 0)", [7, None, None]),
    ("ABS(a)", [Decimal("1.25"), None, Decimal("3.00")]),
    ("ROUND(a, 1)", [Decimal("1.3"), None, Decimal("-3.0")]),
    ("FLOOR(a)", [1, None, -3]),
    ("CEIL(a)", [2, None, -3]),
    ("LEAST(a, 0)", [Decimal("0.00"), None, Decimal("-3.00")]),
    ("GREATEST(n, 5)", [7, 5, None]),
    ("CASE WHEN a > 0 THEN 'p' WHEN a < 0 THEN 'm' ELSE '?' END", ["p", "?", "m"]),
    ("CASE t WHEN 'hal' THEN 1 END", [None, 1, None]),
    ("UPPER(t)", ["BRA-X", "HAL", None]),
    ("LOWER(t) || '/' || n", ["bra-x/7", "hal/0", None]),
    ("SUBSTRING(t FROM 1 FOR 3)", ["BRA", "hal", None]),
    ("POSITION('A' IN t)", [3, 0, None]),
    ("SUBSTRING(t FROM POSITION('-' IN t) + 1)", ["X", "hal", None]),
    ("CHAR_LENGTH(t)", [5, 3, None]),
    ("REPLACE(t, '-', '')", ["BRAX", "hal", None]),
    ("TRIM('  x ')", ["x", "x", "x"]),
    ('"two words"', ["x", "y", "z"]),
    ("EXTRACT(YEAR FROM d)", [2024, None, 2026]),
    ("EXTRACT(WEEK FROM d)", [9, None, 31]),
    ("AS_OF - d", [884, None, 1]),
    ("d + INTERVAL '1' YEAR", [date(2025, 2, 28), None, date(2027, 7, 31)]),
    ("d - INTERVAL '1' MONTH", [date(2024, 1, 29), None, date(2026, 6, 30)]),
    ("CAST(a AS INTEGER)", [1, None, -3]),
    ("CAST('2.345' AS DECIMAL(9,2))", [Decimal("2.35")] * 3),
    ("CAST(n AS VARCHAR(9))", ["7", "0", None]),
]


@pytest.mark.parametrize(("formula", "want"), VALUES)
def test_values(formula: str, want: list[Any]) -> None:
    assert values(formula) == want


@pytest.mark.parametrize("formula", [formula for formula, _ in VALUES])
def test_over_no_records_there_is_no_value_and_the_kind_is_that_of_a_blank_one(formula: str) -> None:
    none = Scope(DATA.take(np.zeros(0, dtype=np.int64)).columns, 0, SCOPE.as_of)
    assert len(evaluate(formula, none)) == 0


@pytest.mark.parametrize(
    ("condition", "want"),
    [
        ("t LIKE 'BRA-%'", [True, False, False]),
        ("t NOT LIKE 'BRA-%'", [False, True, False]),
        ("t IN ('hal', 'x')", [False, True, False]),
        ("t NOT IN ('hal')", [True, False, False]),
        ("t IS NULL", [False, False, True]),
        ("NOT (a > 0)", [False, False, True]),
        ("a > 0 OR t = 'hal'", [True, True, False]),
        ("a > 0 AND NULL", [False, False, False]),
        ("a BETWEEN -3 AND 0", [False, False, True]),
        ("d >= DATE '2026-01-01'", [False, False, True]),
        ("d < '2026-01-01'", [True, False, False]),
        ("n <> 7", [False, True, False]),
        ("a = 1.250", [True, False, False]),
    ],
)
def test_a_condition_that_is_unknown_is_not_met(condition: str, want: list[bool]) -> None:
    if condition.endswith("NULL") and "IS" not in condition:
        condition = "a > 0 AND (n > NULL)"
    assert holds(condition, SCOPE).tolist() == want


@pytest.mark.parametrize(
    ("formula", "words"),
    [
        ("a +", "cannot read the formula 'a \\+' at character 3"),
        ("from > 2", 'write it in double quotes, "from"'),
        ("if = 3", "not a scalar expression"),
        ("t LIKE 'a!b' ESCAPE '!'", "stands before neither % nor _"),
        ("t LIKE 'a' ESCAPE 'xy'", "ESCAPE needs one character"),
        ("SUBSTRING(t FROM a)", "SUBSTRING needs a whole number"),
        ("nope", "there is no 'nope' here; there are a, n, t"),
        ("t > 3", "cannot compare text with a whole number"),
        ("t + 1", "needs numbers"),
        ("FOO(a)", "is not known here"),
        ("(SELECT 1)", "not a scalar expression"),
        ("CAST('x' AS DATE)", "'x' is not a date"),
        ("CASE WHEN a > 0 THEN 'x' ELSE 1 END", "in one column"),
        ("d + INTERVAL 'x' DAY", "needs a whole number"),
    ],
)
def test_what_is_wrong_is_said_with_its_place(formula: str, words: str) -> None:
    with pytest.raises(DefinitionError, match=words):
        evaluate(formula, SCOPE)


def test_a_product_that_passes_64_bits_is_approximate_and_says_so() -> None:
    data = records(x=[2**40, 3])
    found = evaluate("x * x", Scope(data.columns, 2))
    assert found.kind == "approximate"
    assert found.item(0) == float(2**80)


TOKENS = (
    "v", "k", "d", '"no such"', "1", "0", "2.50", "1e308", "NULL", "TRUE", "'a'", "''", "'%_'", "DATE '2026-02-29'", "AS_OF", "(", ")", ",", "+",
    "-", "*", "/", "%", "||", "=", "<>", "<", ">=", "AND", "OR", "NOT", "IS", "IN", "LIKE", "BETWEEN", "CASE", "WHEN", "THEN", "ELSE", "END",
    "CAST(v AS INTEGER)", "COALESCE(v, 1)", "NULLIF(v, 1)", "ROUND(v, 2)", "ABS(", "SUBSTRING(k FROM 2)", "TRIM(k)", "UPPER(k)",
    "EXTRACT(YEAR FROM d)", "INTERVAL '1' MONTH", "SELECT", "FROM", "--", ";", "CHAR_LENGTH(k)", "POSITION('a' IN k)", "v v",
)  # fmt: skip


@settings(max_examples=EXAMPLES * 3)
@given(st.lists(st.sampled_from(TOKENS), min_size=1, max_size=14))
def test_any_words_as_a_formula_are_worked_out_or_refused_in_words(tokens: list[str]) -> None:
    data = records(v=[1, None, 3], k=["a", None, "ab"], d=[date(2026, 1, 31), None, date(2024, 2, 29)])
    said = " ".join(tokens)
    for how in (
        {"only": [said]},
        {"figures": [{"name": "f", "formula": said}, {"name": "v", "take": "sum", "of": "v"}]},
    ):
        with suppress(KalendorError):
            table(data, down=[{"category": "k"}], **how)


LONG = {
    "a list of 200 values": ("k IN (" + ", ".join(f"'value number {i}'" for i in range(200)) + ", 'a')", 1),
    "many conditions": (" OR ".join(f"k = 'value {i}'" for i in range(400)) + " OR k = 'a'", 1),
    "a long choice": ("CASE " + " ".join(f"WHEN v = {i} THEN {i * 2}" for i in range(450)) + " END = 2", 1),
    "a long sum": ("v" + " + 1" * 2_400 + " > 2401", 2),
}


@pytest.mark.parametrize(("said", "lines"), LONG.values(), ids=LONG)
def test_long_conditions_are_heeded(said: str, lines: int) -> None:
    rows = table(records(v=[1, 2, 3], k=["a", "b", "c"]), down=[{"category": "k"}], only=[said])
    assert len(rows) - 1 == lines


@pytest.mark.parametrize(
    "said", ["(" * 9_000 + "v" + ")" * 9_000 + " > 0", "NOT " * 9_000 + "v = 1", "ABS(" * 9_000 + "v" + ")" * 9_000 + " = 1",
             "CASE WHEN v = 1 THEN " * 900 + "1" + " END" * 900 + " = 1", "v = '" + "x" * 10_000 + "'"],
)  # fmt: skip
def test_what_is_nested_or_long_beyond_reason_is_refused_at_once(said: str) -> None:
    with pytest.raises(DefinitionError, match=r"nested|characters"):
        table(records(v=[1]), down=[{"category": "v"}], only=[said])
