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
    """A figure; `approximate` where it rests on amounts that are not kept exactly."""

    name: str
    numeric: bool
    approximate: bool


class ColumnHead(BaseModel):
    """A column of the sheet: its headings from the outside in, and its members' own labels; `depth` 0 is the grand
    total. `value` is the value of a column of a category's innermost level, `entry` its place in `across`,
    `special` as for lines."""

    id: int
    labels: list[str]
    names: list[str]
    value: str | None
    entry: int
    depth: int
    role: str
    special: int


class Rows(BaseModel):
    """The lines as shown, one entry a row in each list. `special`: 0, 1 other, 2 not placed, 3 blank, 4 worked out, 5 a value under Not placed. `value` is the value
    of a line of a category's innermost level, None for other lines; `entry` its place in `down`; `name` is the
    member's own label."""

    line: list[int]
    depth: list[int]
    role: list[str]
    label: list[str]
    special: list[int]
    value: list[str | None]
    entry: list[int]
    name: list[str]


class ListedView(BaseModel):
    """The columns of the records listed under the innermost lines, how wide each is, and how many records each row heads."""

    columns: list[str]
    numeric: list[bool]
    widths: list[int]
    records: list[int]


class FootnoteView(BaseModel):
    """A note under the sheet, and where its mark stands: a line, a column, a figure."""

    text: str
    line: int | None
    column: int | None
    figure: str | None


class SheetView(BaseModel):
    """A sheet for the screen. `headings` are the rows of headings over the columns, from the outside in; `widths` is how
    many characters each column of figures needs, `scale` which are in thousands or millions. `cells` holds, by line, one text for each figure of `shown` columns from
    the column `first` on; others are asked for. `cut` names, by line, those of them that compare only a part of what their
    line and column show."""

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
    """A report after a change, its sentence, and its sheet; `fault` says why there is none. Neither is there where the source
    cannot be read; nor is a sheet for which much of a linked source has to be read first: asking for it begins that."""

    report: ReportView
    sentence: Shown | None
    sheet: SheetView | None
    fault: str


class LinesAsked(BaseModel):
    """Lines, and the columns from `first` on that are wanted of them; 0 columns are all."""

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
    """Records of a line, from the first on."""

    line: int
    start: Annotated[int, Field(ge=0)] = 0
    count: Annotated[int, Field(ge=1, le=500)] = 100


class Ungrouping(BaseModel):
    """A category of the tree of an entry down, by its labels from the entry's outermost level in."""

    entry: Annotated[int, Field(ge=0, le=100)]
    path: Annotated[list[str], Field(min_length=1, max_length=20)]


class OtherSource(BaseModel):
    """Another source for a report: which of its columns stands for each that the report names; those of one name for the rest."""

    source: str
    columns: dict[str, str] = Field(default_factory=dict)


class Narrowing(BaseModel):
    """Lines (or columns, where `down` is false) by their places on the sheet: the members at `depth` above them are kept, or
    else left out."""

    down: bool = True
    places: Annotated[list[Annotated[int, Field(ge=0, le=2**31)]], Field(min_length=1, max_length=1_000)]
    depth: Annotated[int, Field(ge=1, le=100)]
    keep: bool


class ConditionView(BaseModel):
    """A condition in SQL, to be added to a report's conditions."""

    sql: str


class ChosenAsked(BaseModel):
    """A block of cells: lines, and places among the columns of figures from `first` to before `last`."""

    lines: Annotated[list[int], Field(max_length=200_000)]
    first: Annotated[int, Field(ge=0)]
    last: Annotated[int, Field(ge=0)]
    texts: bool = True


class LikeAsked(BaseModel):
    """Lines, of which a figure's numbers are wanted beside what they are compared with."""

    lines: Annotated[list[int], Field(max_length=200)]
    figure: str


class LikeView(BaseModel):
    """Numbers of the latest period beside those they are compared with, a pair for each line (None: there is none), and
    their texts; no `series` where like periods cannot be told from the sheet, or all stand on it in columns of their own."""

    series: list[str]
    values: list[list[float | None]]
    texts: list[list[str]]


class ChosenView(BaseModel):
    """A block of cells: how many hold a number, and their sum, average, minimum and maximum where they are of one figure, totals
    of what is chosen too left out (`without_totals`: there are some), so that nothing counts twice; `plain` and `shown` are their texts row by row, empty where the block is too large to copy."""

    count: int
    sum: str
    average: str
    minimum: str
    maximum: str
    without_totals: bool
    headings: list[str]
    plain: list[list[str]]
    shown: list[list[str]]
