"""Delimited files: what is read, what is refused, and the messages."""

import gzip
from datetime import date, datetime, time
from decimal import Decimal
from pathlib import Path
from typing import Any

import pytest

from kalendor.definitions.document import parse
from kalendor.definitions.recipe import Recipe
from kalendor.errors import IntakeError
from kalendor.intake.reading import read_bytes, read_file, read_files
from kalendor.intake.typed import Reading


def read(text: str | bytes, **recipe: Any) -> Reading:
    data = text if isinstance(text, bytes) else text.encode()
    return read_bytes(data, "file.csv", parse(Recipe, recipe, "recipe"))


def column(reading: Reading, name: str) -> list[Any]:
    found = reading.records.columns[name]
    return [found.item(i) for i in range(len(found))]


@pytest.mark.parametrize(
    ("text", "want"),
    [
        ("a,b\n1,x\n2,y\n", [1, 2]),
        ("a;b\n1;x\n2;y\n", [1, 2]),
        ("a\tb\n1\tx\n2\ty\n", [1, 2]),
        ("a|b\r\n1|x\r\n2|y\r\n", [1, 2]),
        ("\ufeffa,b\n1,x\n", [1]),
        ("a,b\n1.50,x\n-0.00,y\n", [Decimal("1.50"), Decimal("0.00")]),
        ('a,b\n"1,234.50",x\n', [Decimal("1234.50")]),
        ("a;b\n1.234,56;x\n7,00;y\n", [Decimal("1234.56"), Decimal("7.00")]),
        ("a,b\n(45.00),x\n45.00-,y\n", [Decimal("-45.00"), Decimal("-45.00")]),
        ("a,b\n£12.50,x\n-£3.00,y\n", [Decimal("12.50"), Decimal("-3.00")]),
        ("a,b\n1E3,x\n5,y\n", ["1E3", "5"]),
        ("a,b\n1E+3,x\n5,y\n", [1000, 5]),
        ("a,b\nE1,x\ne5,y\n", ["E1", "e5"]),
        ("a,b\n007,x\n012,y\n", ["007", "012"]),
        ("a,b\nyes,x\nno,y\n", [True, False]),
        ("a,b\n2026-07-31,x\n,y\n", [date(2026, 7, 31), None]),
        ("a,b\n29/02/2024,x\n", [date(2024, 2, 29)]),
        ("a,b\n31 Jul 2026,x\n", [date(2026, 7, 31)]),
        ("a,b\n31/07/26,x\n", [date(2026, 7, 31)]),
        ("a,b\n2026-07-31T14:05:00Z,x\n", [datetime(2026, 7, 31, 14, 5)]),
        ("a,b\n31/07/2026 14:05,x\n", [datetime(2026, 7, 31, 14, 5)]),
        ("a,b\n14:05,x\n", [time(14, 5)]),
        ("a,b\n  x  ,1\n", ["x"]),
        ('a,b\n"say ""hi""",1\n', ['say "hi"']),
        ('a,b\n"two\nlines",1\n', ["two\nlines"]),
        ("My export\n\na,b\n1,x\n", [1]),
    ],
)
def test_what_is_read(text: str, want: list[Any]) -> None:
    assert column(read(text), "a") == want


def test_encodings() -> None:
    assert column(read("a,b\nÖst,1\n".encode("cp1252")), "a") == ["Öst"]
    assert column(read("a,b\nÖst,1\n".encode("utf-16")), "a") == ["Öst"]


def test_a_packed_file(tmp_path: Path) -> None:
    (tmp_path / "x.csv.gz").write_bytes(gzip.compress(b"a,b\n1,2\n"))
    assert column(read_file(tmp_path / "x.csv.gz"), "a") == [1]


def test_the_date_order_is_settled_by_the_column_as_a_whole() -> None:
    lines = [f"0{1 + i % 9}/0{1 + i % 7}/2025,1" for i in range(900)]
    day_first = read("d,n\n" + "\n".join([*lines, "25/03/2025,1"]) + "\n")
    month_first = read("d,n\n" + "\n".join([*lines, "03/25/2025,1"]) + "\n")
    assert column(day_first, "d")[0] == date(2025, 1, 1)
    assert column(day_first, "d")[1] == date(2025, 2, 2)
    assert column(month_first, "d")[-1] == date(2025, 3, 25)
    assert day_first.rivals == {}


