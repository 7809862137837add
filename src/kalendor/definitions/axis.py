"""Axis entries: what makes the lines of a sheet, and what makes its columns."""

from datetime import date
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, Discriminator, Field, Tag, model_validator

from kalendor.definitions.buckets import Cut
from kalendor.definitions.document import ColumnName, Name, Part

Grain = Literal[
    "year",
    "half",
    "quarter",
    "month",
    "week",
    "day",
    "hour",
    "minute",
    "quarter_of_year",
    "month_of_year",
    "week_of_year",
    "day_of_month",
    "day_of_week",
    "hour_of_day",
]


class DayRun(Part):
    """Runs of `days` days, counted from `from`."""

    days: Annotated[int, Field(ge=1, le=3660)]
    from_: Annotated[date, Field(alias="from")]


class ByFigure(Part):
    """Order by a figure of the total column, or of the column whose member labels are given."""

    by: Name
    desc: bool = False
    column: list[str] | None = None
    level: Name | None = None


class ByList(Part):
    """Order by a given list, other members after it."""

    list: list[str]


Order = Literal["tree", "label", "label_desc", "date", "date_desc", "first_seen"] | ByFigure | ByList


class Entry(Part):
    """The properties of every axis entry."""

    name: Name | None = None
    levels: Annotated[list[Name] | None, AfterValidator(lambda named: named or None)] = None
    order: Order | None = None
    top: Annotated[int, Field(ge=1, le=2**31)] | None = None
    by: Name | None = None
    rest: str | None = "Other"
    empty: Literal["show", "hide"] | None = None

    @property
    def column(self) -> str:
        """The column whose values make the members."""
        raise NotImplementedError

    def default_names(self) -> list[str] | None:
        """The names of the entry's levels, in order; None if they are those of a tree."""
        return [self.name or self.column]

    @model_validator(mode="after")
    def _top_by(self) -> "Entry":
        if self.top is not None and self.by is None:
            raise ValueError('"top" needs "by", the figure that decides')
        return self


class CategoryEntry(Entry):
    """A column's values, or the named levels of a tree over them.

    `placed` says as at when values that changed their category are placed: currently, on the day in `placed_by`, or as
    at a given day. `signs` reverses the signs of the amounts of the members named, as a tree's own `sign` does.
    `labels` are display names of values without a tree; values with one name are one line.
    """

    category: ColumnName
    tree: Name | None = None
    placed: Literal["was", "now"] | date | None = None
    placed_by: ColumnName | None = None
    signs: dict[str, Literal[-1, 1]] = Field(default_factory=dict)
    labels: dict[str, Name] = Field(default_factory=dict)

    @model_validator(mode="after")
    def _placed_by_was(self) -> "CategoryEntry":
        if self.labels and self.tree is not None:
            raise ValueError('"labels" goes without "tree", whose values bear labels of their own')
        if self.placed_by is not None and self.placed != "was":
            raise ValueError('"placed_by" goes with "placed": "was"')
        return self

    @property
    def column(self) -> str:
        return self.category

    def default_names(self) -> list[str] | None:
        if self.name or self.tree is None:
            return super().default_names()
        return self.levels


class PeriodEntry(Entry):
    """A date column in periods; one level a grain. `labels` are display names of periods: of one by its own label, or
    that of every year by its label without the year."""

    period: ColumnName
    calendar: Name | None = None
    grains: Annotated[list[Grain | DayRun], Field(min_length=1)]
    labels: dict[str, Name] = Field(default_factory=dict)

    @property
    def column(self) -> str:
        return self.period

    def default_names(self) -> list[str] | None:
        if self.levels:
            return self.levels
        if self.name and len(self.grains) == 1:
            return [self.name]
        return ["run" if isinstance(grain, DayRun) else grain for grain in self.grains]


class BucketEntry(Entry):
    """A number column in ranges."""

    bucket: ColumnName
    set: Name | None = None
    cut: Cut | None = None

    @property
    def column(self) -> str:
        return self.bucket

    @model_validator(mode="after")
    def _cut_or_set(self) -> "BucketEntry":
        return one_of_cut_and_set(self)


class AgeEntry(Entry):
    """A date column in ages at the as-of date."""

    age: ColumnName
    set: Name | None = None
    cut: Cut | None = None
    opened: ColumnName | None = None
    closed: ColumnName | None = None

    @property
    def column(self) -> str:
        return self.age

    def default_names(self) -> list[str] | None:
        return [self.name or "Age"]

    @model_validator(mode="after")
    def _cut_or_set(self) -> "AgeEntry":
        if (self.opened is None) != (self.closed is None):
            raise ValueError('"opened" and "closed" go together')
        return one_of_cut_and_set(self)


def one_of_cut_and_set(entry: Any) -> Any:
    """The entry, if it has exactly one of a bucket set and cuts of its own."""
    if (entry.set is None) == (entry.cut is None):
        raise ValueError('give either "set" (a bucket set) or "cut" (the cuts themselves)')
    return entry


_KINDS = {"category": CategoryEntry, "period": PeriodEntry, "bucket": BucketEntry, "age": AgeEntry}


def _entry_kind(value: Any) -> str | None:
    for kind, model in _KINDS.items():
        if isinstance(value, model) or (isinstance(value, dict) and kind in value):
            return "~" + kind
    return None


AxisEntry = Annotated[
    Annotated[CategoryEntry, Tag("~category")]
    | Annotated[PeriodEntry, Tag("~period")]
    | Annotated[BucketEntry, Tag("~bucket")]
    | Annotated[AgeEntry, Tag("~age")],
    Discriminator(
        _entry_kind,
        custom_error_type="axis_entry",
        custom_error_message='an axis entry needs one of the keys "category", "period", "bucket", "age"',
    ),
]
