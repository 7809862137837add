"""Balances: the last value of each key within a period, added up over the keys and never over time."""

import itertools
from collections.abc import Iterator
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from kalendor.core.figures.kind import Reckoning
from kalendor.core.placing.cells import Crossing, assembled
from kalendor.core.placing.frame import Axis
from kalendor.core.placing.positions import cell_days
from kalendor.core.placing.views import View
from kalendor.core.placing.windows import NONE
from kalendor.core.takes.aggregate import needed
from kalendor.core.takes.groups import Groups
from kalendor.core.takes.sums import sums
from kalendor.core.values import arithmetic as ar
from kalendor.core.values.columns import EXACT, Column, as_kind, days_of
from kalendor.definitions.figure import Taken

Index = NDArray[np.int64]


class Balances:
    """One balance in one view.

    A key counts once in each period, on the line of its last record, so that lines add up to their total. With `carry`,
    a key without a record in a period keeps its previous one, also from before the window.
    """

    def __init__(self, reckoner: Reckoning, figure: Taken, view: View) -> None:
        self.reckoner, self.figure, self.view = reckoner, figure, view
        self.frame, self.placer = view.frame, view.placer
        self.of, where = reckoner.taking(figure)
        self.column = needed(self.of, "balance")
        assert self.of.by is not None
        assert self.of.keys is not None
        self.by, self.keys = self.of.by, self.of.keys
        self.filled = self.column.present & self.by.present
        if where is not None:
            self.filled = self.filled & where.mask

    def cells(self) -> Column:
        """The balance in every cell; blank if no key counts."""
        return assembled(self.frame, {c: self._block(c) for c in self.frame.crossings})

    def counted(self, crossing: Crossing, line: int, column: int) -> Index:
        """The positions of the records that make up one cell of a crossing."""
        ids, rows = self._counted(crossing)
        return np.sort(rows[ids == line * self.frame.block_shape(crossing)[1] + column])

    def _block(self, crossing: Crossing) -> Column:
        height, width = self.frame.block_shape(crossing)
        ids, rows = self._counted(crossing)
        groups = Groups(ids, height * width, rows)
        total, blank = sums(groups, self.column), np.bincount(ids, minlength=height * width) == 0
        if self.column.kind in EXACT:
            return ar.exact(total, blank, self.column.places)
        return ar.approximate(total, blank)

    def _counted(self, crossing: Crossing) -> tuple[Index, Index]:
        """The cells, numbered line by line, and the positions of the records that count in them."""
        ids, rows = self._within(crossing)
        if not self.figure.carry:
            return ids, rows
        carried = [self._carried(crossing, *period) for period in self._periods(crossing)]
        if not carried:
            return ids, rows
        done = np.concatenate([cells for cells, _, _ in carried])
        own = ~np.isin(ids, done)
        return (
            np.concatenate([ids[own], *(found for _, found, _ in carried)]),
            np.concatenate([rows[own], *(found for _, _, found in carried)]),
        )

    def _within(self, crossing: Crossing) -> tuple[Index, Index]:
        """The last record of each key within a period, over all lines."""
        groups = self.view.groups(crossing)
        rows = np.arange(len(groups.ids)) if groups.rows is None else groups.rows
        there = self.filled[rows]
        ids, rows = groups.ids[there].astype(np.int64), rows[there]
        width = self.frame.block_shape(crossing)[1]
        down, across = _periods_of(self.frame.lines, crossing[0]), _periods_of(self.frame.columns, crossing[1])
        period = down[ids // width] * (int(across.max(initial=0)) + 1) + across[ids % width]
        order = np.lexsort((self._seen(rows), self.by.values[rows], self.keys[rows], period))
        last = _last_of_each(period[order], self.keys[rows[order]])
        return ids[order[last]], rows[order[last]]

    def _periods(self, crossing: Crossing) -> Iterator[tuple[Index, int, Index, int]]:
        """The cells of each period of a crossing that has periods: its lines, one of them, its columns, one of them."""
        lines, columns = _periods_of(self.frame.lines, crossing[0]), _periods_of(self.frame.columns, crossing[1])
        for d, a in itertools.product(range(int(lines.max(initial=-1)) + 1), range(int(columns.max(initial=-1)) + 1)):
            down, across = np.flatnonzero(lines == d), np.flatnonzero(columns == a)
            yield down, int(down[0]), across, int(across[0])

    def _carried(
        self, crossing: Crossing, lines: Index, line: int, columns: Index, column: int
    ) -> tuple[Index, Index, Index]:
        """The cells of a period, and for the last record of each key by its end the cell and the position."""
        nothing = np.zeros(0, dtype=np.int64)
        width = self.frame.block_shape(crossing)[1]
        end = self._end(crossing, line, column)
        if end is None:
            return nothing, nothing, nothing
        cells = (lines[:, None] * width + columns[None, :]).reshape(-1)
        rows = self._last_by(crossing, end)
        fall = self.placer.fall(rows)
        rows = rows if fall.rows is None else fall.rows
        at = []
        for axis, depth, codes, home in (
            (self.frame.lines, crossing[0], fall.down, line),
            (self.frame.columns, crossing[1], fall.across, column),
        ):
            path = axis.path[axis.lines_at(depth)][home]
            periods = [level.period is not None for level in axis.levels]
            own = [np.full(len(rows), path[k], c.dtype) if periods[k] else c for k, c in enumerate(codes[:depth])]
            at.append(np.asarray(axis.locate(own, depth, len(rows)), dtype=np.int64))
        there = (at[0] >= 0) & (at[1] >= 0)
        return cells, at[0][there] * width + at[1][there], rows[there]

    def _end(self, crossing: Crossing, line: int, column: int) -> int | None:
        """The last day of a cell's period; that of the window for a total; None if its member is not a period."""
        shifted, era = self.placer.shifted, self.reckoner.bases.era
        if shifted is None or era is None:
            return None
        found = cell_days(self.frame, crossing, shifted)
        latest = era.span.last if era.span is not None else int(np.iinfo(np.int64).max)
        if found is None:
            levels = [*self.placer.down[: crossing[0]], *self.placer.across[: crossing[1]]]
            return None if any(level.period is not None for level in levels) else latest
        return min(latest, int(found.last[line, column])) if found.known[line, column] else None

    def _last_by(self, crossing: Crossing, end: int) -> Index:
        """The positions of the last record of each key that counts on a day up to `end`, ignoring the window's start."""
        rows = self._ordered
        column = as_kind(self.placer.ground.column(self.placer.shifted or ""), self.by.kind)
        days = days_of(column)[rows]
        if self.view.days is not None:
            counted = self.reckoner.bases.open_days(self.view, self.view.grain_at(crossing))
            days = days if counted is None else counted.of(days)
        rows = rows[(days <= end) & (days != NONE) & column.present[rows]]
        return rows[_last_of_each(self.keys[rows])]

    @property
    def _ordered(self) -> Index:
        """The positions of the filled records that satisfy the report's conditions, by key, date and source order."""
        passing = self.reckoner.bases.rows
        rows = np.flatnonzero(self.filled) if passing is None else passing[self.filled[passing]]
        return rows[np.lexsort((self._seen(rows), self.by.values[rows], self.keys[rows]))]

    def _seen(self, rows: Index) -> Index:
        """The positions of the records at `rows` among all records."""
        return rows if self.of.places is None else self.of.places[rows]


def _last_of_each(*keys: Index) -> Index:
    """The positions of the last of each run of equal keys."""
    turns = np.zeros(len(keys[0]), dtype=bool)
    turns[-1:] = True
    for key in keys:
        turns[:-1] |= key[1:] != key[:-1]
    return np.flatnonzero(turns)


def _periods_of(axis: Axis, depth: int) -> Index:
    """A number from 0 for the periods of each line of a depth; lines of the same periods have the same."""
    levels = [k for k in range(depth) if axis.levels[k].period is not None]
    path = axis.path[axis.lines_at(depth)][:, levels].astype(np.int64)
    if not levels or not len(path):
        return np.zeros(len(path), dtype=np.int64)
    return np.unique(path, axis=0, return_inverse=True)[1].reshape(-1).astype(np.int64)


def only_counted(amounts: Column, rows: Index, counted: Index) -> Column:
    """The amounts of the records at `rows`, blank for those that do not count."""
    return replace(amounts, blank=amounts.blanks | ~np.isin(rows, counted))
