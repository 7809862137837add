"""Definition documents: refusals and their messages."""

import json
from typing import Any

import pytest

from kalendor.definitions.kinds import definition
from kalendor.errors import DefinitionError
from kalendor.store.definitions import dumped
from tests.core.build import report

REPORT: dict[str, Any] = {
    "kalendor": 1,
    "kind": "report",
    "title": "t",
    "source": "s",
    "figures": [{"name": "n", "take": "count"}],
}
TREE: dict[str, Any] = {"kalendor": 1, "kind": "tree", "name": "T", "levels": ["A", "B"]}
CALENDAR: dict[str, Any] = {"kalendor": 1, "kind": "calendar", "name": "C"}


def figure(**keys: Any) -> dict[str, Any]:
    return {**REPORT, "figures": [{"name": "f", **keys}]}


@pytest.mark.parametrize(
    ("document", "words"),
    [
        ({"kind": "report"}, "kalendor is missing"),
        ({**REPORT, "kalendor": 2}, "kalendor"),
        ({**REPORT, "kind": "nonsense"}, "kind: 'nonsense' does not fit here"),
        ({**REPORT, "colour": 1}, "colour is not a key that is known here"),
        ({**REPORT, "title": ""}, "title"),
        (figure(take="sum"), 'figures[0].take: sum needs "of"|sum needs "of"'),
        (figure(take="percentile", of="x"), 'percentile needs "p"'),
        (figure(take="percentile", of="x", p=101), "figures[0].p"),
        (figure(take="nth_largest", of="x"), 'nth_largest needs "n"'),
        (figure(take="weighted_mean", of="x"), 'needs "weight"'),
        (figure(take="last", of="x"), 'needs "by"'),
        (figure(take="average", of="x"), "figures[0].take"),
        (figure(), "a figure needs one of the keys"),
        (figure(compare="n", **{"with": "last_week"}), "figures[0].with"),
        (figure(moving="n", periods=0), "figures[0].periods"),
        ({**REPORT, "figures": REPORT["figures"] * 2}, "two figures are named 'n'"),
        ({**REPORT, "down": [{"period": "d", "grains": []}]}, "down[0].grains"),
        ({**REPORT, "down": [{"period": "d", "grains": ["fortnight"]}]}, "down[0].grains[0]"),
        ({**REPORT, "down": [{"bucket": "x"}]}, 'give either "set"'),
        ({**REPORT, "down": [{"bucket": "x", "set": "S", "cut": [1]}]}, 'give either "set"'),
        ({**REPORT, "down": [{"bucket": "x", "cut": [3, 1]}]}, "cuts must rise"),
        ({**REPORT, "down": [{"bucket": "x", "cut": {"from": 0, "to": 9, "step": 0}}]}, "down[0].cut"),
        ({**REPORT, "down": [{"age": "x", "cut": [0], "opened": "a"}]}, '"opened" and "closed" go together'),
        ({**REPORT, "down": [{"category": "x", "top": 5}]}, '"top" needs "by"'),
        ({**REPORT, "window": {"of": "d", "show": {}}}, "exactly one of"),
        ({**REPORT, "window": {"of": "d", "show": {"last": 2}}}, '"last" and "grain" go together'),
        ({**REPORT, "window": {"of": "d", "show": {"from": "2026-02-01", "to": "2026-01-01"}}}, '"to" lies before "from"'),
        ({**REPORT, "controls": [{"figure": "n", "expect": "1,5"}]}, "controls[0].expect"),
        ({**TREE, "roots": [{"under": []}]}, 'needs a "label"'),
        ({**TREE, "roots": [{"value": "x", "rule": "1 = 1"}]}, "cannot have a"),
        ({**TREE, "roots": [{"value": "x"}, {"value": "x"}]}, "'x' is placed twice"),
        ({**TREE, "roots": [{"label": "1", "under": [{"label": "2", "under": [{"label": "3"}]}]}]}, "stands deeper"),
        (CALENDAR, 'give exactly one of "months"'),
        ({**CALENDAR, "months": {"start_day": 31}}, "months.start_day"),
        ({**CALENDAR, "weeks": {"ends": "first", "weekday": "monday", "month": 1}}, "weeks.ends"),
        ({**CALENDAR, "table": {"periods": [{"start": "2026-01-01", "name": "P", "year": "Y"}], "ends": "2025-01-01"}}, "must not lie before"),
    ],
)  # fmt: skip
def test_what_is_wrong_is_named_with_its_place(document: dict[str, Any], words: str) -> None:
    with pytest.raises(DefinitionError) as caught:
        definition(document, "d.json")
    assert any(part in str(caught.value) for part in words.split("|"))
    assert str(caught.value).startswith("d.json: ")


@pytest.mark.parametrize(
    ("entry", "words"),
    [
        (
            {"bucket": "x", "cut": {"from": 0, "to": 10**9, "step": 1}},
            "cut: more than 2,000 cuts; choose a larger step",
        ),
        ({"bucket": "x", "cut": {"from": 0, "to": "x", "step": 1}}, "cut.to: 'x' is not a number"),
        ({"bucket": "x", "cut": {"form": 0, "to": 1, "step": 1}}, "cut.form is not a key that is known here"),
        ({"bucket": "x", "cut": {"from": 0, "to": 1}}, "cut.step is missing"),
        ({"bucket": "x", "cut": {"quantiles": 1}}, "cut.quantiles: 1"),
        ({"bucket": "x", "cut": "x"}, "cut: 'x' is not a list"),
        ({"category": "x", "order": {"by": 1}}, "order.by: 1 is not text"),
        ({"category": "x", "order": {"lst": ["a"]}}, "order.lst is not a key that is known here"),
        ({"category": "x", "order": "lable"}, "order: 'lable' does not fit here; there are tree, label"),
        ({"period": "x", "grains": [{"days": 3, "from": "x"}]}, "grains[0].from: 'x' is not a date"),
        ({"period": "x", "grains": ["yaer"]}, "grains[0]: 'yaer' is not a grain; there are year"),
    ],
)
def test_of_several_forms_the_nearest_is_spoken_of(entry: dict[str, Any], words: str) -> None:
    with pytest.raises(DefinitionError) as caught:
        definition({**REPORT, "down": [entry]}, "d.json")
    assert str(caught.value).startswith(f"d.json: down[0].{words}")


def test_a_document_comes_back_as_it_was_written() -> None:
    whole = report(
        down=[
            {"category": "a", "top": 3, "by": "n"},
            {"period": "d", "grains": ["year", {"days": 7, "from": "2026-01-05"}]},
        ],
        figures=[
            {"name": "n", "take": "count"},
            {"name": "c", "compare": "n", "with": {"back": 2, "grain": "month"}, "as": "index"},
        ],
        window={"of": "d", "show": {"from": "2026-01-01", "to": "2026-06-30"}},
    )
    assert definition(json.loads(dumped(whole)), "again") == whole
