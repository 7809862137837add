"""Conditions of the form: their SQL selects exactly the records of a reference implementation."""

from datetime import date
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from kalendor.core.formulas.formulas import holds
from kalendor.core.formulas.scope import Scope
from kalendor.core.values.columns import Column, Kind, Records
from kalendor.sentence.clauses import Clause, Clauses, sql_of_clauses
from kalendor.sentence.writing import condition_words
from tests.core.build import column

TEXTS = ["a", "b", "it's", "50%", "a_b", "x\\y", "", "Und", "%"]
ROWS: list[tuple[Any, Any, Any, Any]] = [
    *((text or None, n, date(2026, 1 + n % 12, 5), n % 2 == 0) for n, text in enumerate(TEXTS * 2)),
    (None, None, None, None),
]
NAMES = ("fare type", "n", "on", "ok")


def records() -> Records:
    columns = {name: column([row[k] for row in ROWS]) for k, name in enumerate(NAMES[:3])}
    flags = np.array([bool(row[3]) for row in ROWS])
    columns["ok"] = Column(Kind.YES_NO, flags, np.array([row[3] is None for row in ROWS]))
    return Records(columns, len(ROWS))


DATA = records()
AS_OF = (date(2026, 6, 30) - date(1970, 1, 1)).days
KINDS: dict[str, Any] = {"fare type": "text", "n": "number", "on": "date", "ok": "yes_no"}
words = st.sampled_from([text for text in TEXTS if text])
numbers = st.integers(0, 17).map(str)
days = st.dates(date(2025, 12, 1), date(2026, 12, 31)).map(date.isoformat)


def clause(name: str, op: str, *values: Any) -> st.SearchStrategy[dict[str, Any]]:
    return st.tuples(*values).map(lambda given_: {"column": name, "op": op, "values": list(given_)})


listed = st.lists(st.one_of(words, st.just("")), min_size=1, max_size=3, unique=True)
clauses = st.one_of(
    *(listed.map(lambda v, op=op: {"column": "fare type", "op": op, "values": v}) for op in ("among", "not among")),
    *(clause("fare type", op, words) for op in ("contains", "not contains", "begins", "ends")),
    *(clause("n", op, numbers) for op in ("equal", "not", "least", "most", "over", "under")),
    clause("n", "between", numbers, numbers), clause("on", "between", days, days),
    *(clause("on", op, days) for op in ("equal", "least", "most")),
    clause("on", "last", st.integers(1, 9).map(str), st.sampled_from(["day", "month", "year"])),
    *(clause("ok", op) for op in ("yes", "no", "blank")),
    *(clause(name, op) for name in NAMES for op in ("blank", "filled")),
)  # fmt: skip


def met(one: dict[str, Any], row: tuple[Any, ...]) -> bool:
    """A clause evaluated directly; blanks satisfy only clauses about blanks."""
    value = row[NAMES.index(one["column"])]
    op, values = one["op"], one["values"]
    if op in ("blank", "filled"):
        return bool((value is None) == (op == "blank"))
    if op == "among":
        return bool((value or "") in values)
    if op == "not among":
        return bool((value or "") not in values)
    if value is None:
        return bool(op.startswith("not"))
    kind = KINDS[one["column"]]
    read = [
        int(v) if kind == "number" else date.fromisoformat(v) if kind == "date" and op != "last" else v for v in values
    ]
    match op:
        case "contains" | "not contains":
            return bool((read[0] in value) == (op == "contains"))
        case "begins":
            return bool(value.startswith(read[0]))
        case "ends":
            return bool(value.endswith(read[0]))
        case "equal" | "not":
            return bool((value == read[0]) == (op == "equal"))
        case "least":
            return bool(value >= read[0])
        case "most":
            return bool(value <= read[0])
        case "over":
            return bool(value > read[0])
        case "under":
            return bool(value < read[0])
        case "between":
            return bool(read[0] <= value <= read[1])
        case "last":
            return back(int(read[0]), read[1]) < value <= date(2026, 6, 30)
        case _:
            return bool(value == (op == "yes"))


def back(count: int, unit: str) -> date:
    if unit == "day":
        return date.fromordinal(date(2026, 6, 30).toordinal() - count)
    months = 2026 * 12 + 5 - count * (12 if unit == "year" else 1)
    year, month = divmod(months, 12)
    last = (
        date(year + month // 11, month % 11 + 2 if month < 11 else 1, 1) if month < 11 else date(year + 1, 1, 1)
    ).toordinal() - 1
    return date(year, month + 1, min(30, date.fromordinal(last).day))


@given(st.lists(clauses, min_size=1, max_size=3), st.booleans())
@settings(max_examples=150, deadline=None)
def test_a_condition_selects_what_it_says(several: list[dict[str, Any]], any_: bool) -> None:
    any_ = any_ and len(several) > 1
    chosen = [Clause(one["column"], one["op"], one["values"], KINDS[one["column"]]) for one in several]
    sql = sql_of_clauses(Clauses(any_, chosen))
    found = holds(sql, Scope(DATA.columns, DATA.count, AS_OF)).tolist()
    want = [(any if any_ else all)(met(one, row) for one in several) for row in ROWS]
    assert found == want, sql
    assert condition_words(sql) != sql
