"""What a number is made from: the figures and records behind it, down to what each record gives."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from kalendor.core.values.columns import Column

Index = NDArray[np.int64]
Kind = Literal["records", "formula", "share", "rank", "compare", "running", "moving", "lines"]
OWN = "value"


@dataclass(frozen=True, eq=False)
class Days:
    """The days from `first` to `last`, both included, that a figure reaches over."""

    first: int
    last: int


@dataclass(frozen=True, eq=False)
class Operand:
    """A number in a cell, and what it is made from.

    `name` is what it is to the number that it is an operand of (empty for the cell itself); `figure` is the figure's
    name and `value` holds the one number. Of `kind` records, `rows` are positions of records, rising, and `amounts`,
    shape (rows,), what each gives to the number, None where they do not add up to it; others are made `of` operands.
    `line` and `column` are the cell's positions; `condition` selects the records where one can be said; `days` are those
    that a running or moving figure reaches over; `formula` is that of a line made from lines.
    """

    name: str
    figure: str
    kind: Kind
    value: Column
    line: int
    column: int
    rows: Index | None = None
    amounts: Column | None = None
    of: tuple["Operand", ...] = ()
    condition: str | None = None
    days: Days | None = None
    formula: str = ""

    @property
    def counted(self) -> int:
        """How many different records stand behind the number."""
        found = [part.rows for _, part in self.parts() if part.rows is not None]
        return len(found[0]) if len(found) == 1 else len(np.unique(np.concatenate(found))) if found else 0

    def parts(self) -> list[tuple[str, "Operand"]]:
        """The operands that are taken from records, each once, by name: `value` and `base`, or an operand's name."""
        found: dict[str, Operand] = {}
        for path, part in self._leaves(()):
            found.setdefault(": ".join(path) or OWN, part)
        return list(found.items())

    def _leaves(self, path: tuple[str, ...]) -> Iterator[tuple[tuple[str, ...], "Operand"]]:
        if self.kind == "records":
            yield path, self
        for operand in self.of:
            passed_on = operand.kind == "formula" and operand.name == operand.figure
            yield from operand._leaves(path if passed_on else (*path, operand.name) if operand.name else path)
