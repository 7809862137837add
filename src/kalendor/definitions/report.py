"""The report document: figures, down, across, conditions, totals."""

from datetime import date
from typing import Annotated, Any, Literal, TypeVar

from pydantic import Discriminator, Field, Tag, model_validator

from kalendor.definitions.axis import AxisEntry, Entry
from kalendor.definitions.document import ColumnName, Document, Formula, Name, Part, RecordFormula
from kalendor.definitions.export import Export, Headline
from kalendor.definitions.figure import Figure
from kalendor.definitions.recurring import Cadence, Delivery, Note

E = TypeVar("E", bound=Entry)


class Lookup(Part):
    """A column looked up from another source where the match columns agree.

    `match` maps own columns to the other source's. `as_at`, one such pair of date columns, takes of the matching lines
    the last one whose date is not after the record's; `match` may then be omitted.
    """

    source: Name
    match: dict[ColumnName, str] = Field(default_factory=dict)
    as_at: Annotated[dict[ColumnName, str], Field(max_length=1)] = Field(default_factory=dict)
    take: Name

    @model_validator(mode="after")
    def _finds_a_line(self) -> "Lookup":
        if not self.match and not self.as_at:
            raise ValueError('a look-up needs "match" or "as_at", the columns by which it finds a line')
        return self

    @property
    def own(self) -> list[str]:
        """The columns of a record by which its line is found."""
        return [*self.match, *self.as_at]

    @property
    def theirs(self) -> list[str]:
        """The columns of the other source that it reads."""
        return [*self.match.values(), *self.as_at.values(), self.take]


class FormulaColumn(Part):
    """A made column computed per record by a formula."""

    name: Name
    formula: RecordFormula


class LookupColumn(Part):
    """A made column looked up from another source."""

    name: Name
    lookup: Lookup


def _made_kind(value: Any) -> str:
    has = value.keys() if isinstance(value, dict) else {"lookup"} if isinstance(value, LookupColumn) else ()
    return "~lookup" if "lookup" in has else "~formula"


MadeColumn = Annotated[
    Annotated[FormulaColumn, Tag("~formula")] | Annotated[LookupColumn, Tag("~lookup")], Discriminator(_made_kind)
]

WindowGrain = Literal["year", "half", "quarter", "month", "week", "day"]


class Show(Part):
    """The periods that a window shows, in exactly one form.

    `last` periods of a `grain`, including that of the as-of date; `this` period or `to_date`, up to the as-of date; the
    whole `previous` one before that of the as-of date; or days `from` and `to`, one of which may be omitted: the window
    then ends with the as-of date, or is open at its start.
    """

    last: Annotated[int, Field(ge=1, le=100_000)] | None = None
    grain: WindowGrain | None = None
    this: WindowGrain | None = None
    to_date: WindowGrain | None = None
    previous: WindowGrain | None = None
    from_: Annotated[date | None, Field(alias="from")] = None
    to: date | None = None

    @model_validator(mode="after")
    def _one_form(self) -> "Show":
        dates = self.from_ is not None or self.to is not None
        forms = [x is not None for x in (self.last, self.this, self.to_date, self.previous)]
        if sum(forms) + dates != 1:
            raise ValueError(
                'give exactly one of "last" with "grain", "this", "to_date", "previous", or "from" and "to"'
            )
        if (self.last is None) != (self.grain is None):
            raise ValueError('"last" and "grain" go together')
        if self.from_ and self.to and self.to < self.from_:
            raise ValueError('"to" lies before "from"')
        return self


class Window(Part):
    """The periods that the sheet shows, counted from the as-of date."""

    of: ColumnName
    calendar: Name | None = None
    show: Show
    each_to_date: bool = False

    @model_validator(mode="after")
    def _ends_once(self) -> "Window":
        if self.each_to_date and (self.show.from_ is not None or self.show.to is not None):
            raise ValueError('"each_to_date" does not go with "from" and "to", which name the window\'s own ends')
        return self


class Keep(Part):
    """A condition on the lines of one level, after grouping."""

    level: Name
    where: Formula


Place = Literal["after", "before", "none"]


class Totals(Part):
    """Where subtotals and grand totals are shown."""

    down: Place = "after"
    across: Place = "after"
    grand_down: Place = "after"
    grand_across: Place = "after"
    levels: dict[str, Place] = Field(default_factory=dict)
    totals: Literal["all", "kept"] = "all"


