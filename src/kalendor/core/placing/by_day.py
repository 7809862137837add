"""Looks up a value for each record's day, in a table by days if whole days suffice, else moment by moment."""

import numpy as np
from numpy.typing import NDArray

from kalendor.core.groupings.periods import clock_of
from kalendor.core.placing.windows import NONE, DayMap
from kalendor.core.values.columns import DAY_MICROSECONDS, Array, Column, Kind, days_of
from kalendor.core.values.cores import each, pieces

Index = NDArray[np.int64]


def by_day(column: Column, low: int, rows: Index | None, table: Array) -> Array:
    """For each of the records at `rows` (None: all) the table's entry for its day; `table`, shape (days + 1,), begins
    with the day `low` and ends with the entry for records without a date."""
    count = len(column) if rows is None else len(rows)
    found = np.empty(count, dtype=table.dtype)

    def work(here: slice) -> None:
        at = here if rows is None else rows[here]
        day = column.values[at]
        day = day // DAY_MICROSECONDS - low if column.kind is Kind.DATETIME else day - low
        if column.blank is not None:
            day = np.where(column.blank[at], len(table) - 1, day)
        np.take(table, day, out=found[here])

    each(work, pieces(count), count)
    return found


def moments_on(column: Column, rows: Index | None, days: DayMap) -> tuple[Index, Index | None]:
    """The day that each record counts as (NONE: none), and its microseconds since midnight (None for whole days)."""
    picked = column if rows is None else column.take(rows)
    own, clock = days_of(picked), clock_of(picked)
    if days.later and clock is not None:
        moment = own * DAY_MICROSECONDS + clock + days.later
        own, clock = moment // DAY_MICROSECONDS, moment % DAY_MICROSECONDS
    moved = days.of(own)
    if picked.blank is not None:
        moved[picked.blank] = NONE
    return moved, clock
