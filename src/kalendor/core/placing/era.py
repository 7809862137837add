"""What bounds comparisons: the data's first and last day, the shown window, and the day at which a pair is cut."""

from dataclasses import dataclass

import numpy as np

from kalendor.core.groupings.calendars import Calendar
from kalendor.core.placing.windows import DayMap, Span


@dataclass(frozen=True, eq=False)
class Era:
    """What bounds comparisons: the shifted column's calendar, its span of days, the shown window, and the cut.

    `first` and `last` are the first and last day of records that pass the report's conditions; `cut` is the day to
    which a part period is compared; `shown` maps the window's days to themselves, None where there is no window.
    """

    calendar: Calendar
    first: int
    last: int
    as_of: int
    shown: DayMap | None
    span: Span | None
    grain: str | None

    def cut_for(self, grain: str) -> int:
        """The day at which a compared pair is cut: the as-of date where a period of `grain` with records holds it, else the data's end."""
        whole = "day" if grain in ("hour", "minute", "run") else grain
        ordinals = self.calendar.ordinals(whole, np.array([self.as_of, self.last]))
        return self.as_of if ordinals[0] == ordinals[1] or self.as_of < self.last else self.last
