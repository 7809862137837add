"""The report as a sentence, and the changes that its phrases make."""

from typing import Any

import pytest

from tests.page.conftest import Asked

SUM = {"name": "Net fare", "take": "sum", "of": "net"}
REPORT: dict[str, Any] = {"kalendor": 1, "kind": "report", "title": "R", "source": "S", "figures": [SUM]}


def sentence(asked: Asked, **keys: Any) -> str:
    pieces = asked("brief.brief", {**REPORT, **keys})
    return "".join(piece if isinstance(piece, str) else piece["text"] for piece in pieces)


AREAS = {"category": "route", "tree": "Sea areas", "levels": ["Sea area", "Route"]}
COMPARED = {"name": "Change", "compare": "Net fare", "with": "year_earlier", "as": "percent"}


@pytest.mark.parametrize(
    ("keys", "want"),
    [
        ({}, "Net fare."),
        ({"figures": [SUM, COMPARED]}, "Net fare with change on a year earlier."),
        (
            {"figures": [SUM, COMPARED, {"name": "Share", "share": "Net fare", "of_total": "parent"}]},
            "Net fare with change on a year earlier and share of the group.",
        ),
        ({"figures": [SUM, {**COMPARED, "with": {"back": 2, "grain": "month"}, "as": "difference"}]}, "Net fare with difference on 2 months back."),
        ({"figures": [SUM, {**COMPARED, "with": {"figure": "Plan"}}]}, "Net fare with change against Plan."),
        ({"figures": [SUM, {"name": "So far", "running": "Net fare", "along": "on", "restart": "year"}]}, "Net fare with running Net fare by year."),
        ({"figures": [SUM, {"name": "M", "moving": "Net fare", "periods": 3}]}, "Net fare with 3-period average of Net fare."),
        ({"down": [AREAS]}, "Net fare, down by Sea area › Route."),
        ({"down": [{"category": "area", "top": 5, "by": "Net fare"}]}, "Net fare, down by the top 5 of area by Net fare."),
        ({"across": [{"period": "on", "grains": ["year", "month"]}]}, "Net fare, across by year › month."),
        ({"across": [{"period": "on", "calendar": "Timetable year", "grains": ["year"]}]}, "Net fare, across by Timetable year."),
        ({"down": [{"period": "on", "grains": [{"days": 14, "from": "2026-01-01"}]}]}, "Net fare, down by 14-day run."),
        ({"down": [{"bucket": "net", "set": "Fare size"}]}, "Net fare, down by Fare size ranges."),
        ({"window": {"of": "on", "show": {"last": 12, "grain": "month"}}}, "Net fare, for the last 12 months."),
        ({"window": {"of": "on", "show": {"this": "year"}, "each_to_date": True}}, "Net fare, for this year, each to date."),
        ({"window": {"of": "on", "show": {"from": "2026-01-01", "to": "2026-03-31"}}}, "Net fare, for 1 Jan 2026 to 31 Mar 2026."),
        ({"only": ["status = 'sailed'", "fare IN ('a', 'b')"]}, "Net fare, only where status is sailed and fare is a or b."),
        ({"only": ["paid_on IS NULL"]}, "Net fare, only where paid on is blank."),
        ({"beside": [{"source": "Plan", "match": {"a": "b"}}]}, "Net fare, beside Plan."),
        ({"keep": [{"level": "Route", "where": '"Net fare" > 10'}]}, "Net fare, keeping Route where Net fare is more than 10."),
        ({"totals": {"down": "none", "across": "none", "grand_down": "none", "grand_across": "none"}}, "Net fare, without totals."),
        ({"totals": {"down": "before", "across": "before", "grand_down": "before", "grand_across": "before"}}, "Net fare, totals first."),
        ({"totals": {"grand_down": "none"}}, "Net fare, without a grand total."),
        ({"totals": {"down": "before", "levels": {"Area": "none"}}}, "Net fare, subtotals first, no Area totals."),
        ({"totals": {"totals": "kept"}}, "Net fare, totals of these lines alone."),
        ({"figures": [SUM, {**COMPARED, "as": "base"}]}, "Net fare with Net fare a year earlier."),
        ({"figures": [SUM, {**COMPARED, "hide": True}]}, "Net fare with change on a year earlier (hidden)."),
        ({"down": [{"category": "fare_type", "order": {"by": "Net fare", "desc": True}}]}, "Net fare, down by fare type, largest Net fare first."),
        ({"down": [{"category": "a", "order": {"list": ["x"]}}]}, "Net fare, down by a, in an order of your own."),
        ({"down": [{"age": "due_on", "cut": [0, 30]}]}, "Net fare, down by age of due on."),
        ({"layout": {"lines": "columns", "labels": "each", "grand": "All areas"}}, "Net fare, one column a level, labels on each line and the total called All areas."),
        ({"records": {"columns": ["sold_on", "net"]}}, "Net fare, listing the records with sold on and net."),
        ({"down": [{"category": "fare_type", "labels": {"a": "Adult"}}]}, "Net fare, down by fare type (1 value renamed)."),
        ({"lines": [{"name": "Gap", "level": "a", "formula": "x - y"}]}, "Net fare, a line Gap."),
        ({"out_of_sight": {"lines": [["x"]], "columns": [["y"], ["z"]]}}, "Net fare, 1 line and 2 columns out of sight."),
        ({"silenced": [{"only": "a = 'b'"}, {"down": {"category": "c"}}]}, "Net fare. Silenced: a is b, down by c."),
    ],
)  # fmt: skip
def test_a_report_is_said_in_one_sentence(asked: Asked, keys: dict[str, Any], want: str) -> None:
    assert sentence(asked, **keys) == want


