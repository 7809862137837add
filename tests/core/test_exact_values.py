"""Rules of single values: arithmetic, functions, look-ups and keys, each with a few values."""

from decimal import Decimal
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from kalendor.core.formulas.formulas import evaluate
from kalendor.core.formulas.scope import Scope
from kalendor.core.formulas.texts import _is_like, _pieces
from kalendor.core.placing.folding import made_room
from kalendor.core.placing.lookups import looked_up
from kalendor.core.values.columns import Column, Kind, Records, number_column, text_column
from kalendor.core.values.keys import key
from kalendor.definitions.kinds import definition
from kalendor.definitions.report import Lookup
from kalendor.errors import DefinitionError
from tests.core.build import SUM, column_of, compared, records, report, sheet, table

# -- exact arithmetic


def test_sums_over_parts_beyond_64_bits_do_not_wrap() -> None:
    count = 3000
    units = np.full(count, 4_398_046_511_104_000_000, dtype=np.int64)
    column = Column(Kind.DECIMAL, units, places=9)
    days = Column(Kind.DATE, np.arange(20_000, 20_000 + count, dtype=np.int32))
    data = Records({"k": text_column([f"k{i % 40}" for i in range(count)]), "d": days, "v": column}, count)
    figures = [SUM, {"name": "mean", "take": "mean", "of": "v"}, {"name": "r", "running": "s", "along": "d"},
               {"name": "m", "moving": "s", "periods": 7, "take": "sum"}]  # fmt: skip
    rows = table(data, down=[{"category": "k"}], figures=figures[:2])
    assert rows[-1]["s"] == f"{Decimal('4398046511.104000000') * count:f}"
    assert {row["mean"] for row in rows} == {"4398046511.1"}
    rows = table(data, down=[{"period": "d", "grains": ["month"]}], figures=figures)
    assert rows[-2]["r"] == rows[-1]["s"] == f"{Decimal('4398046511.104000000') * count:f}"
    assert all(Decimal(row["m"]) > 0 for row in rows[6:-1])


@given(st.lists(st.integers(-(10**17), 10**17), min_size=2, max_size=12), st.integers(-(10**17), 10**17))
def test_groups_of_equal_variance_are_equal_however_far_apart_they_lie(values: list[int], apart: int) -> None:
    data = records(k=["a"] * len(values) + ["b"] * len(values), v=[*values, *(v + apart for v in values)])
    for take in ("variance", "stdev", "variance_pop", "stdev_pop"):
        rows = table(data, down=[{"category": "k"}], figures=[{"name": "x", "take": take, "of": "v"}])
        assert rows[0]["x"] == rows[1]["x"]


@given(st.text("ab_%", max_size=12), st.text("ab_%", max_size=6))
def test_like_is_what_a_plain_reading_of_it_is(word: str, pattern: str) -> None:
    def like(w: str, p: str) -> bool:
        if not p:
            return not w
        if p[0] == "%":
            return any(like(w[i:], p[1:]) for i in range(len(w) + 1))
        return bool(w) and p[0] in ("_", w[0]) and like(w[1:], p[1:])

    assert _is_like(word, _pieces(pattern, "")) == like(word, pattern)


@pytest.mark.parametrize(
    ("formula", "want"),
    [
        ("TRIM(LEADING '0' FROM t)", "12 0"), ("TRIM('0' FROM t)", "12 "), ("TRIM(t)", "0012 0"), ("ROUND(n, -2)", 1300),
        ("ROUND(-n, -3)", -1000), ("ROUND(n, 0)", 1251), ("EXTRACT(ISOYEAR FROM DATE '2027-01-01')", 2026),
    ],
)  # fmt: skip
def test_functions(formula: str, want: Any) -> None:
    scope = Scope({"t": text_column(["0012 0"]), "n": number_column([Decimal("1250.5")], 1)}, 1)
    found = evaluate(formula, scope).item(0)
    assert found == want


@pytest.mark.parametrize(
    "formula",
    [
        "n BETWEEN SYMMETRIC 1 AND 2",
        "TRY_CAST(t AS INT)",
        "t COLLATE x",
        "n IS DISTINCT FROM 1",
        "MIN(n)",
        "TRIM('xy' FROM t)",
    ],
)
def test_what_is_parsed_and_not_known_is_refused_and_not_passed_over(formula: str) -> None:
    with pytest.raises(DefinitionError):
        evaluate(formula, Scope({"t": text_column(["a"]), "n": number_column([1])}, 1))


# -- columns


