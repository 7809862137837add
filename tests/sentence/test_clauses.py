"""Conditions of the form: the SQL of a choice is read back as the same choice."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kalendor.errors import DefinitionError
from kalendor.sentence.clauses import Clause, Clauses, clauses_of, sql_of_clauses
from kalendor.sentence.conditions import normal
from kalendor.sentence.labels import TESTS

WORDS = ["void", "50%", "a_b", "back\\slash", "O'Neil", "50", "a%", "", None, "%", "x\\%"]


@st.composite
def clauses(draw: st.DrawFn) -> Clause:
    kind = draw(st.sampled_from(["text", "number", "date", "yes_no"]))
    test = draw(st.sampled_from(TESTS[kind]))
    some = {
        "text": st.sampled_from([word for word in WORDS if word]),
        "number": st.sampled_from(["5", "-2.50", "1250"]),
        "date": st.sampled_from(["2026-01-31", "2024-02-29"]),
    }.get(kind, st.nothing())
    size = {"between": 2, "yes": 0, "no": 0, "blank": 0, "filled": 0}.get(test, 1)
    values = draw(st.lists(some, min_size=size, max_size=size)) if size else []
    if test == "last":
        values = ["3", draw(st.sampled_from(["day", "month", "year"]))]
    if test in ("among", "not among"):
        values = draw(
            st.lists(st.sampled_from([w for w in WORDS if w is not None]), min_size=1, max_size=3, unique=True)
        )
        values = sorted(values, key=lambda value: value == "")
        if values == [""]:
            test, values = ("filled" if test == "not among" else "blank"), []
    return Clause(
        f"{kind} column", test, values, kind if values or (kind == "yes_no" and test in ("yes", "no")) else "text"
    )


@given(st.lists(clauses(), min_size=1, max_size=3), st.booleans())
def test_what_is_chosen_is_read_back(chosen: list[Clause], either: bool) -> None:
    made = Clauses(either and len(chosen) > 1, chosen)
    back = clauses_of(sql_of_clauses(made))
    assert back is not None
    assert normal(sql_of_clauses(back)) == normal(sql_of_clauses(made))
    assert back == made or made.any  # "is void or is blank" is one clause


@pytest.mark.parametrize(
    "sql", ["net + cost > 2", "status = 'a' OR (net > 1 AND net < 5)", "note LIKE '%a_b%'", "NOT net > 1", "net > cost"]
)
def test_what_a_form_cannot_show_stays_a_formula(sql: str) -> None:
    assert clauses_of(sql) is None


@pytest.mark.parametrize(
    "clause",
    [Clause("net", "between", ["5", " "], "number"), Clause("status", "among"), Clause("net", "begins", ["5"], "number"), Clause("on", "last", ["", "day"], "date")],
)  # fmt: skip
def test_a_clause_that_says_too_little_is_refused_by_name(clause: Clause) -> None:
    with pytest.raises(DefinitionError, match=clause.column):
        sql_of_clauses(Clauses(False, [clause]))