def test_figures_follow_a_figure_that_is_renamed(asked: Asked) -> None:
    ratio = {"name": "Ratio", "formula": '"Net fare" / "Tickets"'}
    report = {**REPORT, "figures": [SUM, COMPARED, ratio]}
    after = asked("change.withFigure", report, 0, {**SUM, "name": "Fare"})
    assert after["figures"][1]["compare"] == "Fare"
    assert after["figures"][2]["formula"] == '"Fare" / "Tickets"'


def test_an_entry_turns_from_down_to_across_and_phrases_move(asked: Asked) -> None:
    report = {**REPORT, "down": [AREAS, {"category": "fare"}]}
    turned = asked("change.turned", report, "down", 0)
    assert (turned["down"], turned["across"]) == ([{"category": "fare"}], [AREAS])
    phrase = {"kind": "down", "index": 0, "text": "", "tone": "tree"}
    assert asked("change.shifted", report, phrase, 1)["down"] == [{"category": "fare"}, AREAS]
    assert asked("change.without", report, phrase)["down"] == [{"category": "fare"}]


def test_a_source_beside_goes_with_all_that_rests_on_it(asked: Asked) -> None:
    plan = {"name": "Plan", "take": "sum", "of": "planned", "source": "Plan"}
    off = {"name": "Off plan", "compare": "Net fare", "with": {"figure": "Plan"}, "as": "percent"}
    twice = {"name": "Twice", "formula": '"Off plan" * 2'}
    report = {**REPORT, "figures": [SUM, plan, off, twice], "beside": [{"source": "Plan", "match": {"a": "b"}}]}
    after = asked("change.without", report, {"kind": "beside", "index": 0, "text": "", "tone": "condition"})
    assert (after["figures"], after["beside"]) == ([SUM], [])


OWN = [{"name": "sold on", "role": "period"}, {"name": "route", "role": "category"}, {"name": "net", "role": "number"}]
THEIRS = [{"name": "month", "role": "period"}, {"name": "Route", "role": "category"}, {"name": "planned", "role": "number"}]  # fmt: skip


