"""Response models of a sheet; the page's types are generated from them."""

from typing import Annotated

from pydantic import Field

from kalendor.api.models import ReportView
from kalendor.api.strict import BaseModel
from kalendor.core.sheet.sheet import HeadingSpan
from kalendor.core.sheet.tieout import TieOut
from kalendor.desk.sentences import Shown


class LevelView(BaseModel):
    """A level of an axis: `kind` is category, period, bucket or age."""

    name: str
    kind: str


class FigureView(BaseModel):
    """A figure; `approximate` if it depends on amounts that are not stored exactly."""

    name: str
    numeric: bool
    approximate: bool


class ColumnHead(BaseModel):
    """A column of the sheet: its headings, outermost first, and its members' own labels; `depth` 0 is the grand total.
    `value` is the value of a column of a category's innermost level, `entry` its position in `across`, `special` as for
    lines."""

    id: int
    labels: list[str]
    names: list[str]
    value: str | None
    entry: int
    depth: int
    role: str
    special: int


class Rows(BaseModel):
    """The lines in display order, one entry a row in each list. `special`: 0, 1 other, 2 not placed, 3 blank, 4
    computed, 5 a value under Not placed. `value` is the value of a line of a category's innermost level, None for other
    lines; `entry` its position in `down`; `name` is the member's own label."""

    line: list[int]
    depth: list[int]
    role: list[str]
    label: list[str]
    special: list[int]
    value: list[str | None]
    entry: list[int]
    name: list[str]


class ListedView(BaseModel):
    """The columns of the records listed under the innermost lines, the width of each, and the number of records under
    each row."""

    columns: list[str]
    numeric: list[bool]
    widths: list[int]
    records: list[int]


class FootnoteView(BaseModel):
    """A note under the sheet, and the position of its mark: a line, a column, a figure."""

    text: str
    line: int | None
    column: int | None
    figure: str | None


class SheetView(BaseModel):
    """A sheet for the screen. `headings` are the rows of headings over the columns, outermost first; `widths` is the
    width of each column of figures in characters, `scale` says which are in thousands or millions. `cells` holds, by
    line, one text for each figure of `shown` columns from the column `first` on; others are requested separately. `cut`
    lists, by line, those of them that compare only a part of what their line and column show."""

    key: str
    title: str
    as_of: str
    notes: list[str]
    warnings: list[str]
    down: list[LevelView]
    across: list[LevelView]
    figures: list[FigureView]
    columns: list[ColumnHead]
    headings: list[list[HeadingSpan]]
    widths: list[int]
    scale: str
    rows: Rows
    first: int
    shown: int
    cells: dict[int, list[str]]
    cut: dict[int, list[int]]
    listed: ListedView | None
    tie_out: TieOut
    footnotes: list[FootnoteView]


class EditView(BaseModel):
    """A report after a change, its sentence, and its sheet; `fault` says why there is none. Both are missing if the
    source cannot be read; so is a sheet for which much of a linked source has to be read first: requesting it starts
    that."""

    report: ReportView
    sentence: Shown | None
    sheet: SheetView | None
    fault: str


class LinesAsked(BaseModel):
    """Lines, and the columns from `first` on that are requested; 0 columns are all."""

    lines: Annotated[list[int], Field(max_length=5_000)]
    first: Annotated[int, Field(ge=0)] = 0
    columns: Annotated[int, Field(ge=0)] = 0


class LinesView(BaseModel):
    """The cells of some lines, as in a sheet."""

    first: int
    shown: int
    cells: dict[int, list[str]]
    cut: dict[int, list[int]]


class ListedAsked(BaseModel):
    """A range of a line's records."""

    line: int
    start: Annotated[int, Field(ge=0)] = 0
    count: Annotated[int, Field(ge=1, le=500)] = 100


class Ungrouping(BaseModel):
    """A category of the tree of a down entry, by its labels, outermost of the entry first."""

    entry: Annotated[int, Field(ge=0, le=100)]
    path: Annotated[list[str], Field(min_length=1, max_length=20)]


class OtherSource(BaseModel):
    """Another source for a report: which of its columns replaces each that the report refers to; by default the one of
    the same name."""

    source: str
    columns: dict[str, str] = Field(default_factory=dict)


class Narrowing(BaseModel):
    """Lines (or columns, if `down` is false) by their positions on the sheet: the members at `depth` above them are
    kept, or left out."""

    down: bool = True
    places: Annotated[list[Annotated[int, Field(ge=0, le=2**31)]], Field(min_length=1, max_length=1_000)]
    depth: Annotated[int, Field(ge=1, le=100)]
    keep: bool


class ConditionView(BaseModel):
    """A condition in SQL, to be added to a report's conditions."""

    sql: str


class ChosenAsked(BaseModel):
    """A block of cells: lines, and positions among the columns of figures from `first` to before `last`."""

    lines: Annotated[list[int], Field(max_length=200_000)]
    first: Annotated[int, Field(ge=0)]
    last: Annotated[int, Field(ge=0)]
    texts: bool = True


class LikeAsked(BaseModel):
    """Lines whose numbers are requested beside what they are compared with."""

    lines: Annotated[list[int], Field(max_length=200)]
    figure: str


class LikeView(BaseModel):
    """Numbers of the latest period beside those they are compared with, a pair for each line (None: there is none), and
    their texts; no `series` if the bases cannot be computed from the sheet, or are all columns of it."""

    series: list[str]
    values: list[list[float | None]]
    texts: list[list[str]]


class ChosenView(BaseModel):
    """A block of cells: how many contain a number, and their sum, average, minimum and maximum if they are of one
    figure. Totals of other selected cells are left out (`without_totals`: there are some), so that nothing counts
    twice; `plain` and `shown` are their texts row by row, empty if the block is too large to copy."""

    count: int
    sum: str
    average: str
    minimum: str
    maximum: str
    without_totals: bool
    headings: list[str]
    plain: list[list[str]]
    shown: list[list[str]]
