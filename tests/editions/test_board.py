"""The board: the status of each report's edition by period, and the checks that explain it."""

from datetime import date, datetime
from typing import Any

import pytest

from kalendor.core.values.columns import day_number
from kalendor.desk.editions.board import board
from kalendor.desk.editions.checks import checked
from kalendor.desk.editions.issuing import opened
from kalendor.desk.editions.owed import Recurs, recurring_reports
from kalendor.desk.editions.schedule import run_due
from kalendor.desk.editions.steps import moved
from kalendor.desk.ingredients import now
from kalendor.desk.sheets import sheet_from
from tests.desk.test_bringing_in import bring, columns
from tests.editions.conftest import HEAD, REPORT, TREE, Office


def states(office: Office, **more: Any) -> list[list[str]]:
    found = board(office.desk, work=99, **more)
    return [
        [f"{c.state}{' moved' if c.standing and c.standing.moved else ''}" for cell in row.cells for c in cell]
        for row in found.rows
    ]


def one(office: Office) -> Recurs:
    return recurring_reports(office.desk)[0][0]


def checks(office: Office, month: str = "2026-07") -> dict[str, tuple[str, str]]:
    recurring = one(office)
    found = checked(office.desk, recurring, recurring.on(day_number(date.fromisoformat(f"{month}-15"))))
    return {check.kind: (check.state, check.words) for check in found.checks}


def test_a_crossing_is_issued_restated_due_late_waiting_or_past(office: Office) -> None:
    assert states(office)[0][-4:] == ["past", "late", "late", "due"]
    office.issue("2026-05")
    office.issue("2026-06")
    assert states(office)[0][-4:] == ["past", "issued", "issued", "due"]
    office.file("2026-06", "2026-06-15,kx,100.00\n", join="replace_dates")
    assert states(office)[0][-4:] == ["past", "issued", "issued moved", "due"]
    office.issue("2026-06")
    assert states(office)[0][-4:] == ["past", "issued", "restated", "due"]
    office.now = datetime(2026, 8, 4, 0, 0)
    assert states(office)[0][-1] == "late"
    office.now = datetime(2026, 9, 1, 8, 0)
    assert states(office)[0][-2:] == ["late", "waiting"]


def test_moved_is_known_only_once_it_is_worked_out(office: Office) -> None:
    office.issue("2026-05")
    bring(office.desk, HEAD + "2026-08-01,kx,1.00\n", "sales-2026-08.csv", "Sales")
    quick = board(office.desk)
    stands = [c.standing for cell in quick.rows[0].cells for c in cell if c.standing]
    assert [s.moved for s in stands] == [None]
    assert board(office.desk, work=5).said() == board(office.desk).said()
    again = board(office.desk)
    assert [c.standing.moved for cell in again.rows[0].cells for c in cell if c.standing] == [False]


def test_the_board_by_week_quarter_and_year_and_earlier(office: Office) -> None:
    office.report(cadence={"every": "quarter", "since": "2026-01-01", "due": {"days": 5}})
    assert states(office, every="quarter")[0][-1] == "late"
    assert [c.label for c in board(office.desk, every="year").columns][-1] == "2025"
    assert len(board(office.desk, every="week").columns) == 13
    first = board(office.desk).columns[0]
    assert board(office.desk, back=1).columns[-1].last == first.first - 1
    assert board(office.desk, "Civil year").calendar == "Civil year"


def test_a_report_without_a_cadence_is_told_apart(office: Office) -> None:
    office.report(cadence=None)
    found = board(office.desk)
    assert (found.rows, [title for _, title in found.rest]) == ((), ["Sales by side"])


