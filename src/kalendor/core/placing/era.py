"""What bounds comparisons: the data's first and last day, the shown window, and the day at which a pair is cut."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kalendor.core.groupings.calendars import Calendar
from kalendor.core.placing.windows import DayMap, Days, Span


@dataclass(frozen=True, eq=False)
class Era:
    """What bounds comparisons: the shifted column's calendar, its span of days, the shown window, and the cut.

    `first` and `last` are the first and last day of records that pass the report's conditions, `first_moment` the first
    of them in microseconds; `as_of` is the one day at which compared pairs are cut; `shown` maps the window's days to
    themselves and `span` bounds them, None where there is no window; `grain` is the one that the window counts in and
    `before` how far back the window before it lies. `alike`, of days, is False after the place at which `each_to_date`
    cuts every period.
    """

    calendar: Calendar
    first: int
    last: int
    first_moment: int
    as_of: int
    shown: DayMap | None = None
    span: Span | None = None
    grain: str | None = None
    before: tuple[int, str] | None = None
    alike: Callable[[Days], NDArray[np.bool_]] = lambda days: np.ones(days.shape, dtype=bool)
