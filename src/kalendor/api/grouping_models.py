"""Response models of groupings; the page's types are generated from them."""

from kalendor.api.strict import BaseModel
from kalendor.definitions.buckets import Buckets
from kalendor.definitions.calendar import Calendar
from kalendor.definitions.tree import Tree
from kalendor.desk.groupings import PeriodLook, RangeLook, TreeRow, YearLook


class GroupingLine(BaseModel):
    """A grouping in a list; `levels` are those of a tree."""

    id: int
    kind: str
    name: str
    levels: list[str]


class GroupingView(BaseModel):
    """A grouping and whether it can be undone or redone; `used_by` are reports that use it."""

    id: int
    kind: str
    revision: int
    can_undo: bool
    can_redo: bool
    used_by: list[str]
    document: Tree | Calendar | Buckets


class ChoiceView(BaseModel):
    """A grouping that could be chosen (an empty name: none), and what it would give, in words; `problem` if it cannot
    be used, `helps` if it places some value."""

    name: str
    gives: str
    levels: list[str]
    problem: bool
    helps: bool


class Over(BaseModel):
    """The data over which a grouping is shown; `specimen`: of a linked source, whose records are not counted here."""

    source: str
    specimen: bool
    column: str
    amount: str | None
    is_age: bool
    as_of: str


class TreeLookView(BaseModel):
    over: Over | None
    rows: list[TreeRow]
    loose: list[TreeRow]
    values: int
    blank: int


class CalendarLookView(BaseModel):
    over: Over | None
    years: list[YearLook]
    periods: list[PeriodLook]
    quarters: list[PeriodLook]


class BucketLookView(BaseModel):
    over: Over | None
    bins: list[int]
    low: float
    high: float
    cuts: list[float]
    ranges: list[RangeLook]
    blank: int


class FromColumns(BaseModel):
    """A tree to be read from columns of a source, the value last."""

    name: str
    source: str
    columns: list[str]
