"""Groupings and data: record counts, the effect of a change, trees from and to files."""

from datetime import date
from typing import Any, cast

import pytest

from kalendor.definitions.buckets import Buckets
from kalendor.definitions.calendar import Calendar
from kalendor.definitions.kinds import definition
from kalendor.definitions.tree import Tree
from kalendor.desk import groupings
from kalendor.desk.bringing_in import keep, look_at
from kalendor.desk.choices import choices, said
from kalendor.desk.desk import Desk
from kalendor.desk.grouping_files import table_as_file, table_from_file, tree_as_file, tree_from_columns, tree_from_file
from kalendor.desk.impact import impact
from kalendor.desk.outcomes import outcome
from kalendor.errors import DefinitionError, IntakeError
from kalendor.store.definitions import MissingError

EXPORT = "day,route,group,n\n2025-11-01,A-1,North,1.00\n2026-07-01,A-2,North,2.00\n2026-07-02,B-1,South,4.00\n2026-07-03,,South,8.00\n"
TREE: dict[str, Any] = {"kalendor": 1, "kind": "tree", "name": "T", "levels": ["Area", "Route"],
                        "roots": [{"label": "North", "rule": "value LIKE 'A-%'", "under": [{"value": "A-1"}]}]}  # fmt: skip
REPORT = {"kalendor": 1, "kind": "report", "title": "R", "source": "S", "down": [{"category": "route", "tree": "T"}],
          "figures": [{"name": "sum", "take": "sum", "of": "n"}]}  # fmt: skip


@pytest.fixture
def filled(desk: Desk) -> Desk:
    keep(desk, look_at(desk, "f.csv", EXPORT.encode(), "S").token)
    desk.definitions.add(definition(TREE, "t"), desk.now())
    desk.definitions.add(definition(REPORT, "t"), desk.now())
    return desk


def test_a_tree_shows_records_and_amounts_and_what_is_not_placed(filled: Desk) -> None:
    tree = cast(Tree, definition(TREE, "t"))
    look = groupings.look_at_tree(tree, groupings.subject(filled, tree, None, None))
    assert [(r.label, r.records, r.amount, r.caught) for r in look.rows] == [
        ("North", 2, "3.00", False), ("A-1", 1, "1.00", False), ("A-2", 1, "2.00", True),
    ]  # fmt: skip
    assert [(r.value, r.records) for r in look.loose] == [("B-1", 1)]
    assert (look.values, look.blank) == (3, 1)


def test_a_change_says_which_reports_it_moves_and_by_how_much(filled: Desk) -> None:
    before = cast(Tree, definition(TREE, "t"))
    more = cast(
        Tree, definition({**TREE, "roots": [*TREE["roots"], {"label": "South", "under": [{"value": "B-1"}]}]}, "t")
    )
    (found,) = impact(filled, before, more)
    assert (found.report, found.moved) == ("R", 2)
    assert {(m.line, m.before, m.after) for m in found.lines} == {("Not placed", "4.00", ""), ("South", "", "4.00")}
    broken = cast(Tree, definition({**TREE, "roots": [{"label": "X", "rule": "nope = 1"}]}, "t"))
    assert "rule of X" in impact(filled, before, broken)[0].problem


def test_a_calendar_lists_the_years_that_the_data_touches(filled: Desk) -> None:
    document = cast(Calendar, definition({"kalendor": 1, "kind": "calendar", "name": "C", "months": {"start_month": 11},
                    "year_name": {"prefix": "TY", "digits": 2}, "holidays": ["2025-12-25"]}, "t"))  # fmt: skip
    years, periods, quarters = groupings.look_at_calendar(
        document, groupings.subject(filled, document, None, None), date(2026, 8, 4)
    )
    assert [(y.name, y.first, y.days, y.records, y.working_days) for y in years] == [
        ("TY26", date(2025, 11, 1), 365, 4, 259)
    ]
    assert [p.name for p in periods][:3] == ["Nov", "Dec", "Jan"]
    assert [(q.name, q.first) for q in quarters][1] == ("Q2", date(2026, 2, 1))


def test_ranges_hold_every_record_and_the_ends_are_shown(filled: Desk) -> None:
    document = cast(Buckets, definition({"kalendor": 1, "kind": "buckets", "name": "B", "cut": [2, 4]}, "t"))
    look = groupings.look_at_buckets(document, groupings.subject(filled, document, "S", "n"))
    assert [(r.label, r.records, r.amount) for r in look.ranges] == [
        ("Under 2", 1, "1.00"),
        ("2 up to 4", 1, "2.00"),
        ("4 and over", 2, "12.00"),
    ]
    assert (look.low, look.high, sum(look.bins)) == (1.0, 8.0, 4)


def test_a_tree_goes_to_a_file_and_comes_back(filled: Desk) -> None:
    tree = tree_from_columns(filled, "By columns", "S", ["group", "route"])
    assert [(n.label, [u.value for u in n.under]) for n in tree.roots] == [
        ("North", ["A-1", "A-2"]),
        ("South", ["B-1"]),
    ]
    assert tree_as_file(tree) == b"group,route\nNorth,A-1\nNorth,A-2\nSouth,B-1\n"
    assert tree_from_file("By columns", "t.csv", tree_as_file(tree)) == tree
    with pytest.raises(DefinitionError, match="'1' stands under both a and b"):
        tree_from_file("Twice", "t.csv", b"g,v\na,1\nb,1\n")