@pytest.mark.parametrize(
    ("lines", "filled"),
    [
        ("2026-07-01,kx,1\n2026-07-10,kx,1\n2026-07-20,kx,1\n2026-07-30,kx,1\n", "whole"),
        ("2026-07-01,kx,1\n2026-07-10,kx,1\n", "part"),
        ("2026-07-20,kx,1\n2026-07-31,kx,1\n", "part"),
        ("2026-07-01,kx,1\n2026-07-08,kx,1\n2026-07-28,kx,1\n", "part"),
        ("2026-08-01,kx,1\n", "missing"),
    ],
)
def test_a_part_filled_and_a_missing_period_are_told_apart_from_a_small_one(
    office: Office, lines: str, filled: str
) -> None:
    office.desk.intakes.undo(3, office.now)
    bring(office.desk, HEAD + lines, "sales-2026-07.csv", "Sales")
    july = next(s for s in board(office.desk).sources if s.name == "Sales").cells[-1]
    assert july.filled == filled, july
    kind, other = ("empty", "source") if filled == "missing" else ("source", "empty")
    found = checks(office)
    assert other not in found
    assert found[kind][0] == ("ok" if filled == "whole" else "stop")
    office.report(cadence={**REPORT["cadence"], "accept": [other]})
    assert checks(office)[kind][0] == found[kind][0], "one word does not stand for the other"
    waiting = states(office)[0][-1]
    office.report(cadence={**REPORT["cadence"], "accept": [kind]})
    assert checks(office)[kind][0] == "ok"
    assert (waiting, states(office)[0][-1]) == ("due" if filled == "whole" else "waiting", "due")


def test_records_that_stand_more_than_once_are_looked_at(office: Office) -> None:
    assert "repeated" not in checks(office)
    bring(office.desk, HEAD + "2026-07-10,ky,7.00\n2026-07-11,kx,1.00\n", "again.csv", "Sales")
    assert checks(office)["repeated"] == ("look", "2 records stand more than once, every column the same")
    assert "repeated" not in checks(office, "2026-06")
    office.report(cadence={**REPORT["cadence"], "accept": ["repeated"]})
    assert checks(office)["repeated"][0] == "ok"


def test_codes_that_stand_more_than_once_are_looked_at_and_usual_doubles_are_not(office: Office) -> None:
    lines = "".join(f"T{n},2026-0{6 + n % 2}-{n % 28 + 1:02},{n}.00\n" for n in range(200))
    bring(office.desk, f"ticket,day,amount\n{lines}T7,2026-07-08,9.00\n", "t.csv", "Tickets")
    office.define({**REPORT, "title": "By ticket", "source": "Tickets", "down": []})
    (recurring,) = [found for found in recurring_reports(office.desk)[0] if found.report.title == "By ticket"]
    july = recurring.on(day_number(date(2026, 7, 15)))
    found = {c.kind: c.words for c in checked(office.desk, recurring, july).checks}
    assert found["repeated"] == "2 records have a ticket that stands more than once: T7"
    day = "".join(f"2026-0{m}-{d:02},kx,1.00\n" * 2 for m in (5, 6, 7) for d in range(1, 29))
    bring(office.desk, f"day,kind,amount\n{day}", "c.csv", "Counters")
    office.define({**REPORT, "title": "Counted", "source": "Counters", "down": []})
    (recurring,) = [found for found in recurring_reports(office.desk)[0] if found.report.title == "Counted"]
    july = recurring.on(day_number(date(2026, 7, 15)))
    assert "repeated" not in {c.kind for c in checked(office.desk, recurring, july).checks}


def test_the_checks_before_issuing(office: Office) -> None:
    office.issue("2026-06")
    office.report(
        controls=[{"figure": "Amount", "expect": "43.00"}],
        cadence={**REPORT["cadence"], "limits": [{"figure": "Amount", "against": "period_before", "percent": 30}]},
    )
    bring(office.desk, HEAD + "2026-07-15,kx,oops\n" + "2026-07-16,kx,0.02\n" * 50, "more.csv", "Sales")
    found = checks(office)
    assert found["foots"][0] == "ok"
    assert found["expected"] == ("ok", "Amount agrees with the expected total, 43.00")
    assert found["not_placed"] == ("look", "1 value has no Side yet: kz, 1.00")
    assert found["refused"] == ("look", "1 line was refused in more.csv")
    assert found["limit"] == ("look", "Amount is 43.3% above Jun 2026, beyond 30%")
    assert found["moved"] == ("ok", "Jun 2026 is unchanged since it was issued")
    office.report(
        controls=[{"figure": "Amount", "expect": "44.00"}],
        cadence={**REPORT["cadence"], "accept": ["not_placed", "refused"]},
    )
    found = checks(office)
    assert found["expected"] == ("stop", "Amount is 43.00, and 44.00 is expected")
    assert (found["not_placed"][0], found["refused"][0]) == ("ok", "ok")