class Beside(Part):
    """A second source on the same axes: `match` maps its columns to the report's own, as {"sold_on": "month"}."""

    source: Name
    match: Annotated[dict[ColumnName, str], Field(min_length=1)]


class Control(Part):
    """A control total: the expected grand total of a figure, written with a decimal point; for the sheet as of `as_of`
    alone, or by default for every one."""

    figure: Name
    expect: Annotated[str, Field(pattern=r"^-?[0-9]+(\.[0-9]+)?$")]
    as_of: date | None = None


class WorkedLine(Part):
    """A line computed from other lines of its level, under the same parent, by a formula over their labels.

    It is shown after the line named by `after`, by default after all of them, and is not counted in totals.
    """

    name: Name
    level: Name
    formula: Formula
    after: Name | None = None


class RecordList(Part):
    """Records listed under the lowest level: which columns (default: all of the source's), in which order; otherwise in
    source order."""

    columns: list[ColumnName] = Field(default_factory=list)
    order: list[ColumnName] = Field(default_factory=list)


class LevelLook(Part):
    """The layout of a level's lines: space before each of its groups, bold, a new page for each."""

    space: bool = False
    bold: bool = False
    page_break: bool = False


class Layout(Part):
    """The layout of a sheet; no number depends on it.

    `lines` are indented under their groups, or in one column a level, with `labels` once or on each line; `grand` is
    the grand total's label; `widths` are columns' widths in characters, by the figure's name ("" for the labels).
    """

    lines: Literal["indented", "columns"] = "indented"
    labels: Literal["once", "each"] = "once"
    levels: dict[str, LevelLook] = Field(default_factory=dict)
    grand: Annotated[str, Field(max_length=200)] = ""
    widths: dict[str, Annotated[int, Field(ge=2, le=400)]] = Field(default_factory=dict)


class OutOfSight(Part):
    """Hidden lines and columns, each by its labels, outermost first; totals still count them."""

    lines: list[list[str]] = Field(default_factory=list)
    columns: list[list[str]] = Field(default_factory=list)


class Silenced(Part):
    """A disabled phrase of the report: exactly one of the kinds."""

    only: RecordFormula | None = None
    down: AxisEntry | None = None
    across: AxisEntry | None = None
    keep: Keep | None = None
    window: Window | None = None

    @model_validator(mode="after")
    def _one_kind(self) -> "Silenced":
        if sum(value is not None for value in (self.only, self.down, self.across, self.keep, self.window)) != 1:
            raise ValueError('a silenced phrase is exactly one of "only", "down", "across", "keep", "window"')
        return self


class Report(Document):
    """A report: what is taken of which records, grouped how, and shown how."""

    kind: Literal["report"] = "report"
    title: Name
    source: Name
    columns: list[MadeColumn] = Field(default_factory=list)
    only: list[RecordFormula] = Field(default_factory=list)
    window: Window | None = None
    as_of: date | None = None
    down: list[AxisEntry] = Field(default_factory=list)
    across: list[AxisEntry] = Field(default_factory=list)
    figures: Annotated[list[Figure], Field(min_length=1)]
    keep: list[Keep] = Field(default_factory=list)
    totals: Totals = Totals()
    beside: list[Beside] = Field(default_factory=list)
    controls: list[Control] = Field(default_factory=list)
    lines: list[WorkedLine] = Field(default_factory=list)
    records: RecordList | None = None
    layout: Layout = Layout()
    out_of_sight: OutOfSight = OutOfSight()
    silenced: list[Silenced] = Field(default_factory=list)
    export: Export = Export()
    headline: Headline | None = None
    notes: list[Note] = Field(default_factory=list, max_length=500)
    cadence: Cadence | None = None
    delivery: Delivery | None = None

    @property
    def entries(self) -> tuple[AxisEntry, ...]:
        """The axis entries: those that make lines, then those that make columns."""
        return (*self.down, *self.across)

    def entries_of(self, kind: type[E]) -> list[E]:
        """The axis entries of one kind."""
        return [entry for entry in self.entries if isinstance(entry, kind)]

    def worked_part(self) -> "Report":
        """The report without what no sheet depends on: export settings, due dates, receivers, and the headline."""
        return self.model_copy(update={"export": Export(), "headline": None, "cadence": None, "delivery": None})

    @model_validator(mode="after")
    def _figures_by_one_name(self) -> "Report":
        names = [figure.name for figure in self.figures]
        for name in names:
            if names.count(name) > 1:
                raise ValueError(f"two figures are named {name!r}; rename one")
        return self