def test_where_both_orders_fit_the_other_is_named() -> None:
    both = read("d,n\n03/04/2025,1\n05/06/2025,2\n")
    assert column(both, "d")[0] == date(2025, 4, 3)
    assert both.rivals["d"].format == "%m/%d/%Y"
    assert both.rivals["d"].examples[0] == ("03/04/2025", "3 Apr 2025", "4 Mar 2025")
    told = read("d,n\n03/04/2025,1\n", columns={"d": {"type": "date", "format": "%m/%d/%Y"}})
    assert column(told, "d") == [date(2025, 3, 4)]


def test_refused_lines_are_kept_aside_with_the_line_an_editor_shows() -> None:
    rows = "".join(f"{i},x\n" for i in range(30))
    found = read("title\n\na,b\n" + rows + '"1","tw\no"\nbad,x\n1,2,3\n5\n\n6,x\n')
    assert [(r.line, r.column) for r in found.refused] == [(36, "a"), (37, ""), (38, "")]
    assert "'bad' is not a whole number" in found.refused[0].reason
    assert found.refused[1].reason == "has 3 fields where the heading has 2"
    assert found.records.count == 32
    assert found.lines[-1] == 40


def test_headings_that_are_empty_or_alike_get_names_of_their_own() -> None:
    assert list(read("a,a,\n1,2,3\n").records.columns) == ["a", "a (2)", "column 3"]


def test_a_wide_file() -> None:
    names = [f"c{i}" for i in range(200)]
    found = read(",".join(names) + "\n" + ",".join(["1"] * 200) + "\n")
    assert list(found.records.columns) == names


def test_a_heading_alone_is_a_source_of_no_records() -> None:
    assert read("a,b\n").records.count == 0


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "the file is empty"),
        (b"  \n\n", "the file is empty"),
        (b"a,b\n1,\x00\n", "line 2 holds a NUL byte"),
        (b'a,b\n1,"x\n', "a quote is opened and never closed"),
        (b"\x1f\x8bxx", "NUL|cannot be unpacked|never|cannot"),
    ],
)
def test_files_that_cannot_be_read_say_why(data: bytes, words: str, tmp_path: Path) -> None:
    (tmp_path / "f.csv").write_bytes(data)
    with pytest.raises(IntakeError, match=words):
        read_file(tmp_path / "f.csv")


def test_a_recipes_missing_column_is_named() -> None:
    with pytest.raises(IntakeError, match="the column 'z' is missing"):
        read("a,b\n1,2\n", columns={"z": {"type": "text"}})


def read_all(folder: Path, *texts: str, **recipe: Any) -> Reading:
    paths = [folder / f"{i}.csv" for i in range(len(texts))]
    for path, text in zip(paths, texts, strict=True):
        path.write_text(text)
    return read_files(paths, parse(Recipe, recipe, "recipe"))


def test_several_files_are_one_source_whatever_the_case_of_their_headings(tmp_path: Path) -> None:
    both = read_all(tmp_path, "Sold on,n\n2026-01-01,1\n", "n,sold_on\n2,2026-01-02\n")
    assert list(both.records.columns) == ["Sold on", "n"]
    assert column(both, "n") == [1, 2]
    with pytest.raises(IntakeError, match=r"1.csv: its columns are not those of 0.csv; they differ in 'm'"):
        read_all(tmp_path, "a,n\nx,1\n", "a,m\nx,1\n")


@pytest.mark.parametrize(
    ("first", "second", "want"),
    [
        ("12", "3.50", [Decimal("12.00"), Decimal("3.50")]),
        ("", "3.50", [None, Decimal("3.50")]),
        ("1200", "0012", ["1200", "0012"]),
        ("01/02/2026", "01/25/2026", [date(2026, 1, 2), date(2026, 1, 25)]),
        ("01/02/2026", "25/01/2026", [date(2026, 2, 1), date(2026, 1, 25)]),
        ("7", "x", ["7", "x"]),
    ],
)
def test_what_a_column_is_is_found_out_from_all_files(first: str, second: str, want: list[Any], tmp_path: Path) -> None:
    found = read_all(tmp_path, f"k,v\na,{first}\n", f"k,v\nb,{second}\n", "k,v\n")
    assert column(found, "v") == want


def test_refused_lines_and_foot_lines_are_each_files_own(tmp_path: Path) -> None:
    rows = "".join(f"a,{i}\n" for i in range(20))
    found = read_all(tmp_path, f"k,n\n{rows}a,b,c\nTotal,190\n", f"k,n\n{rows}a,?\nTotal,190\n", foot_lines=1)
    assert found.records.count == 40
    assert [line.line for line in found.refused] == [22, 22]
