"""Further tests found by mutation testing, one for each mutant."""

import csv
import io
from datetime import date
from typing import Any

import numpy as np
import pytest

from kalendor.core.formulas.formulas import holds
from kalendor.core.formulas.scope import Scope
from kalendor.core.groupings.calendars import calendar
from kalendor.core.groupings.ground import groupings
from kalendor.core.placing.frame import Step
from kalendor.core.placing.lookups import matched_keys
from kalendor.core.placing.material import Material
from kalendor.core.placing.shifts import Shift
from kalendor.core.report import work_out
from kalendor.core.sheet.plain import from_plain, plain
from kalendor.core.takes.groups import Groups
from kalendor.core.takes.sums import exact_sums, sums
from kalendor.core.trail.cell import Cell
from kalendor.core.values.arithmetic import modulo
from kalendor.core.values.columns import Column, Kind, Records, day_number, day_of, number_column, text_column
from kalendor.core.values.memory import Memory
from kalendor.definitions.kinds import default_calendar
from kalendor.desk.trails import check_cell
from kalendor.errors import DefinitionError
from kalendor.output.delimited import sheet_delimited
from kalendor.output.dependence import check_parts
from kalendor.output.flat import flat
from kalendor.output.handover import Handover
from kalendor.output.shown import shown_cells
from tests.core.build import SUM, TODAY, compared, records, report, sheet, table

MONTHS = [{"period": "on", "grains": ["month"]}]


@pytest.mark.parametrize("text", [False, True])
def test_different_values_of_groups_that_have_one_each(text: bool) -> None:
    count = 3_000
    v = text_column([f"t{n % 7}" for n in range(count)]) if text else number_column([n % 7 for n in range(count)])
    data = Records({"a": number_column(list(range(count))), "v": v}, count)
    rows = table(data, down=[{"category": "a"}], figures=[{"name": "d", "take": "distinct", "of": "v"}])
    assert {row["d"] for row in rows[:-1]} == {"1"}
    assert rows[-1]["d"] == "7"


def test_a_part_week_as_a_place_counts_on_the_nearest_day_of_its_like() -> None:
    shift = Shift("year_earlier", by_place=True)
    days = np.array([day_number(date(2025, 1, 1)), day_number(date(2025, 1, 7))])
    found = shift.forward(calendar(default_calendar()), "week", days)
    assert [day_of(int(d)).isoformat() for d in found] == ["2026-01-01", "2026-01-06"]


def test_a_dividing_formula_is_marked_only_where_an_amount_is_approximate() -> None:
    data = records(a=["x", "y"], v=["1.50", "2.50"])
    data = data.with_column("f", Column(Kind.APPROXIMATE, np.array([0.1, 0.2])))
    figures: list[dict[str, Any]] = [
        SUM,
        {"name": "f", "take": "sum", "of": "f"},
        {"name": "n", "take": "count"},
        {"name": "mean", "formula": "s / n"},
        {"name": "rough", "formula": "f / n"},
        {"name": "cube", "formula": "s * 100000000000 * s * 100000000000"},
    ]
    found = {f.name: f.approximate for f in sheet(data, down=[{"category": "a"}], figures=figures).figures}
    assert found == {"s": False, "f": True, "n": False, "mean": False, "rough": True, "cube": True}


def test_an_index_of_percentages_is_no_percentage() -> None:
    rate = Column(Kind.DECIMAL, np.array([1100, 1200]), None, 4, percent=True)
    data = records(on=[date(2025, 5, 1), date(2026, 5, 1)]).with_column("v", rate)
    figures = [SUM, compared("index"), {**compared("difference"), "name": "d"}]
    found = {f.name: f.percent for f in sheet(data, down=MONTHS, figures=figures).figures}
    assert found == {"s": True, "c": False, "d": True}


def test_the_period_before_days_from_and_to_is_as_many_days_before_them() -> None:
    on = [date(2025, 12, 30), date(2025, 12, 31), date(2026, 1, 9), date(2026, 1, 10), date(2026, 1, 19)]
    data = records(on=on, v=[1, 10, 100, 1_000, 10_000])
    window = {"of": "on", "show": {"from": "2026-01-10", "to": "2026-01-19"}}
    (row,) = table(data, window=window, figures=[SUM, compared("base", "period_before")], as_of="2026-01-31")
    assert (row["s"], row["c"]) == ("11000", "110")
    last = {"of": "on", "show": {"last": 10, "grain": "day"}}
    (row,) = table(data, window=last, figures=[SUM, compared("base", "period_before")], as_of="2026-01-19")
    assert (row["s"], row["c"]) == ("11000", "110")


