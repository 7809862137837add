"""Response models of a number's trail."""

from kalendor.api.strict import BaseModel


class PartView(BaseModel):
    """A part of a number that is taken from records: how many, its own number, and the condition that selects them. So many
    of the records were entered `by_hand`, and give that much to it."""

    name: str
    figure: str
    words: str
    number: str
    records: int
    condition: str | None
    by_hand: int
    by_hand_amount: str


class SideView(BaseModel):
    """A number that another is made from, as the sheet would show it."""

    name: str
    figure: str
    number: str


class BarView(BaseModel):
    label: str
    value: float
    base: float | None


class BarsView(BaseModel):
    """A number by periods of a grain; `counted`: records are counted, for what they give does not add up."""

    column: str
    grain: str
    counted: bool
    bars: list[BarView]


class RecordView(BaseModel):
    """A record behind a number: the file and line it came from, what it gives, and its cells in the listed columns."""

    file: str
    line: int
    amount: str
    cells: list[str]
    by_hand: bool


class RecordsView(BaseModel):
    """Some of the records of a part, from `start` on; `total` is how many there are that a search left."""

    part: str
    columns: list[str]
    numeric: list[bool]
    total: int
    start: int
    records: list[RecordView]


class TrailView(BaseModel):
    """A number explained. `said` are sentences; `kind` is what its figure is; `driven`: it is a change of a sum, which
    `drivers` takes apart; `why` says why a mark stands or why it is blank."""

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
    """A change taken apart by a column or tree: the largest movers, then all `others` as one."""

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
