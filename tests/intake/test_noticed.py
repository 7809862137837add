"""Findings about a file and their wording."""

from datetime import datetime
from decimal import Decimal
from typing import Any

import pytest

from kalendor.definitions.recipe import ColumnReading, Recipe
from kalendor.errors import DefinitionError, IntakeError
from kalendor.intake.reading import read_bytes
from kalendor.intake.typed import Reading


def read(data: bytes, **columns: ColumnReading) -> Reading:
    return read_bytes(data, "f.csv", Recipe(columns=columns))


def values(reading: Reading, name: str) -> list[Any]:
    column = reading.records.columns[name]
    return [column.item(i) for i in range(len(column))]


def test_percentages_are_a_hundredth_of_what_stands_there_and_what_is_none_is_refused() -> None:
    rows = "".join(f'{n},"{n},5%"\n' for n in range(1, 20))
    reading = read(f"a,rate\n{rows}20,7\n".encode())
    assert values(reading, "rate")[:2] == [Decimal("0.0150"), Decimal("0.0250")]
    assert (reading.records.columns["rate"].percent, reading.recipe.columns["rate"].percent) == (True, True)
    assert [r.text for r in reading.refused] == ["7"]
    again = read_bytes(b"a,rate\n1,11%\n", "g.csv", reading.recipe, strict=True)
    assert values(again, "rate") == [Decimal("0.11")]


@pytest.mark.parametrize(
    ("texts", "kind"),
    [
        (["E1", "e5", "1E3"], "text"),
        (["1E3", "2E4"], "text"),
        (["1E3", "1.5E3"], "whole"),
        (["1E+3", "20"], "whole"),
        (["1e-3", "5"], "approximate"),
        (["12", "1" * 5000], "text"),
        (["007", "8"], "text"),
    ],
)
def test_codes_are_text_unless_the_column_is_plainly_numbers(texts: list[str], kind: str) -> None:
    reading = read(("a,b\n" + "".join(f"{text},x\n" for text in texts)).encode())
    assert reading.records.columns["a"].kind == kind
    assert reading.records.count == len(texts)


def test_mixed_encodings_are_read_line_by_line_and_said() -> None:
    data = "a,b\né,1\n".encode() + "ü,2\n".encode("cp1252") + "ø,3\n".encode()
    reading = read(data)
    assert values(reading, "a") == ["é", "ü", "ø"]
    assert reading.notes[0].startswith("2 of its lines are UTF-8 and 1 are Windows-1252")
    assert read("a\nü\n".encode("cp1252")).notes == ()


@pytest.mark.parametrize("encoding", ["utf-16", "utf-32", "utf-8-sig"])
def test_other_encodings_of_unicode_are_known_by_their_mark(encoding: str) -> None:
    assert values(read("a,b\né,1\n".encode(encoding)), "a") == ["é"]


TOTAL = b"what,n\nx,1\ny,2\nTotal,3\n"


def test_a_proven_total_at_the_foot_is_left_out_and_said_so() -> None:
    reading = read(TOTAL)
    assert (reading.records.count, reading.foot_left_out) == (2, 1)
    assert "line 4 is left out" in reading.notes[0]
    assert read_bytes(TOTAL, "f.csv", Recipe(foot_lines=0)).records.count == 3


@pytest.mark.parametrize("last", ["Total,4", ",3", "z,3"])
def test_what_does_not_say_and_prove_that_it_is_a_total_stays(last: str) -> None:
    assert read(f"what,n\nx,1\ny,2\n{last}\n".encode()).records.count == 3


def test_carriage_returns_within_lines_are_spaces_and_said() -> None:
    reading = read(b'a,b\none\rline,1\n"two\r\nlines",2\n')
    assert values(reading, "a") == ["one line", "two\r\nlines"]
    assert reading.notes == ("1 carriage return within lines was read as spaces",)
    assert read(b"a,b\rx,1\ry,2\r").records.count == 2


def test_offsets_are_said_and_converted_where_the_recipe_names_a_zone() -> None:
    data = b"at,n\n2026-07-01T12:00:00+02:00,1\n2026-07-01T12:00:00Z,2\n"
    kept = read(data)
    assert values(kept, "at") == [datetime(2026, 7, 1, 12), datetime(2026, 7, 1, 12)]
    assert kept.notes == ("at: times bear an offset from universal time; the local time written is kept",)
    moved = read(data, at=ColumnReading(type="datetime", zone="America/New_York"))
    assert values(moved, "at") == [datetime(2026, 7, 1, 6), datetime(2026, 7, 1, 8)]
    with pytest.raises(DefinitionError, match="no time zone"):
        read(data, at=ColumnReading(type="datetime", zone="Nowhere/Land"))


def test_columns_without_a_title_and_names_composed_in_either_way() -> None:
    reading = read("a,,e\u0301te\u0301\n1,2,3\n".encode())
    assert reading.headings == ("a", "column 2", "été")
    assert "column 2 has no title in the file" in reading.notes
    again = read_bytes("a,column 2,\u00e9t\u00e9\n1,2,3\n".encode(), "g.csv", reading.recipe, strict=True)
    assert again.headings == reading.headings


def test_a_text_longer_than_any_that_is_kept_is_refused() -> None:
    reading = read(b"a,b\n1," + b"x" * 1_000_001 + b"\n2,y\n")
    assert (values(reading, "a"), reading.refused[0].line) == ([2], 2)
    assert reading.refused[0].reason == "b: a text of 1,000,001 characters; at most 1,000,000 are kept"


def test_json_with_half_a_surrogate_or_nested_too_deeply() -> None:
    half = read_bytes(b'{"a": "x\\ud800y", "b\\udfff": 1}\n', "f.json", Recipe())
    assert (values(half, "a"), half.headings) == (["x\ufffdy"], ("a", "b\ufffd"))
    deep = b'{"a": ' + b"[" * 10_000 + b"]" * 10_000 + b"}\n"
    lines = read_bytes(b'{"a": 1}\n' + deep, "f.json", Recipe())
    assert (lines.records.count, len(lines.refused)) == (1, 1)
    with pytest.raises(IntakeError, match="too deeply"):
        read_bytes(b"[" + deep + b"]", "f.json", Recipe())