def test_a_window_that_does_not_follow_the_period_is_pointed_out(office: Office) -> None:
    office.report(window={"of": "day", "show": {"from": "2026-07-01", "to": "2026-07-20"}})
    assert checks(office)["window"][0] == "look"
    office.report(window=None)
    assert checks(office, "2026-06")["window"] == (
        "look", "It has no window, so records after 30 Jun 2026 are on the sheet, too",
    )  # fmt: skip
    assert "window" not in checks(office, "2026-07")


def test_lines_refused_of_another_period_are_none_of_this_ones(office: Office) -> None:
    bring(office.desk, HEAD + "2026-07-15,kx,oops\n" + "2026-07-16,kx,1.00\n" * 50, "more.csv", "Sales")
    assert "refused" in checks(office, "2026-07")
    assert "refused" not in checks(office, "2026-06")


def test_an_edition_holds_the_sources_that_its_sources_columns_look_up(office: Office) -> None:
    desk = office.desk
    bring(desk, "kind,name\nkx,Xe\nky,Ye\n", "names.csv", "Names")
    bring(desk, "kind,rate\nkx,1\nky,2\n", "rates.csv", "Rates")
    for name, other, take in (("Rates", "Names", "name"), ("Sales", "Rates", "called")):
        source = desk.sources.named(name)
        assert source is not None
        lookup = {"source": other, "match": {"kind": "kind"}, "take": take}
        desk.sources.save_made(source, columns({"name": "called", "lookup": lookup}))
    office.report(down=[{"category": "called"}])
    id = office.issue("2026-06").edition.id
    held = opened(desk, id).ingredients
    assert [s.name for s in held.sources] == ["Sales", "Rates", "Names"]
    assert now(desk, held.report).key == held.key  # the same sheet, wherever it is made from
    bring(desk, "kind,name\nkx,Other\nky,Other\n", "names.csv", "Names", join="replace_all")
    assert sheet_from(desk, held).lines.labels.tolist() == opened(desk, id).sheet.lines.labels.tolist()
    steps = moved(desk, id, None).steps
    assert next(step.kinds for step in steps if "Xe" not in step.sheet.lines.labels.tolist()) == ("looked_up",)


def test_what_is_not_placed_has_no_amount_where_it_stands_on_several_lines(office: Office) -> None:
    office.report(down=[{"period": "day", "grains": ["week"]}, {"category": "kind", "tree": "Kinds"}])
    assert checks(office)["not_placed"] == ("look", "1 value has no Side yet: kz, 1.00")
    bring(office.desk, HEAD + "2026-07-02,kz,5.00\n", "more.csv", "Sales")
    assert checks(office)["not_placed"] == ("look", "1 value has no Side yet: kz")


def test_look_ups_that_find_nothing_are_pointed_out(office: Office) -> None:
    bring(office.desk, "kind,rate\nkx,1\nky,2\n", "rates.csv", "Rates")
    office.report(columns=[{"name": "rate", "lookup": {"source": "Rates", "match": {"kind": "kind"}, "take": "rate"}}])
    assert checks(office)["unmatched"] == ("look", "1 record finds no rate in Rates")
    assert "unmatched" not in checks(office, "2026-06")


def test_a_report_that_cannot_be_worked_out_is_stopped_with_the_reason(office: Office) -> None:
    office.report(only=["gone = 1"])
    state, words = checks(office)["worked_out"]
    assert state == "stop"
    assert "gone" in words
    assert states(office)[0][-1] == "due"


def test_schedules_issue_what_is_due_and_ready_and_leave_the_rest_with_the_reason(office: Office) -> None:
    assert run_due(office.desk) == []
    office.report(cadence={**REPORT["cadence"], "issue": "when_ready"})
    first = run_due(office.desk)
    assert [(o.period.label, o.edition is not None) for o in first] == [("May 2026", True), ("Jun 2026", True)]
    assert run_due(office.desk) == []
    office.now = datetime(2026, 8, 3, 0, 1)
    assert [o.reason for o in run_due(office.desk)] == ["1 value has no Side yet: kz, 1.00"]
    assert office.desk.schedule_log.left() == {(1 + 1, "2026-07-31"): "1 value has no Side yet: kz, 1.00"}
    run_due(office.desk)
    assert len(office.desk.schedule_log.latest()) == 3
    office.define({**TREE, "roots": [*TREE["roots"], {"value": "kz"}]})
    assert [o.edition is not None for o in run_due(office.desk)] == [True]
    assert office.desk.schedule_log.left() == {}


