"""The words in a heading for a period that is cut or compared to date."""

import numpy as np
from numpy.typing import NDArray

from kalendor.core.groupings.periods import COARSER
from kalendor.core.placing.era import Era
from kalendor.core.placing.frame import Axis
from kalendor.core.placing.positions import NO_PERIOD, last_days_of, numbers_at, period_levels, starts_of
from kalendor.core.placing.windows import NONE
from kalendor.core.values.columns import day_of
from kalendor.core.values.days import MONTH_NAMES


def cut_notes(axis: Axis, column: str, era: Era, to_date: bool | None) -> dict[int, str]:
    """For each line or column of a period that is cut: `to 31 Jul`; `part` where it is compared with whole ones.

    Cut are the periods that a window shows in part and, where there are comparisons, the one that the as-of date or the
    data's end falls in; `to_date` says whether any of these is cut there, and is None where there are none.
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
            note = _note(era, period.grouper.grain, start, end, to_date)
            if note:
                notes[axis.offsets[depth] + at] = note
    return notes


def _note(era: Era, grain: str, start: int, end: int, to_date: bool | None) -> str:
    """What to say of the period from `start` to `end` where not all of its days count."""
    if era.shown is not None:
        shown = _shown_in(era, start, end)
        if len(shown) and shown[-1] < end:
            return f"to {_said(int(shown[-1]))}"
    cut = era.cut_for(grain)
    if to_date is None or not start <= cut < end:
        return ""
    return f"to {_said(cut)}" if to_date else "part"


def _shown_in(era: Era, start: int, end: int) -> NDArray[np.int64]:
    assert era.shown is not None
    days = np.arange(start, end + 1)
    inside = era.shown.of(days)
    return days[inside != NONE]


def _said(day: int) -> str:
    date = day_of(day)
    return f"{date.day} {MONTH_NAMES[date.month - 1]}"
