"""Running totals and moving windows along rows of mostly empty periods, against simple loops."""

from typing import Any

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from kalendor.core.figures.occupied import accumulated, occupied, windowed, with_empty
from kalendor.core.figures.stretches import Strip
from kalendor.core.placing.bundles import Bundles, bundled
from kalendor.core.takes.groups import Groups
from kalendor.core.values.keys import NO_KEY, forget

NOTHING = np.zeros(1, dtype=np.int64)
numbers = st.one_of(
    st.lists(st.integers(-9, 9), min_size=1, max_size=60),
    st.lists(st.integers(-(2**62), 2**62), min_size=1, max_size=60),
    st.lists(st.floats(-1e12, 1e12), min_size=1, max_size=60),
)


def strip_of(ids: list[int], height: int, width: int) -> Strip:
    """Two records in each of some bundles, every third of which is on no row."""
    records = Groups(np.repeat(np.arange(len(ids)), 2), len(ids) + 1, None)
    of = np.array([-1 if i % 3 == 2 else one for i, one in enumerate(ids)], dtype=np.int64)
    return Strip(Bundles(records, (), (), of), of, height, width, NOTHING, NOTHING, 1)


@given(numbers, st.data())
def test_what_is_reached(values: list[Any], data: st.DataObject) -> None:
    array = np.array(values)
    first = sorted({0, *data.draw(st.lists(st.integers(0, len(values) - 1), max_size=30))})
    plains: list[tuple[Any, Any]] = [(np.add, lambda a, b: a + b), (np.maximum, max), (np.minimum, min)]
    for ufunc, plain in plains:
        got = accumulated(ufunc, array, np.array(first)).tolist()
        want: list[Any] = []
        for i, value in enumerate(values):
            want.append(value if i in first else plain(want[-1], value))
        assert got == want


@given(numbers, st.data())
def test_windows_are_summed_each_by_itself(values: list[Any], data: st.DataObject) -> None:
    places = st.integers(0, len(values))
    spans = data.draw(st.lists(st.tuples(places, places).map(sorted), min_size=1, max_size=20))
    begin, end = (np.array([span[i] for span in spans]) for i in (0, 1))
    got = windowed(np.array(values), begin, end).tolist()
    for found, (low, high) in zip(got, spans, strict=True):
        want = sum(values[low:high])
        size = sum(abs(v) for v in values[low:high])
        assert found == want if isinstance(want, int) else abs(found - want) <= 1e-12 * size


def test_what_stands_in_empty_places_is_added_for_each() -> None:
    total, times = np.array([1, 2]), np.array([0, 3])
    assert with_empty(total, None, times).tolist() == [1, 2]
    assert with_empty(total, 5, times).tolist() == [1, 17]
    assert with_empty(total.astype(float), 0.5, times).tolist() == [1.0, 3.5]
    assert with_empty(total, 2**62, times).tolist() == [1, 3 * 2**62 + 2]


@given(ids=st.lists(st.integers(0, 7 * 50 - 1), max_size=80), data=st.data())
def test_groups_are_found_by_row_and_place(ids: list[int], data: st.DataObject) -> None:
    height, width = 7, 50
    part = np.cumsum(np.array(data.draw(st.lists(st.booleans(), min_size=width, max_size=width)), dtype=np.int64))
    own = occupied(strip_of(ids, height, width))
    ids = [one for i, one in enumerate(ids) if i % 3 < 2]
    assert own.keys.tolist() == sorted(set(ids))
    records = own.records()
    assert sorted(own.keys[records.ids].tolist()) == sorted([*ids, *ids])
    assert records.rows is not None
    assert [own.strip.of[row // 2] for row in records.rows.tolist()] == own.keys[records.ids].tolist()
    for ufunc, plain in ((np.add, sum), (np.maximum, max)):
        amounts = np.arange(own.strip.bundles.count + 1)
        want = [plain(i for i, one in enumerate(own.strip.of.tolist()) if one == key) for key in own.keys.tolist()]
        assert own.gathering.combined(ufunc, amounts).tolist() == [*want, own.strip.bundles.count]
    wanted = np.arange(height * width)
    for place, at in zip(wanted.tolist(), own.up_to(wanted, part).tolist(), strict=True):
        before = [
            k
            for k in set(ids)
            if k <= place and k // width == place // width and part[k % width] == part[place % width]
        ]
        assert at == (own.keys.tolist().index(max(before)) if before else own.count)
    firsts = {
        min(k for k in set(ids) if (k // width, part[k % width]) == one)
        for one in {(k // width, part[k % width]) for k in ids}
    }
    assert set(own.keys[own.first_of(part)].tolist()) == firsts
    row, low, high = data.draw(
        st.tuples(st.integers(0, height - 1), st.integers(-9, width - 1), st.integers(0, width - 1))
    )
    if low <= high:
        begin, end = own.between(np.array([row]), np.array([low]), np.array([high]))
        inside = own.keys[begin[0] : end[0]].tolist()
        assert inside == [k for k in own.keys.tolist() if k // width == row and low <= k % width <= high]


@given(
    st.lists(st.tuples(st.integers(-1, 3), st.integers(-1, 2), st.integers(0, 9)), max_size=40),
    st.sampled_from([1, 10**6, 2**61]),
)
def test_records_of_the_same_members_and_stretch_are_one_bundle(records: list[tuple[int, int, int]], far: int) -> None:
    """Also if members and stretches are so many that their combined numbers would exceed 64 bits."""
    down, across, stretch = (np.array([r[i] for r in records], dtype=np.int64) for i in range(3))
    far_across = np.where(across < 0, across, across * far)
    found = bundled([down, None], [far_across], stretch, None, NO_KEY, forget)
    assert found.groups.count == found.count + 1 == len(set(records)) + 1
    one, _, other = found.down[0], found.down[1], found.across[0]
    assert one is not None
    assert other is not None
    at = found.groups.ids
    assert np.array_equal(one[at], down)
    assert np.array_equal(other[at], far_across)
    assert np.array_equal(found.stretch[at], stretch)