@pytest.mark.parametrize(
    ("mine", "theirs"),
    [
        (number_column([100, 7]), number_column([Decimal("100.00"), Decimal("7.50")], 2)),
        (text_column(["100", "7"]), number_column([Decimal("100.00"), Decimal("7.50")], 2)),
        (number_column([Decimal("100.0"), 7], 1), text_column(["100", "8"])),
        (Column(Kind.APPROXIMATE, np.array([100.0, 7.0])), number_column([100, 8])),
    ],
)  # fmt: skip
def test_a_look_up_matches_by_value(mine: Column, theirs: Column) -> None:
    other = Records({"code": theirs, "name": text_column(["hundred", "other"])}, 2)
    found = looked_up(Records({"n": mine}, 2), Lookup(source="O", match={"n": "code"}, take="name"), {"O": other})
    assert [found.column.item(i) for i in range(2)] == ["hundred", None]


@pytest.mark.parametrize("count", [0, 3])
def test_a_column_without_values_takes_the_kind_that_is_asked_of_it(count: int) -> None:
    blank = text_column([None] * count)
    data = Records({"k": blank, "d": blank, "v": blank, "due": blank}, count)
    figures = [SUM, {"name": "n", "take": "count"}, {"name": "m", "take": "median", "of": "v"}, compared(), {"name": "f", "formula": "s / n"},
               {"name": "x", "take": "max", "of": "d"}, {"name": "r", "running": "s", "along": "d"}]  # fmt: skip
    found = sheet(
        data, only=["v > 5 OR v IS NULL", "d - DATE '2026-01-01' > 3 OR d IS NULL", "v + 1 > 2 OR k IS NULL"],
        down=[{"category": "k"}, {"period": "d", "grains": ["year"]}, {"bucket": "v", "cut": [0, 9], "empty": "hide"}, {"age": "due", "cut": [0, 30], "empty": "hide"}],
        figures=figures,
    )  # fmt: skip
    assert (found.tie_out.read, found.tie_out.on_sheet) == (count, count)


# -- keys


def test_a_key_tells_its_parts_apart_and_a_copy_of_a_document_from_the_document() -> None:
    assert (
        len(
            {
                key("k", *parts)
                for parts in [("a", "b"), ("ab",), ("a", ("b",)), (1,), ("1",), (True,), (1.0,), (None,), ((),)]
            }
        )
        == 9
    )
    first = report()
    assert key("r", first) == key("r", definition(first.model_dump(by_alias=True), "t"))
    assert key("r", first) != key("r", first.model_copy(update={"title": "other"}))


def test_a_blank_key_matches_nothing_in_a_look_up_not_even_a_blank() -> None:
    mine = Records({"n": text_column(["a", None, "b"])}, 3)
    other = Records({"code": text_column([None, "b", "a"]), "name": text_column(["blank", "B", "A"])}, 3)
    found = looked_up(mine, Lookup(source="O", match={"n": "code"}, take="name"), {"O": other})
    assert [found.column.item(i) for i in range(3)] == ["A", None, "B"]
    assert (found.unmatched, found.repeated) == (1, 0)


@pytest.mark.parametrize(
    ("formula", "want"),
    [
        ("n IN (1, NULL)", [True, None, None]), ("NOT n IN (1, NULL)", [False, None, None]), ("n IN (1, 2)", [True, True, None]),
        ("NOT n IN (1, 2)", [False, False, None]), ("t IN ('a', 'z')", [True, False, None]), ("t IN ('a', NULL)", [True, None, None]),
        ("n IN (1.0, 5.5)", [True, False, None]), ("1 IN (n, 2)", [True, True, None]),
    ],
)  # fmt: skip
def test_in_is_unknown_where_a_blank_could_be_the_value(formula: str, want: list[Any]) -> None:
    scope = Scope({"n": number_column([1, 2, None]), "t": text_column(["a", "b", None])}, 3)
    found = evaluate(formula, scope)
    if formula == "1 IN (n, 2)":
        assert found.item(0) is True
        return
    assert [found.item(i) for i in range(3)] == want


@pytest.mark.parametrize(("desc", "want"), [(False, ["b", "c", "a"]), (True, ["a", "c", "b"])])
@pytest.mark.parametrize("take", ["mean", "sum", "count", "max"])
def test_lines_stand_by_a_figure_rising_or_falling(take: str, desc: bool, want: list[str]) -> None:
    data = records(k=["a", "a", "a", "b", "c", "c"], v=[5, 6, 7, 1, 2, 3])
    figure = {"name": "x", "take": take, **({} if take == "count" else {"of": "v"})}
    down = [{"category": "k", "order": {"by": "x", "desc": desc}}]
    assert column_of(table(data, down=down, figures=[figure], totals={"grand_down": "none"}), "k") == want


# -- members


@pytest.mark.parametrize(("size", "at", "want"), [(3, 1, [0, 2, 3, -1]), (3, 3, [0, 1, 2, -1]), (0, 0, [-1])])
def test_room_made_for_a_member_moves_those_after_it_and_leaves_none_none(size: int, at: int, want: list[int]) -> None:
    assert made_room(size, at).tolist() == want
