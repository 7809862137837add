"""Any sheet serialized to plain values is the same when read back."""

import json
from datetime import date
from typing import Any

from hypothesis import given, settings

from kalendor.core.sheet.plain import from_plain, plain, said
from kalendor.core.sheet.sheet import Sheet
from kalendor.definitions.export import Export
from kalendor.output.handover import Handover
from kalendor.output.writers import write
from tests.core.build import records, sheet
from tests.core.test_any_report import reports, worked


def again(found: Sheet) -> Sheet:
    return from_plain(json.loads(json.dumps(plain(found))))


def same(found: Sheet) -> None:
    other = again(found)
    assert json.dumps(plain(other)) == json.dumps(plain(found))
    assert json.dumps(said(other)) == json.dumps(said(found))
    for form, shape in (("csv", "flat"), ("csv", "sheet"), ("json", "sheet"), ("html", "sheet")):
        assert write(Handover(other, Export(chart=True)), form, shape) == write(
            Handover(found, Export(chart=True)), form, shape
        )


@given(reports())
@settings(max_examples=40)
def test_any_sheet_is_the_same_when_it_is_read_again(report: dict[str, Any]) -> None:
    found = worked(report, None)
    if not isinstance(found, str):
        same(found)


def test_sums_beyond_64_bits_texts_and_listed_records_are_the_same() -> None:
    data = records(a=["x", "y", "\ud800", None], n=[2**62, 2**62, 2**62, None], t=["p", "", "q", None],
                   on=[date(2026, 1, d) for d in (1, 2, 3, 4)])  # fmt: skip
    figures = [
        {"name": "N", "take": "sum", "of": "n"},
        {"name": "First", "take": "first", "of": "t", "by": "on"},
        {"name": "Mean", "take": "mean", "of": "n"},
    ]
    found = sheet(data, figures=figures, down=[{"category": "a"}], records={"columns": ["t", "n"]})
    same(found)
    assert again(found).figures[0].cells.item(0) == 3 * 2**62


def test_notes_stand_at_their_lines_and_say_their_place_where_that_is_gone() -> None:
    data = records(a=["x", "y"], n=[1, 2])
    notes = [
        {"text": "on the sheet"}, {"text": "on a line", "line": ["y"]}, {"text": "on a number", "line": ["x"], "figure": "N"},
        {"text": "gone", "line": ["z"]}, {"text": "of another day", "as_of": "2020-01-01"},
    ]  # fmt: skip
    found = sheet(data, figures=[{"name": "N", "take": "sum", "of": "n"}], down=[{"category": "a"}], notes=notes)
    at = found.lines.find
    assert [(n.text, n.line, n.figure) for n in found.footnotes] == [
        ("on the sheet", None, None), ("on a line", at(["y"]), None), ("on a number", at(["x"]), "N"), ("z: gone", None, None),
    ]  # fmt: skip
    same(found)
