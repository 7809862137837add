"""Amounts of several units: no number spans more than one unit, whatever the figure; all others are unchanged."""

from collections.abc import Iterator
from dataclasses import replace
from decimal import Decimal
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from kalendor.core.figures.bases import MIXED
from kalendor.core.figures.family import kind_of
from kalendor.core.figures.operand import Operand
from kalendor.core.placing.made_columns import with_made
from kalendor.core.plan import Plan, planned
from kalendor.core.report import sheet_of, traced
from kalendor.core.sheet.sheet import Sheet, ShownFigure
from kalendor.core.takes.units import coded, unit_of, units_in
from kalendor.core.trail.cell import Cell
from kalendor.core.values.columns import Mask, Records, number_column, text_column
from kalendor.definitions.figure import Compare, Rank, Taken
from kalendor.definitions.kinds import definition
from kalendor.definitions.report import FormulaColumn, Lookup, LookupColumn
from kalendor.errors import DefinitionError
from tests.core.build import TODAY, records, sheet, table
from tests.core.test_any_report import COUNT, DATA, MATERIAL, derived, reports

AMOUNTS = ("amount", "heads")


def in_currencies(seed: int, few: bool) -> Records:
    """The records of the random reports with a currency each: mostly that of their area if `few`."""
    rng = np.random.Generator(np.random.PCG64(seed))
    area = DATA.columns["area"]
    own = [None if area.item(i) == "b9" else ("EUR", "SEK", "NOK")[len(str(area.item(i))) % 3] for i in range(COUNT)]
    drawn = [own[i] if few and rng.random() < 0.95 else ("EUR", "SEK", None)[rng.integers(3)] for i in range(COUNT)]
    units = {name: replace(DATA.columns[name], unit=("currency",)) for name in AMOUNTS}
    return Records({**DATA.columns, **units, "currency": text_column(drawn)}, COUNT)


def both(body: dict[str, Any], data: Records) -> tuple[Plan, Sheet, Sheet] | None:
    """The plan and the sheet of a report, and its sheet over amounts without units; None if refused."""
    document: Any = definition(body, "test")
    plain = Records({n: replace(c, unit=()) for n, c in data.columns.items()}, COUNT)
    try:
        plan = planned(document, replace(MATERIAL, records=data, stamp="units"), TODAY)
        return plan, sheet_of(plan), sheet_of(planned(document, replace(MATERIAL, records=plain), TODAY))
    except DefinitionError:
        return None


@st.composite
def of_amounts(draw: st.DrawFn) -> dict[str, Any]:
    """Random reports whose figures depend on amounts with units, most of them derived."""
    body = without_tops(draw(reports()))
    body["figures"][1]["of"] = draw(st.sampled_from(AMOUNTS))
    body["figures"] += [
        {"name": f"g{i}", **one} for i, one in enumerate(draw(st.lists(derived, min_size=2, max_size=4)))
    ]
    for figure in body["figures"]:
        for key in ("moving", "compare"):
            if figure.get(key) == "count":
                figure[key] = "sum"
    if not any("period" in entry for entry in (*body["down"], *body["across"])):
        body["across"] = [{"period": "on", "grains": draw(st.sampled_from([["year"], ["year", "quarter"], ["month"]]))}]
    return body


def without_tops(body: dict[str, Any]) -> dict[str, Any]:
    """The report without parts that depend on its numbers, which would hide other lines if some are blank."""
    for entry in (*body["down"], *body["across"]):
        for key in ("top", "by", "rest"):
            entry.pop(key, None)
        if isinstance(entry.get("order"), dict):
            entry.pop("order")
    return body


