"""An axis built from pieces of the records equals one built record by record."""

from dataclasses import dataclass

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from kalendor.core.placing import frame
from kalendor.core.placing.frame import axis
from kalendor.core.values import cores, occurrences
from kalendor.core.values.occurrences import occurring


@dataclass(frozen=True)
class Sized:
    """The properties of a level that an axis uses."""

    size: int


SIZES = st.lists(st.integers(1, 5), min_size=1, max_size=3)


@given(SIZES, st.data(), st.integers(1, 7), st.sampled_from([0, 1 << 23]), st.booleans())
def test_lines_are_the_paths_that_records_have_wherever_pieces_end(
    sizes: list[int], data: st.DataObject, piece: int, dense: int, threads: bool
) -> None:
    member = st.tuples(*(st.integers(-1, size - 1) for size in sizes))
    sets = data.draw(st.lists(st.lists(member, max_size=20), min_size=1, max_size=2))
    coded = [([np.array([path[k] for path in paths], dtype=np.int32) for k in range(len(sizes))], len(paths)) for paths in sets]  # fmt: skip
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(cores, "PIECE", piece)
        patch.setattr(cores, "MANY", 0 if threads else 1 << 40)
        patch.setattr(frame, "DENSE_MOST", dense)
        made = axis([Sized(size) for size in sizes], coded)  # type: ignore[misc]
    whole = sorted({path for paths in sets for path in paths if min(path) >= 0})
    for depth in range(len(sizes) + 1):
        above = {path[:depth] for paths in sets for path in paths if min((0, *path[:depth])) >= 0}
        above = above or {()} if depth == 0 else above
        assert [tuple(p[:depth]) for p in made.path[made.lines_at(depth)].tolist()] == sorted(above)
    for paths, found in zip(sets, made.found, strict=True):
        assert found.tolist() == [whole.index(path) if min(path) >= 0 else -1 for path in paths]


@given(st.lists(st.integers(0, 8), max_size=50), st.integers(1, 9), st.sampled_from([np.int32, np.int64]))
def test_ids_counted_by_blocks_are_those_counted_at_once(ids: list[int], block: int, dtype: type) -> None:
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(occurrences, "BLOCK", block)
        assert occurring(np.array(ids, dtype=dtype), 9).tolist() == [ids.count(i) for i in range(9)]
