"""Response models; the page's types are generated from them."""

from typing import Annotated

from pydantic import Field

from kalendor.api.fed_view import FedView
from kalendor.api.intake_view import IntakeView
from kalendor.api.linked_view import LinkedView
from kalendor.api.strict import BaseModel
from kalendor.definitions.recipe import ColumnReading, Join
from kalendor.definitions.report import MadeColumn, Report
from kalendor.desk.changes import Changes
from kalendor.desk.outcomes import Outcome
from kalendor.desk.profile import Profile
from kalendor.intake.findings import Rival
from kalendor.sentence.writing import Piece
from kalendor.store.holding import MonthLine


class Problem(BaseModel):
    """An error (RFC 9457): `detail` says what, where, and what to do; `id` is its id in the log if it is unexpected."""

    type: str
    title: str
    status: int
    detail: str
    id: str = ""


class Tried(BaseModel):
    """The error of something that was validated, in words; empty if it is valid."""

    fault: str


class NewName(BaseModel):
    name: Annotated[str, Field(min_length=1, max_length=200)]


class Named(BaseModel):
    id: int
    name: str


class SourceLine(BaseModel):
    """A source in a list; `stale` says why a summary could not be updated, empty if it could; `held` and `not_read` are
    how many files of its drop folder wait for a person, and how many were refused; `first_waiting` is the oldest of
    them, with the reason, empty if there is none; `not_fetched` says why the query that feeds it failed last. `refused`
    lines are those that were not corrected since."""

    id: int
    name: str
    records: int
    files: int
    refused: int
    first_day: str | None
    last_day: str | None
    held: int
    not_read: int
    first_waiting: str
    first_reason: str
    not_fetched: str
    stale: str = ""
    linked: bool = False


class MadeView(BaseModel):
    """A made column of a source; `problem` says why it cannot be computed, `note` is a remark on its values."""

    column: MadeColumn
    problem: str
    note: str


class TroubleView(BaseModel):
    """A file of a drop folder that was refused or is held, when, and why; `sure` if it differs from earlier files and
    the proposed matching is unambiguous; `months` is its effect by month, if it is held for that."""

    file: str
    at: str
    reason: str
    sure: bool
    months: list[MonthLine]


class DropView(BaseModel):
    """A source's drop folder: how many files wait in it, which were refused last, and which are held for a person."""

    path: str
    waiting: int
    troubles: list[TroubleView]
    held: list[TroubleView]


class SourceView(SourceLine):
    """A source with its columns and files. `summary_of` is the report whose sheet it is."""

    columns: list[Profile]
    made: list[MadeView]
    intakes: list[IntakeView]
    mended: int
    doubled: int
    summary_of: str | None
    drop_folder: DropView | None
    fed: FedView | None
    link: LinkedView | None
    join: Join
    join_by: list[str]
    held_over: float


class MadeTried(BaseModel):
    """A made column evaluated on the source's records: its first values beside those it is computed from, or the error."""

    kind: str
    problem: str
    note: str
    headings: list[str]
    rows: list[list[str]]


class RefusedView(BaseModel):
    mended: bool = False
    line: int
    column: str
    text: str
    reason: str


class ValueCount(BaseModel):
    """A value of a column (None is blank) and its number of records, None if only a specimen of them is stored."""

    value: str | None
    records: int | None


class ColumnRenaming(BaseModel):
    """A new name for a column of a source."""

    column: str
    name: str


class ColumnUnit(BaseModel):
    """The column that holds the unit of a column's amounts; empty for none."""

    column: str
    unit: str


class ColumnTold(BaseModel):
    """How a column of a source is to be read from its files; `blank_unread` leaves unreadable values blank."""

    column: str
    reading: ColumnReading
    blank_unread: bool = False


class ReadColumn(BaseModel):
    """A column as a waiting file would be read; `heading` is its heading in the file, empty if the file lacks it.
    `open_mark` is an example if the mark of all its numbers may be a decimal or a thousands mark."""

    name: str
    heading: str
    kind: str
    reading: ColumnReading
    rival: Rival | None
    open_mark: str


