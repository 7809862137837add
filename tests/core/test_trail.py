"""Trails: the records behind a number, for every kind of figure at every level, add up to it."""

from datetime import date, datetime
from decimal import Decimal
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from kalendor.core.figures.compare import _against as against
from kalendor.core.figures.operand import Operand
from kalendor.core.formulas.formulas import evaluate, holds
from kalendor.core.formulas.scope import Scope
from kalendor.core.groupings.ground import groupings
from kalendor.core.placing.material import Material
from kalendor.core.report import work_out
from kalendor.core.sheet.sheet import Sheet
from kalendor.core.takes.aggregate import Additive
from kalendor.core.takes.groups import Groups
from kalendor.core.takes.takes import TAKES, what_of
from kalendor.core.trail.cell import Cell, found_cell
from kalendor.core.trail.trail import Trail
from kalendor.core.values.columns import Column, Kind, Records
from kalendor.definitions.figure import (
    Compare,
    Figure,
    FormulaFigure,
    Moving,
    Running,
    Share,
    Taken,
    WithFigure,
    WithMember,
)
from kalendor.definitions.kinds import definition
from kalendor.definitions.report import Report
from kalendor.errors import DefinitionError
from kalendor.output.told import told
from tests.core.build import SUM, TODAY, compared, records, traced
from tests.core.build import report as built
from tests.core.test_any_report import MADE_OF, MATERIAL, MEMORY, reports

MOST_LEAVES = 300  # a trail of each


def one(value: Any) -> Any:
    return value.item(0)


def close(got: Any, want: Any) -> bool:
    if got is None or want is None:
        return got is want
    if isinstance(got, str | date | bool):
        return bool(got == want)
    return abs(Decimal(str(got)) - Decimal(str(want))) <= Decimal("1e-9") * max(1, abs(Decimal(str(want))))


def taken_again(figure: Taken, part: Operand, data: Records) -> Column:
    """A take computed over an operand's records alone."""
    assert part.rows is not None
    of = what_of(figure, data.column)
    groups = Groups(np.zeros(len(part.rows), dtype=np.int64), 1, part.rows)
    take = TAKES[figure.take]
    return take.finish(take.parts(groups, of), of) if isinstance(take, Additive) else take.cells(groups, of)


class Figures(dict[str, Figure]):
    """Figures by name; `turned`: the signs of some category are reversed, which a plain take ignores."""

    turned = False


def holds_up(part: Operand, figures: Figures, data: Records, as_of: int) -> None:
    """An operand's number follows from its own operands and records."""
    figure, value = figures[part.figure], one(part.value)
    for operand in part.of:
        if part.kind not in ("running", "moving"):
            holds_up(operand, figures, data, as_of)
    match part.kind, figure:
        case "records", Taken():
            assert part.rows is not None
            assert (np.diff(part.rows) > 0).all()
            again = value if figures.turned else one(taken_again(figure, part, data))
            assert close(again, value) or (value is None and again == 0), (figure, value, again)
            if part.amounts is not None:
                given_ = [v for v in map(part.amounts.item, range(len(part.rows))) if v is not None]
                nothing = value is None and not len(part.rows)
                assert nothing or close(sum(given_) if given_ or figure.take.startswith("count") else None, value)
        case "share", Share():
            top, whole = one(part.of[0].value), one(part.of[1].value)
            want = None if top is None or not whole else Decimal(str(top)) / Decimal(str(whole))
            assert close(value, want)
        case "rank", _:
            assert value is None or one(part.of[0].value) is not None
        case "compare", Compare():
            pair = [operand.value for operand in part.of]
            adds = isinstance(figures[figure.compare], Taken) and figures[figure.compare].take in (
                "sum",
                "count",
                "count_values",
            )  # type: ignore[union-attr]
            has = None if len(part.of[1].parts()[0][1].rows) or one(pair[1]) is not None else np.array([False])  # type: ignore[arg-type]
            if has is None:
                of = figures[figure.compare]
                counts = isinstance(of, Taken) and TAKES[of.take].counts
                zero_is_none = counts and not isinstance(figure.with_, WithFigure | WithMember)
                cells, _ = against(figure.as_, pair[0], pair[1], None, adds, zero_is_none)
                assert value is None or close(one(cells), value), (figure, pair, value)
        case "running" | "moving", Running() | Moving():
            runs(part, figure, value, figures, data, as_of)
        case "lines", _:
            made_from(part, figures, as_of)
        case "formula", FormulaFigure():
            columns = {operand.figure: operand.value for operand in part.of}
            assert close(one(evaluate(figure.formula, Scope(columns, 1, as_of))), value)


