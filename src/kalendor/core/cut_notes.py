"""The words in a heading for a period that is cut or compared to date."""

import numpy as np
from numpy.typing import NDArray

from kalendor.core.columns import day_of
from kalendor.core.compare import Era
from kalendor.core.days import MONTH_NAMES
from kalendor.core.frame import Axis
from kalendor.core.periods import COARSER
from kalendor.core.positions import NO_PERIOD, last_days_of, numbers_at, period_levels, starts_of
from kalendor.core.windows import NONE


def cut_notes(axis: Axis, column: str, era: Era, compared: bool) -> dict[int, str]:
    """For each line or column of a period that is cut: `to 31 Jul`.

    Cut are the periods that an each-to-date window shows in part, and, where a comparison is to date (`compared`), the
    one that the cut falls in.
    """
    notes: dict[int, str] = {}
    for depth in range(1, len(axis.levels) + 1):
        levels = [k for k in period_levels(axis, depth, column) if k == depth - 1]
        if not levels:
            continue
        period = axis.levels[depth - 1].period
        assert period is not None
        if (
            period.grouper.mode != "own"
            or period.grouper.grain not in COARSER
            or COARSER[period.grouper.grain] > COARSER["month"]
        ):
            continue
        ordinals = numbers_at(axis, depth, depth - 1)
        known = np.flatnonzero(ordinals != NO_PERIOD)
        first, last = starts_of(period.grouper, ordinals[known]), last_days_of(period.grouper, ordinals[known])
        for at, start, end in zip(known.tolist(), first.tolist(), last.tolist(), strict=True):
            cut = _cut_of(era, period.grouper.grain, start, end, compared)
            if cut is not None:
                notes[axis.offsets[depth] + at] = f"to {_said(cut)}"
    return notes


def _cut_of(era: Era, grain: str, start: int, end: int, compared: bool) -> int | None:
    """The last day that counts in the period from `start` to `end`, where that is not its last."""
    if era.shown is not None:
        shown = _shown_in(era, start, end)
        if len(shown) and shown[-1] < end:
            return int(shown[-1])
    cut = era.cut_for(grain)
    return cut if compared and start <= cut < end else None


def _shown_in(era: Era, start: int, end: int) -> NDArray[np.int64]:
    assert era.shown is not None
    days = np.arange(start, end + 1)
    inside = era.shown.of(days)
    return days[inside != NONE]


def _said(day: int) -> str:
    date = day_of(day)
    return f"{date.day} {MONTH_NAMES[date.month - 1]}"
