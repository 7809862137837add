"""A figure's new name is followed wherever its old one is meant, and nowhere else."""

from typing import Any

import pytest

from tests.page.conftest import Asked

REPORT: dict[str, Any] = {
    "kalendor": 1, "kind": "report", "title": "Net", "source": "Net",
    "figures": [
        {"name": "Net", "take": "sum", "of": "Net", "where": "Net > 0"},
        {"name": "Change", "compare": "Net", "with": {"figure": "Net"}, "as": "percent"},
        {"name": "Rate", "formula": "Net / \"Net\" + NET * 2 + COALESCE(net, 0)"},
        {"name": "Share", "share": "Net"}, {"name": "Run", "running": "Net"}, {"name": "Move", "moving": "Net", "periods": 2},
        {"name": "Rank", "rank": "Net"},
    ],
    "down": [{"category": "Net", "top": 3, "by": "Net", "order": {"by": "Net", "desc": True}}],
    "across": [{"category": "b", "order": {"by": "Net"}}],
    "keep": [{"level": "Net", "where": "Net > 10 AND note <> 'Net'"}],
    "controls": [{"figure": "Net", "expect": "1"}],
    "notes": [{"text": "Net", "figure": "Net"}],
    "cadence": {"limits": [{"figure": "Net", "against": "year_earlier", "percent": 5}]},
    "layout": {"widths": {"Net": 9, "": 4}},
    "silenced": [{"keep": {"level": "Net", "where": "net < 5"}}],
}  # fmt: skip


def test_a_figures_name_is_followed_in_all_that_rests_on_it(asked: Asked) -> None:
    found = asked("renaming.withFigureRenamed", REPORT, "Net", "Net sales")
    change, rate = found["figures"][1], found["figures"][2]
    assert (change["compare"], change["with"]) == ("Net sales", {"figure": "Net sales"})
    assert rate["formula"] == '"Net sales" / "Net sales" + "Net sales" * 2 + COALESCE("Net sales", 0)'
    assert [found["figures"][i][k] for i, k in ((3, "share"), (4, "running"), (5, "moving"), (6, "rank"))] == 4 * [
        "Net sales"
    ]
    assert found["down"] == [
        {"category": "Net", "top": 3, "by": "Net sales", "order": {"by": "Net sales", "desc": True}}
    ]
    assert found["across"][0]["order"] == {"by": "Net sales"}
    assert found["keep"][0] == {"level": "Net", "where": "\"Net sales\" > 10 AND note <> 'Net'"}
    assert found["controls"][0]["figure"] == found["notes"][0]["figure"] == "Net sales"
    assert found["cadence"]["limits"][0]["figure"] == "Net sales"
    assert found["layout"]["widths"] == {"Net sales": 9, "": 4}
    assert found["silenced"][0]["keep"]["where"] == '"Net sales" < 5'
    assert found["figures"][0]["of"] == "Net"
    assert found["figures"][0]["where"] == "Net > 0"


@pytest.mark.parametrize(
    ("formula", "want"),
    [
        ("a.b", "a.b"),
        ("abs(abs)", 'abs("x y")'),
        ("'abs' || abs", "'abs' || \"x y\""),
        ('"say ""abs""" + abs', '"say ""abs""" + "x y"'),
    ],
)
def test_only_the_name_itself_is_followed_in_a_formula(asked: Asked, formula: str, want: str) -> None:
    assert asked("renaming.renamedInFormula", formula, "abs", "x y") == want