def test_a_missing_count_of_values_counts_as_none_in_differences() -> None:
    data = records(a=["x", "y", "x"], on=[date(2025, 5, 1), date(2025, 5, 2), date(2026, 5, 1)], v=[1, 2, 3])
    figures = [{"name": "s", "take": "count_values", "of": "v"}, compared("difference", to_date=False)]
    rows = table(data, down=[{"category": "a"}], across=[{"period": "on", "grains": ["year"]}], figures=figures, totals={"grand_across": "none"})  # fmt: skip
    assert {(r["a"], r["year"]): r["c"] for r in rows if r["year"] == "2026"} == {("x", "2026"): "0", ("y", "2026"): "-1", ("", "2026"): "-1"}  # fmt: skip


def test_a_moving_figure_is_blank_beyond_the_data() -> None:
    data = records(on=[date(2026, 1, 1), date(2026, 2, 1), date(2026, 5, 1)], v=[1, 2, 4], w=[1, 1, None])
    figures = [SUM, {"name": "m", "moving": "s", "periods": 2, "take": "sum"}]
    down = [{"period": "on", "grains": ["month"], "empty": "show"}]
    rows = table(data, down=down, figures=figures, only=["w IS NOT NULL"], as_of="2026-02-28")
    found = {r["month"]: r["m"] for r in rows}
    assert (found["Jan 2026"], found["Feb 2026"]) == ("", "3")
    assert set(found.values()) == {"", "3"}


def test_sums_at_the_edges_of_doubles_and_of_64_bits() -> None:
    for values in ([2**53, 1], [2**53 - 1, 1, 1], [2**62, 2**62], [-(2**63 - 1), -1], [2**52, 2**52, 1]):
        for more in ([], [5]):
            ids = np.array([0] * len(values) + [1] * len(more))
            found = exact_sums(ids, np.array([*values, *more], dtype=np.int64), 2)
            assert [int(x) for x in found] == [sum(values), sum(more)]