def behind(operand: Operand, plan: Plan) -> Iterator[str | None]:
    """The units of all amounts behind a number, by its records; `-` for none."""
    records, own = plan.ground.records, plan.reckoner.figures[operand.figure]
    if isinstance(own, Compare) and own.as_ == "base":  # the base alone is shown
        operand = operand.of[1]
    for _, part in operand.parts():
        figure = plan.reckoner.figures[part.figure]
        counted = not isinstance(figure, Taken) or figure.take in ("count", "count_values", "distinct")
        if counted or part.rows is None or figure.of not in AMOUNTS:
            continue
        there = records.columns[figure.of].present[part.rows]
        if part.amounts is not None:
            there = there & part.amounts.present
        for row in part.rows[there].tolist():
            yield records.columns["currency"].item(row) or "-"


def rests_on_a_rank(plan: Plan, name: str) -> bool:
    figure = plan.reckoner.figures[name]
    needed = [known for one in kind_of(figure).needs(figure) if (known := plan.reckoner.known(one)) is not None]
    return isinstance(figure, Rank) or any(rests_on_a_rank(plan, one) for one in needed)


def plain_cells(figure: ShownFigure) -> Mask:
    """The cells in which a figure has a value."""
    return figure.cells.present if figure.marks is None else figure.cells.present | (figure.marks > 0)


def same(one: ShownFigure, other: ShownFigure, at: int) -> bool:
    marks = [0 if f.marks is None else int(f.marks[at]) for f in (one, other)]
    return marks[0] == marks[1] and one.cells.item(at) == other.cells.item(at)


@given(of_amounts(), st.integers(0, 3), st.booleans())
def test_any_report_shows_no_number_over_several_units_and_all_others_as_ever(
    body: dict[str, Any], seed: int, few: bool
) -> None:
    found = both(body, in_currencies(seed, few))
    if found is None:
        return
    plan, with_units, plain = found
    assert with_units.lines.labels.tolist() == plain.lines.labels.tolist()
    rng = np.random.Generator(np.random.PCG64(seed))
    for figure, before in zip(with_units.figures, plain.figures, strict=True):
        likely = np.flatnonzero(plain_cells(before))
        for at in rng.permutation(likely)[:12].tolist():
            marked = figure.marks is not None and figure.marks[at] == MIXED
            line, column = divmod(at, with_units.columns.count)
            if line not in with_units.lines.shown.filled():
                continue
            if marked:
                assert figure.cells.item(at) is None
            else:
                assert same(figure, before, at), (figure.name, at)
            if rests_on_a_rank(plan, figure.name):
                continue
            operand = traced(plan, with_units, Cell(figure.name, line, column), worded=False).operand
            units = set(behind(operand, plan))
            blank = before.cells.item(at) is None and (before.marks is None or not before.marks[at])
            assert marked == (len(units) > 1 and not blank), (figure.name, at, units)


DATA_OF_TWO = records(
    shop=["A", "A", "B", "B", "C", "C"], part=["x", "y", "x", "y", "x", "y"],
    net=[1, 2, 30, 40, 5, 60], cost=[1, 1, 1, 1, 1, 1], cur=["EUR", "EUR", "SEK", "SEK", "EUR", "SEK"],
)  # fmt: skip


def two(unit: tuple[str, ...] = ("cur",)) -> Records:
    columns = DATA_OF_TWO.columns
    return Records({**columns, **{n: replace(columns[n], unit=unit) for n in ("net", "cost")}}, 6)


def test_places_are_blank_where_those_that_compete_are_of_several_units() -> None:
    figures = [{"name": "s", "take": "sum", "of": "net"}, {"name": "p", "rank": "s", "within": "parent"}]
    down = [{"category": "shop"}, {"category": "part"}]
    rows = table(two(), down=down, figures=figures)
    placed = {(r["shop"], r["part"]): (r["s"], r["p"], r["p mark"]) for r in rows}
    assert placed["A", "x"] == ("1", "2", "")
    assert placed["B", "y"] == ("40", "1", "")
    assert placed["C", "x"] == ("5", "", "mixed")
    assert placed["A", ""] == ("3", "", "mixed")
    assert placed["C", ""][0] == ""


