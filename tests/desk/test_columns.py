"""Columns renamed or read otherwise after import: records, definitions, files and editions follow."""

from pathlib import Path
from typing import Any, cast

import pytest
from pydantic import TypeAdapter

from kalendor.definitions.kinds import definition
from kalendor.definitions.recipe import ColumnReading
from kalendor.definitions.report import MadeColumn, Report
from kalendor.desk import columns
from kalendor.desk.bringing_in import keep, look_at
from kalendor.desk.columns import read_column_as, rename_column
from kalendor.desk.desk import Desk
from kalendor.desk.records import complete
from kalendor.desk.sheets import sheet_now
from kalendor.errors import ConflictError, DefinitionError
from kalendor.store.soundness import faults
from kalendor.store.sources import Source

APRIL = "day,shop,gross,note\n2026-04-01,101,5.25,2026-01-02\n2026-04-02,102,1.5,2026-01-03\n2026-04-03,101,2,\n"
MAY = "day,shop,gross,note\n2026-05-01,103,4,03.02.2026\n2026-05-02,101,1,17.02.2026\n"
MADE: TypeAdapter[list[MadeColumn]] = TypeAdapter(list[MadeColumn])
REPORT = {
    "kalendor": 1, "kind": "report", "title": "T", "source": "S", "down": [{"category": "shop"}],
    "only": ["shop <> 999"], "figures": [{"name": "Gross", "take": "sum", "of": "gross"}, {"name": "two", "take": "sum", "of": "twice"}],
}  # fmt: skip


def source(desk: Desk, name: str = "S") -> Source:
    found = desk.sources.named(name)
    assert found is not None
    return found


def items(desk: Desk, column: str) -> list[Any]:
    found = complete(desk, source(desk)).records.columns[column]
    return [found.item(i) for i in range(len(found))]


@pytest.fixture
def begun(desk: Desk) -> Desk:
    keep(desk, look_at(desk, "april.csv", APRIL.encode(), "S").token)
    waiting = look_at(desk, "may.csv", MAY.encode(), "S")
    keep(desk, waiting.token, seen=True)
    read_column_as(desk, source(desk), "note", ColumnReading(type="text"))
    desk.sources.save_made(source(desk), MADE.validate_python([{"name": "twice", "formula": "gross * 2"}]))
    desk.definitions.add(definition(REPORT, "t"), desk.now())
    return desk


def whole(desk: Desk) -> bool:
    return not list(faults(desk.workspace.folder))


def test_a_number_is_taken_as_a_code_and_text_as_a_date(begun: Desk) -> None:
    read_column_as(begun, source(begun), "shop", ColumnReading(type="text"))
    assert items(begun, "shop") == ["101", "102", "101", "103", "101"]
    assert items(begun, "note")[3] == "03.02.2026"
    read_column_as(begun, source(begun), "note", ColumnReading(type="date"))
    assert [str(day) for day in items(begun, "note")] == [
        "2026-01-02",
        "2026-01-03",
        "None",
        "2026-02-03",
        "2026-02-17",
    ]
    assert whole(begun)
    recipe = source(begun).recipe
    assert (recipe.columns["shop"].type, recipe.columns["note"].format) == ("text", "%d.%m.%Y")
    assert begun.intakes.recipe_of(begun.intakes.of(source(begun))[-1]).columns["note"].format == "%Y-%m-%d"
    keep(begun, look_at(begun, "june.csv", MAY.replace("-05-", "-06-").encode(), "S").token)
    assert items(begun, "shop")[-1] == "101"


def test_an_undone_file_is_read_again_too(begun: Desk) -> None:
    last = begun.intakes.of(source(begun))[0]
    begun.intakes.undo(last.id, begun.now())
    read_column_as(begun, source(begun), "shop", ColumnReading(type="text"))
    begun.intakes.redo(last.id)
    assert items(begun, "shop") == ["101", "102", "101", "103", "101"]
    assert whole(begun)


def test_values_that_cannot_be_read_so_are_said_and_left_blank_only_when_asked(begun: Desk) -> None:
    late = "day,shop,gross,note\n2026-06-01,101,1,soon\n"
    keep(begun, look_at(begun, "june.csv", late.encode(), "S").token)
    before = items(begun, "note")
    with pytest.raises(
        DefinitionError, match=r"1 value of 'note' cannot be read as a date: 'soon' on line 2 of june\.csv"
    ):
        read_column_as(begun, source(begun), "note", ColumnReading(type="date"))
    assert items(begun, "note") == before
    read_column_as(begun, source(begun), "note", ColumnReading(type="date"), blank_unread=True)
    assert items(begun, "note")[-1] is None
    read_column_as(begun, source(begun), "note", ColumnReading(type="text"))
    assert items(begun, "note") == before, "what the files hold is there again"


