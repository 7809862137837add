"""Trees as they are edited, sheets as they are opened and closed, and numbers and dates as they are typed."""

from typing import Any

import pytest

from tests.page.conftest import Asked

TREE: dict[str, Any] = {
    "kalendor": 1, "kind": "tree", "name": "T", "levels": ["Area", "Route"],
    "roots": [
        {"label": "North", "under": [{"value": "a", "label": "Alpha"}, {"value": "b"}]},
        {"label": "South", "under": [{"value": "c"}]},
    ],
}  # fmt: skip


def shape(tree: dict[str, Any]) -> list[Any]:
    """Categories with what is under them: values, with the day since which they stand there."""

    def of(node: dict[str, Any]) -> Any:
        if node.get("value"):
            return node["value"] + (f"@{node['since']}" if node.get("since") else "")
        return [node["label"], *map(of, node.get("under") or [])]

    return [of(node) for node in tree["roots"]]


def test_values_are_gathered_moved_and_let_go(asked: Asked) -> None:
    gathered = asked("treeEdits.gathered", TREE, ["a", "new"], "East")
    assert shape(gathered) == [["North", "b"], ["South", "c"], ["East", "a", "new"]]
    assert gathered["roots"][2]["under"][0]["label"] == "Alpha"
    moved = asked("treeEdits.movedTo", TREE, ["a", "b"], [1])
    assert shape(moved) == [["North"], ["South", "c", "a", "b"]]
    assert shape(asked("treeEdits.movedTo", TREE, ["a"], None)) == [["North", "b"], ["South", "c"]]


def test_a_value_moves_from_a_day_on_and_again(asked: Asked) -> None:
    once = asked("treeEdits.movedFrom", TREE, ["a"], [1], "2026-01-01")
    assert shape(once) == [["North", "a", "b"], ["South", "c", "a@2026-01-01"]]
    back = asked("treeEdits.movedFrom", once, ["a"], [0], "2026-06-01")
    assert shape(back) == [["North", "a", "b", "a@2026-06-01"], ["South", "c", "a@2026-01-01"]]
    other = asked("treeEdits.movedFrom", once, ["a"], [0], "2026-01-01")
    assert shape(other) == [["North", "a", "b", "a@2026-01-01"], ["South", "c"]]
    assert shape(asked("treeEdits.movedTo", back, ["a"], [1])) == [["North", "b"], ["South", "c", "a"]]


def test_categories_are_ordered_merged_and_taken_away(asked: Asked) -> None:
    assert shape(asked("treeEdits.reordered", TREE, [1], -1)) == [["South", "c"], ["North", "a", "b"]]
    assert asked("treeEdits.reordered", TREE, [0], -1) == TREE
    assert shape(asked("treeEdits.merged", TREE, [0], [1])) == [["South", "c", "a", "b"]]
    assert asked("treeEdits.merged", TREE, [0], [0]) == TREE
    assert shape(asked("treeEdits.ungrouped", TREE, [0])) == ["a", "b", ["South", "c"]]
    assert asked("treeEdits.nodeAt", TREE, [0, 1]) == {"value": "b"}
    assert asked("treeEdits.nodeAt", TREE, [4, 1]) is None


@pytest.mark.parametrize(
    ("from_", "before", "want"),
    [
        ([1], [0], [["South", "c"], ["North", "a", "b"]]),
        ([0, 0], [1, 0], [["North", "b"], ["South", "a", "c"]]),
        ([0, 1], [0, 0], [["North", "b", "a"], ["South", "c"]]),
        ([0], [1, 0], [["South", ["North", "a", "b"], "c"]]),
        ([0], [0, 1], [["North", "a", "b"], ["South", "c"]]),
        ([0], [0], [["North", "a", "b"], ["South", "c"]]),
    ],
)  # fmt: skip
def test_a_line_is_put_before_another(asked: Asked, from_: list[int], before: list[int], want: list[Any]) -> None:
    assert shape(asked("treeEdits.placedBefore", TREE, from_, before)) == want


