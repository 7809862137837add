"""A query that feeds a source, and its schedule."""

from datetime import datetime, time, timedelta
from typing import Annotated, Literal

from pydantic import Field

from kalendor.definitions.document import Name, Part

Every = Literal["hour", "day", "week", "month"]


class Fetching(Part):
    """A query over a connection, which names an address in the server's environment. `every` is its schedule, by
    default none; days, weeks (on Monday) and months (on the first) `at` a time of day."""

    connection: Name
    query: Annotated[str, Field(min_length=1, max_length=20_000)]
    every: Every | None = None
    at: Annotated[str, Field(pattern=r"^([01][0-9]|2[0-3]):[0-5][0-9]$")] = "06:00"

    def last_due(self, now: datetime) -> datetime | None:
        """The last scheduled moment at or before `now`; None without a schedule.

        >>> Fetching(connection="ledger", query="SELECT 1", every="week", at="06:30").last_due(datetime(2026, 11, 30, 6, 0))
        datetime.datetime(2026, 11, 23, 6, 30)
        """
        if self.every is None:
            return None
        if self.every == "hour":
            return now.replace(minute=0, second=0, microsecond=0)
        day = now.date()
        back = {"day": 0, "week": day.weekday(), "month": day.day - 1}[self.every]
        found = datetime.combine(day - timedelta(days=back), time.fromisoformat(self.at))
        if found <= now:
            return found
        if self.every == "month":
            return (found - timedelta(days=1)).replace(day=1)
        return found - timedelta(days=1 if self.every == "day" else 7)
