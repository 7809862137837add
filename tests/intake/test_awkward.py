"""Awkward files: read correctly, or refused with the right message."""

from pathlib import Path

import pytest

from kalendor.errors import IntakeError
from kalendor.intake.reading import read_file
from kalendor.intake.totals import foot_totals
from kalendor.output.numbers import texts
from tests.intake.awkward import READ, REFUSED, workbook


@pytest.mark.parametrize(("name", "data", "column", "first", "records", "refused"), READ, ids=[r[0] for r in READ])
def test_read_right(
    tmp_path: Path, name: str, data: bytes, column: str, first: list[str], records: int, refused: int
) -> None:
    (tmp_path / name).write_bytes(data)
    found = read_file(tmp_path / name)
    assert texts(found.records.columns[column])[: len(first)] == first
    assert (found.records.count, len(found.refused)) == (records, refused)


@pytest.mark.parametrize(("name", "data", "words"), REFUSED, ids=[r[0] for r in REFUSED])
def test_refused_with_the_right_words(tmp_path: Path, name: str, data: bytes, words: str) -> None:
    (tmp_path / name).write_bytes(data)
    with pytest.raises(IntakeError, match=words) as caught:
        read_file(tmp_path / name)
    assert str(caught.value).startswith((name, str(tmp_path)))


def test_a_sheet_and_an_area_may_be_named(tmp_path: Path) -> None:
    from kalendor.definitions.document import parse
    from kalendor.definitions.recipe import Recipe

    path = tmp_path / "b.xlsx"
    path.write_bytes(workbook([["x", None, None], [None, "a", "b"], [None, 1, 2], [None, 3, 4]]))
    found = read_file(path, parse(Recipe, {"sheet": "Data", "area": "B2:C3"}, "recipe"))
    assert {n: texts(c) for n, c in found.records.columns.items()} == {"a": ["1"], "b": ["2"]}
    with pytest.raises(IntakeError, match="there is no sheet 'Other'"):
        read_file(path, parse(Recipe, {"sheet": "Other"}, "recipe"))


@pytest.mark.parametrize(
    ("foot", "agrees"),
    [
        ("Total,,5.50\n", True),
        ("Summe,,5.50\n", True),
        ("Totaux,,5.50\n", True),
        ("Total,,9.99\n", False),
        (",,5.50\n", True),
        ("", None),
        ("c,2026-07-03,5.50\n", None),
    ],
)
def test_total_lines_at_the_foot_are_offered_and_checked(tmp_path: Path, foot: str, agrees: bool | None) -> None:
    (tmp_path / "f.csv").write_text("who,day,n\na,2026-07-01,1.25\nb,2026-07-02,4.25\n" + foot)
    found = read_file(tmp_path / "f.csv").foot
    assert [a[3] for f in found for a in f.amounts] == ([] if agrees is None else [agrees])


def test_foot_totals_of_a_table_of_one_record_are_none() -> None:
    from kalendor.intake.raw import table_of_rows

    assert foot_totals(table_of_rows([(1, ["a", "b"]), (2, ["total", "1"])], "f", None)) == ()
