"""How a report recurs: its cadence, when each edition is due, what is checked before it is issued, and who receives it."""

from datetime import date
from typing import Annotated, Literal

from pydantic import Field, model_validator

from kalendor.definitions.addresses import Address
from kalendor.definitions.document import ColumnName, Name, Part

Every = Literal["week", "month", "quarter", "half", "year"]
Accepted = Literal["not_placed", "refused", "unmatched", "moved", "source", "empty", "repeated"]


class Due(Part):
    """When an edition is due: a number of days, or of working days of the calendar, after its period's end; one of the
    two."""

    days: Annotated[int, Field(ge=0, le=366)] | None = None
    working_days: Annotated[int, Field(ge=0, le=260)] | None = None

    @model_validator(mode="after")
    def _one_way(self) -> "Due":
        if (self.days is None) == (self.working_days is None):
            raise ValueError('give exactly one of "days" and "working_days"')
        return self


class Limit(Part):
    """How far a figure's total may change, in percent of its base, before somebody must confirm it."""

    figure: Name
    against: Literal["period_before", "year_earlier"]
    percent: Annotated[float, Field(ge=0, le=1_000_000, allow_inf_nan=False)]


class Cadence(Part):
    """The editions of a report that fall due.

    One for each period of `calendar` (default: the civil year) from the one that contains `since` on. `of` is the date
    column by which the source must cover the period (default: the window's, else the first period's, else the first
    date column). `issue`: by hand, or automatically when it is due and its checks pass. `accept` lists checks that are
    waived: `source` a partly filled source, `empty` one without a record of the period, `repeated` records that occur
    more than once. With `four_eyes`, each edition is prepared by one account and approved by another before it is
    issued.
    """

    every: Every
    calendar: Name | None = None
    since: date | None = None
    due: Due = Due(days=0)
    of: ColumnName | None = None
    issue: Literal["by_hand", "when_ready"] = "by_hand"
    limits: list[Limit] = Field(default_factory=list)
    accept: list[Accepted] = Field(default_factory=list)
    four_eyes: bool = False


FileFormat = Literal["xlsx", "pdf", "html", "csv", "ods", "json", "parquet"]


Readers = Literal["nothing", "numbers", "words", "records"]


def _printed() -> list[FileFormat]:
    return ["pdf"]


class Receiver(Part):
    """Who receives an edition by mail; with `member`, only that member's part of the delivery's level."""

    address: Address
    member: Name | None = None


class Delivery(Part):
    """How an edition is sent: to whom, as which files, with what text; `folder` is one to put the files in, and `each`
    the level of which each member has its own files there. `readers` is what readers with an account see of its
    editions: nothing, their numbers, also explanations in words, or down to the records."""

    to: list[Receiver] = Field(default_factory=list, max_length=500)
    level: Name | None = None
    formats: list[FileFormat] = Field(default_factory=_printed, max_length=7)
    subject: Annotated[str, Field(max_length=200)] = ""
    text: Annotated[str, Field(max_length=10_000)] = ""
    folder: Annotated[str, Field(max_length=1000)] | None = None
    each: Name | None = None
    readers: Readers = "words"
    when_issued: bool = False

    @model_validator(mode="after")
    def _parts_of_a_level(self) -> "Delivery":
        if self.level is None and any(one.member is not None for one in self.to):
            raise ValueError('a receiver of one member\'s part needs "level", the level that the member is of')
        return self


class Note(Part):
    """A footnote: on the line of those labels, in the column of those labels and the figure of that name, or, without
    them, on the sheet. `as_of` is the as-of date of the one edition that it belongs to; by default it stays."""

    text: Annotated[str, Field(min_length=1, max_length=1000)]
    line: list[str] | None = None
    column: list[str] | None = None
    figure: Name | None = None
    as_of: date | None = None
