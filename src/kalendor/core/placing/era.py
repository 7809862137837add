"""The bounds of comparisons: the data's first and last day, the shown window, and the day at which pairs are cut."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kalendor.core.groupings.calendars import Calendar
from kalendor.core.placing.windows import DayMap, Days, Span


@dataclass(frozen=True, eq=False)
class Era:
    """The bounds of comparisons: the shifted column's calendar, its span of days, the shown window, and the cut.

    `first` and `last` are the first and last day of records that satisfy the report's conditions, `first_moment` the
    first of them in microseconds; `as_of` is the day at which compared pairs are cut; `shown` maps the window's days to
    themselves and `span` bounds them, None without a window; `grain` is the window's own and `before` the distance to
    the window before it. `alike`, indexed by days, is False after the place at which `each_to_date` cuts every period.
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
