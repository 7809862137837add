"""A number by period: what its records contribute, and those of the base, over days, months or years."""

from dataclasses import dataclass

import numpy as np

from kalendor.core.figures.operand import Operand
from kalendor.core.groupings.calendars import Calendar
from kalendor.core.takes.groups import Groups
from kalendor.core.takes.sums import sums
from kalendor.core.values.arithmetic import exact
from kalendor.core.values.columns import DATED, Array, Column, days_of

MOST_BARS = 26
GRAINS = ("day", "week", "month", "quarter", "year")


@dataclass(frozen=True, eq=False)
class Bars:
    """Periods of a grain of a date column, in order, with the contribution of the records of each, shape (periods,), as
    float64.

    `base` are those of the other side of a comparison, None without one; `counted`: the records are counted, since
    their values do not add up to the number.
    """

    column: str
    grain: str
    labels: tuple[str, ...]
    value: Array
    base: Array | None
    counted: bool


def bars(operand: Operand, name: str, column: Column, calendar: Calendar, years: bool) -> Bars | None:
    """The first part of a number by periods of a date column, and beside it the base's; None if no record is dated.

    `years`: the base lies whole years back, so that it is shown beside the same period of its year.
    """
    found = operand.parts()
    if column.kind not in DATED or not found:
        return None
    sides = [part for _, part in found[: 2 if operand.kind == "compare" else 1]]
    counted = any(side.amounts is None for side in sides)
    dated = [_dated(side, column, counted) for side in sides]
    if not len(dated[0][0]):
        return None
    grain = _grain(dated[0][0], calendar)
    ordinals = [calendar.ordinals(grain, days) for days, _ in dated]
    first, last = int(ordinals[0].min()), int(ordinals[0].max())
    value = _summed(ordinals[0] - first, dated[0][1], last - first + 1)
    base = None
    if len(sides) == 2 and len(ordinals[1]):
        back = _back(ordinals[0], ordinals[1], grain, years)
        at = ordinals[1] + back - first
        inside = (at >= 0) & (at <= last - first)
        base = _summed(at[inside], dated[1][1].take(np.flatnonzero(inside)), last - first + 1)
    labels = tuple(calendar.label(grain, n) for n in range(first, last + 1))
    return Bars(name, grain, labels, value, base, counted)


def _dated(side: Operand, column: Column, counted: bool) -> tuple[Array, Column]:
    """The days of a side's dated records, and the contribution of each."""
    assert side.rows is not None
    there = np.flatnonzero(column.present[side.rows])
    days = days_of(column.take(side.rows[there]))
    if counted or side.amounts is None:
        return days, exact(np.ones(len(there), dtype=np.int64), None, 0)
    return days, side.amounts.take(there)


def _grain(days: Array, calendar: Calendar) -> str:
    """The finest grain that gives few enough bars."""
    ends = np.array([days.min(), days.max()])
    for grain in GRAINS:
        low, high = calendar.ordinals(grain, ends)
        if high - low < MOST_BARS:
            return grain
    return GRAINS[-1]


def _summed(at: Array, amounts: Column, count: int) -> Array:
    there = np.flatnonzero(amounts.present)
    total = sums(Groups(at[there], count, None), amounts.take(there))
    return total.astype(np.float64) / 10.0**amounts.places


def _back(value: Array, base: Array, grain: str, years: bool) -> int:
    """The distance to the base in periods."""
    back = int(value.min()) - int(base.min())
    a_year = {"day": 365, "week": 52, "month": 12, "quarter": 4, "year": 1}[grain]
    return max(1, round((int(value.max()) - int(base.max())) / a_year)) * a_year if years else back