def test_a_source_is_set_beside_with_a_good_guess(asked: Asked) -> None:
    report = {**REPORT, "down": [{"category": "route"}], "across": [{"period": "sold on", "grains": ["month"]}]}
    after = asked("beside.withBeside", report, "Plan", OWN, THEIRS)
    assert after["beside"] == [{"source": "Plan", "match": {"route": "Route", "sold on": "month"}}]
    assert after["figures"][1:] == [
        {"name": "Plan", "take": "sum", "of": "planned", "source": "Plan"},
        {"name": "Off plan", "compare": "Net fare", "with": {"figure": "Plan"}, "as": "percent"},
    ]


def test_a_line_is_made_of_chosen_lines(asked: Asked) -> None:
    chosen = {"labels": ["Sales", 'The "cost"'], "last": "Sales"}
    once = asked("change.withLine", REPORT, "Account", chosen)
    again = asked("change.withLine", once, "Account", chosen)
    assert again["lines"][0] == {
        "name": 'Sales less The "cost"', "level": "Account", "formula": '"Sales" - "The ""cost"""', "after": "Sales",
    }  # fmt: skip
    assert again["lines"][1]["name"] == 'Sales less The "cost" 2'


def test_offers_are_found_by_their_words(asked: Asked) -> None:
    columns = [{**c, "kind": "", "summary": "", "warning": "", "lowest": "", "highest": "", "blank": 0} for c in OWN]
    offers = asked(
        "offers.offers", REPORT, columns, [{"id": 1, "kind": "calendar", "name": "Ours", "levels": []}], ["Route"]
    )
    texts = [o["text"] for o in asked("offers.matching", offers, "month across")]
    assert texts[:2] == ["across by month of sold on", "across by month of sold on in Ours"]
    assert asked("offers.matching", offers, "weekday")[0]["text"] == "across by weekday of sold on"
    assert asked("offers.groundOf", offers) == [["calendar", "sold on"]]
    assert asked("offers.matching", offers, "keep")[0]["text"] == "keep lines of Route where …"


def test_edits_wait_in_a_queue_and_supersede_each_other(asked: Asked) -> None:
    view = {"id": 1, "revision": 3, "document": {"title": "A"}}
    first, second, third = ({"document": {"title": title}} for title in "BCD")
    queue = asked("editQueue.begun", view)
    assert asked("editQueue.next", queue) is None
    queue = asked("editQueue.sent", asked("editQueue.asked", queue, first))
    for step in (second, third):
        queue = asked("editQueue.asked", queue, step)
    assert (queue["sending"], queue["waiting"], asked("editQueue.shown", queue)) == (first, [third], {"title": "D"})
    assert asked("editQueue.next", queue) is None
    queue = asked("editQueue.taken", queue, {**view, "revision": 4, "document": {"title": "B"}})
    assert (asked("editQueue.next", queue), asked("editQueue.shown", queue)) == (third, {"title": "D"})
    queue = asked("editQueue.asked", queue, "undo")
    queue = asked("editQueue.asked", queue, second)
    assert queue["waiting"] == [third, "undo", second]


def test_what_is_refused_is_taken_back_and_what_was_overtaken_is_chosen(asked: Asked) -> None:
    view = {"id": 1, "revision": 3, "document": {"title": "A"}}
    mine, theirs = {"document": {"title": "Mine"}}, {**view, "revision": 4, "document": {"title": "Theirs"}}
    sending = asked("editQueue.sent", asked("editQueue.asked", asked("editQueue.begun", view), mine))
    refused = asked("editQueue.refused", sending)
    assert (refused["waiting"], asked("editQueue.shown", refused)) == ([], {"title": "A"})
    open_ = asked("editQueue.overtaken", sending, theirs)
    assert (asked("editQueue.next", open_), asked("editQueue.shown", open_)) == (None, {"title": "Mine"})
    kept = asked("editQueue.settled", open_, "mine")
    assert (asked("editQueue.next", kept), kept["server"]["revision"]) == (mine, 4)
    taken = asked("editQueue.settled", open_, "theirs")
    assert (asked("editQueue.next", taken), asked("editQueue.shown", taken)) == (None, {"title": "Theirs"})
