"""Numbers as written for people and for other programs."""

import io
import json
import zipfile
from dataclasses import replace
from datetime import date, datetime
from decimal import Decimal
from typing import Any

import numpy as np
import pyarrow.parquet as pq
import pytest
from hypothesis import given
from hypothesis import strategies as st

from kalendor.core.sheet.sheet import Sheet, ShownFigure
from kalendor.core.values.columns import Column, Kind, Records, number_column, text_column
from kalendor.definitions.figure import Format
from kalendor.errors import DefinitionError
from kalendor.output.delimited import seen
from kalendor.output.flat import flat
from kalendor.output.handover import Handover
from kalendor.output.numbers import plain_approximate, plain_exact, start_text, texts
from kalendor.output.shown import shown_cells, shown_number, shown_total
from kalendor.output.told import scale_of
from kalendor.output.typeset import typeset
from kalendor.output.writers import write
from tests.core.build import records, sheet


def shown(value: str | None, scale: int, signed: bool = False, percent: bool = False, **form: Any) -> str:
    cells = number_column([None if value is None else Decimal(value)], scale)
    return shown_cells(ShownFigure("f", cells, Format(**form), percent=percent, signed=signed), np.array([0]))[0]


@pytest.mark.parametrize(
    ("value", "places", "form", "want"),
    [
        ("1234567.891", 3, {}, "1,234,567.891"),
        ("1234567.891", 3, {"places": 2}, "1,234,567.89"),
        ("0.125", 3, {"places": 2}, "0.13"),
        ("-0.125", 3, {"places": 2}, "(0.13)"),
        ("-42.00", 2, {}, "(42.00)"),
        ("-42.00", 2, {"negative": "minus"}, "−42.00"),
        ("-0.001", 3, {"places": 2}, "0.00"),
        ("0", 0, {"zero": "dash"}, "–"),
        ("1500", 0, {"unit": "thousands"}, "1.5"),
        ("2500000", 0, {"unit": "millions", "places": 2, "currency": "£"}, "£2.50"),
        ("1234", 0, {"thousands": False}, "1234"),
        ("-5.5", 1, {"currency": "£"}, "(£5.5)"),
        ("0.0642", 4, {"percent": True}, "6.4%"),
        (None, 2, {}, ""),
    ],
)
def test_a_number_in_its_format(value: str | None, places: int, form: dict[str, Any], want: str) -> None:
    assert shown(value, places, **form) == want


formats = st.builds(
    Format,
    places=st.none() | st.integers(0, 9),
    unit=st.sampled_from(["one", "thousands", "millions"]),
    currency=st.sampled_from(["", "€"]),
    thousands=st.booleans(),
    negative=st.sampled_from(["parentheses", "minus"]),
    zero=st.sampled_from(["number", "dash"]),
    percent=st.none() | st.booleans(),
)
near_ties = st.builds(lambda n, places: (n + 0.5) / 10**places, st.integers(-(10**9), 10**9), st.integers(0, 5))


@given(
    st.lists(st.none() | st.integers(-(10**20), 10**20) | st.integers(-5000, 5000), min_size=1),
    st.lists(st.none() | st.floats(allow_nan=False, allow_infinity=False) | near_ties, min_size=1),
    st.integers(0, 9),
    formats,
    st.booleans(),
    st.booleans(),
)
def test_many_cells_are_written_as_each_by_itself(
    whole: list[int | None], approximate: list[float | None], places: int, form: Format, percent: bool, signed: bool
) -> None:
    exact = number_column([None if n is None else Decimal(n).scaleb(-places) for n in whole], places)
    rough = Column(
        Kind.APPROXIMATE, np.array([n or 0.0 for n in approximate]), np.array([n is None for n in approximate])
    )
    for cells in (exact, rough):
        figure = ShownFigure("f", cells, form, percent=percent, signed=signed)
        values = [cells.item(i) for i in range(len(cells))]
        alone = [
            "" if value is None else shown_number(Decimal(repr(value) if cells is rough else value), figure)
            for value in values
        ]
        assert shown_cells(figure, np.arange(len(cells))) == alone


def test_a_change_bears_its_plus_sign_and_a_negative_one_parentheses() -> None:
    assert [shown(v, 3, signed=True, percent=True) for v in ("0.064", "-0.020", "0")] == ["+6.4%", "(2.0%)", "0.0%"]


@given(st.integers(-(10**20), 10**20), st.integers(0, 9))
def test_exact_numbers_keep_all_their_digits(units: int, places: int) -> None:
    assert Decimal(plain_exact(units, places)) == Decimal(units).scaleb(-places)


@given(st.floats(allow_nan=False, allow_infinity=False, width=32))
def test_approximate_numbers_have_no_exponent(value: float) -> None:
    text = plain_approximate(value)
    assert "e" not in text
    assert float(text) == pytest.approx(value, rel=1e-11, abs=1e-300)