def test_the_tie_out_says_the_units_and_the_total_of_each() -> None:
    tie = sheet(two(), down=[{"category": "shop"}], figures=[{"name": "s", "take": "sum", "of": "net"}]).tie_out
    assert [footing.total for footing in tie.footings] == ["8 EUR, 130 SEK"]
    assert tie.notes == (
        "net is in EUR and SEK: no number is shown over several of these; such cells are marked mixed",
    )


def test_amounts_of_one_unit_are_added_up_as_ever() -> None:
    only = two().take(np.array([0, 1, 4]))
    found = sheet(only, down=[{"category": "shop"}], figures=[{"name": "s", "take": "sum", "of": "net"}])
    assert found.figures[0].cells.item(0) == 8
    assert found.tie_out.notes == ()


def test_an_expected_total_over_several_units_is_not_met() -> None:
    keys = {"down": [{"category": "shop"}], "figures": [{"name": "s", "take": "sum", "of": "net"}]}
    controls = sheet(two(), **keys, controls=[{"figure": "s", "expect": "138"}]).tie_out.controls  # type: ignore[arg-type]
    assert [(c.found, c.agrees) for c in controls] == [("", False)]


RATES = records(code=["EUR", "SEK"], rate=[1, 2])


@pytest.mark.parametrize(
    ("formula", "unit"),
    [
        ("net - cost", ("cur",)),
        ("COALESCE(net, 0) + 1", ("cur",)),
        ("CASE WHEN part = 'x' THEN net ELSE 0 END", ("cur",)),
        ("CASE WHEN cur = 'SEK' THEN net / 10 ELSE net END", ()),
        ("CASE cur WHEN 'SEK' THEN net / 10 ELSE net END", ()),
        ("-ROUND(ABS(NET) * 3, 1)", ("cur",)),
        ("net * rate", ()),
        ("ROUND((net - cost) / NULLIF(rate, 0), 2)", ()),
        ("net * rate + cost", ("cur",)),
        ("net / NULLIF(cost, 0)", ()),
        ("LENGTH(part)", ()),
        ("net > 3", ()),
        ("net * kilos", ("cur",)),
    ],
)
def test_what_a_formula_makes_of_units(formula: str, unit: tuple[str, ...]) -> None:
    data = two().with_column("kilos", number_column([1] * 6))
    rate = LookupColumn(name="rate", lookup=Lookup(source="R", match={"cur": "code"}, take="rate"))
    made = with_made(data, [rate, FormulaColumn(name="f", formula=formula)], {"R": RATES})
    assert made.columns["f"].unit == unit


def test_amounts_converted_by_a_rate_are_added_up() -> None:
    columns = [
        {"name": "rate", "lookup": {"source": "R", "match": {"cur": "code"}, "take": "rate"}},
        {"name": "in euro", "formula": "net / rate"},
    ]
    keys = {"columns": columns, "figures": [{"name": "s", "take": "sum", "of": "in euro"}]}
    found = sheet(two(), down=[{"category": "shop"}], others={"R": RATES}, **keys)  # type: ignore[arg-type]
    assert found.figures[0].cells.item(0) == Decimal(73)


def test_a_price_has_the_unit_that_it_was_looked_up_by_and_no_other() -> None:
    prices = records(code=["EUR", "SEK"], unit=["kg", "t"], price=[3, 4])
    for unit, want in ((("code",), ("cur",)), (("unit",), ())):
        other = prices.with_column("price", replace(prices.columns["price"], unit=unit))
        made = LookupColumn(name="p", lookup=Lookup(source="P", match={"cur": "code"}, take="price"))
        assert with_made(two(), [made], {"P": other}).columns["p"].unit == want


