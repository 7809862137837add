"""Views of the records: where each falls on the frame, as it stands or shifted to the period it is the base of."""

import itertools
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from kalendor.core.groupings.ground import Ground
from kalendor.core.groupings.levels import Level
from kalendor.core.groupings.periods import CLOCK, Grain, width
from kalendor.core.placing.bundles import Bundles, bundled, few
from kalendor.core.placing.by_day import by_day, moments_on
from kalendor.core.placing.cells import Crossing, rolled_up
from kalendor.core.placing.frame import INT32_MOST, Axis, Frame
from kalendor.core.placing.windows import NONE, DayMap
from kalendor.core.takes.aggregate import Groups, counts
from kalendor.core.values.columns import Array, Column, Mask
from kalendor.core.values.keys import Key, Memo, key

Index = NDArray[np.int64]
Places = NDArray[np.signedinteger]
LEFT_OUT = -1


@dataclass(frozen=True, eq=False)
class Fold:
    """Lines (columns, where `down` is False) of one depth that count as another member (`target`), or are LEFT_OUT with
    their records; `others`: so are records that no line is for, which earlier periods may have."""

    axis: Axis
    depth: int
    folded: Mask
    target: int
    below: tuple[Array, ...] = ()
    down: bool = True
    others: bool = False

    def hit(self, codes: list[Array], count: int) -> Mask:
        """Shape (count,): True for records on the lines that are folded."""
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
        """Where records fall as they stand."""
        count = self.ground.records.count if rows is None else len(rows)
        down = [level.codes if rows is None else level.codes[rows] for level in self.down]
        across = [level.codes if rows is None else level.codes[rows] for level in self.across]
        return self._folded(rows, count, down, across)

    def fall_on(self, rows: Index | None, days: DayMap) -> Fall:
        """Where records fall when the shifted column's days count as `days` has them; those that count as none are left out."""
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
        """A level's codes with the own ones of records without a date, where those stand as they do."""
        if not days.undated or column.blank is None:
            return codes
        return np.where(column.blank[picked], level.codes[picked], codes)

    @property
    def drops(self) -> bool:
        """Whether some fold leaves records out, so that totals do not have them either."""
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

    def periods_on(self, down: bool) -> list[int]:
        """Positions of the levels of an axis that are periods of the shifted column."""
        return [i for i, grain in enumerate(self._grains[not down]) if grain is not None]

    @cached_property
    def _grains(self) -> tuple[tuple[Grain | None, ...], tuple[Grain | None, ...]]:
        """The grain of each level down and across in which a record counts in another period when it is shifted; None for
        other levels, a merged part of its date among them."""

        def grain(level: Level) -> Grain | None:
            period = level.period
            shifts = period is not None and period.grouper.column == self.shifted and period.grouper.mode != "merging"
            return period.grouper.size if shifts else None

        return tuple(map(grain, self.down)), tuple(map(grain, self.across))

    @cached_property
    def weeks_are_places(self) -> bool:
        """Whether weeks of the shifted column stand as places in the year on the other axis."""
        weeks = [
            level
            for levels, grains in zip((self.down, self.across), self._grains, strict=True)
            for level, grain in zip(levels, grains, strict=True)
            if grain == "week"
        ]
        return any(level.period.grouper.within == "year" for level in weeks)

    def grain_at(self, crossing: Crossing) -> Grain | None:
        """The finest grain of the shifted column that a crossing's levels have; None where they have none: a total."""
        return self._by_crossing[crossing]

    @cached_property
    def _by_crossing(self) -> dict[Crossing, Grain | None]:
        depths = itertools.product(range(len(self.down) + 1), range(len(self.across) + 1))
        down, across = self._grains
        return {(d, a): _finest([_innermost(down[:d]), _innermost(across[:a])]) for d, a in depths}

    @cached_property
    def coarsest_grain(self) -> Grain | None:
        """The coarsest grain of the shifted column on the sheet; None where it has none."""
        outer = [_innermost(side[::-1]) for side in self._grains]
        return max((grain for grain in outer if grain is not None), key=width, default=None)

    @cached_property
    def outermost(self) -> Crossing | None:
        """The crossing that ends at the outermost period level of the shifted column; None where there is none."""
        for down, grains in ((True, self._grains[0]), (False, self._grains[1])):
            for k, grain in enumerate(grains):
                if grain is not None and grain == self.coarsest_grain:
                    return (k + 1, 0) if down else (0, k + 1)
        return None


def _innermost(grains: Sequence[Grain | None]) -> Grain | None:
    return next((grain for grain in reversed(grains) if grain is not None), None)


def _finest(grains: Sequence[Grain | None]) -> Grain | None:
    return min((grain for grain in grains if grain is not None), key=width, default=None)


@dataclass(frozen=True, eq=False)
class Where:
    """A condition of a figure's own: `mask`, shape (all records,), with the key that names it."""

    key: Key
    mask: Mask


