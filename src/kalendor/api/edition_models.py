"""Response models of the board, editions and readers."""

from datetime import date
from typing import Annotated, Literal

from pydantic import Field

from kalendor.api.notation_models import NotationView
from kalendor.api.strict import BaseModel
from kalendor.definitions.addresses import Address
from kalendor.definitions.recurring import Receiver
from kalendor.desk.editions.behind import Between
from kalendor.desk.editions.board import SourceRow
from kalendor.desk.editions.checks import Said
from kalendor.desk.editions.four_eyes import ToDo
from kalendor.desk.editions.source_checks import Check
from kalendor.desk.editions.why import Why

CheckState = Literal["ok", "look", "stop"]
CrossingState = Literal["issued", "restated", "due", "late", "waiting", "past", "open"]


class CrossingView(BaseModel):
    """A report's period on the board. `sign` is its place in the year; `moved`: whether the numbers of its edition have
    changed since, None if not known (yet); `as_is` is the reason for leaving it as it is."""

    label: str
    sign: str
    first_day: date
    last_day: date
    state: CrossingState
    due: date
    edition: int | None = None
    number: int = 0
    moved: bool | None = None
    as_is: str = ""
    waits: str = ""
    left: str = ""


class BoardRowView(BaseModel):
    """A report on the board; `cells` has, for each column, the periods that end in it."""

    id: int
    title: str
    cadence: str
    by_itself: bool
    cells: list[list[CrossingView]]


class BoardColumn(BaseModel):
    """A period along the top."""

    label: str
    first_day: date
    last_day: date


class SaidPart(BaseModel):
    """A part of the sentence about the board's state; `needs`: somebody must act."""

    words: str
    needs: bool


class NamedReport(BaseModel):
    """A report by its id and title."""

    id: int
    title: str


class BoardView(BaseModel):
    """The board. `pending` editions still have to be compared with the current data; `rest` are reports without a
    cadence."""

    calendar: str
    calendars: list[str]
    every: str
    year: str
    columns: list[BoardColumn]
    rows: list[BoardRowView]
    sources: list[SourceRow]
    rest: list[NamedReport]
    said: list[SaidPart]
    pending: int
    later: bool


class CheckedView(BaseModel):
    """The checks of a report's edition for a period, and its main numbers; `four_eyes`: what another account has to do
    before it is issued."""

    report: int
    title: str
    label: str
    first_day: date
    last_day: date
    due: date
    ready: bool
    checks: list[Check]
    headline: list[str]
    figure: str
    lines: list[Said]
    edition: int | None = None
    moved: bool | None = None
    as_is: str = ""
    four_eyes: ToDo = ""


class EditionLine(BaseModel):
    """An edition in a list. `latest`: it is the last one of its period."""

    id: int
    report: int
    title: str
    label: str
    sign: str
    named: str
    first_day: date
    last_day: date
    number: int
    issued_at: str
    issued_by: str
    sha256: str
    latest: bool
    moved: bool | None = None


class IssuedView(BaseModel):
    """An edition, and whether it was issued just now; otherwise the existing one says the same."""

    edition: EditionLine
    fresh: bool


class IssueOutcome(BaseModel):
    """The outcome for a report's period: its edition, or why none was issued."""

    title: str
    label: str
    edition: int | None = None
    reason: str = ""


class EditionView(BaseModel):
    """An edition with its texts, and the other editions of its report. `line` is the reason for issuing it again,
    `as_is` the reason for leaving it although its numbers have changed; `why`: the current sheet cannot be computed;
    `beneath` describes changes of its linked files."""

    edition: EditionLine
    first_issued_at: str
    as_of: date
    source: str
    files: int
    brief: str
    headline: list[str]
    short: str
    layout: dict[str, object]
    notation: NotationView
    versions: list[EditionLine]
    beside: list[EditionLine]
    trail: Literal["none", "words", "records"] = "records"
    why: str = ""
    beneath: str = ""
    line: str = ""
    as_is: str = ""
    prepared_by: str = ""
    approved_by: str = ""