class FootAmount(BaseModel):
    """An amount in a foot line, beside the sum of the column above it."""

    column: str
    amount: str
    above: str
    agrees: bool


class FootView(BaseModel):
    """A line at the end of a file that looks like a total."""

    line: int
    text: str
    amounts: list[FootAmount]


class LayoutView(BaseModel):
    """The layout of a delimited file; each setting may be overridden."""

    encoding: str
    delimiter: str
    heading_line: int


class WaitingView(BaseModel):
    """A file that was read and is not imported yet. `notes` are remarks on it; `fits` are sources that have its
    columns, if it would create a new one. `dropped`: it came through the drop folder. `changes` describe how it differs
    from earlier files, and `sure`: the proposed matching is unambiguous; `ignored` are headings that are left out."""

    token: str
    file_name: str
    source: str
    is_new: bool
    records: int
    first_day: str | None
    last_day: str | None
    already: str | None
    columns: list[ReadColumn]
    first_records: list[list[str]]
    refused: list[RefusedView]
    refused_count: int
    sheets: list[str]
    layout: LayoutView | None
    area: str | None
    foot_lines: int
    foot: list[FootView]
    notes: list[str]
    fits: list[str]
    join: Join
    join_by: list[str]
    always: bool
    mends: int | None
    dropped: bool
    changes: Changes | None
    sure: bool
    ignored: list[str]
    outcome: Outcome
    currencies: str


class Reread(BaseModel):
    """Changes to how a waiting file is read and joined; omitted settings stay. `pairs` maps columns of the source to
    headings of the file, null for none: they are blank then."""

    columns: dict[str, ColumnReading] | None = None
    source: str | None = None
    sheet: str | None = None
    area: str | None = None
    delimiter: str | None = None
    encoding: str | None = None
    heading_line: int | None = None
    foot_lines: int | None = None
    join: Join | None = None
    join_by: list[str] | None = None
    always: bool | None = None
    pairs: dict[str, str | None] | None = None


class Joining(BaseModel):
    """The default way in which a source's files join existing records."""

    join: Join
    join_by: list[str]
    held_over: Annotated[float, Field(ge=0, le=1)]


class JobView(BaseModel):
    """A background job: `state` is working, done, stopped or failed; `total` is 0 while it is unknown. When it is done,
    `source` is the source imported into, or `token` that of the waiting file."""

    id: str
    state: str
    done: int
    total: int
    message: str
    source: int | None
    token: str | None


class ReportLine(BaseModel):
    """A report in a list: its sentence, when it was last changed, who made it (empty if no accounts are used), and the
    caller's own marks."""

    id: int
    title: str
    source: str
    saved_at: str
    archived: bool
    said: str
    made_by: str
    marks: list[str]


class GlanceView(BaseModel):
    """A report's latest figure, its change in words, and its last periods; `fault` says why there is none."""

    figure: str
    number: str
    moved: str
    bars: list[float]
    fault: str


class ProposalView(BaseModel):
    """A proposed report, its sentence, and the first lines of its sheet as text."""

    document: Report
    sentence: list[Piece]
    headings: list[str]
    labels: list[str]
    cells: list[list[str]]
    more: int


class Archived(BaseModel):
    archived: bool


class Gathering(BaseModel):
    """Values of a down entry to be gathered in a category of that name."""

    entry: int
    values: Annotated[list[str], Field(min_length=1, max_length=100_000)]
    label: Annotated[str, Field(min_length=1, max_length=200)]


class ReportView(BaseModel):
    """A report and whether it can be undone or redone. `document` is as in definition files, without defaults."""

    id: int
    revision: int
    saved_at: str
    can_undo: bool
    can_redo: bool
    document: Report


class Renaming(BaseModel):
    """A new label for a line, or a column if `across`, identified by its labels, outermost of its entry first; with
    `every`, for that period of every year: the label is then without a year."""

    entry: int
    path: Annotated[list[str], Field(min_length=1, max_length=20)]
    label: Annotated[str, Field(min_length=1, max_length=200)]
    across: bool = False
    every: bool = False


class NewReport(BaseModel):
    """A report over a source: a first figure to start from, or the whole document."""

    source: str
    title: str | None = None
    document: Report | None = None
