"""Changed exports: proposals, overruling them, and reading the files before and after."""

import io
from typing import Any

import pytest
import xlsxwriter

from kalendor.definitions.recipe import ColumnReading
from kalendor.desk.bringing_in import Change, bring_in_file, keep, look_at, read_again, refused_file
from kalendor.desk.changes import Changes
from kalendor.desk.desk import Desk
from kalendor.desk.drop_folder import DropFolders
from kalendor.desk.dropped_files import folder_of, folder_state, keep_looked_at, look_at_dropped
from kalendor.desk.outcomes import outcome
from kalendor.desk.waiting import Waiting
from kalendor.errors import ChangedError, IntakeError
from kalendor.store.intakes import no_progress

HEAD = "ticket,sold on,fare type,gross,qty"
FARES = ("adult", "child", "dog", "car")


def rows(month: int, form: str = "2026-{m:02}-{d:02}", count: int = 56, gross: str = "{n}.50") -> str:
    made = ""
    for n in range(count):
        day, amount = form.format(m=month, d=n % 28 + 1), gross.format(n=100 + 7 * n)
        made += f"T{month}{n:03},{day},{FARES[n % 4]},{amount},{n % 9}\n"
    return made


def brought(desk: Desk, text: str, name: str = "may.csv", **change: Any) -> Waiting:
    waiting = look_at(desk, name, text.encode(), "S")
    return read_again(desk, waiting.token, Change(**change)) if change else waiting


@pytest.fixture
def begun(desk: Desk) -> Desk:
    for month in (3, 4):
        keep(desk, brought(desk, f"{HEAD}\n{rows(month)}", f"m{month}.csv").token)
    return desk


def changes(desk: Desk, text: str) -> Changes:
    found = brought(desk, text).changes
    assert found is not None
    return found


def column(desk: Desk, name: str) -> list[Any]:
    source = desk.sources.named("S")
    assert source is not None
    found = desk.sources.records(source).columns[name]
    return [found.item(i) for i in range(len(found))]


@pytest.mark.parametrize(
    "text",
    [
        f"{HEAD}\n{rows(5)}",
        "qty,gross,fare type,sold on,ticket\n" + "".join(",".join(line.split(",")[::-1]) + "\n" for line in rows(5).splitlines()),
        f"TICKET,Sold_On,Fare Type,GROSS,QTY\n{rows(5)}",
        (f"{HEAD}\n{rows(5)}").replace(",", ";").replace(".50", ",50"),
        f"{HEAD}\n{rows(5, count=1)}",
        f"{HEAD}\n",
    ],
    ids=["the same", "another order", "other letters", "semicolons and commas", "one record", "none"],
)  # fmt: skip
def test_what_reads_as_before_asks_nothing(begun: Desk, text: str) -> None:
    assert brought(begun, text).changes is None


@pytest.mark.parametrize(
    ("text", "what", "said", "sure"),
    [
        (f"{HEAD.replace('fare type', 'tariff')}\n{rows(5)}", "renamed", "is now tariff (4 of 4 values are known)", True),
        (f"{HEAD}\n{rows(5, '{d:02}/{m:02}/2026')}", "rewritten", "day first: 32 dates can be read no other way", True),
        (f"{HEAD}\n{rows(5, '{m:02}/{d:02}/2026')}", "rewritten", "month first: 32 dates", True),
        (f"{HEAD}\n{rows(5, gross='{n}.5055')}", "wider", "gross has 4 places", True),
        (f"{HEAD}\n{rows(5, gross='{n}.505')}", "wider", "gross has 3 places", False),
        (f"{HEAD}\n{rows(5, gross='see note')}", "unread", "'gross' was read as a number so far", False),
        ("ticket,sold on,gross,qty\n" + "".join(",".join(x for k, x in enumerate(line.split(",")) if k != 2) + "\n" for line in rows(5).splitlines()),
         "missing", "the column 'fare type' is missing", False),
    ],
)  # fmt: skip
def test_what_differs_is_said_with_what_it_may_be(begun: Desk, text: str, what: str, said: str, sure: bool) -> None:
    found = changes(begun, text)
    assert [one.what for one in found.columns] == [what]
    assert said in found.said
    assert (found.sure, found.alike) == (sure, 2)
    assert len(found.same) == 4