@pytest.mark.parametrize(
    ("values", "want"), [(["BRA-1", "BRA-2"], "BRA-"), (["BRA-1"], "BRA-"), (["x", "y"], ""), ([], "")]
)
def test_what_values_begin_with_makes_a_rule(asked: Asked, values: list[str], want: str) -> None:
    assert asked("treeEdits.commonStart", values) == want


ROWS = {
    "line": [1, 3, 4, 1, 2, 5, 2, 0], "depth": [1, 2, 2, 1, 1, 2, 1, 0],
    "role": ["heading", "leaf", "leaf", "subtotal", "heading", "leaf", "subtotal", "grand"],
    "label": ["A", "a1", "a2", "A", "B", "b1", "B", "Total"], "special": [0] * 8, "value": [None] * 8, "entry": [0] * 8,
    "name": ["A", "a1", "a2", "A", "B", "b1", "B", "Total"],
}  # fmt: skip


@pytest.mark.parametrize(
    ("openness", "want"),
    [
        ({"depth": 9, "byHand": {}}, ["A", "a1", "a2", "A", "B", "b1", "B", "Total"]),
        ({"depth": 1, "byHand": {}}, ["A", "B", "Total"]),
        ({"depth": 0, "byHand": {}}, ["Total"]),
        ({"depth": 1, "byHand": {"B": True}}, ["A", "B", "b1", "B", "Total"]),
        ({"depth": 9, "byHand": {"A": False}}, ["A", "B", "b1", "B", "Total"]),
    ],
)
def test_groups_open_to_a_level_or_by_hand(asked: Asked, openness: dict[str, Any], want: list[str]) -> None:
    rows = asked("outline.outline", {"rows": ROWS, "down": [{"name": "x"}, {"name": "y"}]}, openness)
    assert [row["label"] for row in rows] == want
    assert all(row["filled"] for row in rows if row["role"] in ("closed", "leaf", "grand"))


@pytest.mark.parametrize(
    ("text", "want"),
    [
        ("1250.50", "1250.50"), ("£1,250.50", "1250.50"), ("(45.00)", "-45.00"), ("45.00-", "-45.00"),
        ("-3", "-3"), ("many", ""), ("1.2.3", ""), ("", ""),
    ],
)  # fmt: skip
def test_totals_are_typed_as_people_write_them(asked: Asked, text: str, want: str) -> None:
    assert asked("numbers.plainNumber", text) == want


@pytest.mark.parametrize(
    ("text", "want"),
    [
        ("2026-12-25, 2026-01-01\n2026-12-25", ["2026-01-01", "2026-12-25"]), ("", []),
        ("25/12/2026", None), ("2026-13-01", None), ("2026-01-01 soon", None),
    ],
)  # fmt: skip
def test_days_are_written_year_first(asked: Asked, text: str, want: Any) -> None:
    assert asked("dates.datesIn", text) == want


@pytest.mark.parametrize(
    ("ask", "args", "want"),
    [
        ("words.money", ["1234567.50"], "1,234,567.50"), ("words.money", ["-1234"], "-1,234"), ("words.money", [""], ""),
        ("words.counted", [1, "line"], "1 line"), ("words.counted", [1200, "line"], "1,200 lines"),
        ("words.span", ["2026-01-05", "2026-03-01"], "5 Jan – 1 Mar 2026"),
        ("words.span", ["2025-01-05", "2026-03-01"], "5 Jan 2025 – 1 Mar 2026"),
        ("words.span", ["2026-01-05", "2026-01-05"], "5 Jan 2026"), ("words.listed", [["a", "b", "c"]], "a, b and c"),
    ],
)  # fmt: skip
def test_words(asked: Asked, ask: str, args: list[Any], want: str) -> None:
    assert asked(ask, *args) == want


def test_records_and_space_stand_among_the_rows_without_being_listed(asked: Asked) -> None:
    listed = {"columns": ["on"], "numeric": [False], "widths": [9], "records": [0, 3, 0, 0, 0, 2, 0, 0]}
    rows = {**ROWS, "role": ["heading", "heading", "leaf", "subtotal", "heading", "heading", "subtotal", "grand"]}
    sheet = {"rows": rows, "down": [{"name": "x"}, {"name": "y"}], "listed": listed}
    found = asked("outline.outline", sheet, {"depth": 9, "byHand": {}}, False)
    assert [row["records"] for row in found] == [0, 3, 0, 0, 0, 2, 0, 0]