def test_places_are_those_that_hold_all_files(begun: Desk) -> None:
    read_column_as(begun, source(begun), "shop", ColumnReading(type="decimal"))
    with pytest.raises(DefinitionError, match=r"'gross' stays as it is: made column 'twice': .* needs numbers"):
        read_column_as(begun, source(begun), "gross", ColumnReading(type="text"))
    assert (str(items(begun, "twice")[0]), whole(begun)) == ("10.50", True)
    begun.sources.save_made(source(begun), [])
    read_column_as(begun, source(begun), "gross", ColumnReading(type="text"))
    assert items(begun, "gross") == ["5.25", "1.5", "2", "4", "1"]
    read_column_as(begun, source(begun), "gross", ColumnReading(type="decimal"))
    assert [str(x) for x in items(begun, "gross")] == ["5.25", "1.50", "2.00", "4.00", "1.00"]


def test_dates_that_can_be_read_both_ways_are_asked_about(desk: Desk) -> None:
    keep(desk, look_at(desk, "a.csv", b"d,n\nx,1\n01/02/2026,1\n03/04/2026,2\n", "S").token)
    with pytest.raises(DefinitionError, match="day first and month first; say which"):
        read_column_as(desk, source(desk), "d", ColumnReading(type="date"), blank_unread=True)
    told = ColumnReading(type="date", format="%m/%d/%Y")
    read_column_as(desk, source(desk), "d", told, blank_unread=True)
    assert [str(day) for day in items(desk, "d")] == ["None", "2026-01-02", "2026-03-04"]


def test_a_renamed_column_is_followed_by_all_that_names_it(begun: Desk) -> None:
    before = live(begun)
    keep(begun, look_at(begun, "codes.csv", b"code,label\n101,One\n102,Two\n", "Codes").token)
    lookup = {"name": "label", "lookup": {"source": "Codes", "match": {"shop": "code"}, "take": "label"}}
    made = [*source(begun).made, *MADE.validate_python([lookup])]
    begun.sources.save_made(source(begun), made)
    labels = items(begun, "label")
    rename_column(begun, source(begun), "gross", "Net amount")
    rename_column(begun, source(begun), "shop", "branch")
    rename_column(begun, source(begun, "Codes"), "code", "number")
    rename_column(begun, source(begun, "Codes"), "label", "title")
    assert items(begun, "label") == labels
    assert live(begun) == before
    report = begun.definitions.named("report", "T")
    assert report is not None
    body = cast(Report, report.body)
    assert (body.only, body.down[0].category) == (["branch <> 999"], "branch")  # type: ignore[union-attr]
    assert whole(begun)


def live(desk: Desk) -> list[Any]:
    report = desk.definitions.named("report", "T")
    assert report is not None
    sheet = sheet_now(desk, cast(Report, report.body))[1]
    return [[f.cells.item(i) for i in range(len(f.cells))] for f in sheet.figures]


def test_files_are_known_by_the_headings_that_they_have(begun: Desk) -> None:
    rename_column(begun, source(begun), "shop", "branch")
    assert look_at(begun, "june.csv", MAY.replace("-05-", "-06-").encode(), "S").changes is None
    called_so = MAY.replace("-05-", "-07-").replace("shop", "branch")
    keep(begun, look_at(begun, "july.csv", called_so.encode(), "S").token)
    rename_column(begun, source(begun), "branch", "shop")
    assert look_at(begun, "august.csv", called_so.replace("-07-", "-08-").encode(), "S").changes is None
    assert items(begun, "shop")[-1] == 101


@pytest.mark.parametrize(
    ("old", "new", "words"),
    [
        ("shop", "gross", "already has a column named 'gross'"),
        ("shop", "Twice", "already has a column named 'Twice'"),
        ("shop", " ", "1 to 200 characters"),
        ("nope", "x", "has no column 'nope'"),
    ],
)
def test_a_name_that_cannot_be_is_refused(begun: Desk, old: str, new: str, words: str) -> None:
    with pytest.raises(DefinitionError, match=words):
        rename_column(begun, source(begun), old, new)
    assert [c.name for c in source(begun).columns] == ["day", "shop", "gross", "note"]


def test_a_source_that_changed_meanwhile_is_left_alone(begun: Desk, monkeypatch: pytest.MonkeyPatch) -> None:
    found = source(begun)
    real = columns._of_one_kind

    def meanwhile(parts: Any) -> Any:
        keep(begun, look_at(begun, "june.csv", MAY.replace("-05-", "-06-").encode(), "S").token)
        return real(parts)

    monkeypatch.setattr(columns, "_of_one_kind", meanwhile)
    with pytest.raises(ConflictError, match="changed meanwhile"):
        read_column_as(begun, found, "shop", ColumnReading(type="text"))
    assert items(begun, "shop")[-1] == 101


def test_a_mended_line_is_read_again_from_its_own_file(desk: Desk, tmp_path: Path) -> None:
    rows = "".join(f"2026-07-01,{i}\n" for i in range(20))
    _, intake = keep(desk, look_at(desk, "a.csv", f"day,n\n{rows}2026-07-02,many\n".encode(), "S").token)
    keep(desk, look_at(desk, "m.csv", b"day,n\n2026-07-02,5\n", "S", mends=intake.id).token)
    read_column_as(desk, source(desk), "n", ColumnReading(type="text"))
    assert items(desk, "n")[-1] == "5"
    assert whole(desk)
