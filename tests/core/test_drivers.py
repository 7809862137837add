"""Drivers of a change: its parts by another column add up to it."""

from decimal import Decimal
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kalendor.core.report import work_out
from kalendor.core.trail.cell import Cell
from kalendor.definitions.kinds import definition
from kalendor.definitions.report import Report
from kalendor.errors import DefinitionError
from tests.core.build import SUM, TODAY, compared
from tests.core.test_any_report import MATERIAL, MEMORY, reports
from tests.core.test_trail import YEARS, asked, close, one, trail


def moves(by: str, **keys: Any) -> list[tuple[str, int]]:
    figures = [{**SUM, "name": "x"}, compared(compare="x", as_="percent") | {"name": "s"}]
    found = asked("s", [], ["2026"], figures=figures, **YEARS, **keys).drivers()
    one_ = next(d for d in found if d.name == by)
    return list(zip(one_.labels, one_.difference.tolist(), strict=True))


@pytest.mark.parametrize(
    ("by", "want"),
    [
        ("area", [("South", 15), ("North", 10), ("b1", 7), ("(blank)", 5)]),
        ("Region (T)", [("Up", 25), ("Not placed", 7), ("(blank)", 5)]),
        ("month of year (on)", [("Jan", 17), ("Feb", 15), ("Mar", 5)]),
    ],
)
def test_a_change_is_taken_apart_by_other_columns(by: str, want: list[tuple[str, int]]) -> None:
    assert moves(by) == want


def test_columns_are_offered_by_how_few_members_explain_most() -> None:
    figures = [{**SUM, "name": "x"}, compared(compare="x") | {"name": "s"}]
    found = asked("s", [], ["2026"], figures=figures, **YEARS).drivers()
    assert [d.explained for d in found] == sorted(d.explained for d in found)
    assert found[0].name == "Region (T)"
    assert asked("x", [], ["2026"], figures=figures, **YEARS).drivers() == []


@given(reports(), st.data())
def test_what_drove_a_change_adds_up_to_it(report: dict[str, Any], data: st.DataObject) -> None:
    compare = {"name": "moved", "compare": "sum", "with": "year_earlier", "as": "difference"}
    document = definition({**report, "figures": [*report["figures"], compare]}, "any")
    assert isinstance(document, Report)
    try:
        sheet = work_out(document, MATERIAL, TODAY, memo=MEMORY)
    except DefinitionError:
        return
    line = data.draw(st.integers(0, sheet.lines.count - 1))
    column = data.draw(st.integers(0, sheet.columns.count - 1))
    found = trail(document, MATERIAL, sheet, Cell("moved", line, column), memo=MEMORY, worded=False)
    value = one(found.operand.value)
    if value is None:
        return
    for by in found.drivers():
        moved = sum(Decimal(str(d)) if not by.exact else Decimal(int(d)).scaleb(-by.places) for d in by.difference)
        assert close(moved, value) if not by.exact else moved == value
