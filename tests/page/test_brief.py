"""The changes that phrases of the sentence make."""

from typing import Any

from tests.page.conftest import Asked

SUM = {"name": "Net fare", "take": "sum", "of": "net"}
REPORT: dict[str, Any] = {"kalendor": 1, "kind": "report", "title": "R", "source": "S", "figures": [SUM]}


AREAS = {"category": "route", "tree": "Sea areas", "levels": ["Sea area", "Route"]}
COMPARED = {"name": "Change", "compare": "Net fare", "with": "year_earlier", "as": "percent"}


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