def made_from(part: Operand, figures: Figures, as_of: int) -> None:
    """A line made from lines is its formula over them; in figures that add up, a missing line counts as 0."""
    figure, value = figures[part.figure], one(part.value)
    taken = figures[figure.moving] if isinstance(figure, Moving) else figure
    taken = figures[taken.running] if isinstance(taken, Running) else taken
    adds = isinstance(taken, Taken) and taken.take in ("sum", "count", "count_values", "distinct")
    numbers = {operand.name: one(operand.value) for operand in part.of}
    if not adds and (None in numbers.values() or len(numbers) < 2 or "Made" in numbers):
        assert value is None
        return
    if all(v is None for v in numbers.values()):
        assert value is None
        return
    minus = {pair[1] for pair in MADE_OF.values()}
    times = {name: -1 if name in minus else 2 if "Made" in numbers and name != "Made" else 1 for name in numbers}
    assert close(value, sum(times[name] * Decimal(str(v or 0)) for name, v in numbers.items()))


def runs(part: Operand, figure: Running | Moving, value: Any, figures: Figures, data: Records, as_of: int) -> None:
    """A running or moving figure is the take of all records that it covers."""
    if not part.of or value is None:
        return
    if figures.turned:
        return
    name = figure.running if isinstance(figure, Running) else figure.moving
    inner, found = part.of[0], figures[name]
    if not isinstance(found, Taken) or inner.kind != "records":
        return
    again = one(taken_again(found, inner, data))
    if isinstance(figure, Running):
        assert close(again or 0, value), (figure, value, again)
    elif found.take in ("sum", "count"):
        total = Decimal(str(again or 0))
        assert close(total / figure.periods if figure.take == "mean" else total, value), (figure, value, again)


def trail(report: Report, material: Material, sheet: Sheet, cell: Cell, **more: Any) -> Trail:
    return traced(report, material, sheet, cell, **more)


@given(reports(), st.data())
def test_every_number_is_what_its_records_give(report: dict[str, Any], data: st.DataObject) -> None:
    document = definition(report, "any")
    assert isinstance(document, Report)
    try:
        sheet = work_out(document, MATERIAL, TODAY, memo=MEMORY)
    except DefinitionError:
        return
    figures = Figures({f.name: f for f in document.figures})
    figures.turned = any(entry.get("tree") for entry in (*report["down"], *report["across"]))
    lines, columns = sheet.lines.shown.filled().tolist(), sheet.columns.shown.filled().tolist()
    if not lines or not columns:
        return
    for figure in sheet.figures:
        cell = Cell(figure.name, data.draw(st.sampled_from(lines)), data.draw(st.sampled_from(columns)))
        found = trail(document, MATERIAL, sheet, cell, memo=MEMORY)
        holds_up(found.operand, figures, found.records, found.as_of)
        assert told(found)
        by_period = found.bars()
        assert by_period is None or len(by_period.labels) == len(by_period.value)
        for _, part in found.operand.parts():
            if part.condition is not None and part.rows is not None:
                met = holds(part.condition, Scope(found.records.columns, found.records.count, found.as_of))
                assert np.array_equal(np.flatnonzero(np.broadcast_to(met, found.records.count)), part.rows)


@given(reports())
def test_a_total_has_the_records_of_its_lines(report: dict[str, Any]) -> None:
    document = definition(report, "any")
    assert isinstance(document, Report)
    try:
        sheet = work_out(document, MATERIAL, TODAY, memo=MEMORY)
    except DefinitionError:
        return
    deepest = len(sheet.lines.levels)
    leaves = [i for i in range(sheet.lines.count) if sheet.lines.depth[i] == deepest]
    if len(leaves) > MOST_LEAVES:
        return
    rows = {
        line: trail(document, MATERIAL, sheet, Cell("count", line, 0), memo=MEMORY, worded=False).operand.rows
        for line in [0, *leaves]
    }
    under = [rows[line] for line in leaves]
    kept = [found for found in under if found is not None]
    together = np.sort(np.concatenate(kept)) if kept else np.zeros(0, dtype=np.int64)
    assert np.array_equal(rows[0], together)  # type: ignore[arg-type]


AREA = ["North", "North", "South", "South", None, "b1"]
ON = [date(2025, 1, 5), date(2026, 1, 6), date(2025, 2, 7), date(2026, 2, 8), date(2026, 3, 9), date(2026, 1, 31)]
DATA = records(area=AREA, on=ON, v=[10, 20, 30, 45, 5, 7])
AT = [int((datetime(2026, 1, 1, h) - datetime(1970, 1, 1)).total_seconds()) * 1_000_000 for h in (1, 1, 2, 3, 3, 9)]
DATA = DATA.with_column("at", Column(Kind.DATETIME, np.array(AT)))
TREE: dict[str, Any] = {
    "kalendor": 1, "kind": "tree", "name": "T", "levels": ["Region", "Area"],
    "roots": [{"label": "Up", "under": [{"value": "North"}, {"value": "South"}]}],
}  # fmt: skip
FISCAL: dict[str, Any] = {"kalendor": 1, "kind": "calendar", "name": "F", "months": {"start_month": 2}}
YEARS = {"across": [{"period": "on", "grains": ["year"]}]}


