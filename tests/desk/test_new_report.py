"""Defaults of a new report: additive amounts are summed, rates and prices averaged."""

import numpy as np
import pytest

from kalendor.core.values.columns import Column, Kind, Records
from kalendor.desk.new_report import adds_up, first_figure


def numbers(kind: Kind = Kind.DECIMAL, percent: bool = False) -> Column:
    values = np.array([150, 275, 310, 150] * 30, dtype=np.float64 if kind is Kind.APPROXIMATE else np.int64)
    return Column(kind, values, places=2 if kind is Kind.DECIMAL else 0, percent=percent)


@pytest.mark.parametrize(
    "name", ["unit_price", "UnitPrice", "Tax rate", "discount %", "fx", "avg_kg", "Age", "Score 2"]
)
def test_a_rate_does_not_add_up(name: str) -> None:
    assert not adds_up(name, numbers())


@pytest.mark.parametrize("name", ["net", "Net fare", "Corporate", "priced", "Wage", "Indexed cost", "売上"])
def test_an_amount_adds_up(name: str) -> None:
    assert adds_up(name, numbers())
    assert not adds_up(name, numbers(percent=True))


@pytest.mark.parametrize(
    ("columns", "figure"),
    [
        ({"price": numbers(), "pieces": numbers(Kind.WHOLE)}, {"name": "Pieces", "take": "sum", "of": "pieces"}),
        ({"pieces": numbers(Kind.WHOLE), "net": numbers()}, {"name": "Net", "take": "sum", "of": "net"}),
        ({"unit_price": numbers()}, {"name": "Average unit price", "take": "mean", "of": "unit_price"}),
        ({"done": numbers(percent=True)}, {"name": "Average done", "take": "mean", "of": "done"}),
        ({}, {"name": "Records", "take": "count"}),
    ],
)
def test_a_report_begins_with_a_figure_that_says_something(columns: dict[str, Column], figure: dict[str, str]) -> None:
    assert first_figure(Records(columns, 120)) == figure
