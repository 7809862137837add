"""Conditions chosen on the page: what they say in SQL selects just the records that a plain reading would, and is read
back as it was chosen."""

from datetime import date
from typing import Any

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from kalendor.core.formulas.formulas import holds
from kalendor.core.formulas.scope import Scope
from kalendor.core.values.columns import Column, Kind, Records
from kalendor.sentence.writing import condition_words
from tests.core.build import column
from tests.page.conftest import Asked

TEXTS = ["a", "b", "it's", "50%", "a_b", "x\\y", "", "Und", "%"]
ROWS: list[tuple[Any, Any, Any, Any]] = [
    *((text or None, n, date(2026, 1 + n % 12, 5), n % 2 == 0) for n, text in enumerate(TEXTS * 2)),
    (None, None, None, None),
]
NAMES = ("fare type", "n", "on", "ok")


def records() -> Records:
    columns = {name: column([row[k] for row in ROWS]) for k, name in enumerate(NAMES[:3])}
    import numpy as np

    flags = np.array([bool(row[3]) for row in ROWS])
    columns["ok"] = Column(Kind.YES_NO, flags, np.array([row[3] is None for row in ROWS]))
    return Records(columns, len(ROWS))


DATA = records()
AS_OF = (date(2026, 6, 30) - date(1970, 1, 1)).days
KINDS = {"fare type": "text", "n": "number", "on": "date", "ok": "yes_no"}
words = st.sampled_from([text for text in TEXTS if text])
numbers = st.integers(0, 17).map(str)
days = st.dates(date(2025, 12, 1), date(2026, 12, 31)).map(date.isoformat)


def clause(name: str, op: str, *values: Any) -> st.SearchStrategy[dict[str, Any]]:
    return st.tuples(*values).map(lambda given_: {"column": name, "op": op, "values": list(given_)})


listed = st.lists(st.one_of(words, st.just("")), min_size=1, max_size=3, unique=True)
clauses = st.one_of(
    *(listed.map(lambda v, op=op: {"column": "fare type", "op": op, "values": v}) for op in ("among", "not_among")),
    *(clause("fare type", op, words) for op in ("contains", "lacks", "begins", "ends")),
    *(clause("n", op, numbers) for op in ("is", "is_not", "least", "most", "more", "less")),
    clause("n", "between", numbers, numbers), clause("on", "between", days, days),
    *(clause("on", op, days) for op in ("is", "least", "most")),
    clause("on", "last", st.integers(1, 9).map(str), st.sampled_from(["day", "month", "year"])),
    *(clause("ok", op) for op in ("yes", "no", "blank")),
    *(clause(name, op) for name in NAMES for op in ("blank", "filled")),
)  # fmt: skip


def met(one: dict[str, Any], row: tuple[Any, ...]) -> bool:
    """A clause read plainly; what is blank meets none but those that name it."""
    value = row[NAMES.index(one["column"])]
    op, values = one["op"], one["values"]
    if op in ("blank", "filled"):
        return bool((value is None) == (op == "blank"))
    if op == "among":
        return bool((value or "") in values)
    if op == "not_among":
        return bool((value or "") not in values)
    if value is None:
        return False
    kind = KINDS[one["column"]]
    read = [
        int(v) if kind == "number" else date.fromisoformat(v) if kind == "date" and op != "last" else v for v in values
    ]
    match op:
        case "contains" | "lacks":
            return bool((read[0] in value) == (op == "contains"))
        case "begins":
            return bool(value.startswith(read[0]))
        case "ends":
            return bool(value.endswith(read[0]))
        case "is" | "is_not":
            return bool((value == read[0]) == (op == "is"))
        case "least":
            return bool(value >= read[0])
        case "most":
            return bool(value <= read[0])
        case "more":
            return bool(value > read[0])
        case "less":
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
@settings(max_examples=150, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_a_condition_selects_what_it_says_and_is_read_back(
    asked: Asked, several: list[dict[str, Any]], any_: bool
) -> None:
    any_ = any_ and len(several) > 1
    parts = [asked("conditions.clauseSql", one, KINDS[one["column"]]) for one in several]
    apart = [f"({part})" for part in parts]
    found = holds((" OR " if any_ else " AND ").join(apart), Scope(DATA.columns, DATA.count, AS_OF)).tolist()
    want = [(any if any_ else all)(met(one, row) for one in several) for row in ROWS]
    assert found == want, parts
    again = asked("conditions.readCondition", parts[0])
    assert again is not None, parts[0]
    assert asked("conditions.clauseSql", again["clauses"][0], KINDS[several[0]["column"]]) == parts[0]
    assert condition_words(parts[0]) != parts[0]
