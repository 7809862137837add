"""What is kept of earlier work: bounded in bytes, the least recently used going first."""

from typing import Any

import numpy as np

from kalendor.core.placing.material import Material
from kalendor.core.placing.views import View
from kalendor.core.report import work_out
from kalendor.desk.memory import Memory, weight
from tests.core.build import TODAY, records, report


def kept(memory: Memory, *keys: str) -> list[str]:
    return [key for key in keys if memory.get(key) is not None]


def test_the_least_recently_used_goes_first() -> None:
    memory = Memory(2500)
    for key in ("a", "b"):
        memory(key, lambda: np.zeros(1000, dtype=np.uint8))
    assert memory.get("a") is not None
    memory.put("c", np.zeros(1000, dtype=np.uint8))
    assert kept(memory, "a", "b", "c") == ["a", "c"]


def test_one_value_stays_however_large_and_a_new_value_takes_the_place_of_its_namesake() -> None:
    memory = Memory(10)
    memory.put("a", np.zeros(1000))
    memory.put("a", np.ones(500))
    assert memory.get("a").sum() == 500
    memory.put("b", 1)
    assert kept(memory, "a", "b") == ["b"]


def test_what_a_view_comes_to_hold_is_counted() -> None:
    count = 5000
    data = records(a=[f"a{i % 7}" for i in range(count)], n=list(range(count)))
    memory = Memory(1 << 30)
    figures = [{"name": "middle", "take": "median", "of": "n"}]
    asked: Any = report(down=[{"category": "a"}], figures=figures)
    work_out(asked, Material(data, stamp="s"), TODAY, memo=memory)
    views = [value for value, _ in memory._kept.values() if isinstance(value, View)]
    assert views
    assert weight(views[0]) >= 3 * 8 * count
    memory.put("after", 1)
    assert memory._held >= weight(views[0])
