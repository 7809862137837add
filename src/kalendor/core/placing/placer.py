"""Places records on the two axes, as they stand or shifted to other days, with folds applied."""

import itertools
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from kalendor.core.groupings.ground import Ground
from kalendor.core.groupings.levels import Level
from kalendor.core.groupings.periods import CLOCK, Grain, width
from kalendor.core.placing.by_day import by_day, moments_on
from kalendor.core.placing.cells import Crossing
from kalendor.core.placing.frame import Axis, Frame
from kalendor.core.placing.windows import NONE, DayMap
from kalendor.core.values.columns import Array, Column, Mask

Index = NDArray[np.int64]
LEFT_OUT = -1


@dataclass(frozen=True, eq=False)
class Fold:
    """Lines (columns, if `down` is False) of one depth that count as another member (`target`), or are LEFT_OUT with
    their records; `others`: so are records without a line, which may belong to earlier periods."""

    axis: Axis
    depth: int
    folded: Mask
    target: int
    below: tuple[Array, ...] = ()
    down: bool = True
    others: bool = False

    def hit(self, codes: list[Array], count: int) -> Mask:
        """Shape (count,): True for records on the folded lines."""
        at = self.axis.locate(codes, self.depth, count)
        if not len(self.folded):
            return np.full(count, self.others)
        return np.where(at >= 0, self.folded[np.maximum(at, 0)], self.others)

    def apply(self, codes: list[Array], count: int) -> list[Array]:
        """The records' members by level after folding."""
        hit = self.hit(codes, count)
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
        """The members of records as they stand."""
        count = self.ground.records.count if rows is None else len(rows)
        down = [level.codes if rows is None else level.codes[rows] for level in self.down]
        across = [level.codes if rows is None else level.codes[rows] for level in self.across]
        return self._folded(rows, count, down, across)

    def fall_on(self, rows: Index | None, days: DayMap) -> Fall:
        """The members of records when the shifted column's days are mapped by `days`; records mapped to none are left
        out."""
        assert self.shifted is not None
        column, span = self.ground.column(self.shifted), self.ground.days(self.shifted)
        clocked = any(isinstance(grain, str) and grain in CLOCK for side in self._grains for grain in side)
        if clocked or days.later or span is None:
            return self._fall_by_moment(rows, days)
        moved = days.of(np.arange(span[0], span[1] + 1))
        there = by_day(column, span[0], rows, np.append(moved != NONE, days.undated))
        kept = np.flatnonzero(there)
        picked = kept if rows is None else rows[kept]

        def codes(level: Level, grain: Grain | None) -> Array:
            if grain is None:
                return level.codes[picked]
            table: Array = level.period.codes(np.where(moved == NONE, days.low, moved), None)
            found = by_day(column, span[0], picked, np.append(table, np.int32(-1)))
            return self._with_undated(found, level, column, picked, days)

        down, across = (list(map(codes, *side)) for side in zip((self.down, self.across), self._grains, strict=True))
        return self._folded(picked, len(picked), down, across)

    def _fall_by_moment(self, rows: Index | None, days: DayMap) -> Fall:
        column = self.ground.column(self.shifted or "")
        moved, clock = moments_on(column, rows, days)
        if days.undated and column.blank is not None:
            moved = np.where(column.blank if rows is None else column.blank[rows], days.low, moved)
        kept = np.flatnonzero(moved != NONE)
        picked = kept if rows is None else rows[kept]
        moved, clock = moved[kept], None if clock is None else clock[kept]

        def codes(level: Level, grain: Grain | None) -> Array:
            if grain is None:
                return level.codes[picked]
            return self._with_undated(level.period.codes(moved, clock), level, column, picked, days)

        down, across = (list(map(codes, *side)) for side in zip((self.down, self.across), self._grains, strict=True))
        return self._folded(picked, len(picked), down, across)

    def _with_undated(self, codes: Array, level: Level, column: Column, picked: Index, days: DayMap) -> Array:
        """A level's codes with their own code for records without a date, if those are not shifted."""
        if not days.undated or column.blank is None:
            return codes
        return np.where(column.blank[picked], level.codes[picked], codes)

    @property
    def drops(self) -> bool:
        """Whether some fold leaves records out, so that totals exclude them."""
        return any(fold.target == LEFT_OUT for fold in self.folds)

    def _folded(self, rows: Index | None, count: int, down: list[Array], across: list[Array]) -> Fall:
        for fold in self.folds:
            if fold.target == LEFT_OUT:
                kept = np.flatnonzero(~fold.hit(down if fold.down else across, count))
                down, across = [codes[kept] for codes in down], [codes[kept] for codes in across]
                rows, count = kept if rows is None else rows[kept], len(kept)
            elif fold.down:
                down = fold.apply(down, count)
            else:
                across = fold.apply(across, count)
        return Fall(rows, count, down, across)

    def fixed(
        self, frame: Frame, crossing: Crossing, line: int, column: int, shifts: bool
    ) -> Iterator[tuple[Level, int]]:
        """The levels of a cell whose members are the records' own, changed by neither fold nor shift."""
        sides = zip((frame.lines, frame.columns), (True, False), crossing, (line, column), self._grains, strict=True)
        for axis, down, depth, at, grains in sides:
            if any(fold.down == down for fold in self.folds):
                continue
            path = axis.path[axis.lines_at(depth).start + at]
            for k in range(depth):
                if not shifts or grains[k] is None:
                    yield axis.levels[k], int(path[k])

    def periods_on(self, down: bool) -> list[int]:
        """Positions of the levels of an axis that are periods of the shifted column."""
        return [i for i, grain in enumerate(self._grains[not down]) if grain is not None]

    @cached_property
    def _grains(self) -> tuple[tuple[Grain | None, ...], tuple[Grain | None, ...]]:
        """The grain of each level down and across in which a shifted record changes its period; None for other levels,
        among them a merged part of its date."""

        def grain(level: Level) -> Grain | None:
            period = level.period
            shifts = period is not None and period.grouper.column == self.shifted and period.grouper.mode != "merging"
            return period.grouper.size if shifts else None

        return tuple(map(grain, self.down)), tuple(map(grain, self.across))

    @cached_property
    def weeks_are_places(self) -> bool:
        """Whether weeks of the shifted column are places in the year on the other axis."""
        weeks = [
            level
            for levels, grains in zip((self.down, self.across), self._grains, strict=True)
            for level, grain in zip(levels, grains, strict=True)
            if grain == "week"
        ]
        return any(level.period.grouper.within == "year" for level in weeks)

    def grain_at(self, crossing: Crossing) -> Grain | None:
        """The finest grain of the shifted column among a crossing's levels; None if there is none: a total."""
        return self._by_crossing[crossing]

    @cached_property
    def _by_crossing(self) -> dict[Crossing, Grain | None]:
        depths = itertools.product(range(len(self.down) + 1), range(len(self.across) + 1))
        down, across = self._grains
        return {(d, a): _finer(_innermost(down[:d]), _innermost(across[:a])) for d, a in depths}

    @cached_property
    def coarsest_grain(self) -> Grain | None:
        """The coarsest grain of the shifted column on the sheet; None if there is none."""
        outer = [_innermost(side[::-1]) for side in self._grains]
        return max((grain for grain in outer if grain is not None), key=width, default=None)

    @cached_property
    def outermost(self) -> Crossing | None:
        """The crossing that ends at the outermost period level of the shifted column; None if there is none."""
        for down, grains in ((True, self._grains[0]), (False, self._grains[1])):
            for k, grain in enumerate(grains):
                if grain is not None and grain == self.coarsest_grain:
                    return (k + 1, 0) if down else (0, k + 1)
        return None


def _innermost(grains: Sequence[Grain | None]) -> Grain | None:
    return next((grain for grain in reversed(grains) if grain is not None), None)


def _finer(one: Grain | None, other: Grain | None) -> Grain | None:
    if one is None or other is None:
        return one or other
    return min(one, other, key=width)
