"""The lines of a sheet, or its columns: labels, paths, roles, and the words beside them."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from kalendor.core.sheet.arrange import GRAND, SUBTOTAL, Rows
from kalendor.core.values.columns import Array

Index = NDArray[np.int64]
TOTAL = "Total"


@dataclass(frozen=True)
class LevelHead:
    """A level of a side: its name, its kind (category, period, bucket or age), and the entry that made it.

    `clock` is True for hours and minutes, whose periods begin at a moment; `of_all` if the level's members depend on
    all records of the source.
    """

    name: str
    kind: str
    entry: int
    clock: bool = False
    of_all: bool = False


@dataclass(frozen=True, eq=False)
class Side:
    """The lines of a sheet, or its columns, those of all depths one after another; each array has shape (n,).

    Position 0 is the grand total. `depth` counts levels from the outside; `parent` is the position above (−1 for the
    grand total); `names` are the members' own (objects of str), `rest` the number of members that a line beyond a top
    represents, by position, and `parts` the positions of weeks that a coarser period cuts; `special` as in `Members`;
    `notes` are words for a period that is cut; `values` are the values of ordinary lines of a category's innermost
    level (None elsewhere); `starts` is the first day (microsecond for hours and minutes) of a line's own period,
    NO_START if there is none. `shown` is the display order and the role of each; `total` is the grand total's label.
    """

    levels: tuple[LevelHead, ...]
    depth: NDArray[np.int32]
    parent: Index
    names: Array
    special: NDArray[np.int8]
    notes: dict[int, str]
    values: Array
    starts: Index
    shown: Rows
    total: str = TOTAL
    rest: Mapping[int, int] = field(default_factory=dict)
    parts: frozenset[int] = frozenset()

    @cached_property
    def labels(self) -> Array:
        """The names, completed by whether they are parts and how many members they represent (objects of str)."""
        found = self.names.copy()
        for at in self.parts:
            found[at] = f"{found[at]} (part)"
        for at, count in self.rest.items():
            found[at] = f"{found[at]} ({count})"
        return found

    @property
    def count(self) -> int:
        """The number of lines of all depths."""
        return len(self.depth)

    def above(self, at: Index, depth: int) -> Index:
        """The position at `depth` on or above each of the positions `at`; −1 for those that are higher."""
        at = np.asarray(at, dtype=np.int64)
        for _ in range(len(self.levels)):
            deep = self.depth[at] > depth
            if not deep.any():
                break
            at = np.where(deep, self.parent[at], at)
        return np.where(self.depth[at] == depth, at, -1)

    def heading(self, at: int) -> str:
        """A label as shown to readers, with the words for a period that is cut."""
        note = self.notes.get(at)
        return f"{self.labels[at]} · {note}" if note else str(self.labels[at])

    def find(self, labels: Sequence[str]) -> int:
        """The position of the line with those labels, one a level from the outermost (none: the grand total); −1 if
        there is none."""
        at = 0
        for depth, label in enumerate(labels, start=1):
            here = np.flatnonzero((self.parent == at) & (self.depth == depth))
            at = next((i for i in here.tolist() if label in (self.labels[i], self.heading(i))), -1)
            if at < 0:
                break
        return at

    def path(self, at: int) -> list[str]:
        """The headings from the outermost member in; none for the grand total."""
        found: list[str] = []
        while self.depth[at] > 0:
            found.append(self.heading(at))
            at = int(self.parent[at])
        return found[::-1]

    def row_labels(self) -> list[str]:
        """The label of each displayed row: a total under its group is named for it, the grand total is the Total."""
        headed = set(self.shown.headings().tolist())
        lines = self.shown.lines.tolist()
        found: list[str] = self.labels[self.shown.lines].tolist()
        for i, (at, role) in enumerate(zip(lines, self.shown.roles, strict=True)):
            if role == GRAND:
                found[i] = self.total
            elif role == SUBTOTAL and at in headed:
                found[i] = f"{self.heading(at)} total"
            elif at in self.notes:
                found[i] = self.heading(at)
        return found
