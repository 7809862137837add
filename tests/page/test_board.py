"""The board's own reckoning: what is looked at first, where keys lead, and who gets an edition."""

from typing import Any

import pytest

from tests.page.conftest import Asked


def crossing(day: str, state: str, **more: Any) -> dict[str, Any]:
    edition = 1 if state in ("issued", "restated") else None
    return {"last_day": day, "state": state, "edition": edition, "moved": None, **more}


def row(id: int, *cells: list[dict[str, Any]]) -> dict[str, Any]:
    return {"id": id, "cells": list(cells)}


def at(report: int, day: str) -> dict[str, Any]:
    return {"report": report, "lastDay": day}


JULY, JUNE, MAY = "2026-07-31", "2026-06-30", "2026-05-31"


@pytest.mark.parametrize(
    ("rows", "want"),
    [
        ([row(1, [crossing(JULY, "due")]), row(2, [crossing(JULY, "late")])], at(2, JULY)),
        ([row(1, [crossing(JULY, "waiting")]), row(2, [crossing(JULY, "due")])], at(2, JULY)),
        ([row(1, [crossing(JUNE, "issued", moved=True)], [crossing(JULY, "issued")])], at(1, JUNE)),
        ([row(1, [crossing(JUNE, "issued")], [crossing(JULY, "issued")])], at(1, JULY)),
        ([row(1, [crossing(JULY, "past")])], None),
        ([], None),
    ],
)
def test_what_needs_somebody_is_looked_at_first(asked: Asked, rows: Any, want: Any) -> None:
    assert asked("picking.firstOf", {"rows": rows}) == want


def test_keys_lead_over_empty_crossings_and_stop_at_the_edge(asked: Asked) -> None:
    weeks = [crossing("2026-07-05", "issued"), crossing("2026-07-12", "issued")]
    rows = [row(1, [crossing(MAY, "issued")], [], [crossing(JULY, "due")]), row(2, [], weeks, [crossing(JULY, "late")])]
    move = lambda origin, down, right: asked("picking.moved", {"rows": rows}, origin, down, right)  # noqa: E731
    assert move(at(1, MAY), 0, 1) == at(1, JULY)
    assert move(at(1, JULY), 0, 1) == at(1, JULY)
    assert move(at(1, JULY), 1, 0) == at(2, JULY)
    assert move(at(2, JULY), 0, -1) == at(2, "2026-07-12")
    assert move(at(2, "2026-07-12"), -1, 0) == at(2, "2026-07-12")
    assert move(at(9, JULY), 0, 1) == at(9, JULY)


@pytest.mark.parametrize(
    ("text", "want"),
    [
        ("a@x.example\nb@x.example = Inner Sound\n\n", [("a@x.example", None), ("b@x.example", "Inner Sound")]),
        (" a@x.example =  North = South ", [("a@x.example", "North = South")]), ("", []), ("\n \n", []), ("a@x.example =", [("a@x.example", None)]),
    ],
)  # fmt: skip
def test_receivers_are_written_one_a_line(asked: Asked, text: str, want: list[tuple[str, str | None]]) -> None:
    assert [(one["address"], one["member"]) for one in asked("delivery.fromLines", text)] == want


def test_moved_cells_are_marked_where_the_difference_can_be_seen(asked: Asked) -> None:
    sheet = {
        "figures": [{"name": "A"}, {"name": "B"}], "columns": [{"id": 0}, {"id": 4}], "widths": [4, 4, 4, 4],
        "cells": {}, "rows": {},
    }  # fmt: skip
    cells = [
        {"figure": "B", "line": 7, "column": 4, "was": "100.00", "now": "1,000.00"},
        {"figure": "A", "line": 7, "column": 0, "was": "0.1%", "now": "0.1%"},
        {"figure": "A", "line": None, "column": None, "was": "1", "now": ""},
        {"figure": "Gone", "line": 7, "column": 0, "was": "1", "now": "2"},
        {"figure": "A", "line": 7, "column": 99, "was": "1", "now": "2"},
    ]
    assert asked("marking.marked", sheet, cells) == {
        "widths": [4, 4, 4, 15],
        "marks": [["7:3", {"was": "100.00", "now": "1,000.00"}]],
    }


@pytest.mark.parametrize(
    ("label", "want"),
    [("Jul 2026", "July 2026"), ("May 2026", "May 2026"), ("TY26 Q3", "TY26 Q3"), ("2026-W27", "2026-W27")],
)
def test_a_month_is_said_in_full(asked: Asked, label: str, want: str) -> None:
    assert asked("words.inFull", label) == want
