"""Which members the sheet's records have, and which are shown without records."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from kalendor.core.groupings.levels import Level
from kalendor.core.groupings.periods import CLOCK, last_day
from kalendor.core.placing.frame import Always
from kalendor.core.values.columns import DAY_MICROSECONDS, Array, Mask
from kalendor.core.values.notation import grouped
from kalendor.errors import DefinitionError

MOST_EMPTY = 5_000_000
Index = NDArray[np.int64]
Depths = NDArray[np.int8]


def held(level: Level, codes: NDArray[np.int32]) -> Mask:
    """Which members the sheet's records have."""
    found = np.zeros(level.size + 1, dtype=bool)
    found[codes] = True
    return found[:-1]


def reached(had: Sequence[Mask], levels: Sequence[Level], codes: Sequence[Array], count: int) -> Depths:
    """The number of levels of an axis that each base record passes before the first period that the sheet does not
    show."""
    found = np.full(count, len(levels), dtype=np.int8)
    for k in range(len(levels) - 1, -1, -1):
        mask = had[k]
        if levels[k].period is not None and len(mask):
            found[(codes[k] < 0) | ~mask[np.maximum(codes[k], 0)]] = k
    return found


def counted(crossings: Sequence[tuple[int, int]], totals: tuple[Mask, Mask]) -> tuple[Depths, Depths]:
    """The depths to which base records are counted down and across at some crossings, given how many levels they reach
    on both; `totals` says at which depths figures are shown."""
    down, across = (np.zeros((len(totals[0]), len(totals[1])), dtype=np.int8) for _ in totals)
    for d, a in crossings:
        if totals[0][d] and totals[1][a]:
            down[d:, a:] = np.maximum(down[d:, a:], d)
            across[d:, a:] = np.maximum(across[d:, a:], a)
    return down, across


def as_far(codes: Sequence[Array], depth: Depths, count: int) -> tuple[list[Array], int]:
    """The paths of base records on one axis, each to its depth; those of depth none are left out."""
    far = np.broadcast_to(depth, count)
    seen = np.flatnonzero(far > 0)
    far = far[seen]
    return [np.where(far > k, level[seen], -1) for k, level in enumerate(codes)], len(seen)


def shown_though_empty(levels: Sequence[Level], had: Sequence[Mask]) -> Always | None:
    """The members shown though empty under each line: inner ranges, and gaps between periods that have records."""
    if all(level.members.always is None for level in levels):
        return None
    shown: list[Index] = []
    for level, mask in zip(levels, had, strict=True):
        wanted = np.zeros(level.size, dtype=bool) if level.members.always is None else level.members.always
        codes = np.flatnonzero(wanted)
        if level.period is not None and len(codes):
            there = np.flatnonzero(mask & wanted)
            codes = codes[(codes >= there[0]) & (codes <= there[-1])] if len(there) else codes[:0]
        shown.append(codes)

    def always(paths: NDArray[np.int32], k: int) -> tuple[Index, Index]:
        outer = _periods_above(levels, k)
        above = np.zeros(len(paths), dtype=np.int64)
        for j in outer:
            above = np.where((above < 0) | (paths[:, j] < 0), -2, above * (levels[j].size + 1) + paths[:, j])
        return _beneath_each(above, *_within(levels, k, outer, shown[k]), levels[k].name)

    return always


def _periods_above(levels: Sequence[Level], k: int) -> list[int]:
    """The levels above that hold the periods of a level: coarser grains of the same entry."""
    period = levels[k].period
    if period is None or period.grouper.mode != "own":
        return []
    return [j for j in range(k) if levels[j].period is not None and levels[j].entry == levels[k].entry]


def _within(levels: Sequence[Level], k: int, outer: Sequence[int], codes: Index) -> tuple[Index, Index]:
    """In which of the outer periods, encoded as one number, each of a level's members has a part, and the members
    again."""
    if not outer or not len(codes):
        return np.zeros(len(codes), dtype=np.int64), codes
    grouper, every = levels[k].period.grouper, levels[k].members.starts
    assert every is not None
    starts = every[codes]
    if grouper.grain in CLOCK:
        days, clock, member = starts // DAY_MICROSECONDS, starts % DAY_MICROSECONDS, codes
    else:
        last = last_day(grouper, int(levels[k].period.numbers[codes[-1]]))
        days, clock = np.arange(int(starts[0]), last + 1), None
        member = levels[k].period.codes(days, None).astype(np.int64)
    inside = np.zeros(len(days), dtype=np.int64)
    for j in outer:
        own = levels[j].period.codes(days, clock).astype(np.int64)
        inside = np.where((inside < 0) | (own < 0), -1, inside * (levels[j].size + 1) + own)
    kept = (inside >= 0) & np.isin(member, codes)
    pairs = np.unique(np.stack([inside[kept], member[kept]], axis=1), axis=0)
    return pairs[:, 0], pairs[:, 1]


def _beneath_each(above: Index, beneath: Index, codes: Index, name: str) -> tuple[Index, Index]:
    """Each line paired with each member that is `beneath` the line's number: positions in `above`, and the members.

    Raises DefinitionError for more than can be held in memory.
    """
    order = np.argsort(beneath, kind="stable")
    first = np.searchsorted(beneath[order], above, side="left")
    count = np.searchsorted(beneath[order], above, side="right") - first
    total = int(count.sum())
    if total > MOST_EMPTY:
        raise DefinitionError(
            f"{name}: showing what is empty would make {grouped(total)} lines or columns; hide it, or take a coarser level"
        )
    lines = np.repeat(np.arange(len(above)), count)
    place = np.arange(total) - np.repeat(np.cumsum(count) - count, count) + np.repeat(first, count)
    return lines, codes[order][place]
