"""Views of the records: where each falls on the frame, as it stands or shifted to the period it is the base of."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kalendor.core.groupings.axes import Ground
from kalendor.core.groupings.levels import Level
from kalendor.core.groupings.periods import COARSER, clock_of
from kalendor.core.placing.frame import Axis, Frame
from kalendor.core.placing.windows import NONE, DayMap
from kalendor.core.takes.aggregate import Additive, Groups, Of, Parts
from kalendor.core.takes.takes import TAKES
from kalendor.core.values.columns import Array, Column, Mask, days_of

Index = NDArray[np.int64]
Crossing = tuple[int, int]
Places = NDArray[np.signedinteger]


@dataclass(frozen=True, eq=False)
class Fold:
    """Lines (columns, where `down` is False) of one depth that count as another member (`target`), or as none (−1)."""

    axis: Axis
    depth: int
    folded: Mask
    target: int
    below: tuple[Array, ...] = ()
    down: bool = True

    def apply(self, codes: list[Array], count: int) -> list[Array]:
        """The records' members by level after folding."""
        at = self.axis.locate(codes, self.depth, count)
        hit = (at >= 0) & self.folded[np.maximum(at, 0)]
        if not hit.any():
            return codes
        codes = list(codes)
        codes[self.depth - 1] = np.where(hit, np.int32(self.target), codes[self.depth - 1])
        for k, table in enumerate(self.below, start=self.depth):
            codes[k] = np.where(hit, table[codes[k]], codes[k])
        return codes


@dataclass(frozen=True, eq=False)
class Fall:
    """Records and their members: `rows` are positions in the columns (None: all of them)."""

    rows: Index | None
    count: int
    down: list[Array]
    across: list[Array]


@dataclass(frozen=True, eq=False)
class Placer:
    """Finds the members of records on both axes, folds applied.

    `shifted` is the date column that views may shift; None where the sheet has no period axis or window.
    """

    ground: Ground
    down: tuple[Level, ...]
    across: tuple[Level, ...]
    shifted: str | None
    folds: tuple[Fold, ...] = ()

    def fall(self, rows: Index | None) -> Fall:
        """Where records fall as they stand."""
        count = self.ground.records.count if rows is None else len(rows)
        down = [level.codes if rows is None else level.codes[rows] for level in self.down]
        across = [level.codes if rows is None else level.codes[rows] for level in self.across]
        return self._folded(rows, count, down, across)

    def fall_on(self, rows: Index | None, days: DayMap) -> Fall:
        """Where records fall when the shifted column's days count as `days` has them; those that count as none are left out."""
        assert self.shifted is not None
        column = self.ground.column(self.shifted)
        own = days_of(column) if rows is None else days_of(column)[rows]
        moved = days.of(own)
        if column.blank is not None:
            moved[column.blank if rows is None else column.blank[rows]] = NONE
        kept = np.flatnonzero(moved != NONE)
        picked = kept if rows is None else rows[kept]
        clock = clock_of(column)
        clock = None if clock is None else clock[picked]
        moved = moved[kept]

        def codes(level: Level) -> Array:
            if self._shifts(level):
                found: Array = level.period.codes(moved, clock)
                return found
            return level.codes[picked]

        return self._folded(picked, len(picked), [codes(x) for x in self.down], [codes(x) for x in self.across])

    def _folded(self, rows: Index | None, count: int, down: list[Array], across: list[Array]) -> Fall:
        for fold in self.folds:
            if fold.down:
                down = fold.apply(down, count)
            else:
                across = fold.apply(across, count)
        return Fall(rows, count, down, across)

    def periods_on(self, frame_levels: Sequence[Level]) -> list[int]:
        """Positions of the levels that are periods of the shifted column."""
        return [i for i, level in enumerate(frame_levels) if self._shifts(level)]

    def _shifts(self, level: Level) -> bool:
        """Whether a record counts in another period of the level when it is shifted; a merged part of its date stays."""
        period = level.period
        return period is not None and period.grouper.column == self.shifted and period.grouper.mode != "merging"

    def grain_at(self, crossing: Crossing) -> str | None:
        """The finest grain of the shifted column that a crossing's levels have; None where they have none."""
        levels = [*self.down[: crossing[0]], *self.across[: crossing[1]]]
        grains = [levels[i].period.grouper.grain for i in self.periods_on(levels)]
        own = [g for g in grains if g in COARSER]
        return max(own, key=COARSER.__getitem__, default=grains[-1] if grains else None)

    def coarsest_grain(self) -> str | None:
        """The coarsest grain of the shifted column on the sheet; None where it has none."""
        levels = [*self.down, *self.across]
        own = [levels[i].period.grouper.grain for i in self.periods_on(levels)]
        return min(own, key=lambda g: COARSER.get(g, 9), default=None)


