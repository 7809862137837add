"""A second source on the same axes."""

from datetime import date
from typing import Any

import pytest

from kalendor.errors import DefinitionError
from tests.core.build import records, sheet, table

SUM = {"name": "sum", "take": "sum", "of": "amount"}
MONTHS = [{"period": "on", "grains": ["month"]}]
PLAN = {"source": "Budget", "match": {"a": "line", "on": "month"}}
PLANNED = {"name": "plan", "take": "sum", "of": "planned", "source": "Budget"}


def days(*texts: str) -> list[date]:
    return [date.fromisoformat(t) for t in texts]


def test_actual_against_plan_from_a_second_source_on_the_same_axes() -> None:
    data = records(
        a=["x", "x", "y"],
        on=days("2026-01-05", "2026-02-05", "2026-01-07"),
        amount=["4.00", "6.00", "5.00"],
        ok=["yes", "no", "yes"],
    )
    budget = records(
        line=["x", "x", "z"], month=days("2026-01-01", "2026-02-01", "2026-01-01"), planned=["5.0", "5.0", "2.5"]
    )
    figures = [
        SUM,
        PLANNED,
        {"name": "off", "compare": "sum", "with": {"figure": "plan"}, "as": "difference"},
        {"name": "n", "take": "count"},
    ]
    keys: dict[str, Any] = {
        "down": [{"category": "a"}],
        "across": MONTHS,
        "figures": figures,
        "beside": [PLAN],
        "only": ["ok = 'yes'"],
    }
    rows = table(data, others={"Budget": budget}, **keys)
    found = {(r["a"], r["month"]): (r["sum"], r["plan"], r["off"], r["n"]) for r in rows}
    assert found[("x", "Jan 2026")] == ("4.00", "5.0", "-1.00", "1")
    assert found[("x", "Feb 2026")] == ("", "5.0", "-5.00", "0")
    assert found[("z", "Jan 2026")] == ("", "2.5", "-2.50", "0")
    assert found[("", "")] == ("9.00", "12.5", "-3.50", "2")
    tie = sheet(data, others={"Budget": budget}, **keys).tie_out
    assert (tie.read, [s.records for s in tie.steps], tie.on_sheet) == (3, [1], 2)


@pytest.mark.parametrize(
    ("keys", "words"),
    [
        ({"beside": [PLAN]}, "there is no source named 'Budget'"),
        ({"figures": [{**SUM, "source": "Budget"}]}, "does not stand beside"),
    ],
)
def test_a_source_that_does_not_stand_beside_is_named(keys: dict[str, Any], words: str) -> None:
    with pytest.raises(DefinitionError, match=words):
        table(records(a=["x"], amount=["1.00"], on=days("2026-01-01")), **keys)
