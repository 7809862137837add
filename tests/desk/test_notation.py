"""Background threads use the notation of their workspace."""

from collections.abc import Callable
from threading import Event, Thread
from types import ModuleType
from typing import Any

import pytest

from kalendor.core.values.notation import NOTATION, Notation
from kalendor.desk import drop_folder, fetching
from kalendor.desk.desk import Desk
from kalendor.desk.editions import schedule, sending
from kalendor.desk.notation import set_notation

GERMAN = Notation(",", ".", "day")


def watch(desk: Desk, stop: Event) -> None:
    drop_folder.DropFolders(desk).watch(stop)


@pytest.mark.parametrize(
    ("module", "work", "loop"),
    [
        (schedule, "run_due", schedule.keep_running),
        (sending, "deliver", sending.keep_sending),
        (fetching, "fetch_due", fetching.keep_fetching),
        (drop_folder, "DropFolders.make", watch),
    ],
)
def test_what_goes_on_by_itself_writes_as_the_workspace_says(
    desk: Desk, module: ModuleType, work: str, loop: Callable[[Desk, Event], None], monkeypatch: pytest.MonkeyPatch
) -> None:
    set_notation(desk, GERMAN)
    seen: list[Notation] = []
    stop = Event()

    def noted(*_: Any) -> None:
        seen.append(NOTATION.get())
        stop.set()

    monkeypatch.setattr(module, "EVERY_SECONDS", 0.01)
    monkeypatch.setattr(f"{module.__name__}.{work}", noted)
    thread = Thread(target=loop, args=(desk, stop))  # a new thread has no notation from whoever started it
    thread.start()
    thread.join(10)
    assert seen == [GERMAN]