def test_what_was_missed_while_nothing_ran_is_issued_once_each_and_a_clock_set_back_issues_nothing(
    office: Office,
) -> None:
    office.define({**TREE, "roots": [*TREE["roots"], {"value": "kz"}]})
    office.report(cadence={**REPORT["cadence"], "issue": "when_ready"})
    office.now = datetime(2026, 8, 20, 3, 0)
    assert [o.period.label for o in run_due(office.desk)] == ["May 2026", "Jun 2026", "Jul 2026"]
    for moment in (datetime(2026, 6, 10), datetime(2026, 8, 20, 3, 0), datetime(2026, 10, 25, 2, 30)):
        office.now = moment
        run_due(office.desk)
    assert [e.label for e in office.desk.editions.all()] == ["May 2026", "Jun 2026", "Jul 2026"]


def test_two_schedulers_at_once_issue_each_once(office: Office) -> None:
    import threading

    office.report(cadence={**REPORT["cadence"], "issue": "when_ready"})
    threads = [threading.Thread(target=run_due, args=(office.desk,)) for _ in range(3)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert sorted(e.label for e in office.desk.editions.all()) == ["Jun 2026", "May 2026"]


def test_what_was_left_is_tried_again_when_something_has_changed(
    office: Office, monkeypatch: pytest.MonkeyPatch
) -> None:
    import threading

    from kalendor.desk.editions import schedule

    tried: list[int] = []
    monkeypatch.setattr(schedule, "EVERY_SECONDS", 0.01)
    monkeypatch.setattr(schedule, "run_due", lambda desk: tried.append(1))
    stop = threading.Event()
    thread = threading.Thread(target=schedule.keep_running, args=(office.desk, stop))
    thread.start()
    deadline = threading.Event()
    for happens in (
        lambda: None,
        lambda: office.define({**TREE, "levels": ["A", "B"]}),
        lambda: setattr(office, "now", datetime(2026, 8, 9)),
    ):
        happens()
        deadline.wait(0.4)
    stop.set()
    thread.join()
    assert len(tried) == 3


def test_a_report_whose_calendar_is_gone_or_has_ended_does_not_hold_up_the_others(office: Office) -> None:
    table = {"periods": [{"start": "2026-01-01", "name": "P1", "year": "Y"}], "ends": "2026-03-31"}
    ended = office.define({"kind": "calendar", "name": "Ended", "table": table})
    office.define(
        {**REPORT, "title": "Another", "cadence": {"every": "month", "calendar": "Ended", "issue": "when_ready"}}
    )
    found = board(office.desk)
    assert [row.title for row in found.rows] == ["Sales by side", "Another"]
    assert "it runs from 2026-01-01 to 2026-03-31" in found.rows[1].cadence
    office.desk.definitions.remove(ended.id, office.now)
    assert "there is no calendar named 'Ended'" in board(office.desk).rows[1].cadence
    office.report(cadence={**REPORT["cadence"], "issue": "when_ready"})
    assert [o.report for o in run_due(office.desk)] == ["Sales by side", "Sales by side"]


def test_a_list_that_is_only_looked_up_in_is_due_in_no_period(office: Office) -> None:
    bring(
        office.desk, "kind,valid from,rate\nkx,2026-01-01,2\nkx,2026-07-20,3\nky,2026-07-05,1\n", "rates.csv", "Rates"
    )
    assert "Rates" in [row.name for row in board(office.desk).sources]
    lookup = {"source": "Rates", "match": {"kind": "kind"}, "as_at": {"day": "valid from"}, "take": "rate"}
    office.report(columns=[{"name": "rate", "lookup": lookup}])
    assert [row.name for row in board(office.desk).sources] == ["Sales"]