class View:
    """Records in groups, crossing by crossing.

    `key` names all that the view rests on. What is worked out of it is remembered by `memo`, each piece whole and under
    a key of its own, so that a view itself holds nothing that another request could see half made.
    """

    def __init__(
        self,
        key: Key,
        frame: Frame,
        placer: Placer,
        rows: Index | None,
        days: Callable[[Grain | None], DayMap] | None,
        memo: Memo,
    ) -> None:
        self.key, self.frame, self.placer, self.rows, self.days, self.memo = key, frame, placer, rows, days, memo
        self._falls: dict[Grain | None, Fall] = {}

    @property
    def count(self) -> int:
        """How many records the view looks at."""
        return self.placer.ground.records.count if self.rows is None else len(self.rows)

    def fall(self, grain: Grain | None) -> Fall:
        """The records at crossings of `grain` (None: totals), and their members."""
        grain = grain if self.days is not None else None
        if grain not in self._falls:
            self.placer.ground.step()
            if self.days is None:
                self._falls[grain] = self.placer.fall(self.rows)
            else:
                self._falls[grain] = self.placer.fall_on(self.rows, self.days(grain))
        return self._falls[grain]

    def grain_at(self, crossing: Crossing) -> Grain | None:
        """The grain by whose periods records are shifted at a crossing; None for totals, and where they stand as they are."""
        return None if self.days is None else self.placer.grain_at(crossing)

    def bundles(self, grain: Grain | None) -> Bundles | None:
        """The records at crossings of `grain`, those of the same members together; None where there would be too many."""
        own = key("members", self.key, grain)

        def made() -> Bundles | None:
            fall = self.fall(grain)
            if not few(fall.down, fall.across):
                return None
            return bundled(fall.down, fall.across, np.zeros(fall.count, dtype=np.int32), fall.rows, own, self.memo)

        return self.memo(own, made)

    def groups(self, crossing: Crossing, where: Where | None = None) -> Groups:
        """The records in the cells of a crossing, numbered line by line; those for which `where` is True."""
        if where is None:
            own = key("groups", self.key, crossing)
            return self.memo(own, lambda: self._grouped(own, crossing))
        own = key("groups", self.key, crossing, where.key)
        return self.memo(own, lambda: replace(self.groups(crossing).where(where.mask), key=own, memo=self.memo))

    def _grouped(self, own: Key, crossing: Crossing) -> Groups:
        self.placer.ground.step()
        grain = self.grain_at(crossing)
        lines = self._located(grain, True, crossing[0])
        columns = self._located(grain, False, crossing[1])
        rows = self.rows if self.days is None and not self.placer.drops else self.fall(grain).rows
        height, width = self.frame.block_shape(crossing)
        ids = lines
        if width > 1:
            ids = np.multiply(lines, width, dtype=np.int32 if height * width <= INT32_MOST else np.int64)
            ids += columns
        if _any_lost(lines) or _any_lost(columns):
            kept = np.flatnonzero((lines >= 0) & (columns >= 0))
            return Groups(ids[kept], height * width, kept if rows is None else rows[kept], own, self.memo)
        return Groups(ids, height * width, rows, own, self.memo)

    def held(self) -> Mask:
        """Shape (lines, columns): the cells in which a record stands."""
        return self.memo(key("held", self.key), self._held)

    def _held(self) -> Mask:
        deepest = self.frame.crossings[-1]
        groups = self.groups(deepest)
        return rolled_up(self.frame, np.logical_or, counts(groups) > 0)

    def first_seen(self, down: bool, depth: int) -> Index:
        """Where among the records the first one of each line (or column) of a depth stands; those with none stand last."""
        at = self._located(None, down, depth)
        here = (self.frame.lines if down else self.frame.columns).lines_at(depth)
        first = np.full(here.stop - here.start, len(at), dtype=np.int64)
        kept = np.flatnonzero(at >= 0)[::-1]
        first[at[kept]] = kept
        return first

    def _located(self, grain: Grain | None, down: bool, depth: int) -> Places:
        """The line (or column) of a depth on which each record of the fall at `grain` stands; −1 where none does."""
        return self.memo(key("located", self.key, grain, down, depth), lambda: self._locate(grain, down, depth))

    def _locate(self, grain: Grain | None, down: bool, depth: int) -> Places:
        axis = self.frame.lines if down else self.frame.columns
        if self.days is None and axis.found:
            found = axis.found[0]
            if depth == len(axis.steps):
                return found
            if not _any_lost(found):
                if depth == 0:
                    return np.zeros(len(found), dtype=np.int32)
                ancestors: Places = axis.ancestor(depth).astype(np.int32)[found]
                return ancestors
        fall = self.fall(grain)
        return axis.locate(fall.down if down else fall.across, depth, fall.count)


def _any_lost(places: Places) -> bool:
    """True where some record has no line."""
    return len(places) > 0 and int(places.min()) < 0
