"""Whether the amounts behind a number are all of one unit, such as one currency; a number over several is never shown."""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from functools import reduce

import numpy as np
from numpy.typing import NDArray

from kalendor.core.figures.worked_lines import Working, lines_of
from kalendor.core.placing.frame import INT32_MOST, Frame
from kalendor.core.takes.takes import TAKES
from kalendor.core.takes.units import told_by
from kalendor.core.values.columns import Column, Mask
from kalendor.definitions.figure import FigureBase, Taken

Index = NDArray[np.int64]
_NONE = INT32_MOST


@dataclass(frozen=True, eq=False)
class Units:
    """The units of the amounts behind each cell, shape (cells,): the least and the greatest unit number, equal if all
    are of one unit, and `least` above `largest` if no amount has a unit."""

    least: Index
    largest: Index

    @property
    def mixed(self) -> Mask:
        """Shape (cells,): True where there are several."""
        return self.least < self.largest

    @property
    def numbers(self) -> Index:
        """Shape (cells,): the number of each cell's unit, −1 if it has none or several."""
        return np.where(self.least == self.largest, self.least, -1)

    def beside(self, other: "Units") -> "Units":
        """The units of both, cell by cell."""
        return Units(np.minimum(self.least, other.least), np.maximum(self.largest, other.largest))

    def at(self, cells: Index, there: Mask | None = None) -> "Units":
        """Those of other cells, none for those that are not `there`."""
        least, largest = self.least[cells], self.largest[cells]
        if there is None:
            return Units(least, largest)
        return Units(np.where(there, least, _NONE), np.where(there, largest, -_NONE))

    def gathered(self, groups: Index, among: Mask) -> "Units":
        """For each cell the units of all cells of its group, as far as they are `among` those to count."""
        count = int(groups.max(initial=-1)) + 1
        least, largest = np.full(count, _NONE, np.int64), np.full(count, -_NONE, np.int64)
        np.minimum.at(least, groups[among], self.least[among])
        np.maximum.at(largest, groups[among], self.largest[among])
        return Units(least, largest).at(groups)

    def with_worked(self, frame: Frame, made: Sequence[Working]) -> "Units":
        """The same with those of computed lines: of all that such a line is computed from."""
        found, width = self, frame.columns.count
        for working in made:
            here, beside = lines_of(frame.lines, working)
            at = (here[:, None] * width + np.arange(width)).reshape(-1)
            least, largest = found.least.copy(), found.largest.copy()
            least[at], largest[at] = _NONE, -_NONE
            for lines in beside.values():
                other = (np.maximum(lines, 0)[:, None] * width + np.arange(width)).reshape(-1)
                part = found.at(other, np.repeat(lines >= 0, width))
                least[at], largest[at] = np.minimum(least[at], part.least), np.maximum(largest[at], part.largest)
            found = Units(least, largest)
        return found


def together(several: Iterable[Units | None]) -> Units | None:
    """The union of several units, cell by cell; None if none has any."""
    found = [units for units in several if units is not None]
    return reduce(Units.beside, found) if found else None


def units_of_sums(ones: Column, numbers: Column, squares: Column) -> Units:
    """The units of groups of records, from the sums of their unit figures (see `takes.units.Coded`)."""
    count, total, squared = (np.where(c.blanks, 0, c.values).astype(np.int64) for c in (ones, numbers, squares))
    some = count > 0
    number = np.where(some, total // np.maximum(count, 1), 0)
    alike = some & (total == number * count) & (squared == number * total)
    return Units(
        np.where(alike, number, np.where(some, 0, _NONE)), np.where(some, np.where(alike, number, _NONE), -_NONE)
    )


@dataclass(frozen=True)
class Telling:
    """Three figures whose sums tell the units of the amounts of a taken figure."""

    ones: Taken
    numbers: Taken
    squares: Taken

    @property
    def figures(self) -> tuple[Taken, Taken, Taken]:
        """All three."""
        return self.ones, self.numbers, self.squares

    def units(self, sums: Callable[[str], Column]) -> Units:
        """The units by cell; `sums` gives what a figure of a name comes to in each."""
        return units_of_sums(*(sums(figure.name) for figure in self.figures))


def telling(figure: FigureBase, of_several: Iterable[str]) -> list[Telling]:
    """The unit figures of a figure, for each amount column with several units that it takes; a count has no unit."""
    if not isinstance(figure, Taken) or TAKES[figure.take].counts or figure.take == "distinct":
        return []
    own = {"take": figure.take if figure.take == "balance" else "sum", "weight": None, "p": None, "n": None}
    columns = [name for name in dict.fromkeys((figure.of, figure.weight)) if name is not None and name in of_several]

    def taken(column: str) -> Taken:
        return figure.model_copy(update={**own, "of": column, "name": f"{column} {figure.name}"})

    return [Telling(*map(taken, told_by(name))) for name in columns]