def test_columns_of_every_kind_are_written() -> None:
    moment = Column(Kind.DATETIME, np.array([86_400_000_000 + 3_600_000_000]))
    assert texts(moment) == ["1970-01-02T01:00:00"]
    assert texts(Column(Kind.YES_NO, np.array([True, False]), np.array([False, True]))) == ["yes", ""]
    assert (start_text(0, False), start_text(90 * 60_000_000, True)) == ("1970-01-01", "1970-01-01T01:30")


def as_rows(worked: Sheet) -> list[list[str]]:
    headings, fields = seen(typeset(worked))
    return [headings, *(list(row) for row in zip(*fields, strict=True))]


def test_the_sheet_as_seen_has_indented_labels_and_totals_where_asked() -> None:
    data = records(a=["x", "x", "y"], b=["u", "v", "u"], n=[1, 2, 4])
    figures = [{"name": "n", "take": "sum", "of": "n"}]
    axes: dict[str, Any] = {"down": [{"category": "a"}, {"category": "b"}], "figures": figures}
    assert as_rows(sheet(data, **axes)) == [
        ["a · b", "n"], ["x", ""], ["  u", "1"], ["  v", "2"], ["x total", "3"], ["y", ""], ["  u", "4"], ["y total", "4"],
        ["Total", "7"],
    ]  # fmt: skip
    before = as_rows(sheet(data, **axes, totals={"down": "before", "grand_down": "none"}))
    assert before == [["a · b", "n"], ["x", "3"], ["  u", "1"], ["  v", "2"], ["y", "4"], ["  u", "4"]]
    worked = sheet(data, across=[{"category": "a"}, {"category": "b"}], figures=figures)
    across = as_rows(worked)
    assert across[0] == ["test", "x › u › n", "x › v › n", "x › Total › n", "y › u › n", "y › Total › n", "Total › n"]
    assert across[1] == ["Total", "1", "2", "3", "4", "4", "7"]
    spans = [[(s.label, s.columns) for s in row] for row in worked.heading_rows()]
    assert spans == [
        [("x", 3), ("y", 2), ("Total", 1)],
        [("u", 1), ("v", 1), ("Total", 1), ("u", 1), ("Total", 1), ("", 1)],
    ]


def test_text_of_records_never_runs_in_any_writer() -> None:
    evil = "=HYPERLINK(1)"
    data = records(a=[evil, "@x", "-cmd", "007"], n=[1, 2, 3, 4], on=[date(2026, 1, i) for i in (1, 2, 3, 4)])
    last = {"name": "+last", "take": "last", "of": "a", "by": "on"}
    worked = sheet(data, down=[{"category": "a"}], figures=[last])
    for shape in ("flat", "sheet"):
        for line in write(Handover(worked), "csv", shape).decode().splitlines():
            assert not any(cell.strip().startswith(("=", "@", "-", "+")) for cell in line.split(",")), line
        assert json.loads(write(Handover(worked), "json", shape))


def test_marks_stand_in_every_output() -> None:
    on = [date(2024, 5, 1), date(2024, 6, 1), date(2025, 5, 1), date(2025, 6, 1)]
    data = records(a=["gone", "old", "new", "old"], on=on, amount=["1.0", "4.0", "3.0", "5.0"])
    figures = [
        {"name": "sum", "take": "sum", "of": "amount"},
        {"name": "p", "compare": "sum", "with": "year_earlier", "as": "percent"},
    ]
    across = [{"period": "on", "grains": ["year"]}]
    worked = sheet(data, down=[{"category": "a"}], across=across, figures=figures, totals={"grand_across": "none"})
    table = flat(worked)
    assert "p mark" in table.headings
    assert "sum mark" not in table.headings
    marks = [row[table.headings.index("p mark")] for row in table.rows]
    assert sorted(filter(None, marks)) == ["gone", "new"]
    assert {"gone", "new"} <= {cell for row in as_rows(worked) for cell in row}
    assert set(json.loads(write(Handover(worked), "json", "flat"))["rows"][0]) >= {"p mark"}
    assert "p mark" in pq.read_table(io.BytesIO(write(Handover(worked), "parquet", None))).column_names


def test_an_approximate_figure_is_marked_and_a_ratio_of_exact_ones_is_not() -> None:
    ratio = Column(Kind.APPROXIMATE, np.array([0.1, 0.2]))
    data = Records({"a": text_column(["x", "y"]), "n": number_column([1, 2]), "ratio": ratio}, 2)
    figures = [
        {"name": "r", "take": "sum", "of": "ratio"}, {"name": "n", "take": "sum", "of": "n"},
        {"name": "mean", "take": "mean", "of": "n"}, {"name": "of it", "share": "n"}, {"name": "both", "formula": "r + n"},
    ]  # fmt: skip
    worked = sheet(data, down=[{"category": "a"}], figures=figures)
    assert [f.name for f in worked.figures if f.approximate] == ["r", "both"]
    assert [h for h in flat(worked).headings if h.endswith(" mark")] == ["r mark", "both mark"]