@pytest.mark.parametrize(
    ("row", "before", "each", "want"),
    [
        ({"path": "A\x1fa2", "depth": 2, "label": "a2"}, {"path": "A\x1fa1", "depth": 2}, False, ["", "a2"]),
        ({"path": "A\x1fa2", "depth": 2, "label": "a2"}, {"path": "A\x1fa1", "depth": 2}, True, ["A", "a2"]),
        ({"path": "B\x1fa1", "depth": 2, "label": "a1"}, {"path": "A\x1fa1", "depth": 2}, False, ["B", "a1"]),
        ({"path": "A", "depth": 1, "label": "A total"}, {"path": "A\x1fa1", "depth": 2}, False, ["A total", ""]),
        ({"path": "", "depth": 0, "label": "Total"}, {"path": "A", "depth": 1}, False, ["Total", ""]),
    ],
)
def test_labels_stand_once_or_on_each_line(
    asked: Asked, row: dict[str, Any], before: dict[str, Any], each: bool, want: list[str]
) -> None:
    assert asked("outline.levelLabels", row, before, 2, each) == want


@pytest.mark.parametrize(
    ("key", "whole", "want"),
    [
        ("ArrowDown", False, [3, 1]), ("ArrowUp", True, [0, 1]), ("ArrowRight", True, [2, 5]), ("ArrowLeft", False, [2, 0]),
        ("Home", False, [2, -1]), ("End", True, [9, 5]), ("PageDown", False, [9, 1]), ("x", False, None),
    ],
)  # fmt: skip
def test_keys_lead_about_the_sheet(asked: Asked, key: str, whole: bool, want: Any) -> None:
    found = asked("grid.led", {"row": 2, "place": 1}, key, whole, 10, 6)
    assert found == (None if want is None else {"row": want[0], "place": want[1]})


def test_a_chart_has_a_bar_for_each_number_and_shares_fill_the_whole(asked: Asked) -> None:
    numbers = {
        "lines": ["a", "b"],
        "series": ["x", "y"],
        "values": [[1, 3], [2, -2]],
        "texts": [["1", "3"], ["2", "(2)"]],
    }
    bars = asked("charting.drawn", numbers, "bars", False, 400)
    assert [bar["title"] for bar in bars["bars"]] == ["a, x: 1", "a, y: 3", "b, x: 2", "b, y: (2)"]
    assert bars["bars"][3]["negative"]
    widths = [bar["width"] for bar in bars["bars"]]
    assert widths[1] == pytest.approx(3 * widths[0])
    shares = asked("charting.drawn", numbers, "stacked", False, 400)["bars"]
    assert shares[0]["width"] + shares[1]["width"] == pytest.approx(shares[2]["width"] + shares[3]["width"])
    side = asked("charting.drawn", {**numbers, "values": [[2, -1], [4, 4]]}, "ages", False, 400)["bars"]
    assert [bar["series"] for bar in side] == [0, 1, 0, 1]
    assert side[1]["x"] + side[1]["width"] == pytest.approx(side[0]["x"])  # a credit to the other side
    assert side[2]["x"] + side[2]["width"] == pytest.approx(side[3]["x"])
    assert side[2]["width"] == pytest.approx(2 * side[0]["width"])
    aged = asked("charting.drawn", {**numbers, "values": [[2, 1], [4, 3]]}, "ages", True, 400)
    assert ([bar["series"] for bar in aged["bars"]], [note["text"] for note in aged["notes"]]) == (
        [0, 1],
        ["25.0%", "75.0%"],
    )
    bridge = asked("charting.drawn", numbers, "bridge", True, 400)
    assert [name["label"] for name in bridge["names"]] == ["x", "a", "b", "y"]
    assert asked("charting.ticksOver", 0, 10) == [0, 2, 4, 6, 8, 10]
