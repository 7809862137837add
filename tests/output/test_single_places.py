"""Tests of the writers found by mutation testing."""

import io
import re
import zipfile
from datetime import date
from typing import Any

import numpy as np
import pytest

from kalendor.core.figures.operand import Operand
from kalendor.core.sheet.arrange import GRAND, LEAF, SUBTOTAL
from kalendor.core.sheet.sheet import Sheet
from kalendor.core.trail.cell import Cell
from kalendor.core.trail.listing import AMOUNT, listed
from kalendor.core.trail.trail import Trail
from kalendor.core.values.columns import Column, Kind
from kalendor.errors import DefinitionError
from kalendor.output.handover import Handover
from kalendor.output.headline.headline import headline
from kalendor.output.pdf import pages
from kalendor.output.typeset import INDENT, RECORD, typeset
from kalendor.output.workbook import page, values
from kalendor.output.writers import FORMS, write
from tests.core.build import SUM, records, report, sheet

DATA = records(a=["x", "x", "y"], b=["p", "q", "p"], v=[30, 4, 200])


def nested(**keys: Any) -> Sheet:
    return sheet(DATA, down=[{"category": "a"}, {"category": "b"}], figures=[SUM], **keys)


def test_a_listed_record_is_set_one_step_beneath_its_line() -> None:
    rows = typeset(nested(records={"columns": ["v"]})).rows
    assert [row.depth for row in rows if row.role == RECORD] == [3, 3, 3]
    assert {row.depth for row in rows if row.role != RECORD} == {0, 1, 2}


def test_headings_alone_open_and_close_their_groups_on_a_page() -> None:
    text = write(Handover(nested()), "html", None).decode()
    toggles = re.findall(r'<th scope="row"[^>]*>(<button[^>]*>)?([^<]*)', text)
    assert [(label, bool(button)) for button, label in toggles] == [
        ("x", True), ("p", False), ("q", False), ("x total", False),
        ("y", True), ("p", False), ("y total", False), ("Total", False),
    ]  # fmt: skip


def test_totals_at_the_end_of_lines_stay_with_the_line_before_them() -> None:
    made = [(n, role, [], 0.0) for n, role in enumerate([LEAF, LEAF, LEAF, SUBTOTAL, GRAND])]
    kept = [[row[0] for row in one["rows"]] for one in pages._kept(made, []) if one["kind"] == "kept"]
    assert kept == [[2, 3, 4]]


@pytest.mark.parametrize(
    ("text", "fits"), [("a\u2010b", True), ("a\u203ab", True), ("a\u2603b", False), ("\u05e9", False)]
)
def test_dashes_and_quotation_marks_are_no_higher_than_letters(text: str, fits: bool) -> None:
    assert pages._of_line_height(text) is fits


def test_a_sheet_too_wide_for_a_workbook_is_refused_before_it_is_written(monkeypatch: pytest.MonkeyPatch) -> None:
    wide = sheet(DATA, down=[{"category": "a"}], across=[{"category": "b"}], figures=[SUM])
    columns = 1 + len(typeset(wide).columns)
    monkeypatch.setattr(page, "MOST_COLUMNS", columns)
    assert write(Handover(wide), "xlsx", None)
    monkeypatch.setattr(page, "MOST_COLUMNS", columns - 1)
    with pytest.raises(DefinitionError, match=f"{columns} columns; a workbook holds"):
        write(Handover(wide), "xlsx", None)


def test_records_behind_a_number_are_sorted_by_the_column_asked_for() -> None:
    part = Operand("", "s", "records", DATA.columns["v"], 0, 0, np.arange(3), DATA.columns["v"])
    by = {name: listed(part, DATA, name, False, "").tolist() for name in ("a", "b", "v", AMOUNT)}
    assert by == {"a": [0, 1, 2], "b": [0, 2, 1], "v": [1, 0, 2], AMOUNT: [1, 0, 2]}


def test_what_has_no_place_yet_is_said_over_a_tree_of_one_level() -> None:
    tree = {
        "kalendor": 1,
        "kind": "tree",
        "name": "T",
        "levels": ["Side"],
        "roots": [{"label": "Up", "under": [{"value": "x"}]}],
    }
    found = sheet(DATA, tree, down=[{"category": "a", "tree": "T"}], figures=[SUM])
    said = headline(report(down=[{"category": "a", "tree": "T"}], figures=[SUM]), found, _no_trail).sentences
    assert "200 of it has no Side yet." in said


def _no_trail(cell: Cell) -> Trail:
    raise DefinitionError(f"no trail of {cell}")


def test_a_gap_stands_before_the_total_column() -> None:
    found = typeset(sheet(DATA, across=[{"category": "b"}], figures=[SUM]))
    assert [column.opens for column in found.columns] == [False, False, True]


def test_negatives_look_their_part_on_a_page() -> None:
    text = write(Handover(sheet(records(v=["-5.25"]), figures=[SUM])), "html", None).decode()
    assert '<td class="num neg">(5.25)</td>' in text


def test_each_row_of_headings_is_as_wide_as_the_columns_with_their_gaps() -> None:
    across = [{"category": "a"}, {"category": "b"}]
    figures = [SUM, {"name": "n", "take": "count"}]
    text = write(Handover(sheet(DATA, across=across, figures=figures)), "html", None).decode()
    rows = re.findall(r"<tr[^>]*>(.*?)</tr>", text.split("<thead>")[1].split("</thead>")[0], re.S)
    wide = [sum(int(n or 1) for n in re.findall(r"<th(?:[^>]*?colspan=\"(\d+)\")?[^>]*>", row)) for row in rows]
    assert len(set(wide)) == 1, wide
    assert wide[0] == len(re.findall(r"<td", text.split("<tbody>")[1].split("</tr>")[0])) + 1


def test_labels_beneath_others_are_set_in_and_widen_their_column() -> None:
    data = records(a=["x", "x"], b=["a label of some length that is long", "q"], v=[1, 2])
    found = sheet(data, down=[{"category": "a"}, {"category": "b"}], figures=[SUM])
    assert typeset(found).label_widths == [len("a label of some length that is long") + len(INDENT)]
    text = write(Handover(found), "html", None).decode()
    insets = re.findall(r'<th scope="row"(?: style="padding-left:(\d+)px")?', text)
    assert [bool(inset) for inset in insets] == [False, True, True, True, False]


def test_labels_beneath_others_are_set_in_in_a_workbook() -> None:
    data = records(a=["x", "x"], b=["p", "q"], v=[1, 2])
    content = write(Handover(sheet(data, down=[{"category": "a"}, {"category": "b"}], figures=[SUM])), "xlsx", None)
    book = zipfile.ZipFile(io.BytesIO(content)).read("xl/styles.xml").decode()
    assert set(re.findall(r'indent="(\d+)"', book)) == {"1"}


def test_a_date_in_a_workbook_is_the_day_itself() -> None:
    column = Column(Kind.DATE, np.array([20_000, -10_000], dtype=np.int32))
    assert [values._moment(column, place) for place in (0, 1)] == [date(2024, 10, 4), date(1942, 8, 16)]


def test_words_go_along_with_the_formats_that_have_room_for_them() -> None:
    assert {name for name, form in FORMS.items() if form.worded} == {"xlsx", "ods", "pdf", "html"}