class View:
    """Records in groups, crossing by crossing; `key` tells one view of a sheet from another."""

    def __init__(
        self, key: str, frame: Frame, placer: Placer, rows: Index | None, days: Callable[[str | None], DayMap] | None
    ) -> None:
        self.key, self.frame, self.placer, self.rows, self.days = key, frame, placer, rows, days
        self._falls: dict[str | None, Fall] = {}
        self._lines: dict[tuple[str | None, bool, int], Places] = {}
        if days is None and frame.lines.found:
            self._lines[(None, True, len(frame.lines.steps))] = frame.lines.found[0]
            self._lines[(None, False, len(frame.columns.steps))] = frame.columns.found[0]
        self._groups: dict[tuple[Crossing, int], Groups] = {}
        self._held: Mask | None = None

    @property
    def count(self) -> int:
        """How many records the view looks at."""
        return self.placer.ground.records.count if self.rows is None else len(self.rows)

    @property
    def nbytes(self) -> int:
        """About how much memory the view holds."""
        moved = [fall for fall in self._falls.values() if fall.rows is not None]
        arrays = [*self._lines.values(), *(code for fall in moved for code in (*fall.down, *fall.across))]
        grouped = sum(groups.nbytes for groups in self._groups.values())
        return sum(array.nbytes for array in arrays) + grouped + (0 if self._held is None else self._held.nbytes)

    def fall(self, grain: str | None) -> Fall:
        """The records at crossings of `grain`, and their members."""
        grain = grain if self.days is not None else None
        if grain not in self._falls:
            if self.days is None:
                self._falls[grain] = self.placer.fall(self.rows)
            else:
                self._falls[grain] = self.placer.fall_on(self.rows, self.days(grain))
        return self._falls[grain]

    def groups(self, crossing: Crossing, where: Mask | None = None) -> Groups:
        """The records in the cells of a crossing, numbered line by line; those for which `where` is True."""
        key = (crossing, id(where))
        if key not in self._groups:
            self._groups[key] = self._grouped(crossing) if where is None else self.groups(crossing).where(where)
        return self._groups[key]

    def _grouped(self, crossing: Crossing) -> Groups:
        grain = None
        if self.days is not None:
            grain = self.placer.grain_at(crossing) or self.placer.coarsest_grain()
        lines = self._located(grain, True, crossing[0])
        columns = self._located(grain, False, crossing[1])
        rows = self.rows if self.days is None else self.fall(grain).rows
        height, width = self.frame.block_shape(crossing)
        ids = lines.astype(np.int64)
        ids *= width
        ids += columns
        if _any_lost(lines) or _any_lost(columns):
            kept = np.flatnonzero((lines >= 0) & (columns >= 0))
            return Groups(ids[kept], height * width, kept if rows is None else rows[kept])
        return Groups(ids, height * width, rows)

    def held(self) -> Mask:
        """Shape (lines, columns): the cells in which a record stands."""
        if self._held is None:
            deepest = self.frame.crossings[-1]
            leaf = np.zeros(self.groups(deepest).count, dtype=bool)
            leaf[self.groups(deepest).ids] = True
            self._held = rolled_up(self.frame, np.logical_or, leaf)
        return self._held

    def first_seen(self, down: bool, depth: int) -> Index:
        """Where among the records the first one of each line (or column) of a depth stands; those with none stand last."""
        at = self._located(None, down, depth)
        here = (self.frame.lines if down else self.frame.columns).lines_at(depth)
        first = np.full(here.stop - here.start, len(at), dtype=np.int64)
        kept = np.flatnonzero(at >= 0)[::-1]
        first[at[kept]] = kept
        return first

    def _located(self, grain: str | None, down: bool, depth: int) -> Places:
        key = (grain, down, depth)
        if key not in self._lines:
            axis = self.frame.lines if down else self.frame.columns
            leaf = (grain, down, len(axis.steps))
            if self.days is None and leaf in self._lines and not _any_lost(self._lines[leaf]):
                self._lines[key] = axis.ancestor(depth).astype(np.int32)[self._lines[leaf]]
            else:
                fall = self.fall(grain)
                self._lines[key] = axis.locate(fall.down if down else fall.across, depth, fall.count)
        return self._lines[key]