def test_two_that_are_renamed_and_a_new_one_are_never_sure(begun: Desk) -> None:
    head = HEAD.replace("fare type", "tariff").replace("ticket", "ticket no")
    assert not changes(begun, f"{head}\n{rows(5)}").sure
    found = changes(begun, f"{HEAD},channel\n" + rows(5).replace("\n", ",web\n"))
    assert ([one.heading for one in found.fresh], found.columns, found.sure) == (["channel"], (), False)
    assert found.said == "channel is a new column"


def test_dates_that_can_all_be_read_both_ways_are_asked_about_where_the_files_before_tell(desk: Desk) -> None:
    keep(desk, brought(desk, f"{HEAD}\n{rows(4, '{d:02}/{m:02}/2026')}").token)
    early = "".join(f"U{n},06/{n % 12 + 1:02}/2026,adult,5.00,1\n" for n in range(40))
    waiting = brought(desk, f"{HEAD}\n{early}", "june.csv")
    assert waiting.changes is not None
    assert "month first: its dates fall in 1 month then, and not in 12" in waiting.changes.said
    assert not waiting.changes.sure
    assert {str(day)[:7] for day in _items(waiting, "sold on")} == {"2026-06"}


def test_dates_on_the_first_of_each_month_are_no_doubt_where_they_always_were(desk: Desk) -> None:
    firsts = "".join(f"V{n},01/{n % 12 + 1:02}/2025,adult,5.00,1\n" for n in range(48))
    keep(desk, brought(desk, f"{HEAD}\n{rows(4, '{d:02}/{m:02}/2026', 8)}{firsts}").token)
    assert brought(desk, f"{HEAD}\n{firsts.replace('2025', '2026').replace('V', 'W')}", "next.csv").changes is None


def _items(waiting: Waiting, name: str) -> list[Any]:
    found = waiting.reading.records.columns[name]
    return [found.item(i) for i in range(len(found))]


@pytest.mark.parametrize("mark", [".", ","])
def test_amounts_a_thousandfold_are_asked_about(desk: Desk, mark: str) -> None:
    plain = f"{HEAD}\n{rows(4, gross='{n}.505')}T,2026-04-01,dog,12.5,1\n"
    keep(
        desk,
        brought(
            desk, plain if mark == "," else plain.replace(",", ";").replace(".505", ",505").replace("12.5", "12,5")
        ).token,
    )
    text = f"{HEAD}\n{rows(5, gross='{n}.505')}".replace(",", ";").replace(".505", f"{mark}505")
    waiting = brought(desk, text, "may.csv")
    total = sum(_items(waiting, "gross"))
    assert 10_000 < total < 30_000
    assert (waiting.changes is not None) == (mark == ",")


def test_a_mark_is_found_from_the_whole_file(desk: Desk) -> None:
    waiting = look_at(desk, "a.csv", b"d;net;units\n2026-01-02;12,50;1.234\n2026-01-03;8,00;2.000\n", "Fresh")
    assert [str(x) for x in _items(waiting, "units")] == ["1234", "2000"]


def test_nothing_is_kept_until_a_person_has_seen_it(begun: Desk) -> None:
    waiting = brought(begun, f"{HEAD.replace('fare type', 'tariff')}\n{rows(5)}")
    with pytest.raises(ChangedError, match="not like the files before"):
        keep(begun, waiting.token)
    keep(begun, waiting.token, seen=True)
    assert column(begun, "fare type")[-4:] == list(FARES)


def test_files_before_and_after_read_rightly_and_undoing_takes_the_decision_back(begun: Desk) -> None:
    after = HEAD.replace("fare type", "tariff")
    text = f"{after}\n{rows(5, '{d:02}/{m:02}/2026')}"
    _, intake = keep(begun, brought(begun, text).token, seen=True)
    assert brought(begun, f"{after}\n{rows(6, '{d:02}/{m:02}/2026')}").changes is None
    assert brought(begun, f"{HEAD}\n{rows(2)}").changes is None, "a late file of the old kind"
    first = begun.intakes.recipe_of(begun.intakes.one(intake.id - 1))
    assert (first.columns["fare type"].headings, first.columns["sold on"].format) == ([], "%Y-%m-%d")
    begun.intakes.undo(intake.id, begun.now())
    assert changes(begun, text).columns
    begun.intakes.redo(intake.id)
    assert brought(begun, f"{after}\n{rows(6, '{d:02}/{m:02}/2026')}").changes is None


