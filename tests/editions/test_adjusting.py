"""Adjustments: entered by hand with a reason, kept apart from files, and named wherever they count."""

from datetime import date
from typing import Any

import pytest
from fastapi.testclient import TestClient

from kalendor.api.app import create_app
from kalendor.core.trail.cell import Cell
from kalendor.definitions.recipe import ColumnReading, Recipe
from kalendor.desk.adjusting import adjust, check_pair, read_lines, reverse
from kalendor.desk.bringing_in import Change, keep, look_at, read_again
from kalendor.desk.columns import read_column_as, rename_column
from kalendor.desk.desk import Desk
from kalendor.desk.editions.issuing import opened
from kalendor.desk.editions.moved import causes
from kalendor.desk.editions.steps import moved
from kalendor.desk.editions.trails import edition_trail
from kalendor.desk.ingredients import now
from kalendor.desk.sheets import sheet_from
from kalendor.errors import ConflictError, DefinitionError
from kalendor.output.told import tie_words
from kalendor.store.intakes import Intake
from kalendor.store.soundness import faults
from kalendor.store.sources import Source
from tests.desk.test_bringing_in import bring
from tests.editions.conftest import HEAD, LINES, Office
from tests.editions.test_board import board, checks

ACCRUAL = [{"day": "2026-06-30", "kind": "kx", "amount": "-2.50"}, {"day": "2026-06-30", "kind": "ky", "amount": "4"}]


def source(office: Office) -> Source:
    found = office.desk.sources.named("Sales")
    assert found is not None
    return found


def entered(office: Office, reason: str = "accrual of June") -> Intake:
    return adjust(office.desk, source(office), ACCRUAL, reason)


def amounts(office: Office) -> list[Any]:
    records = office.desk.sources.records(source(office))
    return [records.columns["amount"].item(i) for i in range(records.count)]


def total(office: Office) -> str:
    return str(sum(amounts(office)))


def test_no_file_replaces_what_was_entered_by_hand(office: Office) -> None:
    before = total(office)
    intake = entered(office)
    assert (intake.origin, intake.reason, intake.records) == ("hand", "accrual of June", 2)
    for join in ("replace_months", "replace_dates", "replace_all", "update"):
        by = {"join_by": ["kind"]} if join == "update" else {}
        office.file("2026-06", f"2026-06-30,kx,{len(join)}.00\n", join=join, **by)
        assert str(amounts(office)[:]).count("-2.50") == 1, join
    for file in office.desk.intakes.of(source(office))[:4]:
        office.desk.intakes.undo(file.id, office.now)
    office.desk.intakes.undo(intake.id, office.now)
    assert total(office) == before


def test_the_next_file_is_read_as_the_last_file_was(office: Office) -> None:
    recipe = source(office).recipe
    entered(office)
    assert source(office).recipe == recipe
    last = office.desk.intakes.of(source(office))[1]
    office.desk.intakes.undo(last.id, office.now)
    office.desk.intakes.redo(last.id)
    assert source(office).recipe == recipe
    assert recipe not in office.desk.intakes.earlier_recipes(source(office))


def test_it_is_named_in_the_tie_out_the_trail_and_what_moved(office: Office) -> None:
    first = office.issue("2026-06").edition
    bring(office.desk, HEAD + "2026-06-29,kx,0.25\n", "late.csv", "Sales")
    entered(office)
    again = office.issue("2026-06").edition
    sheet = opened(office.desk, again.id).sheet
    assert opened(office.desk, again.id).document["files"] == 4, "an adjustment is no file"
    assert "13 records read → 2 entered by hand → 8 outside" in tie_words(sheet)
    late, by_hand, *_ = causes(office.desk, moved(office.desk, first.id, None))
    assert (late.title, by_hand.title) == ("Records came late", "Adjustments were entered by hand")
    assert [why.text.partition(",")[0] for why in by_hand.words] == ["By hand: accrual of June"]
    assert dict(by_hand.totals)["Amount"] == 1.5
    trail = edition_trail(office.desk, opened(office.desk, again.id), Cell("Amount", 0, 0))
    rows = trail.trail.operand.rows
    assert rows is not None
    assert trail.by_hand(rows).sum() == 2
    office.desk.intakes.undo(office.desk.intakes.of(source(office))[0].id, office.now)
    assert "entered by hand" not in tie_words(
        sheet_from(office.desk, now(office.desk, opened(office.desk, again.id).ingredients.report))
    )
    assert not faults(office.desk.workspace.folder)
    assert opened(office.desk, again.id).sheet.tie_out.by_hand == 2, "an edition keeps what it was made from"