def _any_lost(places: Places) -> bool:
    """True where some record has no line."""
    return len(places) > 0 and int(places.min()) < 0


def taken(name: str, of: Of, where: Mask | None, view: View, wanted: Sequence[Crossing] | None = None) -> Column:
    """A take in every cell, shape (lines × columns,); crossings that are not `wanted` are blank."""
    take = TAKES[name]
    frame = view.frame
    if isinstance(take, Additive):
        if view.days is None:
            parts = _rolled(take, of, where, view)
            return take.finish(tuple(part.reshape(-1) for part in parts), of)
        blocks = {c: take.finish(take.parts(view.groups(c, where), of), of) for c in frame.crossings}
    else:
        blocks = {c: take.cells(view.groups(c, where), of) for c in wanted or frame.crossings}
    return assembled(frame, blocks)


def _rolled(take: Additive, of: Of, where: Mask | None, view: View) -> Parts:
    leaf_parts = take.parts(view.groups(view.frame.crossings[-1], where), of)
    return tuple(rolled_up(view.frame, ufunc, leaf) for ufunc, leaf in zip(take.combine, leaf_parts, strict=True))


def rolled_up(frame: Frame, ufunc: Any, leaf: Array) -> Array:
    """Shape (lines, columns): values of the innermost cells combined for the cells of every crossing."""
    deepest = frame.crossings[-1]
    leaf = leaf.reshape(frame.block_shape(deepest))
    cells = np.zeros(frame.shape, dtype=leaf.dtype)
    for d in range(len(frame.lines.steps) + 1):
        lines = frame.lines.rolled_up(ufunc, leaf, d) if d < deepest[0] else leaf
        for a in range(len(frame.columns.steps) + 1):
            cells[frame.block((d, a))] = frame.columns.rolled_up(ufunc, lines.T, a).T if a < deepest[1] else lines
    return cells


def assembled(frame: Frame, blocks: dict[Crossing, Column]) -> Column:
    """Cells of every crossing as one column, shape (lines × columns,); blank where no block is given."""
    first = next(iter(blocks.values()))
    wide = any(block.values.dtype == object for block in blocks.values())
    values = np.zeros(frame.shape, dtype=object if wide else first.values.dtype)
    blank = np.ones(frame.shape, dtype=bool)
    for crossing, block in blocks.items():
        shape = frame.block_shape(crossing)
        values[frame.block(crossing)] = block.values.reshape(shape)
        blank[frame.block(crossing)] = block.blanks.reshape(shape)
    return Column(first.kind, values.reshape(-1), blank.reshape(-1), first.places, first.words)
