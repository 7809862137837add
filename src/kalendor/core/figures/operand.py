"""What a number is made from: the figures and records behind it, down to what each record gives."""

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from kalendor.core.placing.views import View
from kalendor.core.values.columns import Column

Index = NDArray[np.int64]
OWN = "value"
RECORDS, LINES = "records", "lines"
NOTHING: Index = np.zeros(0, dtype=np.int64)


@dataclass(frozen=True, eq=False)
class Days:
    """The days from `first` to `last`, both included, that a figure covers."""

    first: int
    last: int


@dataclass(frozen=True, eq=False)
class Operand:
    """A number in a cell, and what it is made from.

    `name` is its role in the number that it is an operand of (empty for the cell itself); `figure` is the figure's name
    and `value` holds the one number. Of `kind` records, `rows` are positions of records, rising, and `amounts`, shape
    (rows,), what each contributes to the number, None if contributions do not add up to it; others are made `of`
    operands. `line` and `column` are the cell's positions; `condition` selects the records if it can be expressed;
    `days` are those that a running or moving figure covers; `formula` is that of a computed line. `view` is the
    number's view; `times`, shape (all rows,), is how many records each row represents, None if each is one.
    """

    name: str
    figure: str
    kind: str
    value: Column
    line: int
    column: int
    rows: Index | None = None
    amounts: Column | None = None
    of: tuple["Operand", ...] = ()
    condition: str | None = None
    days: Days | None = None
    formula: str = ""
    view: View | None = None
    times: Index | None = None

    def named(self, name: str) -> "Operand":
        """The same as the operand of that name."""
        return replace(self, name=name)

    def none(self, view: View | None = None) -> "Operand":
        """The same operand without records and value, in the view where they would be."""
        amounts = None if self.amounts is None else self.amounts.take(NOTHING)
        blank = replace(self.value, blank=np.ones(1, dtype=bool))
        return replace(self, kind=RECORDS, value=blank, rows=NOTHING, amounts=amounts, of=(), view=view or self.view)

    @property
    def counted(self) -> int:
        """The number of distinct records behind the number."""
        found = [part.rows for _, part in self.parts() if part.rows is not None]
        rows = found[0] if len(found) == 1 else np.unique(np.concatenate([NOTHING, *found]))
        return len(rows) if self.times is None else int(self.times[rows].sum())

    def parts(self) -> list[tuple[str, "Operand"]]:
        """The operands taken from records, each once, by name: `value` and `base`, or an operand's name."""
        found: dict[str, Operand] = {}
        for path, part in self._leaves(()):
            found.setdefault(": ".join(path) or OWN, part)
        return list(found.items())

    def _leaves(self, path: tuple[str, ...]) -> Iterator[tuple[tuple[str, ...], "Operand"]]:
        if self.kind == RECORDS:
            yield path, self
        for operand in self.of:
            passed_on = operand.kind == "formula" and operand.name == operand.figure
            yield from operand._leaves(path if passed_on else (*path, operand.name) if operand.name else path)
