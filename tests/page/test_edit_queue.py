"""Edits on their way to the server: none is lost, whatever the line and other people do meanwhile."""

import copy
from typing import Any

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.page.conftest import Asked

View = dict[str, Any]
STEPS = st.lists(
    st.sampled_from(["edit", "edit", "answer", "answer", "lost on the way", "answer lost", "somebody else", "undo"]),
    max_size=24,
)


def document(title: str) -> View:
    return {
        "title": title,
        "source": "Sales",
        "figures": [{"name": "Records", "take": "count", "of": None}],
        "only": [],
    }


class Server:
    """One report, whose revisions are kept, and answers 412 to a change made to an older one."""

    def __init__(self) -> None:
        self.revisions = [document("first")]
        self.follows = [0]
        self.current = 1

    @property
    def view(self) -> View:
        plain = copy.deepcopy(self.revisions[self.current - 1])
        plain.pop("only")  # what stands at its default is left unsaid
        return {"id": 1, "revision": self.current, "document": plain}

    def take(self, step: Any, revision: int) -> bool:
        if revision != self.current:
            return False
        if step == "undo":
            self.current = self.follows[self.current - 1] or self.current
        elif step["document"] != self.revisions[self.current - 1]:
            self.revisions.append(step["document"])
            self.follows.append(self.current)
            self.current = len(self.revisions)
        return True


def answered(asked: Asked, queue: View, server: Server, applied: bool, heard: bool) -> View:
    """The next change sent, taken by the server or not, its answer heard or not."""
    step = asked("editQueue.next", queue)
    if step is None:
        return queue
    revision = queue["server"]["revision"]
    queue = asked("editQueue.sent", queue)
    taken = applied and server.take(step, revision)
    if not heard or not applied:
        return asked("editQueue.held", queue)
    return asked("editQueue.taken" if taken else "editQueue.overtaken", queue, server.view)


@given(STEPS)
@settings(max_examples=60, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_every_edit_is_with_the_server_or_shown_for_a_choice(asked: Asked, steps: list[str]) -> None:
    server = Server()
    queue = asked("editQueue.begun", server.view)
    last, others = "first", False
    for at, step in enumerate(steps):
        if step == "edit":
            last = f"edit {at}"
            queue = asked("editQueue.asked", queue, {"document": document(last)})
            assert asked("editQueue.shown", queue)["title"] == last
        elif step == "undo" and not others:
            queue = asked("editQueue.asked", queue, "undo")
            last = ""
        elif step == "somebody else":
            others = True
            server.take({"document": document(f"theirs {at}")}, server.current)
        elif step != "undo":
            queue = answered(asked, queue, server, step != "lost on the way", step == "answer")
    for _ in range(len(steps) + 1):
        queue = answered(asked, queue, server, True, True)
    for _ in range(2 if queue["conflict"] else 0):  # a second time where they changed it while it was looked at
        assert others or last == ""
        queue = asked("editQueue.settled", queue, "mine")
        for _ in range(2):
            queue = answered(asked, queue, server, True, True)
    assert asked("editQueue.saved", queue)
    if last:
        assert last in [found["title"] for found in server.revisions]
    if last and not others:
        assert server.view["document"]["title"] == last


def test_an_edit_whose_answer_was_lost_is_not_taken_for_somebody_elses(asked: Asked) -> None:
    server = Server()
    queue = asked("editQueue.asked", asked("editQueue.begun", server.view), {"document": document("one")})
    queue = answered(asked, queue, server, True, False)
    queue = asked("editQueue.asked", queue, {"document": document("two")})
    for _ in range(2):
        queue = answered(asked, queue, server, True, True)
    assert queue["conflict"] is None
    assert [found["title"] for found in server.revisions] == ["first", "one", "two"]
