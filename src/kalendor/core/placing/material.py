"""What a report is computed from: records, groupings, the as-of day."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import date

from kalendor.core.groupings.ground import Groupings
from kalendor.core.takes.condensed import Condensed
from kalendor.core.values.columns import Records, column_days, day_number
from kalendor.core.values.keys import NO_KEY, Key
from kalendor.definitions.axis import PeriodEntry
from kalendor.definitions.report import Report


@dataclass(frozen=True, eq=False)
class Material:
    """What a report is computed from.

    `stamp` is the key of the records; `refused` lines never became records, except those `mended` since; `empty` lines
    contain only separators; `by_hand` records were entered by hand. `part`: these are some of the records, without the
    sources beside, which only one part includes. With `condensed`, rows represent several records each, with made
    columns and sources beside included.
    """

    records: Records
    groupings: Groupings = field(default_factory=Groupings)
    looked_up: Mapping[str, Records] | None = None
    refused: int = 0
    mended: int = 0
    stamp: Key = NO_KEY
    empty: int = 0
    by_hand: int = 0
    condensed: Condensed | None = None
    part: bool = False

    @property
    def read(self) -> int:
        """The number of records."""
        return self.records.count if self.condensed is None else self.condensed.read

    @property
    def own(self) -> list[str]:
        """The columns of the report's own source."""
        return list(self.records.columns if self.condensed is None else self.condensed.columns)


def as_of_day(report: Report, records: Records, today: date, given: date | None) -> int:
    """The as-of day: the given one, else the report's, else the last date of the window's or first period's column,
    else today."""
    if given or report.as_of:
        return day_number(given or report.as_of)  # type: ignore[arg-type]
    column = records.columns.get(as_of_column(report) or "")
    span = column_days(column) if column is not None else None
    return day_number(today) if span is None else span[1]


def as_of_column(report: Report) -> str | None:
    """The column whose last date is the as-of date by default: the window's or the first period's."""
    if report.window is not None:
        return report.window.of
    return next((entry.period for entry in report.entries_of(PeriodEntry)), None)
