"""The calendar document: how dates fall into years, quarters, months and weeks."""

import itertools
from datetime import date
from typing import Annotated, Literal

from pydantic import Field, model_validator

from kalendor.definitions.document import Document, Name, Part

Weekday = Literal["monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday"]
WEEKDAYS: tuple[Weekday, ...] = ("monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday")
MonthNumber = Annotated[int, Field(ge=1, le=12)]


class Months(Part):
    """Years of twelve months from a given day of a given month."""

    start_month: MonthNumber = 1
    start_day: Annotated[int, Field(ge=1, le=28)] = 1


class Weeks(Part):
    """Years of 52 or 53 whole weeks."""

    pattern: Literal["4-4-5", "4-5-4", "5-4-4", "13x4"] = "4-4-5"
    ends: Literal["last", "nearest"]
    weekday: Weekday
    month: MonthNumber


class TablePeriod(Part):
    """One period of a calendar by table: its first day, its name, and the year and quarter it stands in."""

    start: date
    name: Name
    year: Name
    quarter: Name | None = None


class Table(Part):
    """Periods one after another; the last one ends on `ends`."""

    periods: Annotated[list[TablePeriod], Field(min_length=1)]
    ends: date

    @model_validator(mode="after")
    def _in_order(self) -> "Table":
        starts = [period.start for period in self.periods]
        if any(a >= b for a, b in itertools.pairwise(starts)) or self.ends < starts[-1]:
            raise ValueError("period starts must rise, and the end must not lie before the last of them")
        return self


class YearName(Part):
    """How a year is named: by the civil year it starts or ends in, with a prefix and 2 or 4 digits."""

    by: Literal["start", "end"] = "end"
    prefix: Annotated[str, Field(max_length=20)] = ""
    digits: Literal[2, 4] = 4


class Calendar(Document):
    """A calendar by months, by weeks or by table; exactly one of the three."""

    kind: Literal["calendar"] = "calendar"
    name: Name
    months: Months | None = None
    weeks: Weeks | None = None
    table: Table | None = None
    week_start: Weekday = "monday"
    year_name: YearName = YearName()
    quarter_names: Annotated[list[Name], Field(min_length=4, max_length=4)] | None = None
    period_names: list[Name] | None = None
    holidays: list[date] = Field(default_factory=list)

    @model_validator(mode="after")
    def _one_kind(self) -> "Calendar":
        if sum(part is not None for part in (self.months, self.weeks, self.table)) != 1:
            raise ValueError('give exactly one of "months", "weeks" and "table"')
        return self
