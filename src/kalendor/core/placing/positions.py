"""The period that each cell of a crossing represents."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from kalendor.core.groupings.levels import BLANK
from kalendor.core.groupings.periods import CLOCK, COARSER, Grouper
from kalendor.core.placing.frame import Axis, Frame
from kalendor.core.values.columns import DAY_MICROSECONDS, Mask

Index = NDArray[np.int64]
At = tuple[slice | None, slice | None]
NO_PERIOD = np.iinfo(np.int64).min


def period_levels(axis: Axis, depth: int, column: str) -> list[int]:
    """The levels of `column`'s periods among the first `depth`, without merging grains."""
    return [
        k
        for k in range(depth)
        if (period := axis.levels[k].period) is not None
        and period.grouper.column == column
        and period.grouper.mode != "merging"
    ]


def _sides(frame: Frame, crossing: tuple[int, int]) -> tuple[tuple[Axis, int, At], tuple[Axis, int, At]]:
    """Each axis with its depth at a crossing, and the index that lays an array over its lines along the cells."""
    return (frame.lines, crossing[0], (slice(None), None)), (frame.columns, crossing[1], (None, slice(None)))


def numbers_at(axis: Axis, depth: int, level: int) -> Index:
    """The member number of each line of `depth` at a period level; NO_PERIOD for blank and other members."""
    codes = axis.path[axis.lines_at(depth), level]
    numbers = axis.levels[level].period.numbers
    known = (codes >= 0) & (codes < len(numbers))
    if not len(numbers):
        return np.full(codes.shape, NO_PERIOD)
    return np.where(known, numbers[np.where(known, codes, 0)], NO_PERIOD)


def days_at(axis: Axis, depth: int, level: int) -> tuple[Index, Index, Mask]:
    """The first and last day of the period of each line of `depth` at a level of periods of their own, and whether there is
    one; NO_PERIOD for blank and other members."""
    codes = axis.path[axis.lines_at(depth), level]
    first, last = axis.levels[level].period.spans
    known = (codes >= 0) & (codes < len(first))
    safe = np.where(known, codes, 0)
    if not len(first):
        return np.full(codes.shape, NO_PERIOD), np.full(codes.shape, NO_PERIOD), known
    return np.where(known, first[safe], NO_PERIOD), np.where(known, last[safe], NO_PERIOD), known


def cell_periods(frame: Frame, crossing: tuple[int, int], column: str) -> tuple[Grouper, Index] | None:
    """The grouper of the finest period at a crossing, and each cell's ordinal, shape (lines, columns) of the crossing.

    A place in a coarser period is combined with that period on the other axis; NO_PERIOD if none is known. None if the
    crossing has no period of `column`.
    """
    found = [
        (axis.levels[k].period.grouper, numbers_at(axis, depth, k)[at])
        for axis, depth, at in _sides(frame, crossing)
        for k in period_levels(axis, depth, column)
    ]
    if not found:
        return None
    shape = frame.block_shape(crossing)
    grouper, numbers = max(found, key=lambda pair: COARSER.get(pair[0].grain, 9))
    if grouper.within is None:
        return grouper, np.broadcast_to(numbers, shape)
    return replace(grouper, within=None), _joined(grouper, numbers, found, shape)


def _joined(grouper: Grouper, places: Index, found: Sequence[tuple[Grouper, Index]], shape: tuple[int, int]) -> Index:
    outer = [numbers for other, numbers in found if other.grain == grouper.within and other.within is None]
    if not outer:
        return np.full(shape, NO_PERIOD)
    places, coarse = np.broadcast_to(places, shape), np.broadcast_to(outer[0], shape)
    known = (places != NO_PERIOD) & (coarse != NO_PERIOD)
    safe = np.where(known, coarse, coarse[known][0] if known.any() else 0)
    here = np.where(known, places, 0)
    if not known.any():
        return np.full(shape, NO_PERIOD)
    if grouper.within == "day":
        ticks = 24 if grouper.grain == "hour" else 1440
        return np.where(known, safe * ticks + here, NO_PERIOD)
    if grouper.within == "year" and grouper.grain == "day":
        ordinals, exists = grouper.calendar.at("day", safe, here)
        return np.where(known & exists, ordinals, NO_PERIOD)
    ordinals = grouper.first_of(safe) + here
    last = grouper.calendar.ordinals(grouper.grain, grouper.calendar.starts(str(grouper.within), safe + 1) - 1)
    first = grouper.calendar.ordinals(grouper.grain, grouper.calendar.starts(str(grouper.within), safe))
    return np.where(known & (ordinals >= first) & (ordinals <= last), ordinals, NO_PERIOD)


