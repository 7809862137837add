"""What the API answers with about groupings. The page's types are generated from these, too."""

from datetime import date

from kalendor.api.strict import BaseModel
from kalendor.definitions.buckets import Buckets
from kalendor.definitions.calendar import Calendar
from kalendor.definitions.tree import Tree


class GroupingLine(BaseModel):
    """A grouping in a list; `levels` are those of a tree."""

    id: int
    kind: str
    name: str
    levels: list[str]


class GroupingView(BaseModel):
    """A grouping and whether it can be undone or redone; `used_by` are reports that rest on it."""

    id: int
    kind: str
    revision: int
    can_undo: bool
    can_redo: bool
    used_by: list[str]
    document: Tree | Calendar | Buckets


class ChoiceView(BaseModel):
    """A grouping that could be chosen (an empty name: none), and what it would give, in words; `problem` where it cannot,
    `helps` where it places some value."""

    name: str
    gives: str
    levels: list[str]
    problem: bool
    helps: bool


class Over(BaseModel):
    """What a grouping is looked at over."""

    source: str
    column: str
    amount: str | None
    is_age: bool
    as_of: str


class TreeRowView(BaseModel):
    path: list[int]
    depth: int
    label: str
    value: str | None
    rule: str
    caught: bool
    members: int
    records: int
    amount: str
    since: date | None
    until: date | None


class TreeLookView(BaseModel):
    over: Over | None
    rows: list[TreeRowView]
    loose: list[TreeRowView]
    values: int
    blank: int


class YearView(BaseModel):
    name: str
    first: str
    last: str
    days: int
    weeks: int
    working_days: int
    records: int


class PeriodView(BaseModel):
    name: str
    label: str
    first: str
    last: str
    quarter: int


class CalendarLookView(BaseModel):
    over: Over | None
    years: list[YearView]
    periods: list[PeriodView]
    quarters: list[PeriodView]


class RangeView(BaseModel):
    label: str
    records: int
    amount: str


class BucketLookView(BaseModel):
    over: Over | None
    bins: list[int]
    low: float
    high: float
    cuts: list[float]
    ranges: list[RangeView]
    blank: int


class MovedView(BaseModel):
    line: str
    before: str
    after: str


class ImpactView(BaseModel):
    report: str
    moved: int
    lines: list[MovedView]
    problem: str


class FromColumns(BaseModel):
    """A tree to be read from columns of a source, the last one the value."""

    name: str
    source: str
    columns: list[str]