def test_an_amount_made_of_two_currencies_at_once_is_like_no_other() -> None:
    data = two().with_column("other", text_column(["EUR", "SEK", "SEK", "SEK", None, "SEK"]))
    data = data.with_column("net", replace(data.columns["net"], unit=("cur",)))
    data = data.with_column("cost", replace(data.columns["cost"], unit=("other",)))
    assert unit_of("net + cost", data.columns) == ("cur", "other")
    made = with_made(data, [FormulaColumn(name="sum", formula="net + cost")], {})
    rows = table(
        made, down=[{"category": "shop"}, {"category": "part"}], figures=[{"name": "s", "take": "sum", "of": "sum"}]
    )
    shown = {(r["shop"], r["part"]): r["s"] or r["s mark"] for r in rows}
    assert shown["A", "x"] == "2"
    assert shown["A", "y"] == "mixed"  # a euro and a krona in one record
    assert shown["B", ""] == "72"
    assert shown["C", "x"] == "mixed"  # one of the two has no currency


BESIDE: dict[str, Any] = {
    "beside": [{"source": "Plan", "match": {"shop": "shop", "net": "plan"}}],
    "figures": [
        {"name": "s", "take": "sum", "of": "net"},
        {"name": "p", "take": "sum", "of": "net", "source": "Plan"},
        {"name": "c", "compare": "s", "with": {"figure": "p"}, "as": "difference"},
    ],
}


def against_a_plan(plan: Records, name: str, *lines: str) -> list[Any]:
    found = sheet(two(), down=[{"category": "shop"}], others={"Plan": plan}, **BESIDE)
    labels, figure = found.lines.labels.tolist(), next(f for f in found.figures if f.name == name)
    return [figure.cells.item(labels.index(line)) for line in lines]


def test_amounts_beside_that_name_no_currency_go_with_any() -> None:
    plan = records(shop=["A", "B", "C"], plan=[10, 20, 30])
    assert against_a_plan(plan, "p", "A", "B", "C", "Total") == [10, 20, 30, 60]
    assert against_a_plan(plan, "c", "A", "B", "C", "Total") == [-7, 50, None, None]


def test_amounts_beside_are_of_their_own_currency() -> None:
    plan = records(shop=["A", "B"], plan=[10, 20], money=["SEK", "SEK"])
    plan = plan.with_column("plan", replace(plan.columns["plan"], unit=("money",)))
    assert against_a_plan(plan, "c", "A", "B") == [None, 50]


def test_a_unit_whose_name_holds_and_is_one_unit() -> None:
    data = two().with_column("cur", text_column(["bed and board"] * 6))
    assert coded(data.columns["net"], units_in(data)["net"]) is None
    found = sheet(data, down=[{"category": "shop"}], figures=[{"name": "s", "take": "sum", "of": "net"}])
    assert found.figures[0].cells.item(0) == 138


def test_a_column_that_is_not_there_tells_no_unit() -> None:
    assert units_in(two(("nowhere",))) == {}


def test_a_line_made_from_lines_of_several_units_is_mixed() -> None:
    lines = [
        {"name": "AC", "level": "shop", "formula": "A + C"},
        {"name": "again", "level": "shop", "formula": "AC * 2"},
        {"name": "A twice", "level": "shop", "formula": "A + A"},
        {"name": "none", "level": "shop", "formula": "A + nowhere"},
    ]
    figures = [{"name": "s", "take": "sum", "of": "net"}, {"name": "f", "formula": "s * 2"}]
    only = ["part = 'x' OR shop <> 'C'"]  # so that C is in euros alone
    for kept, want in ((only, "8"), ([], "mixed")):
        rows = table(two(), down=[{"category": "shop"}], figures=figures, lines=lines, only=kept)
        shown = {r["shop"]: (r["s"] or r["s mark"], r["f"] or r["f mark"]) for r in rows}
        assert shown["AC"][0] == want
        assert shown["again"] == (("16", "32") if want == "8" else ("mixed", "mixed"))
        assert shown["A twice"] == ("6", "12")
        assert shown["none"] == ("3", "6")
    lines[0]["formula"] = "A + B"
    rows = table(two(), down=[{"category": "shop"}], figures=figures, lines=lines)
    assert {r["shop"]: r["s mark"] for r in rows}["again"] == "mixed"