@dataclass(frozen=True, eq=False)
class CellDays:
    """The days of each cell of a crossing, shape (lines, columns) each: the first and last day common to all of its
    periods.

    `known` is False if a cell's member is not a period (blank, or the rest beyond a top), `undated` True if it is
    blank.
    """

    first: Index
    last: Index
    known: Mask
    undated: Mask


def cell_days(frame: Frame, crossing: tuple[int, int], column: str) -> CellDays | None:
    """The days of each cell at a crossing; None if the crossing has no period of `column` of its own.

    A place in a coarser period counts if that period is at the crossing, too.
    """
    shape = frame.block_shape(crossing)
    found: list[tuple[Grouper, Index]] = []
    first, last = np.full(shape, NO_PERIOD), np.full(shape, np.iinfo(np.int64).max)
    known = np.ones(shape, dtype=bool)
    for axis, depth, at in _sides(frame, crossing):
        for k in period_levels(axis, depth, column):
            grouper = axis.levels[k].period.grouper
            found.append((grouper, numbers_at(axis, depth, k)[at]))
            if grouper.within is None:
                starts, ends, there = days_at(axis, depth, k)
                first, last = np.maximum(first, starts[at]), np.minimum(last, ends[at])
                known &= there[at]
    outer = {grouper.grain for grouper, _ in found if grouper.within is None}
    for grouper, numbers in found:
        if grouper.within in outer:
            ordinals = _joined(grouper, numbers, found, shape)
            alone = replace(grouper, within=None)
            known &= ordinals != NO_PERIOD
            starts = starts_of(alone, ordinals)
            if grouper.grain in CLOCK:
                starts = np.where(starts == NO_PERIOD, NO_PERIOD, starts // DAY_MICROSECONDS)
            first = np.maximum(first, starts)
            last = np.minimum(last, last_days_of(alone, ordinals))
    if not outer:
        return None
    return CellDays(first, last, known, undated(frame, crossing, column))


def undated(frame: Frame, crossing: tuple[int, int], column: str) -> Mask:
    """Shape (lines, columns): True for the cells of a crossing with a blank period or place of `column`."""
    result = np.zeros(frame.block_shape(crossing), dtype=bool)
    for axis, depth, at in _sides(frame, crossing):
        for k in period_levels(axis, depth, column):
            result |= (axis.levels[k].members.special[axis.path[axis.lines_at(depth), k]] == BLANK)[at]
    return result


def starts_of(grouper: Grouper, ordinals: Index) -> Index:
    """The first day (microsecond for hours and minutes) of each period; NO_PERIOD stays."""
    known = ordinals != NO_PERIOD
    return np.where(
        known, grouper.starts(np.where(known, ordinals, ordinals[known][0] if known.any() else 0)), NO_PERIOD
    )


def last_days_of(grouper: Grouper, ordinals: Index) -> Index:
    """The last day of each period; NO_PERIOD stays."""
    ends = starts_of(grouper, np.where(ordinals == NO_PERIOD, NO_PERIOD, ordinals + 1))
    if grouper.grain in ("hour", "minute"):
        ends = np.where(ends == NO_PERIOD, NO_PERIOD, -(-ends // 86_400_000_000))
    return np.where(ends == NO_PERIOD, NO_PERIOD, ends - 1)