class WithALine(BaseModel):
    """Editions whose numbers have changed, by id, and the reason for issuing them again or leaving them."""

    editions: list[int] = Field(min_length=1, max_length=1000)
    why: str = Field(max_length=300)


class MovedCell(BaseModel):
    """A changed cell: its position on the shown sheet (None if it is not on it), and its text before and after."""

    figure: str
    lines: list[str]
    columns: list[str]
    line: int | None
    column: int | None
    was: str
    now: str


class WhatMoved(BaseModel):
    """The differences between an edition and another, or the current sheet: the first cells, and their total number."""

    earlier: str
    later: str
    cells: list[MovedCell]
    count: int


class MovedPart(BaseModel):
    """What one cause changed in a cell: by how much, formatted (`by`) and exact (`exact`), with the records."""

    title: str
    kinds: list[str]
    by: str
    exact: str | None
    words: list[Why]
    listed: Between


class MovedTotal(BaseModel):
    """The change of a figure's grand total, formatted and exact."""

    figure: str
    by: str
    exact: str | None


class MovedCause(BaseModel):
    """What one cause changed on the whole sheet; late and removed records in one list."""

    title: str
    kinds: list[str]
    words: list[Why]
    totals: list[MovedTotal]
    listed: Between


class MovedCellView(BaseModel):
    """A changed cell broken down by cause; the exact parts add up to the exact change."""

    figure: str
    lines: list[str]
    columns: list[str]
    was: str
    now: str
    by: str
    exact: str | None
    parts: list[MovedPart]


class LinkAsked(BaseModel):
    """A link to create: to one edition or (None) all of a report's, until a day, with numbers explained to that depth."""

    edition: int | None = None
    trail: Literal["none", "words", "records"] = "words"
    ends_on: date | None = None


class LinkView(BaseModel):
    """A link; `path` is returned only when it is created."""

    id: int
    edition: int | None
    trail: str
    made_at: str
    ends_on: date | None
    withdrawn_at: str | None
    open: bool
    path: str = ""


class ReaderView(BaseModel):
    """The editions that a link opens."""

    title: str
    workspace: str
    trail: Literal["none", "words", "records"]
    editions: list[EditionLine]


class SendAsked(BaseModel):
    """An edition to be sent as its report says; `only_to`: a test to one address."""

    only_to: Address | None = None


class PartsView(BaseModel):
    """The figures that are left out of one member's part since they depend on others; `problem` is why there can be no
    parts at all, empty if there can."""

    left_out: list[str]
    problem: str


class PackToSend(BaseModel):
    """Editions to be sent together, as one workbook or PDF, else as a zip of files; a receiver with a member gets that
    part of each edition that has it. `only_to`: a test, everything is sent to that address."""

    title: Annotated[str, Field(min_length=1, max_length=120)]
    editions: Annotated[list[int], Field(min_length=1, max_length=100)]
    format: str = "pdf"
    to: Annotated[list[Receiver], Field(min_length=1, max_length=500)]
    only_to: Address | None = None
    text: Annotated[str, Field(max_length=10_000)] = ""


class SendingView(BaseModel):
    """The delivery of an edition, or a pack, to a receiver; `what` names it."""

    id: int
    edition: int
    what: str
    address: str
    member: str
    state: str
    tries: int
    told: str
    made_at: str
    done_at: str | None


class MailView(BaseModel):
    """The mail server's settings; `stand_in`: the built-in test inbox is used."""

    host: str = ""
    port: int = 25
    security: Literal["none", "starttls", "tls"] = "starttls"
    user: str = ""
    sender: str = ""
    stand_in: bool = False


class InboxFile(BaseModel):
    """Return an attachment of a mail in the test inbox."""

    name: str
    size: int


class InboxMail(BaseModel):
    """A mail in the test inbox."""

    id: str
    at: str
    sender: str
    to: str
    subject: str
    text: str
    files: list[InboxFile]


class LogLine(BaseModel):
    """A line of the schedules' log."""

    at: str
    report: int
    label: str
    outcome: str
    reason: str