def test_a_column_that_came_later_is_missed_where_it_is_gone_again(begun: Desk) -> None:
    keep(begun, brought(begun, f"{HEAD},channel\n" + rows(5).replace("\n", ",web\n")).token, seen=True)
    found = brought(begun, f"{HEAD}\n{rows(6)}", "june.csv")
    assert found.changes is not None
    assert [(one.name, one.what) for one in found.changes.columns] == [("channel", "missing")]
    keep(begun, found.token, seen=True)
    assert brought(begun, f"{HEAD}\n{rows(7)}", "july.csv").changes is None
    assert brought(begun, f"{HEAD},channel\n" + rows(8).replace("\n", ",web\n"), "august.csv").changes is None
    assert column(begun, "channel")[-1] is None


def workbook(sheet: str, lines: str) -> bytes:
    out = io.BytesIO()
    book = xlsxwriter.Workbook(out)
    page = book.add_worksheet(sheet)
    for n, line in enumerate(lines.splitlines()):
        page.write_row(n, 0, line.split(","))
    book.add_worksheet("About").write(0, 0, "Exported by the till")
    book.close()
    return out.getvalue()


def test_a_sheet_called_after_its_month_asks_nothing_where_all_its_columns_fit(desk: Desk) -> None:
    first = look_at(desk, "april.xlsx", workbook("April", f"{HEAD}\n{rows(4)}"), "S")
    keep(desk, read_again(desk, first.token, Change(sheet="April")).token)
    may = look_at(desk, "may.xlsx", workbook("May", f"{HEAD}\n{rows(5)}"), "S")
    assert (may.changes, may.reading.sheets[0], may.reading.records.count) == (None, "May", 56)
    assert any("'April'" in note for note in may.reading.notes)
    changed = look_at(desk, "june.xlsx", workbook("June", f"{HEAD.replace('gross', 'gross total')}\n{rows(6)}"), "S")
    assert changed.changes is not None
    assert "'April'" in changed.changes.layout
    assert not changed.changes.sure


def test_a_person_says_otherwise(begun: Desk) -> None:
    text = f"{HEAD.replace('fare type', 'tariff')},extra\n" + rows(5).replace("\n", ",adult\n")
    waiting = brought(begun, text)
    waiting = read_again(begun, waiting.token, Change(pairs={"fare type": "extra"}))
    assert set(_items(waiting, "fare type")) == {"adult"}
    assert "tariff" in waiting.reading.records.columns
    waiting = read_again(begun, waiting.token, Change(pairs={"fare type": None}))
    assert set(_items(waiting, "fare type")) == {None}
    waiting = read_again(begun, waiting.token, Change(columns={"extra": ColumnReading(skip=True)}))
    assert "extra" not in waiting.reading.records.columns
    waiting = read_again(begun, waiting.token, Change(pairs={"fare type": "tariff"}))
    keep(begun, waiting.token, seen=True)
    assert column(begun, "fare type")[-4:] == list(FARES)
    assert brought(begun, text.replace("T5", "T9").replace("2026-05", "2026-06"), "next.csv").changes is None


def test_a_renamed_amount_with_an_open_mark_is_read_as_the_ones_before(begun: Desk) -> None:
    lines = [f"T5{n:03};2026-05-{n % 28 + 1:02};{FARES[n % 4]};{100 + 7 * n},505;{n % 9}" for n in range(56)]
    waiting = brought(begun, f"{HEAD.replace('gross', 'gross total').replace(',', ';')}\n" + "\n".join(lines) + "\n")
    assert waiting.reading.headed["gross"] == "gross total"
    assert 10_000 < sum(_items(waiting, "gross")) < 30_000
    assert waiting.changes is not None
    assert not waiting.changes.sure
    blank = read_again(begun, waiting.token, Change(pairs={"gross": None}))
    again = read_again(begun, blank.token, Change(pairs={"gross": "gross total"}))
    assert 10_000 < sum(_items(again, "gross")) < 30_000
    told = read_again(begun, again.token, Change(columns={"gross": ColumnReading(type="decimal", decimal_mark=".")}))
    assert told.reading.headed["gross"] == "gross total", "what is told of a column leaves its heading"
    assert sum(_items(told, "gross")) > 10_000_000


def test_two_columns_exchange_their_headings(begun: Desk) -> None:
    head = "ticket,sold on,class,amount,qty"
    waiting = brought(begun, f"{head}\n{rows(5)}")
    waiting = read_again(begun, waiting.token, Change(pairs={"fare type": "amount", "gross": "class"}))
    waiting = read_again(begun, waiting.token, Change(pairs={"fare type": "class", "gross": "amount"}))
    assert waiting.reading.headed["fare type"] == "class"
    assert sum(_items(waiting, "gross")) == sum(column(begun, "gross")[:56])


