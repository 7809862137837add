"""The innermost line of every record, computed once; a narrower sheet selects its own lines from it."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from kalendor.core.groupings.levels import Level
from kalendor.core.placing.frame import Axis, axis
from kalendor.core.values.columns import Array

Index = NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class Leaves:
    """The paths of all records on an axis: `of`, shape (n,), is each record's path, −1 for none; `paths`, shape (k,
    levels), are the members of each."""

    of: NDArray[np.int32]
    paths: NDArray[np.int32]

    @property
    def nbytes(self) -> int:
        return self.of.nbytes + self.paths.nbytes


def leaves(levels: Sequence[Level], count: int, codes: Sequence[Array] | None = None) -> Leaves:
    """The paths of `count` records, by their members at each level (the levels' own, unless others are given)."""
    made = axis(levels, [([level.codes for level in levels] if codes is None else codes, count)])
    return Leaves(made.found[0].astype(np.int32, copy=False), made.path[made.lines_at(len(levels))])


@dataclass(frozen=True, eq=False)
class Narrowed:
    """The paths that occur among some records: `at`, shape (records,), and `here`, the positions of those that occur."""

    all: Leaves
    at: NDArray[np.int32]
    here: Index

    @property
    def count(self) -> int:
        """The number of paths that occur."""
        return len(self.here)

    @property
    def codes(self) -> list[Array]:
        """The members of the paths that occur, by level."""
        paths = self.all.paths[self.here]
        return [paths[:, k] for k in range(paths.shape[1])]

    def found_on(self, made: Axis) -> Axis:
        """An axis that has these paths, with the innermost line of each record."""
        here = made.locate(self.codes, len(made.steps), len(self.here))
        if np.array_equal(here, np.arange(len(self.all.paths))):
            return replace(made, found=(self.at,))
        table = np.full(len(self.all.paths) + 1, -1, dtype=np.int32)
        table[self.here] = here
        return replace(made, found=(table[self.at],))


def narrowed(found: Leaves, rows: Index | None) -> Narrowed:
    """The paths of the records at `rows` (None: of all)."""
    if rows is None:  # every path has a record
        return Narrowed(found, found.of, np.arange(len(found.paths)))
    at = found.of[rows]
    present = np.zeros(len(found.paths) + 1, dtype=bool)
    present[at] = True
    return Narrowed(found, at, np.flatnonzero(present[:-1]))
