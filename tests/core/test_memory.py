"""The cache: bounded in bytes, including everything that values keep alive, evicting the least recently used."""

import threading
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from typing import Any

import numpy as np

from kalendor.core.placing.material import Material
from kalendor.core.report import work_out
from kalendor.core.values.keys import Key, key
from kalendor.core.values.memory import OVERHEAD, Memory, pieces_of
from kalendor.store.locks import OrderedLock, Rank, holding
from tests.core.build import TODAY, records, report

A, B, C = (key("test", name) for name in "abc")


def kept(memory: Memory, *keys: Key) -> list[Key]:
    return [key for key in keys if memory.get(key) is not None]


def test_the_least_recently_used_goes_first() -> None:
    memory = Memory(2 * (1000 + OVERHEAD) + 100)
    for name in (A, B):
        memory(name, lambda: np.zeros(1000, dtype=np.uint8))
    assert memory.get(A) is not None
    memory.put(C, np.zeros(1000, dtype=np.uint8))
    assert kept(memory, A, B, C) == [A, C]


def test_what_is_larger_than_all_room_is_not_kept_and_the_first_of_two_made_at_once_stays() -> None:
    memory = Memory(2000)
    memory.put(A, np.zeros(1000))
    assert kept(memory, A) == []
    first = memory.put(B, np.zeros(10))
    assert memory.put(B, np.ones(10)) is first
    memory.clear()
    assert (memory.held, kept(memory, B)) == (0, [])


def test_a_value_of_none_is_remembered_too() -> None:
    memory, made = Memory(1000), []
    for _ in range(2):
        assert memory(A, lambda: made.append(1)) is None
    assert made == [1]


def test_an_array_that_two_values_share_is_counted_once_and_for_as_long_as_either_stays() -> None:
    memory = Memory(2000 + 2 * OVERHEAD)
    shared = np.zeros(1500, dtype=np.uint8)
    memory.put(A, (shared, shared[5:]))
    memory.put(B, [shared])
    assert memory.held == 1500 + 2 * OVERHEAD
    memory.put(C, np.zeros(400, dtype=np.uint8))
    assert kept(memory, A, B, C) == [B, C]
    assert memory.held == 1900 + 2 * OVERHEAD


def test_what_is_remembered_of_a_sheet_is_weighed_with_all_it_pins() -> None:
    count = 5000
    data = records(a=[f"a{i % 7}" for i in range(count)], n=list(range(count)))
    memory = Memory(1 << 30)
    figures = [{"name": "middle", "take": "median", "of": "n"}]
    asked: Any = report(down=[{"category": "a"}], figures=figures)
    work_out(asked, Material(data, stamp=key("s")), TODAY, memo=memory)
    assert memory.held >= 3 * 8 * count


def test_a_file_that_is_mapped_weighs_nothing(tmp_path: Any) -> None:
    np.save(tmp_path / "a.npy", np.zeros(1000))
    mapped = np.load(tmp_path / "a.npy", mmap_mode="r")
    assert list(pieces_of((mapped, mapped[3:]))) == []


@dataclass
class _Stranger:
    array: np.ndarray


def test_what_is_not_ours_is_not_looked_into() -> None:
    assert list(pieces_of(_Stranger(np.zeros(9)))) == []


def test_what_several_threads_ask_for_at_once_is_made_once_and_given_to_all() -> None:
    for most in (1 << 20, 0):  # also where there is no room to keep it
        memory, made, begun = Memory(most), list[int](), threading.Event()

        def make(made: list[int] = made, begun: threading.Event = begun) -> Any:
            made.append(1)
            begun.wait(10)
            return np.zeros(1000, dtype=np.uint8)

        with ThreadPoolExecutor(8) as pool:
            asked = [pool.submit(memory, A, make) for _ in range(8)]
            while not made:
                pass
            begun.set()
            found = {id(one.result()) for one in asked}
        assert len(made) == 1 or not most
        assert len(found) == len(made)


def test_where_making_fails_each_of_the_others_tries_itself() -> None:
    memory, made = Memory(1 << 20), list[int]()

    def make() -> Any:
        made.append(len(made))
        if len(made) < 4:
            raise ValueError
        return np.zeros(10, dtype=np.uint8)

    with ThreadPoolExecutor(4) as pool:
        asked = [pool.submit(memory, A, make) for _ in range(4)]
    assert sum(one.exception() is not None for one in asked) == 3
    assert sum(one.exception() is None for one in asked) == 1


def test_who_holds_a_lock_waits_for_no_one_who_may_need_it() -> None:
    memory, lock, begun = Memory(1 << 20, holding), OrderedLock(Rank.SOURCE), threading.Event()

    def under_the_lock() -> Any:
        begun.set()
        with lock:
            return "there"

    with ThreadPoolExecutor(1) as pool, lock:
        other = pool.submit(memory, A, under_the_lock)
        assert begun.wait(10)
        assert memory(A, lambda: "here") == "here"
        lock.release()
        assert other.result(10) == "here"  # the first to be kept
        lock.acquire()