def test_a_parquet_file_holds_what_the_flat_table_does() -> None:
    data = records(
        a=["x", "x", None],
        on=[date(2026, 1, 5), date(2026, 2, 5), None],
        amount=["1.50", "2.25", "-0.75"],
        n=[3, 4, None],
    )
    figures = [
        {"name": "sum", "take": "sum", "of": "amount"},
        {"name": "n", "take": "sum", "of": "n"},
        {"name": "mean", "take": "mean", "of": "n"},
        {"name": "last", "take": "max", "of": "on"},
    ]
    worked = sheet(data, down=[{"category": "a"}, {"period": "on", "grains": ["month"]}], figures=figures)
    table = pq.read_table(io.BytesIO(write(Handover(worked), "parquet", None)))
    assert table.column_names == ["a", "month", "month start", "down_level", "sum", "n", "mean", "last"]
    first, total = table.to_pylist()[0], table.to_pylist()[-1]
    assert first == {
        "a": "x", "month": "Jan 2026", "month start": date(2026, 1, 5).replace(day=1), "down_level": "month",
        "sum": Decimal("1.50"), "n": 3, "mean": 3.0, "last": date(2026, 1, 5),
    }  # fmt: skip
    assert (total["a"], total["month start"], total["sum"], total["n"]) == (None, None, Decimal("3.00"), 7)
    assert [row["n"] for row in table.to_pylist()] == [3, 4, 7, None, None, 7]


def test_a_parquet_file_of_hours_bears_moments() -> None:
    moments = Column(Kind.DATETIME, np.array([1_700_000_000_000_000, 1_700_003_700_000_000]))
    worked = sheet(Records({"at": moments}, 2), down=[{"period": "at", "grains": ["hour"]}])
    table = pq.read_table(io.BytesIO(write(Handover(worked), "parquet", "flat")))
    assert table["hour start"].to_pylist() == [datetime(2023, 11, 14, 22), datetime(2023, 11, 14, 23), None]
    with pytest.raises(DefinitionError, match="parquet has flat"):
        write(Handover(worked), "parquet", "sheet")


@given(
    st.integers(-(10**15), 10**15),
    st.integers(0, 4),
    st.fixed_dictionaries(
        {
            "thousands": st.booleans(), "currency": st.sampled_from(["", "£"]), "zero": st.sampled_from(["number", "dash"]),
            "negative": st.sampled_from(["parentheses", "minus"]), "unit": st.sampled_from(["one", "thousands"]),
            "places": st.sampled_from([None, 0, 2]), "percent": st.sampled_from([None, True]),
        }
    ),
    st.booleans(),
)  # fmt: skip
def test_units_are_shown_as_the_number_is(units: int, places: int, form: dict[str, Any], signed: bool) -> None:
    column = Column(Kind.DECIMAL if places else Kind.WHOLE, np.array([units]), None, places)
    figure = ShownFigure("f", column, Format(**form), signed=signed)
    (text,) = shown_cells(figure, np.array([0]))
    assert text == shown_number(Decimal(units).scaleb(-places), figure)


def test_a_sheet_says_which_numbers_are_in_thousands() -> None:
    data = records(a=["x", "y"], v=[1_500_000, 2_400_000])
    net = {"name": "Net", "take": "sum", "of": "v", "format": {"unit": "thousands", "places": 0}}
    count = {"name": "Orders", "take": "count"}
    alone, beside = (sheet(data, down=[{"category": "a"}], figures=own) for own in ([net], [net, count]))
    assert (scale_of(alone), scale_of(beside)) == ("in thousands", "Net in thousands")
    for form in ("html", "ods"):
        assert b"in thousands" in (
            write(Handover(alone), form)
            if form == "html"
            else zipfile.ZipFile(io.BytesIO(write(Handover(alone), form))).read("content.xml")
        )
    assert scale_of(sheet(data, down=[{"category": "a"}], figures=[count])) == ""


def test_a_footing_over_a_hidden_figure_has_thousands_too() -> None:
    data = records(area=["N", "S"], net=["1234567.50", "-0.50"], cost=["1.00", "2.00"])
    hidden = {"name": "Net", "take": "sum", "of": "net", "hide": True}
    made = sheet(data, down=[{"category": "area"}], figures=[hidden, {"name": "Margin", "formula": '"Net" - 1'}])
    (footing,) = [one for one in made.tie_out.footings if one.figure == "Net"]
    assert (footing.total, shown_total(made, footing)) == ("1234567.00", "1,234,567.00")
    assert shown_total(made, replace(footing, total="")) == ""