def asked(figure: str, line: list[str], column: list[str], **keys: Any) -> Trail:
    document = built(**keys)
    material = Material(DATA, groupings([definition(w, "with") for w in (TREE, FISCAL)]))
    sheet = work_out(document, material, TODAY)
    return trail(document, material, sheet, found_cell(sheet, figure, line, column))


def parts(found: Trail) -> dict[str, list[Any]]:
    """The parts by name: what each record gives."""
    return {
        name: [part.amounts.item(i) for i in range(len(part.rows))] if part.amounts else part.rows.tolist()  # type: ignore[arg-type, union-attr]
        for name, part in found.operand.parts()
    }


by_area = {"down": [{"category": "area"}]}


@pytest.mark.parametrize(
    ("figures", "keys", "cell", "want"),
    [
        ([SUM], by_area, (["North"], []), {"value": [10, 20]}),
        ([{"name": "s", "take": "count"}], by_area, (["South"], []), {"value": [1, 1]}),
        ([{"name": "s", "take": "median", "of": "v"}], by_area, (["(blank)"], []), {"value": [4]}),
        ([{**SUM, "where": "v > 15"}], by_area, (["North"], []), {"value": [20]}),
        ([{**SUM, "name": "x"}, compared(compare="x", as_="percent") | {"name": "s"}], by_area | YEARS, (["North"], ["2026"]),
         {"value": [20], "base": [10]}),
        ([{**SUM, "name": "x"}, {"name": "n", "take": "count"}, {"name": "s", "formula": "x / n"}], by_area, (["North"], []),
         {"x": [10, 20], "n": [1, 1]}),
        ([{**SUM, "name": "x"}, {"name": "s", "share": "x"}], by_area, (["North"], []),
         {"value": [10, 20], "base": [10, 20, 30, 45, 5, 7]}),
        ([{**SUM, "name": "x"}, {"name": "s", "compare": "x", "with": {"member": "South"}}], by_area, (["North"], []),
         {"value": [10, 20], "base": [30, 45]}),
        ([{**SUM, "name": "x"}, {"name": "n", "take": "count"}, {"name": "s", "compare": "x", "with": {"figure": "n"}}], by_area,
         (["North"], []), {"value": [10, 20], "base": [1, 1]}),
        ([{**SUM, "name": "x"}, {"name": "s", "running": "x", "along": "on"}], YEARS, ([], ["2026"]),
         {"value": [10, 20, 30, 45, 5, 7]}),
        ([{**SUM, "name": "x"}, {"name": "s", "running": "x", "along": "on", "restart": "year"}], YEARS, ([], ["2026"]),
         {"value": [20, 45, 5, 7]}),
        ([{**SUM, "name": "x"}, {"name": "s", "moving": "x", "periods": 2, "take": "sum"}],
         {"across": [{"period": "on", "grains": ["month"]}]}, ([], ["Feb 2026"]), {"value": [20, 45, 7]}),
        ([{**SUM, "name": "x"}, {"name": "s", "running": "x", "along": "lines"}], by_area, (["North"], []), {"value": [10, 20, 7]}),
        ([{**SUM, "name": "x"}, {"name": "s", "rank": "x"}], by_area, (["South"], []), {"value": [30, 45]}),
        ([{**SUM, "name": "s"}], {"down": [{"category": "area", "top": 1, "by": "s"}]}, (["Other"], []), {"value": [10, 20, 7]}),
        ([SUM], {"down": [{"category": "area", "tree": "T"}]}, (["Up"], []), {"value": [10, 20, 30, 45]}),
        ([SUM], {"down": [{"category": "area", "signs": {"North": -1}}]}, (["North"], []), {"value": [-10, -20]}),
        ([SUM], by_area | {"lines": [{"name": "Gap", "level": "area", "formula": "North - South"}]}, (["Gap"], []),
         {"North": [10, 20], "South": [30, 45]}),
        ([{**SUM, "take": "balance", "by": "on", "keys": ["area"]}], {}, ([], []), {"value": [None, 20, None, 45, 5, 7]}),
    ],
)  # fmt: skip
def test_each_kind_of_figure_has_the_records_behind_it(
    figures: list[dict[str, Any]], keys: dict[str, Any], cell: tuple[list[str], list[str]], want: dict[str, list[Any]]
) -> None:
    assert parts(asked("s", *cell, figures=figures, **keys)) == want