def test_it_fills_no_gap_of_a_source(office: Office) -> None:
    office.desk.intakes.undo(3, office.now)
    lines = [{"day": "2026-07-31", "kind": "kx", "amount": "1"}]
    adjust(office.desk, source(office), lines, "the last day of July")
    july = next(s for s in board(office.desk).sources if s.name == "Sales").cells[-1]
    assert july.filled == "missing"
    assert checks(office)["empty"][0] == "stop"


def test_a_reversal_turns_the_amounts_round_on_the_first_of_the_next_month(office: Office) -> None:
    before = total(office)
    intake = entered(office)
    back = reverse(office.desk, intake)
    assert (back.reverses, back.reason, back.first_day, back.last_day) == (
        intake.id, "Reversal of accrual of June", "2026-07-01", "2026-07-01",
    )  # fmt: skip
    assert total(office) == before
    with pytest.raises(ConflictError, match="reversed already"):
        reverse(office.desk, intake)
    with pytest.raises(DefinitionError, match="a reversal itself"):
        reverse(office.desk, back)
    with pytest.raises(ConflictError, match="undo the reversal first"):
        check_pair(office.desk, intake, undo=True)
    office.desk.intakes.undo(back.id, office.now)
    other = reverse(office.desk, intake)
    with pytest.raises(ConflictError, match="is reversed already"):
        check_pair(office.desk, office.desk.intakes.one(back.id), undo=False)
    office.desk.intakes.undo(other.id, office.now)
    office.desk.intakes.undo(intake.id, office.now)
    with pytest.raises(ConflictError, match="was undone"):
        check_pair(office.desk, office.desk.intakes.one(back.id), undo=False)
    with pytest.raises(DefinitionError, match="only an adjustment that stands"):
        reverse(office.desk, office.desk.intakes.one(intake.id))


def test_a_line_without_a_date_or_an_amount_is_not_reversed_by_itself(office: Office) -> None:
    bare = adjust(office.desk, source(office), [{"kind": "kx", "amount": "1"}], "no date")
    with pytest.raises(DefinitionError, match="no date"):
        reverse(office.desk, bare)
    bare = adjust(office.desk, source(office), [{"day": "2026-12-31", "kind": "kx"}], "no amount")
    with pytest.raises(DefinitionError, match="no line has an amount"):
        reverse(office.desk, bare)


@pytest.mark.parametrize(
    ("lines", "said"),
    [
        ([{"day": "31/13/2026"}], "line 1, day: '31/13/2026' cannot be read as a date; write it as 2026-07-31"),
        ([{}, {"amount": "x"}], "line 2, amount: 'x' cannot be read as a number"),
        ([{"amount": "1.234"}], "line 1, amount: 1.234 has 3 places, and the source has 2"),
        ([{"colour": "red"}], "Sales has no column 'colour'; it has day, kind, amount"),
        ([], "nothing is entered yet"),
        ([{"kind": "  "}], "nothing is entered yet"),
        ([{"kind": "k"}] * 2001, "2,001 lines are too many"),
    ],
)
def test_what_cannot_be_read_is_named_by_its_line_and_nothing_is_kept(
    office: Office, lines: list[dict[str, str]], said: str
) -> None:
    with pytest.raises(DefinitionError) as error:
        adjust(office.desk, source(office), lines, "why")
    assert said in str(error.value)
    assert len(office.desk.intakes.of(source(office))) == len(LINES)
    assert not list(office.desk.workspace.files.glob(".waiting-*"))


@pytest.mark.parametrize("reason", ["", "  ", "x" * 301])
def test_a_reason_is_asked_for(office: Office, reason: str) -> None:
    with pytest.raises(DefinitionError, match="say why"):
        adjust(office.desk, source(office), ACCRUAL, reason)


def test_the_same_lines_for_the_same_reason_are_taken_once(office: Office) -> None:
    entered(office)
    with pytest.raises(ConflictError, match="stand already for the same reason"):
        entered(office, " accrual  of June")
    assert entered(office, "another").records == 2


@pytest.mark.parametrize("mark", [".", ","])
@pytest.mark.parametrize("format", ["%d/%m/%Y", "%m/%d/%Y", "%d %b %Y"])
def test_values_are_read_as_the_files_write_them_or_plainly(desk: Desk, mark: str, format: str) -> None:

    days = [date(2026, 5, day).strftime(format) for day in (1, 14, 25)]
    text = "on;paid;share\n" + "".join(f"{day};1.234{mark}50;11%\n".replace("1.234.50", "1,234.50") for day in days)
    told = Recipe.model_validate({"kalendor": 1, "columns": {"on": {"type": "date", "format": format}}})
    keep(desk, look_at(desk, "s.csv", text.encode(), "S", told).token)
    found = desk.sources.named("S")
    assert found is not None
    own = "2.345,5" if mark == "," else "2,345.5"
    lines = [
        {"on": date(2026, 6, 2).strftime(format), "paid": own, "share": "12.5%".replace(".", mark)},
        {"ON": "2026-06-02", "Paid": "2345.50", "share": "12.5%"},
    ]
    read = read_lines(found, lines)
    assert [line["on"] for line in read.lines] == ["2026-06-02"] * 2
    adjust(desk, found, lines, "both ways")
    records = desk.sources.records(desk.sources.one(found.id))
    assert [[str(records.columns[c].item(i)) for c in ("on", "paid", "share")] for i in (3, 4)] == [
        ["2026-06-02", "2345.50", "0.1250"]
    ] * 2