def test_sums_by_blocks_are_exact_beyond_64_bits(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("kalendor.core.takes.sums.BLOCK", 4)
    for unit in (1, 2**53, 2**60, 2**62):
        values = np.full(37, unit, dtype=np.int64)
        found = sums(Groups(np.arange(37) % 3, 3, None), Column(Kind.WHOLE, values))
        assert [int(x) for x in found] == [13 * unit, 12 * unit, 12 * unit]


@pytest.mark.parametrize(
    ("expect", "agrees"), [("9007199254740993", True), ("9007199254740992", False), ("9007199254740993.0", True)]
)
def test_expected_totals_are_compared_exactly(expect: str, agrees: bool) -> None:
    data = records(a=["x", "y"], v=[9007199254740992, 1])
    (control,) = sheet(data, figures=[SUM], controls=[{"figure": "s", "expect": expect}]).tie_out.controls
    assert control.agrees is agrees


def test_a_blank_cell_of_an_approximate_figure_is_not_marked() -> None:
    floats = Column(Kind.APPROXIMATE, np.array([0.5, 0.0]), np.array([False, True]))
    data = records(a=["x", "y"]).with_column("v", floats)
    rows = table(data, down=[{"category": "a"}], figures=[SUM])
    assert [(r["a"], r["s"], r["s mark"]) for r in rows] == [("x", "0.5", "approximate"), ("y", "", ""), ("", "0.5", "approximate")]  # fmt: skip


@pytest.mark.parametrize(
    "label", ["=1+1", '=HYPERLINK("x","y")', "+a,b", "@x\ny", "-3,5", "plain, with comma", 'plain "quoted"']
)
def test_texts_that_a_program_might_run_are_guarded_whether_quoted_or_not(label: str) -> None:
    data = records(a=[label, "z"], v=[1, 2])
    written = sheet_delimited(Handover(sheet(data, down=[{"category": "a"}], figures=[SUM]))).decode("utf-8-sig")
    first = [row[0] for row in csv.reader(io.StringIO(written)) if row and label in row[0]]
    assert first == [f"'{label}" if label[0] in "=+-@" else label]


def test_no_difference_bears_no_plus() -> None:
    data = records(on=[date(2025, 5, 1), date(2026, 5, 1)], v=["1.50", "1.50"])
    found = sheet(data, down=MONTHS, figures=[SUM, compared("difference")], totals={"grand_down": "none"})
    assert shown_cells(found.figures[1], np.array([2]))[0] == "0.00"


def test_a_leap_day_has_neither_difference_nor_mark() -> None:
    data = records(on=[date(2023, 2, 28), date(2024, 2, 28), date(2024, 2, 29), date(2024, 3, 1)], v=[1, 2, 4, 8])
    figures = [SUM, compared("difference"), {**compared("percent"), "name": "p"}]
    rows = table(data, down=[{"period": "on", "grains": ["day"]}], figures=figures, as_of="2024-03-31")
    found = {r["day"]: (r["c"], r["p"], r["p mark"]) for r in rows}
    assert found["2024-02-28"] == ("1", "1", "")
    assert found["2024-02-29"] == ("", "", "")
    assert found["2024-03-01"] == ("8", "", "new")


def test_an_hour_on_a_leap_day_has_no_counterpart_either() -> None:
    hours = [
        (day_number(d) * 24 + 10) * 3_600_000_000 for d in (date(2023, 2, 28), date(2024, 2, 28), date(2024, 2, 29))
    ]
    data = records(v=[1, 2, 4]).with_column("at", Column(Kind.DATETIME, np.array(hours)))
    rows = table(data, down=[{"period": "at", "grains": ["hour"]}], figures=[SUM, compared("difference")], as_of="2024-03-31")  # fmt: skip
    assert [(r["hour"], r["c"]) for r in rows[1:3]] == [("2024-02-28 10:00", "1"), ("2024-02-29 10:00", "")]


def test_keys_of_two_columns_match_also_where_none_is_blank() -> None:
    mine = [text_column(["a", "a", "b"]), text_column(["x", "y", "x"])]
    theirs = [text_column(["a", "b"]), text_column(["x", "x"])]
    own, other = matched_keys(mine, theirs)
    assert [int(k) >= 0 and int(k) in other.tolist() for k in own] == [True, False, True]
    assert len(set(other.tolist())) == 2
    assert min(other) >= 0


def test_equal_values_share_a_rank_wherever_they_stand() -> None:
    data = records(a=["p", "q", "r", "s", "t"], v=[5, 3, 3, 1, 1])
    rows = table(data, down=[{"category": "a"}], figures=[SUM, {"name": "place", "rank": "s"}])
    assert [r["place"] for r in rows] == ["1", "2", "2", "4", "4", ""]


@pytest.mark.parametrize(
    ("pattern", "met"), [("%ab%c", [True, False]), ("a%b%c", [True, False]), ("%b%", [True, True])]
)
def test_a_pattern_whose_middle_stands_at_the_very_start(pattern: str, met: list[bool]) -> None:
    scope = Scope({"t": text_column(["abc", "xb"])}, 2)
    assert holds(f"t LIKE '{pattern}'", scope).tolist() == met


def test_a_moment_is_compared_with_a_written_one() -> None:
    at = Column(Kind.DATETIME, np.array([1_767_261_600_000_000, 1_767_261_600_500_000]))
    scope = Scope({"at": at}, 2)
    assert holds("at > TIMESTAMP '2026-01-01 10:00:00'", scope).tolist() == [False, True]
    assert holds("at = TIMESTAMP '2026-01-01 10:00:00.5'", scope).tolist() == [False, True]


def test_a_cell_beyond_the_last_line_or_column_is_none() -> None:
    found = sheet(records(a=["x", "y"], v=[1, 2]), down=[{"category": "a"}], figures=[SUM])
    check_cell(found, Cell("s", 2, 0))
    for line, column in ((3, 0), (-1, 0), (0, 1), (0, -1)):
        with pytest.raises(DefinitionError, match="no such line or column"):
            check_cell(found, Cell("s", line, column))


def test_the_last_key_of_a_wide_step_is_found() -> None:
    keys = np.array([3, 9, 10**12], dtype=np.int64)
    wide = Step(keys, 10**9, None)
    assert wide.locate(np.array([10**12, 3, 9, 4, -1, 10**13])).tolist() == [2, 0, 1, -1, -1, -1]


def test_the_remainder_by_zero_is_blank_beyond_64_bits_too() -> None:
    wide = Column(Kind.WHOLE, np.array([10**30, 10**30 + 1], dtype=object))
    found = modulo(wide, number_column([0, 10]))
    assert [found.item(0), found.item(1)] == [None, 1]


def test_a_written_moment_has_its_hour() -> None:
    at = Column(Kind.DATETIME, np.array([1_767_261_600_000_000]))
    scope = Scope({"at": at}, 1)
    assert holds("at = CAST('2026-01-01 10:00:00' AS TIMESTAMP)", scope).tolist() == [True]


def test_text_and_numbers_do_not_stand_in_one_column() -> None:
    scope = Scope({"t": text_column(["a"]), "v": number_column([1])}, 1)
    for mixed in ("CASE WHEN v = 1 THEN t ELSE v END", "COALESCE(v, t)"):
        with pytest.raises(DefinitionError, match="cannot"):
            holds(f"{mixed} = t", scope)


def test_the_smallest_and_largest_by_their_number() -> None:
    data = records(a=["x"] * 4 + ["y"], v=[40, 10, 30, 20, 5])
    figures = [
        {"name": f"{side} {n}", "take": f"nth_{side}", "of": "v", "n": n}
        for side in ("smallest", "largest")
        for n in (1, 2, 4)
    ]
    rows = table(data, down=[{"category": "a"}], figures=figures, totals={"grand_down": "none"})
    assert [[row[f["name"]] for f in figures] for row in rows] == [
        ["10", "20", "40", "40", "30", "10"],
        ["5", "", "", "5", "", ""],
    ]


def test_a_sign_of_one_turns_nothing_and_of_minus_one_turns_its_label() -> None:
    data = records(a=["x", "y"], v=[1, 10])
    for signs, total in (({"x": 1}, "11"), ({"x": -1}, "9"), ({"x": 1, "y": -1}, "-9"), ({"none": -1}, "11")):
        assert table(data, down=[{"category": "a", "signs": signs}], figures=[SUM])[-1]["s"] == total


def test_totals_changed_under_a_comparison_are_worked_out_anew() -> None:
    data = records(a=["x", "y"], on=[date(2025, 5, 1), date(2026, 5, 1)], v=[1, 10])
    kept = Material(data, groupings([]))
    keys: dict[str, Any] = {"down": [{"category": "a"}], "across": MONTHS, "figures": [SUM, compared("difference")]}
    memory = Memory(10**8)
    for totals in ({}, {"grand_down": "none"}, {"grand_across": "none"}, {}):
        asked = report(**keys, totals=totals)
        assert flat(work_out(asked, kept, TODAY, memo=memory)).rows == flat(work_out(asked, kept, TODAY)).rows


def test_a_sheets_rows_are_called_totals_where_a_heading_stands_over_them() -> None:
    data = records(a=["x", "x", "y"], b=["p", "q", "p"], v=[1, 2, 3])
    down = [{"category": "a"}, {"category": "b"}]
    assert sheet(data, down=down, figures=[SUM]).lines.row_labels() == [
        "x", "p", "q", "x total", "y", "p", "y total", "Total",
    ]  # fmt: skip
    above = sheet(data, down=down, figures=[SUM], totals={"down": "before"})
    assert above.lines.row_labels() == ["x", "p", "q", "y", "p", "Total"]


def test_a_part_by_the_ranges_of_all_is_refused_whoever_names_them() -> None:
    data = records(a=["x", "x", "y"], v=[1, 2, 3])
    named = {"kalendor": 1, "kind": "buckets", "name": "Thirds", "cut": {"quantiles": 3}}
    cut = {**named, "cut": [1, 2]}
    for across, refused in (({"set": "Thirds"}, True), ({"cut": {"quantiles": 3}}, True), ({"cut": [1, 2]}, False)):
        found = sheet(data, named, down=[{"category": "a"}], across=[{"bucket": "v", **across}], figures=[SUM])
        assert from_plain(plain(found)).columns.levels == found.columns.levels
        if refused:
            with pytest.raises(DefinitionError, match="equal-count groups"):
                check_parts(found)
        else:
            check_parts(found)
    check_parts(sheet(data, {**cut, "name": "Thirds"}, down=[{"bucket": "v", "set": "Thirds"}], figures=[SUM]))
