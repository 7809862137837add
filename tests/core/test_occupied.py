"""What is reached and what windows come to along rows of periods of which most are empty, against plain loops."""

from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from kalendor.core.figures.occupied import accumulated, occupied, windowed, with_empty
from kalendor.core.figures.stretches import Strip
from kalendor.core.placing import frame
from kalendor.core.takes.aggregate import Groups

NOTHING = np.zeros(1, dtype=np.int64)
numbers = st.one_of(
    st.lists(st.integers(-9, 9), min_size=1, max_size=60),
    st.lists(st.integers(-(2**62), 2**62), min_size=1, max_size=60),
    st.lists(st.floats(-1e12, 1e12), min_size=1, max_size=60),
)
dense = pytest.mark.parametrize("dense_most", [0, frame.DENSE_MOST])


def strip_of(ids: list[int], height: int, width: int) -> Strip:
    return Strip(Groups(np.array(ids, dtype=np.int64), height * width, None), height, width, NOTHING, NOTHING, 1)


@given(numbers, st.data())
def test_what_is_reached(values: list[Any], data: st.DataObject) -> None:
    array = np.array(values)
    first = sorted({0, *data.draw(st.lists(st.integers(0, len(values) - 1), max_size=30))})
    for ufunc, plain in ((np.add, lambda a, b: a + b), (np.maximum, max), (np.minimum, min)):
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


@dense
@given(ids=st.lists(st.integers(0, 7 * 50 - 1), max_size=80), data=st.data())
def test_groups_are_found_by_row_and_place(dense_most: int, ids: list[int], data: st.DataObject) -> None:
    height, width = 7, 50
    part = np.cumsum(np.array(data.draw(st.lists(st.booleans(), min_size=width, max_size=width)), dtype=np.int64))
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr("kalendor.core.figures.occupied.DENSE_MOST", dense_most)
        own = occupied(strip_of(ids, height, width))
    assert own.keys.tolist() == sorted(set(ids))
    assert own.groups.count == len(own.keys) + 1
    assert own.keys[own.groups.ids].tolist() == ids
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
