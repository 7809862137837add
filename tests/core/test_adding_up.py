"""Rounding that adds up: every shown total is the sum of the numbers shown under it."""

from decimal import ROUND_HALF_UP, Decimal
from fractions import Fraction
from typing import Any

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from kalendor.core.sheet.plain import from_plain, plain
from kalendor.core.sheet.sheet import Sheet
from kalendor.output.shown import shown_cells
from tests.core.build import records, sheet

LABELS = st.sampled_from(["a", "b", "c", "d", "e", None])
amounts = st.one_of(
    st.decimals(-5000, 5000, places=2, allow_nan=False), st.integers(-40, 40).map(lambda n: Decimal(n) * 100)
)


@st.composite
def tables(draw: st.DrawFn) -> dict[str, list[Any]]:
    n = draw(st.integers(1, 40))
    return {
        "v": draw(st.lists(amounts, min_size=n, max_size=n)),
        **{name: draw(st.lists(LABELS, min_size=n, max_size=n)) for name in ("k", "l", "x", "y")},
    }


def footed(data: dict[str, list[Any]], down: str, across: str, **form: Any) -> Sheet:
    figure = {"name": "s", "take": "sum", "of": "v", "format": {"foots": True, **form}}
    return sheet(
        records(**data),
        figures=[figure],
        down=[{"category": c} for c in down],
        across=[{"category": c} for c in across],
    )


def numbers(found: Sheet) -> np.ndarray[Any, Any]:
    """The shown numbers, shape (lines, columns), as fractions; 0 for an empty cell."""
    count = found.lines.count * found.columns.count
    texts = shown_cells(found.figures[0], np.arange(count))
    values = [
        Fraction(t.replace(",", "").replace("%", "").replace("(", "-").strip(")")) if t else Fraction(0) for t in texts
    ]
    return np.array(values, dtype=object).reshape(found.lines.count, found.columns.count)


def children(parents: list[int]) -> dict[int, list[int]]:
    families: dict[int, list[int]] = {}
    for at, parent in enumerate(parents):
        if parent >= 0:
            families.setdefault(parent, []).append(at)
    return families


@given(tables(), st.sampled_from(["k", "kl"]), st.sampled_from(["", "x", "xy"]), st.integers(0, 1))
def test_what_is_shown_adds_up_both_ways(data: dict[str, list[Any]], down: str, across: str, places: int) -> None:
    found = footed(data, down, across, places=places)
    shown, step = numbers(found), Fraction(1, 10**places)
    for node, beneath in children(found.lines.parent.tolist()).items():
        assert (shown[node] == shown[beneath].sum(axis=0)).all()
    for node, beneath in children(found.columns.parent.tolist()).items():
        assert (shown[:, node] == shown[:, beneath].sum(axis=1)).all()
    exact = np.array(
        [Fraction(0) if c is None else Fraction(str(c)) for c in map(found.figures[0].cells.item, range(shown.size))]
    )
    exact = exact.reshape(shown.shape)
    total = Decimal(str(found.figures[0].cells.item(0))).quantize(Decimal(1).scaleb(-places), ROUND_HALF_UP)
    assert shown[0, 0] == Fraction(total)
    inner_lines, inner_columns = set(found.lines.parent.tolist()), set(found.columns.parent.tolist())
    for line in range(shown.shape[0]):
        for column in range(shown.shape[1]):
            if line not in inner_lines and column not in inner_columns:
                assert abs(shown[line, column] - exact[line, column]) < step
                if exact[line, column] % step == 0:
                    assert shown[line, column] == exact[line, column], (
                        "a number that needs no rounding is shown as it is"
                    )


@given(st.lists(st.decimals(-500, 500, places=2, allow_nan=False), min_size=1, max_size=12))
def test_one_list_is_rounded_by_largest_remainders(values: list[Decimal]) -> None:
    found = footed({"v": values, "k": [f"k{i:02}" for i in range(len(values))]}, "k", "", places=0)
    floors = [int(v // 1) - (1 if v % 1 < 0 else 0) for v in values]
    rests = [v - f for v, f in zip(values, floors, strict=True)]
    total = int(sum(values, Decimal(0)).quantize(Decimal(1), ROUND_HALF_UP))
    first = sorted(range(len(values)), key=lambda i: (-rests[i], -abs(floors[i]), i))[: total - sum(floors)]
    assert numbers(found)[1:, 0].tolist() == [f + (i in first) for i, f in enumerate(floors)]


def test_thousands_of_lines_add_up_to_the_thousands_of_their_total() -> None:
    found = footed(
        {"v": [Decimal(1400), Decimal(1400), Decimal(1400)], "k": ["a", "b", "c"]}, "k", "", unit="thousands", places=0
    )
    assert numbers(found)[:, 0].tolist() == [4, 2, 1, 1]
    assert "s is rounded so that it adds up; 1 number differs from the nearest" in found.notes
    assert numbers(from_plain(plain(found))).tolist() == numbers(found).tolist()


def test_shares_add_up_to_the_hundred_percent_of_their_total() -> None:
    share = {"name": "p", "share": "s", "of_total": "column", "format": {"foots": True, "places": 0}}
    base = {"name": "s", "take": "sum", "of": "v", "hide": True}
    found = sheet(records(v=[1, 1, 1], k=["a", "b", "c"]), figures=[base, share], down=[{"category": "k"}])
    assert numbers(found)[:, 0].tolist() == [100, 34, 33, 33]


def test_a_line_made_from_others_is_rounded_by_itself() -> None:
    made = {"name": "Twice a", "level": "k", "formula": "2 * a"}
    data = records(v=[Decimal("1.4"), Decimal("1.4"), Decimal("1.4")], k=["a", "b", "c"])
    figure = {"name": "s", "take": "sum", "of": "v", "format": {"foots": True, "places": 0}}
    found = sheet(data, figures=[figure], down=[{"category": "k"}], lines=[made])
    by_label = dict(zip(found.lines.labels.tolist(), numbers(found)[:, 0].tolist(), strict=True))
    assert by_label["a"] + by_label["b"] + by_label["c"] == 4
    assert by_label["Twice a"] == 3


def test_a_figure_that_does_not_add_up_is_rounded_number_by_number() -> None:
    mean = {"name": "m", "take": "mean", "of": "v", "format": {"foots": True, "places": 0}}
    found = sheet(records(v=[1, 2, 4], k=["a", "a", "b"]), figures=[mean], down=[{"category": "k"}])
    assert numbers(found)[:, 0].tolist() == [2, 2, 4]
    assert found.figures[0].rounded is None
    assert not any("rounded" in note for note in found.notes), "nothing is said that does not hold"
