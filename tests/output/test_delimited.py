"""Delimited text: separator, encoding and labels, guarded or raw, the same whether written from arrays or not."""

import csv
import io
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from kalendor.definitions.export import Export
from kalendor.errors import DefinitionError
from kalendor.output import delimited
from kalendor.output.delimited import flat_delimited, sheet_delimited
from kalendor.output.handover import Handover
from tests.core.build import records, sheet
from tests.core.test_any_report import reports, worked

AXES: dict[str, Any] = {
    "down": [{"category": "a"}, {"category": "b"}], "figures": [{"name": "n", "take": "sum", "of": "n"}],
}  # fmt: skip
DATA = records(a=["x", "x", "=y"], b=["ü", "v;w", "u"], n=["1.50", "-2.25", "4"])


@given(reports())
@settings(max_examples=40)
def test_from_arrays_or_not_the_bytes_are_the_same(report: dict[str, Any]) -> None:
    found = worked(report, None)
    if isinstance(found, str):
        return
    quick = flat_delimited(Handover(found))
    table = delimited.flat(found)
    plain = [c if n else delimited._safe(c) for c, n in zip(table.fields, table.numeric, strict=True)]
    rows = [delimited._safe(table.headings), *zip(*plain, strict=True)]
    assert quick.decode() == delimited._joined(rows, ",")


@pytest.mark.parametrize(
    ("encoding", "codec"),
    [("utf-8", "utf-8"), ("utf-8-bom", "utf-8-sig"), ("utf-16", "utf-16"), ("windows-1252", "cp1252")],
)
@pytest.mark.parametrize("separator", [",", ";", "\t", "|"])
def test_separator_and_encoding_are_chosen(encoding: Any, codec: str, separator: Any) -> None:
    found = Handover(sheet(DATA, **AXES), Export(encoding=encoding, separator=separator))
    for write in (flat_delimited, sheet_delimited):
        text = write(found).decode(codec)
        rows = list(csv.reader(io.StringIO(text), delimiter=separator))
        assert len({len(row) for row in rows}) == 1
        assert any("v;w" in cell for row in rows for cell in row)
        assert any(row[-1] == "-2.25" for row in rows)


def test_what_an_encoding_cannot_hold_is_said() -> None:
    found = Handover(sheet(records(a=["東"], b=["x"], n=[1]), **AXES), Export(encoding="windows-1252"))
    for write in (flat_delimited, sheet_delimited):
        with pytest.raises(DefinitionError, match=r"U\+6771.*choose UTF-8"):
            write(found)


def test_labels_stand_in_one_column_a_level_once_or_on_each_line() -> None:
    found = sheet(DATA, **AXES)

    def labels(choice: Any) -> list[list[str]]:
        text = sheet_delimited(Handover(found, Export(labels=choice))).decode()
        return [row[:-1] for row in csv.reader(io.StringIO(text))]

    assert labels("sheet")[:4] == [["a · b"], ["'=y"], ["  u"], ["'=y total"]]
    assert labels("once") == [
        ["a", "b"],
        ["'=y", "u"],
        ["'=y total", ""],
        ["x", "ü"],
        ["", "v;w"],
        ["x total", ""],
        ["Total", ""],
    ]
    assert labels("each")[3:5] == [["x", "ü"], ["x", "v;w"]]


def test_raw_text_is_as_it_stands_and_guarded_text_is_not_run() -> None:
    found = sheet(DATA, **AXES)
    assert b"\n=y," in flat_delimited(Handover(found, Export(raw=True)))
    assert b"\n'=y," in flat_delimited(Handover(found))
    assert b"=y total" in sheet_delimited(Handover(found, Export(raw=True)))


@given(st.lists(st.text(st.characters(exclude_categories=["Cs"]), max_size=8), min_size=1, max_size=6))
def test_any_text_is_read_back(texts: list[str]) -> None:
    found = sheet(
        records(a=[*(f"{text}x" for text in texts), "z"], b=["q"] * (len(texts) + 1), n=[1] * (len(texts) + 1)), **AXES
    )
    raw = flat_delimited(Handover(found, Export(raw=True))).decode()
    got = {row[0] for row in csv.reader(io.StringIO(raw, newline=""))}
    assert set(found.lines.labels[found.lines.depth == 1].tolist()) <= got
