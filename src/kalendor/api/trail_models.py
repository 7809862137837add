"""Response models of a number's trail."""

from kalendor.api.strict import BaseModel


class PartView(BaseModel):
    """A part of a number that is taken from records: how many, its own number, and the condition that selects them.
    `by_hand` of the records were entered by hand, and `by_hand_amount` is their contribution."""

    name: str
    figure: str
    words: str
    number: str
    records: int
    condition: str | None
    by_hand: int
    by_hand_amount: str


class SideView(BaseModel):
    """An operand of a number, as the sheet would show it."""

    name: str
    figure: str
    number: str


class BarView(BaseModel):
    label: str
    value: float
    base: float | None


class BarsView(BaseModel):
    """A number by periods of a grain; `counted`: records are counted, since their values do not add up to it."""

    column: str
    grain: str
    counted: bool
    bars: list[BarView]


class RecordView(BaseModel):
    """A record behind a number: its file and line, its contribution, and its cells in the listed columns."""

    file: str
    line: int
    amount: str
    cells: list[str]
    by_hand: bool


class RecordsView(BaseModel):
    """A range of the records of a part, from `start` on; `total` is the number of those that match the search."""

    part: str
    columns: list[str]
    numeric: list[bool]
    total: int
    start: int
    records: list[RecordView]


class TrailView(BaseModel):
    """A number explained. `said` are sentences; `kind` is its figure's kind; `driven`: it is the change of a sum, which
    `drivers` breaks down; `why` explains a mark or a blank."""

    figure: str
    kind: str
    number: str
    mark: str
    why: str
    lines: list[str]
    columns: list[str]
    said: list[str]
    sides: list[SideView]
    parts: list[PartView]
    bars: BarsView | None
    first: RecordsView | None
    driven: bool


class MoverView(BaseModel):
    """A member's part of a change, as text and as numbers to draw; `share` is of the whole difference."""

    label: str
    value: str
    base: str
    difference: str
    share: str
    from_: float
    to: float


class DriversView(BaseModel):
    """A change broken down by a column or tree: the largest parts, then all `others` as one."""

    name: str
    explained: int
    members: int
    base: str
    value: str
    base_number: float
    value_number: float
    difference: str
    movers: list[MoverView]
    others: int
    sentence: str