def test_more_places_are_taken_on_exactly_and_what_was_issued_keeps_its_own(begun: Desk) -> None:
    before = column(begun, "gross")
    keep(begun, brought(begun, f"{HEAD}\n{rows(5, gross='{n}.505')}").token, seen=True)
    assert column(begun, "gross")[: len(before)] == before
    source = begun.sources.named("S")
    assert source is not None
    assert [c.places for c in source.columns if c.name == "gross"] == [3]
    assert brought(begun, f"{HEAD}\n{rows(6)}", "june.csv").changes is None
    found = outcome(begun, brought(begun, f"{HEAD}\n{rows(4)}", "again.csv"))
    assert found.here == 56


def test_a_dropped_file_that_changed_waits_and_is_taken_with_one_key_where_it_is_sure(begun: Desk) -> None:
    folders = DropFolders(begun)
    folders.make()
    folder = folder_of(begun, "S")
    assert folder is not None
    (folder / "may.csv").write_text(f"{HEAD.replace('fare type', 'tariff')}\n{rows(5)}")
    (folder / "more.csv").write_text(f"{HEAD},channel\n" + rows(6).replace("\n", ",web\n"))
    assert [bool(one.reason) for one in folders.look(at_once=True)] == [True, True]
    state = folder_state(begun, "S")
    assert state is not None
    assert {one.file: one.why.sure for one in state.held} == {"may.csv": True, "more.csv": False}
    assert all(one.why.said.startswith(f"{one.file}: not like the files before") for one in state.held)
    waiting = look_at_dropped(begun, "S", "may.csv")
    keep_looked_at(begun, waiting.token, again=False, progress=no_progress, seen=True)
    assert len(column(begun, "ticket")) == 168


def test_the_command_takes_what_is_beyond_doubt_where_it_is_told_to(begun: Desk, tmp_path: Any) -> None:
    path = tmp_path / "may.csv"
    path.write_text(f"{HEAD.replace('fare type', 'tariff')}\n{rows(5)}")
    with pytest.raises(ChangedError, match="fare type is now tariff"):
        bring_in_file(begun, path, "S")
    assert not begun.waiting
    bring_in_file(begun, path, "S", matched=True)
    assert len(column(begun, "ticket")) == 168
    path.write_text("ticket,sold on,gross,qty\nT,2026-06-01,5.00,1\n")
    with pytest.raises(ChangedError, match="'fare type' is missing"):
        bring_in_file(begun, path, "S", matched=True)
    path.write_text(f"{HEAD},channel\n" + rows(6).replace("\n", ",web\n"))
    bring_in_file(begun, path, "S")
    source = begun.sources.named("S")
    assert source is not None
    assert "channel" not in [c.name for c in source.columns]


def test_a_file_of_something_else_is_refused(begun: Desk) -> None:
    with pytest.raises(IntakeError, match="none of its columns is one of S, which has ticket, sold on"):
        brought(begun, "a,b\n1,2\n")


def test_a_mended_line_is_refused_again_when_its_mending_is_undone(begun: Desk) -> None:
    _, old = keep(begun, brought(begun, f"{HEAD}\n{rows(5)}T5x,2026-05-01,adult,none,1\n").token)
    lines = f"{HEAD}\nT5x,2026-05-01,adult,7.50,1\n".encode()

    def left() -> list[bool]:
        return [line.mended_by is None for line in begun.intakes.refused(old.id)]

    assert left() == [True]
    _, mended = keep(begun, look_at(begun, "mended.csv", lines, "S", mends=old.id).token)
    assert left() == [False]
    begun.intakes.undo(mended.id, begun.now())
    assert left() == [True]
    keep(begun, look_at(begun, "again.csv", lines.replace(b"7.50", b"8.50"), "S", mends=old.id).token)
    assert left() == [False]


def test_refused_lines_are_mended_by_the_recipe_of_their_own_file(begun: Desk) -> None:
    text = f"{HEAD}\n{rows(5)}T5x,2026-05-01,adult,none,1\n"
    _, old = keep(begun, brought(begun, text).token)
    after = f"{HEAD.replace('fare type', 'tariff')}\n{rows(6, '{d:02}/{m:02}/2026')}"
    keep(begun, brought(begun, after, "june.csv").token, seen=True)
    lines = refused_file(begun, old.id).decode().replace("none", "7.50").encode()
    keep(begun, look_at(begun, "mended.csv", lines, "S", mends=old.id).token)
    assert str(column(begun, "sold on")[-1]) == "2026-05-01"
    assert str(column(begun, "gross")[-1]) == "7.50"
