"""Detaches a sheet from the frame it was computed on, with its record-long arrays and groupers."""

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from kalendor.core.groupings.levels import LOOSE, NO_START, ORDINARY, Level
from kalendor.core.groupings.periods import CLOCK, COARSER
from kalendor.core.placing.frame import Axis, Frame
from kalendor.core.placing.positions import cell_periods, days_at, starts_of
from kalendor.core.sheet.arrange import Rows
from kalendor.core.sheet.sheet import NO_COLUMN, NOT_SAID, TOTAL, LevelHead, Side
from kalendor.core.values.columns import Mask
from kalendor.errors import DefinitionError

Index = NDArray[np.int64]


def side(
    axis: Axis, shown: Rows, others: Mapping[int, tuple[str, int]], notes: dict[int, str], total: str = TOTAL
) -> Side:
    """The lines (or columns) of an axis as values; `others` are the name of the rest beyond a top and its number of
    members, by position, `total` the label of the grand total."""
    labels = np.empty(axis.count, dtype=object)
    values = np.full(axis.count, None, dtype=object)
    special = np.zeros(axis.count, dtype=np.int8)
    starts = np.full(axis.count, NO_START, dtype=np.int64)
    parts: set[int] = set()
    labels[0] = TOTAL
    for k, level in enumerate(axis.levels):
        here = axis.lines_at(k + 1)
        codes = axis.path[here, k]
        own = np.array([*level.members.labels, ""], dtype=object)[:-1]
        labels[here] = own[codes] if len(codes) else []
        special[here] = level.members.special[codes]
        if level.members.starts is not None and len(codes):
            starts[here] = level.members.starts[codes]
        if _is_innermost_category(axis.levels, k):
            names = np.array([*(level.members.codes or level.members.labels), ""], dtype=object)[:-1]
            there = np.flatnonzero(_has_value(special[here]))
            values[here.start + there] = names[codes[there]]
        parts.update((here.start + np.flatnonzero(_parts(axis, k))).tolist())
    for at, (name, _) in others.items():
        labels[at] = name
    return Side(
        tuple(_head(level) for level in axis.levels),
        axis.depth, axis.parent, labels, special, notes, values, starts, shown, total,
        {at: count for at, (_, count) in others.items()}, frozenset(parts),
    )  # fmt: skip


def _head(level: Level) -> LevelHead:
    clock = level.period is not None and level.period.grouper.grain in CLOCK
    return LevelHead(level.name, level.kind, level.entry, clock, level.of_all)


def _is_innermost_category(levels: tuple[Level, ...], k: int) -> bool:
    last = k + 1 == len(levels) or levels[k + 1].entry != levels[k].entry
    return levels[k].kind == "category" and last


def _has_value(special: NDArray[np.int8]) -> Mask:
    return np.isin(special, (ORDINARY, LOOSE))


def _parts(axis: Axis, k: int) -> Mask:
    """Shape (lines of the level,): True for weeks that a coarser period above them cuts."""
    codes = axis.path[axis.lines_at(k + 1), k]
    result = np.zeros(len(codes), dtype=bool)
    period = axis.levels[k].period
    if period is None or period.grouper.grain not in ("week", "run") or period.grouper.mode != "own" or not len(codes):
        return result
    first, last, is_period = days_at(axis, k + 1, k)
    known = np.flatnonzero(is_period)
    first, last = first[known], last[known]
    for j in range(k):
        outer = axis.levels[j].period
        if outer is None or outer.grouper.column != period.grouper.column or outer.grouper.mode != "own":
            continue
        if outer.grouper.grain in COARSER:
            ends = outer.grouper.calendar.within(first), outer.grouper.calendar.within(last)
            result[known] |= outer.grouper.numbers(ends[0], None) != outer.grouper.numbers(ends[1], None)
    return result


def current_column(columns: Axis, day: int) -> int:
    """The outermost column whose period contains a day; see `Sheet.current`."""
    period = columns.levels[0].period if columns.levels else None
    if period is None or period.grouper.mode != "own":
        return NOT_SAID
    try:
        code = int(
            period.codes(np.array([day]), None if period.grouper.grain not in CLOCK else np.zeros(1, np.int64))[0]
        )
    except DefinitionError:  # the calendar ends before that day
        return NO_COLUMN
    here = columns.lines_at(1)
    found = np.flatnonzero(columns.path[here, 0] == code) if code >= 0 else np.zeros(0, np.int64)
    return here.start + int(found[0]) if len(found) else NO_COLUMN


def place_starts(frame: Frame) -> dict[tuple[bool, int], Index]:
    """For each level that shows places in a coarser period: each cell's period start, shape (lines, columns)."""
    found: dict[tuple[bool, int], Index] = {}
    for down, axis in ((True, frame.lines), (False, frame.columns)):
        for k, level in enumerate(axis.levels):
            if level.period is None or level.period.grouper.mode != "place":
                continue
            starts = np.full(frame.shape, NO_START, dtype=np.int64)
            for crossing in frame.crossings:
                if (crossing[0] if down else crossing[1]) > k:
                    starts[frame.block(crossing)] = _starts_at(frame, crossing, down, k)
            found[(down, k)] = starts
    return found


def _starts_at(frame: Frame, crossing: tuple[int, int], down: bool, k: int) -> Index:
    """The starts of a place level at a crossing, read where it is the innermost of its side and broadcast below."""
    axis = frame.lines if down else frame.columns
    depth = crossing[0] if down else crossing[1]
    upper = (k + 1, crossing[1]) if down else (crossing[0], k + 1)
    found = cell_periods(frame, upper, axis.levels[k].period.grouper.column)
    shape = frame.block_shape(crossing)
    if found is None or found[0].grain != axis.levels[k].period.grouper.grain:
        return np.full(shape, NO_START, dtype=np.int64)
    starts = starts_of(*found)
    at = np.arange(axis.offsets[depth], axis.offsets[depth + 1])
    for _ in range(depth - k - 1):
        at = axis.parent[at]
    at = at - axis.offsets[k + 1]
    return starts[at] if down else starts[:, at]