def test_columns_are_renamed_and_read_otherwise_under_it(office: Office) -> None:
    intake = entered(office)
    rename_column(office.desk, source(office), "amount", "paid")

    read_column_as(office.desk, source(office), "kind", ColumnReading(type="text", fold_case=True))
    back = reverse(office.desk, intake)
    assert back.records == 2
    records = office.desk.sources.records(source(office))
    assert str(records.columns["paid"].item(records.count - 1)) == "-4.00"
    assert not faults(office.desk.workspace.folder)


def test_over_http_it_is_one_step_and_its_trail_says_so(office: Office) -> None:
    api = TestClient(create_app(office.desk))
    id = source(office).id
    made = api.post(f"/api/sources/{id}/adjustments", json={"lines": ACCRUAL, "reason": "accrual"})
    assert made.status_code == 201, made.text
    view = api.get(f"/api/sources/{id}").json()
    assert (view["files"], view["intakes"][0]["origin"], view["intakes"][0]["reason"]) == (3, "hand", "accrual")
    again = api.post(f"/api/sources/{id}/adjustments", json={"lines": ACCRUAL, "reason": "accrual"})
    assert (again.status_code, "stand already" in again.json()["detail"]) == (409, True)
    back = api.post(f"/api/intakes/{made.json()['id']}/reverse")
    assert (back.status_code, back.json()["reverses"]) == (201, made.json()["id"])
    assert api.post(f"/api/intakes/{made.json()['id']}/undo").status_code == 409
    assert api.post("/api/intakes/1/reverse").status_code == 422
    refused = api.post(f"/api/sources/{id}/adjustments/try", json={"lines": [{"day": "soon"}]})
    assert (refused.status_code, refused.json()["detail"][:12]) == (422, "line 1, day:")


@pytest.mark.parametrize("mark", [",", "."])
@pytest.mark.parametrize("wider", [1, 2, 3, 4, 6])
@pytest.mark.parametrize(
    "given", [["533.2", "1234.5", "-0.1", "1000", "12.0", "999999.9"], ["533.2", "831.4", "-477.5"]]
)
def test_a_reversal_takes_back_just_what_was_entered_however_the_source_is_written(
    desk: Desk, mark: str, wider: int, given: list[str]
) -> None:
    """`wider`: the decimal places of the source's amounts after the adjustment."""

    def filed(place: int, *amounts: str) -> str:
        rows = [f"2026-0{place}-0{n + 1};{amount.replace('.', mark)};{n * 1000}\n" for n, amount in enumerate(amounts)]
        return "day;net;count\n" + "".join(rows)

    columns = {"net": ColumnReading(type="decimal", decimal_mark=mark), "count": ColumnReading(type="whole")}  # type: ignore[arg-type]
    found = look_at(desk, "first.csv", filed(1, "1234567.5", "3.1").encode(), "S", Recipe(columns=columns))
    keep(desk, found.token)
    lines = [{"day": f"2026-01-1{n}", "net": one, "count": str(n * 1000)} for n, one in enumerate(given)]
    before = adjust(desk, desk.sources.one(1), lines, "before")
    more = filed(2, "0." + "1" * wider, "1000." + "7" * wider, f"5.{'0' * wider}")
    second = look_at(desk, "second.csv", more.encode(), "S").token
    keep(desk, read_again(desk, second, Change(columns=columns)).token, seen=True)
    after = adjust(desk, desk.sources.one(1), lines, "after")
    reverse(desk, before)
    reverse(desk, after)
    records = desk.sources.records(desk.sources.one(1))
    days, net, counts = (records.columns[name] for name in ("day", "net", "count"))
    assert net.places == max(1, wider)
    entered = [(net.item(i), counts.item(i)) for i in range(records.count) if days.item(i).month == 1][2:]
    back = [(net.item(i), counts.item(i)) for i in range(records.count) if days.item(i).month == 2][3:]
    assert [str(float(amount)) for amount, _ in entered] == [str(float(one)) for one in given * 2]
    assert sorted(back) == sorted((-amount, -count) for amount, count in entered)
