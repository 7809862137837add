"""The history of definitions in words, and restoring a revision."""

from typing import Any

import pytest

from kalendor.definitions.kinds import definition
from kalendor.desk.desk import Desk
from kalendor.desk.history import change_words
from kalendor.errors import DefinitionError
from kalendor.store.definitions import MissingError
from kalendor.store.workspace import WHO
from tests.desk.test_bringing_in import MAY, bring

REPORT: dict[str, Any] = {
    "kalendor": 1, "kind": "report", "title": "R", "source": "S", "down": [{"category": "key"}],
    "figures": [{"name": "N", "take": "sum", "of": "n"}],
}  # fmt: skip
TREE: dict[str, Any] = {
    "kalendor": 1, "kind": "tree", "name": "T", "levels": ["Side", "Key"],
    "roots": [{"label": "One", "under": [{"value": "a"}, {"value": "b"}]}],
}  # fmt: skip


def words(desk: Desk, id: int) -> list[list[str]]:
    return [change_words(one) for one in desk.definitions.revisions(id)]


def test_a_report_is_its_sentence_before_and_after(desk: Desk) -> None:
    at = desk.now()
    id = desk.definitions.add(definition(REPORT, "t"), at).id
    desk.definitions.save(id, definition({**REPORT, "only": ["key = 'a'"]}, "t"), at)
    desk.definitions.save(id, definition({**REPORT, "only": ["key = 'a'"], "cadence": {"every": "month"}}, "t"), at)
    desk.definitions.save(
        id, definition({**REPORT, "title": "R2", "only": ["key = 'a'"], "cadence": {"every": "month"}}, "t"), at
    )
    assert words(desk, id) == [
        ["called R2 instead of R"], ["changed when it is issued"], ['N, down by key. → N, down by key, only where key is "a".'],
        ["made new: N, down by key."],
    ]  # fmt: skip


def test_a_tree_is_what_moved_in_it_and_a_calendar_what_is_another(desk: Desk) -> None:
    at = desk.now()
    id = desk.definitions.add(definition(TREE, "t"), at).id
    roots = [
        {"label": "One", "under": [{"value": "a"}]},
        {"label": "Two", "rule": "value = 'x'", "under": [{"value": "b"}, {"value": "c"}]},
    ]
    desk.definitions.save(id, definition({**TREE, "roots": roots}, "t"), at)
    desk.definitions.save(id, definition({**TREE, "roots": [{"label": "Uno", "under": []}]}, "t"), at)
    assert words(desk, id) == [
        ["a no longer placed", "b no longer placed", "c no longer placed", "the rule value = 'x' removed"],
        ["b moved from under One to under Two", "c placed under Two", "the rule value = 'x' added"],
        ["made new: 2 values in 2 levels"],
    ]  # fmt: skip
    calendar = {"kalendor": 1, "kind": "calendar", "name": "C", "months": {"start_month": 4}}
    other = desk.definitions.add(definition(calendar, "t"), at).id
    desk.definitions.save(other, definition({**calendar, "holidays": ["2026-12-25"]}, "t"), at)
    assert words(desk, other)[0] == ["another holidays"]


def test_a_revision_comes_back_as_a_new_one_and_so_does_what_was_removed(desk: Desk) -> None:
    at = desk.now()
    id = desk.definitions.add(definition(REPORT, "t"), at).id
    desk.definitions.save(id, definition({**REPORT, "title": "Other"}, "t"), at)
    desk.definitions.remove(id, at)
    back = desk.definitions.bring_back(id, 1, at)
    assert (back.name, back.revision) == ("R", 3)
    assert [one.stands for one in desk.definitions.revisions(id)] == [True, False, False]
    desk.definitions.remove(id, at)
    desk.definitions.add(definition(REPORT, "t"), at)
    with pytest.raises(DefinitionError, match="already a report named"):
        desk.definitions.bring_back(id, 1, at)
    with pytest.raises(MissingError):
        desk.definitions.bring_back(id, 99, at)


def test_intakes_and_revisions_name_who(desk: Desk) -> None:
    desk.workspace.tell("analyst", "the desk")
    desk.definitions.add(definition(REPORT, "t"), desk.now())
    told = WHO.set("schedule")
    bring(desk, MAY)
    WHO.reset(told)
    assert desk.definitions.revisions()[0].saved_by == "the desk"
    assert desk.workspace.db.execute("SELECT brought_by FROM intake").fetchone()[0] == "schedule"
