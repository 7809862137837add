"""The examples of the formula reference are correct."""

import re
from datetime import date
from pathlib import Path

import numpy as np
import pytest
from sqlglot import exp

from kalendor.core.formulas.formulas import _NODES, evaluate
from kalendor.core.formulas.scope import Scope
from kalendor.core.values.columns import Column, Kind, blank_column, day_number
from kalendor.output.numbers import texts
from tests.core.build import records

PAGE = (Path(__file__).parents[2] / "docs" / "reference" / "formulas.md").read_text()
ROWS = [
    (formula.replace("\\|", "|"), gives)
    for formula, gives in re.findall(r"^\| (?!formula|---)(.+?) \| ([^|]+?) \|$", PAGE, re.MULTILINE)
]
OTHERWISE: dict[type, set[str]] = {exp.StrPosition: {"POSITION"}}  # what SQL calls what the parser calls otherwise
SEEN = np.array(["2026-07-31T14:05:09"], "datetime64[us]").astype(np.int64)
RECORD = records(net=["1250.50"], cost=["400.25"], boxes=[7], area=["North"], code=[" a-17 "], sold=[date(2026, 7, 31)])
SCOPE = Scope(
    {**RECORD.columns, "note": blank_column(Kind.WHOLE, 1), "seen": Column(Kind.DATETIME, SEEN)},
    1,
    day_number(date(2026, 8, 4)),
)


@pytest.mark.parametrize(("formula", "gives"), ROWS, ids=[formula for formula, _ in ROWS])
def test_a_formula_of_the_reference_gives_what_it_says(formula: str, gives: str) -> None:
    found = evaluate(formula, SCOPE)
    (text,) = texts(found)
    said = {"true": "yes", "false": "no"}.get(text.lower(), text)
    assert ("blank" if found.blanks[0] else said) == gives


def test_the_reference_names_every_function() -> None:
    functions = [node for node in _NODES if issubclass(node, exp.Func) and node not in (exp.And, exp.Or)]
    assert len(functions) > 10
    shown = set(re.findall(r"[A-Z_]{3,}", PAGE))
    assert [node.__name__ for node in functions if not shown & ({*node.sql_names()} | OTHERWISE.get(node, set()))] == []