@pytest.mark.parametrize(
    ("keys", "cell", "want"),
    [
        (by_area, (["North"], []), "\"area\" = 'North'"),
        (by_area, (["(blank)"], []), '"area" IS NULL'),
        (by_area, ([], []), "1 = 1"),
        (by_area | {"only": ["v > 5", "v > 6 OR v < 0"]}, (["North"], []), "v > 5 AND (v > 6 OR v < 0) AND \"area\" = 'North'"),
        ({"down": [{"category": "area", "tree": "T"}]}, (["Up"], []), "\"area\" IN ('North', 'South')"),
        (YEARS, ([], ["2026"]), "\"on\" BETWEEN DATE '2026-01-01' AND DATE '2026-12-31'"),
        ({"down": [{"period": "on", "grains": ["month"]}]} | YEARS, (["Jan"], ["2026"]),
         "\"on\" BETWEEN DATE '2026-01-01' AND DATE '2026-01-31'"),
        ({"down": [{"period": "on", "calendar": "F", "grains": ["year"]}]}, (["2025"], []),
         "\"on\" BETWEEN DATE '2024-02-01' AND DATE '2025-01-31'"),
        ({"down": [{"period": "on", "grains": ["month_of_year"]}]}, (["Feb"], []), 'EXTRACT(MONTH FROM "on") = 2'),
        ({"down": [{"period": "on", "grains": ["day_of_week"]}]}, (["Sunday"], []), 'EXTRACT(ISODOW FROM "on") = 7'),
        ({"down": [{"period": "at", "grains": ["hour"]}]}, (["2026-01-01 03:00"], []),
         "\"at\" >= TIMESTAMP '2026-01-01 03:00' AND \"at\" < TIMESTAMP '2026-01-01 04:00'"),
        ({"down": [{"bucket": "v", "cut": [0, 10, 30]}]}, (["10 – 29"], []), '"v" >= 10 AND "v" < 30'),
        ({"down": [{"bucket": "v", "cut": [0, 10, 30]}]}, (["30 and over"], []), '"v" >= 30'),
        ({"down": [{"age": "on", "cut": [0, 30, 60]}], "as_of": "2026-03-09"}, (["1 – 30"], []),
         'DATE \'2026-03-09\' - "on" BETWEEN 1 AND 30'),
        ({"window": {"of": "on", "show": {"last": 2, "grain": "month"}}}, ([], []),
         "\"on\" BETWEEN DATE '2026-02-01' AND DATE '2026-03-09'"),
    ],
)  # fmt: skip
def test_the_condition_selects_a_cells_records(
    keys: dict[str, Any], cell: tuple[list[str], list[str]], want: str
) -> None:
    part = asked("s", *cell, figures=[SUM], **keys).operand
    assert part.condition is not None
    assert part.condition == want


@pytest.mark.parametrize(
    ("only", "want"),
    [
        ("v > 5\nOR v < 0", "(v > 5\nOR v < 0) AND \"area\" = 'North'"),
        ("v > 5\tor\tv < 0", "(v > 5\tor\tv < 0) AND \"area\" = 'North'"),
        ("v > 5 -- the large ones", None),
        ("v > 5 /* OR v < 0", None),
    ],
)
def test_a_condition_that_others_are_joined_to_selects_the_same_or_is_not_said(only: str, want: str | None) -> None:
    try:
        part = asked("s", ["North"], [], figures=[SUM], only=[only], **by_area).operand
    except DefinitionError:
        return  # the report itself is refused
    assert part.condition == want


def test_a_base_has_a_condition_of_its_own() -> None:
    figures = [{**SUM, "name": "x"}, compared(compare="x") | {"name": "s"}]
    found = asked("s", ["South"], ["2026"], figures=figures, **by_area, **YEARS)
    assert [part.condition for _, part in found.operand.parts()] == [
        "\"area\" = 'South' AND \"on\" BETWEEN DATE '2026-01-01' AND DATE '2026-12-31'",
        "\"area\" = 'South' AND \"on\" BETWEEN DATE '2025-01-05' AND DATE '2025-03-09'",
    ]


@pytest.mark.parametrize(
    ("figure", "line", "why"),
    [
        ("x", ["North"], "there is no figure 'x' on the sheet; there are s"),
        ("s", ["West"], "there is no line 'West'; there are b1, North, South, (blank)"),
        ("s", ["North", "East"], "line 'East': nothing stands under North; give fewer labels"),
    ],
)
def test_a_cell_that_is_not_there_is_named(figure: str, line: list[str], why: str) -> None:
    with pytest.raises(DefinitionError) as refused:
        asked(figure, line, [], figures=[SUM], **by_area)
    assert str(refused.value) == why
