"""The tie-out: the count from source to sheet, and the proof that the lines foot."""

from dataclasses import dataclass, field

import numpy as np

from kalendor.core.placing.frame import Frame
from kalendor.core.placing.screening import Step
from kalendor.core.values.columns import INT64_MOST, Column, Kind, magnitude
from kalendor.errors import FootingError

ROUNDING = 1e-9


@dataclass(frozen=True)
class Footing:
    """An additive figure's grand total, to which its lines and subtotals were verified to add up."""

    figure: str
    total: str


@dataclass(frozen=True)
class Control:
    """A control total of a figure, beside the sheet's."""

    figure: str
    expected: str
    found: str
    agrees: bool


@dataclass(frozen=True)
class TieOut:
    """`read` records = those of all `steps` + `on_sheet`; refused lines never became records, except those mended
    since; `empty` lines of a file contain only separators; `by_hand` of those read were entered by hand."""

    source: str
    read: int
    refused: int
    mended: int
    steps: tuple[Step, ...]
    on_sheet: int
    not_placed: int
    blank: int
    footings: tuple[Footing, ...] = ()
    controls: tuple[Control, ...] = ()
    hidden_lines: int = 0
    notes: tuple[str, ...] = field(default_factory=tuple)
    empty: int = 0
    by_hand: int = 0

    def check(self) -> "TieOut":
        """This tie-out, if its counts add up; else FootingError."""
        left = self.read - sum(step.records for step in self.steps)
        if left != self.on_sheet:
            raise FootingError(
                f"the tie-out does not add up: {left} records should be on the sheet, and {self.on_sheet} are"
            )
        return self


def footed(name: str, cells: Column, frame: Frame, direct: Column, size: float = 0.0) -> None:
    """Raises FootingError if a figure's cells at any pair of depths do not add up to `direct`, its sum taken directly.

    Approximate ones may differ by the error that `size`, the sum of the records' absolute values, allows.
    """
    values = np.where(cells.present, cells.values, 0)
    fits = values.dtype == np.float64 or magnitude(values) * values.size <= INT64_MOST
    shown = (values if fits else values.astype(object)).reshape(frame.shape)
    whole = direct.values[0] if direct.blank is None else 0
    for crossing in frame.crossings:
        block = shown[frame.block(crossing)]
        if crossing[0] and not len(block):
            continue
        total = block.sum() if block.size else 0
        off = abs(total - whole)
        allowed = ROUNDING * size if cells.kind is Kind.APPROXIMATE else 0
        if off > allowed:
            raise FootingError(f"figure {name!r} does not foot at depth {crossing}: {total} against {whole}")