def test_values_that_nobody_placed_are_named_when_a_file_brings_them(filled: Desk) -> None:
    waiting = look_at(
        filled, "g.csv", b"day,route,group,n\n2026-08-01,C-9,North,1.00\n2026-08-01,A-7,North,1.00\n", "S"
    )
    assert outcome(filled, waiting).unplaced == ("route C-9 has no place in T yet",)


TABLE = "Start,End,Name,Quarter,Year\n2025-11-01,2025-12-31,Short,Q1,2025\n2026-01-01,2026-01-31,Jan,Q1,2026\n2026-02-01,2026-12-31,Rest,,2026\n"


def test_a_calendar_by_table_is_read_from_a_file_and_written_back() -> None:
    table = table_from_file("t.csv", TABLE.encode())
    assert [(p.start, p.name, p.year, p.quarter) for p in table.periods] == [
        (date(2025, 11, 1), "Short", "2025", "Q1"),
        (date(2026, 1, 1), "Jan", "2026", "Q1"),
        (date(2026, 2, 1), "Rest", "2026", None),
    ]
    assert table.ends == date(2026, 12, 31)
    assert table_from_file("t.csv", table_as_file(table)) == table


@pytest.mark.parametrize(
    ("text", "word"),
    [
        (TABLE.replace("Start", "Begun"), "no column 'start'"),
        (
            TABLE.replace("2025-12-31", "2025-12-30"),
            "line 3: this period starts on 2026-01-01, and the one before ends",
        ),
        (TABLE.replace("2026-12-31", ""), "last period needs the day"),
        (TABLE.replace(",Jan,", ",,"), "line 3: a period needs a name"),
        (TABLE.replace("2026-01-01,", ","), "line 3: a period without the day"),
        ("Start,End,Name,Year\nx,y,a,b\n", "no dates"),
    ],
)
def test_a_table_that_is_not_right_says_where(text: str, word: str) -> None:
    with pytest.raises(IntakeError, match=word):
        table_from_file("t.csv", text.encode())


def test_a_choice_says_what_it_would_give(filled: Desk) -> None:
    filled.definitions.add(definition({**TREE, "name": "Unused", "roots": []}, "t"), filled.now())
    found = [(c.name, said(c)) for c in choices(filled, "tree", "S", "route")]
    assert found == [
        ("", "3 values, 1 blank"),
        ("T", "Area 1 · Route 2, 1 blank, 1 not placed"),
        ("Unused", "Area 0 · Route 0, 1 blank, 3 not placed"),
    ]
    assert [said(c) for c in choices(filled, "calendar", "S", "day")] == ["2 years · 2 quarters · 2 months"]
    filled.definitions.add(
        definition({"kalendor": 1, "kind": "buckets", "name": "B", "cut": [3, 100]}, "t"), filled.now()
    )
    assert [(c.name, said(c)) for c in choices(filled, "buckets", "S", "n")] == [("B", "2 ranges")]
    assert [said(c) for c in choices(filled, "buckets", "S", "day")] == ["2 ranges"]
    assert choices(filled, "buckets", "S", "route")[0].problem == "neither a number nor a date"
    with pytest.raises(MissingError):
        choices(filled, "tree", "S", "nothing")


def test_a_value_that_moves_counts_where_it_is_now_and_shows_where_it_was(filled: Desk) -> None:
    moved = {**TREE, "roots": [
        {"label": "North", "under": [{"value": "A-1"}, {"value": "A-2"}]},
        {"label": "South", "under": [{"value": "A-1", "since": "2026-02-01"}]},
    ]}  # fmt: skip
    tree = cast(Tree, definition(moved, "t"))
    look = groupings.look_at_tree(tree, groupings.subject(filled, tree, "S", "route"))
    assert [(r.label, r.records, r.since, r.until) for r in look.rows] == [
        ("North", 1, None, None), ("A-1", 0, None, date(2026, 2, 1)), ("A-2", 1, None, None),
        ("South", 1, None, None), ("A-1", 1, date(2026, 2, 1), None),
    ]  # fmt: skip


def test_what_a_change_moves_is_seen_at_the_level_that_the_grouping_makes(filled: Desk) -> None:
    small = {"kalendor": 1, "kind": "buckets", "name": "B", "cut": [3, 100]}
    before, after = (cast(Buckets, definition(d, "t")) for d in (small, {**small, "cut": [5, 100]}))
    filled.definitions.add(before, filled.now())
    entry, route = {"bucket": "n", "set": "B"}, {"category": "group"}
    for title, down, across in (("Within", [route, entry], []), ("Across", [route], [entry])):
        filled.definitions.add(definition({**REPORT, "title": title, "down": down, "across": across}, "t"), filled.now())  # fmt: skip
    found = {i.report: [(m.line, m.before, m.after) for m in i.lines] for i in impact(filled, before, after)}
    assert found["Across"] == [
        ("Under 3", "3.00", ""), ("3 up to 100", "12.00", ""), ("Under 5", "", "7.00"), ("5 up to 100", "", "8.00"),
    ]  # fmt: skip
    assert ("South › Under 5", "", "4.00") in found["Within"]
