"""A figure along a period column in date order: running totals and moving windows, earlier periods included."""

import itertools
from collections.abc import Mapping
from dataclasses import replace
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from kalendor.core.figures.compare import Bases
from kalendor.core.figures.stretches import Stretches, Strip
from kalendor.core.formulas.expressions import names_in
from kalendor.core.formulas.formulas import Scope, evaluate
from kalendor.core.groupings.levels import Level
from kalendor.core.groupings.periods import CLOCK, COARSER, Grouper
from kalendor.core.placing.frame import Axis
from kalendor.core.placing.views import View, Where, assembled, moments_on
from kalendor.core.placing.windows import NONE, DayMap
from kalendor.core.takes.aggregate import Additive, Groups, Of
from kalendor.core.takes.takes import TAKES
from kalendor.core.values import arithmetic as ar
from kalendor.core.values.columns import DAY_MICROSECONDS, EXACT, INT64_MOST, Array, Column, Kind, column_days
from kalendor.definitions.figure import Figure, FormulaFigure, Moving, Running, Taken
from kalendor.errors import DefinitionError

Index = NDArray[np.int64]
MOST_STRETCHES, MOST_GROUPS = 20_000_000, 200_000_000


class Figures(Protocol):
    """What a timeline asks of those who work figures out."""

    figures: Mapping[str, Figure]
    bases: Bases
    main: View

    def taking(self, figure: Taken) -> tuple[Of, Where | None]:
        """What a figure takes, and which records."""
        ...

    def adds_up(self, name: str) -> bool:
        """True for sums and counts."""
        ...


class Timeline:
    """The periods of one date column (the sheet's first period column unless `along` names another), in one view."""

    def __init__(self, reckoner: Figures, view: View, along: str | None) -> None:
        self.reckoner, self.view = reckoner, view
        self.frame, self.placer = view.frame, view.placer
        levels = [*self.placer.down, *self.placer.across]
        self.column = along or next((x.period.grouper.column for x in levels if x.period is not None), "")
        self.periods = [x for x in levels if self._runs_on(x)]
        if not self.periods:
            raise DefinitionError(
                f"there is no period of {self.column or 'any date'!r} among the lines or columns to run along"
            )
        self.stretches = self._stretches()
        self.shown = self._shown()
        self._strips: dict[tuple[int, int], Strip] = {}

    def _runs_on(self, level: Level) -> bool:
        """Whether a level is a period of the column; a merging part of its date is not, and tells rows apart."""
        period = level.period
        return period is not None and period.grouper.column == self.column and period.grouper.mode != "merging"

    def _stretches(self) -> Stretches:
        """The stretches over the column's days and those of the view, cut at every period of the sheet."""
        groupers = [level.period.grouper for level in self.periods]
        size = min((CLOCK.get(g.grain, DAY_MICROSECONDS) for g in groupers), default=DAY_MICROSECONDS)
        span = column_days(self.placer.ground.column(self.column))
        if span is None:
            return Stretches(0, size, np.zeros(0, np.int64), np.zeros(0, np.int64))
        low, high = span
        era = self.reckoner.bases.era
        if era is not None and self.column == self.placer.shifted:
            high = max(high, min(era.as_of, high + 4000))
        per_day = DAY_MICROSECONDS // size
        if (high - low + 1) * per_day > MOST_STRETCHES:
            raise DefinitionError("the periods are too many to run along; take a coarser period")
        days = np.repeat(np.arange(low, high + 1), per_day)
        clock = np.tile(np.arange(per_day) * size, high - low + 1) if size < DAY_MICROSECONDS else None
        turns = np.zeros(len(days), dtype=bool)
        turns[0] = True
        for grouper in groupers:
            numbers = replace(grouper, within=None).numbers(days, clock)
            turns[1:] |= numbers[1:] != numbers[:-1]
        first = np.flatnonzero(turns)
        first[0] = max(_began(g, low, size) for g in groupers) - low * per_day
        return Stretches(low * per_day, size, np.cumsum(turns) - 1, first)

    def _shown(self) -> Index:
        """The stretches that the sheet's records hold, not after the as-of date, rising."""
        column, main = self.placer.ground.column(self.column), self.reckoner.main
        rows = main.groups(self.frame.crossings[-1]).rows
        if not len(self.stretches.of):
            return np.zeros(0, dtype=np.int64)
        low, high = column_days(column) or (0, 0)
        days, clock = moments_on(column, rows, DayMap(low, np.arange(low, high + 1)))
        kept = days != NONE
        at = np.unique(self.stretches.at(days[kept], None if clock is None else clock[kept]))
        began, _ = self.stretches.moments()
        return at[began[at] <= self.placer.ground.as_of]

    def _at_crossing(self, crossing: tuple[int, int]) -> list[tuple[Axis, int, bool]]:
        """The period levels of the column at a crossing: the axis, the level, and whether it is among the lines."""
        sides = ((self.frame.lines, crossing[0], True), (self.frame.columns, crossing[1], False))
        return [(axis, k, down) for axis, depth, down in sides for k in range(depth) if self._runs_on(axis.levels[k])]

    def _keys(self, crossing: tuple[int, int], stretches: Index) -> tuple[Index, Index]:
        """A number for the periods of each cell, shape (lines, columns), and of each stretch; −1 for other members."""
        cells: Index = np.zeros(self.frame.block_shape(crossing), dtype=np.int64)
        days, clock = self.stretches.moments()
        of_stretch = np.zeros(len(stretches), dtype=np.int64)
        for axis, k, down in self._at_crossing(crossing):
            period, size = axis.levels[k].period, len(axis.levels[k].period.numbers)
            codes = axis.path[axis.lines_at(crossing[0] if down else crossing[1]), k].astype(np.int64)
            codes = np.where((codes >= 0) & (codes < size), codes, -1)
            codes = codes[:, None] if down else codes[None, :]
            cells = np.where((cells < 0) | (codes < 0), -1, cells * (size + 1) + codes)
            own = period.codes(days[stretches], clock[stretches]).astype(np.int64)
            of_stretch = np.where((of_stretch < 0) | (own < 0), -2, of_stretch * (size + 1) + own)
        return cells, of_stretch

    # -- running

    def running(self, figure: Running) -> Column:
        """The value reached in every cell."""
        restart = self._restart(figure.restart)
        return assembled(self.frame, {c: self._running_at(figure, c, restart) for c in self.frame.crossings})

    def _restart(self, name: str) -> Grouper | str | None:
        """The grain to restart at, or the name of a level that is no period, or None for never."""
        if name == "never":
            return None
        for level in (*self.placer.down, *self.placer.across):
            if level.name == name:
                if level.period is None or level.period.grouper.column != self.column:
                    return name
                if level.period.grouper.mode != "merging":
                    return replace(level.period.grouper, within=None)
        finest = max((level.period.grouper for level in self.periods), key=lambda g: COARSER.get(g.grain, 9))
        if name in COARSER and COARSER[name] <= COARSER.get(finest.grain, 9):
            return replace(finest, grain=name, run=None, within=None)
        raise DefinitionError(f"restart: there is no level and no coarser grain named {name!r}")

    def _running_at(self, figure: Running, crossing: tuple[int, int], restart: Grouper | str | None) -> Column:
        shape = self.frame.block_shape(crossing)
        reached = self._reached(crossing, restart).reshape(-1)
        if not len(self.stretches.of):
            return ar.exact(np.zeros(len(reached), np.int64), np.ones(len(reached), dtype=bool), 0)
        strip = self._strip(crossing)
        cells = self._run(figure.running, strip, restart)
        index = strip.rows().reshape(-1) * strip.width + np.maximum(reached, 0)
        picked = cells.take(index)
        assert len(picked) == shape[0] * shape[1]
        return replace(picked, blank=picked.blanks | (reached < 0))

    def _reached(self, crossing: tuple[int, int], restart: Grouper | str | None) -> Index:
        """The stretch whose running value each cell shows, the last shown one within it; −1 where it shows none.

        Above the level that it restarts at a running figure has no one value. An innermost cell in which no record
        stands shows the value reached by its end, if that is not after the as-of date.
        """
        shape = self.frame.block_shape(crossing)
        nothing = np.full(shape, -1, dtype=np.int64)
        at_crossing = self._at_crossing(crossing)
        if isinstance(restart, str):
            names = [x.name for x in (*self.placer.down[: crossing[0]], *self.placer.across[: crossing[1]])]
            if restart not in names:
                return nothing
        if isinstance(restart, Grouper):
            grains = [axis.levels[k].period.grouper.grain for axis, k, _ in at_crossing]
            on_sheet = restart.grain in [level.period.grouper.grain for level in self.periods]
            if on_sheet and restart.grain not in grains:
                return nothing
            if not any(COARSER.get(g, 9) >= COARSER.get(restart.grain, 9) for g in grains):
                return nothing
        deepest = len(at_crossing) == len(self.periods)
        began, _ = self.stretches.moments()
        stretches = np.flatnonzero(began <= self.placer.ground.as_of) if deepest else self.shown
        if not len(stretches):
            return nothing
        cells, of_stretch = self._keys(crossing, stretches)
        different, last = np.unique(of_stretch[::-1], return_index=True)
        last = stretches[len(stretches) - 1 - last]
        at = np.searchsorted(different, cells).clip(0, len(different) - 1)
        return np.where((cells >= 0) & (different[at] == cells), last[at], -1)

    def _strip(self, crossing: tuple[int, int]) -> Strip:
        if crossing not in self._strips:
            self._strips[crossing] = self._laid(crossing)
        return self._strips[crossing]

    def _laid(self, crossing: tuple[int, int]) -> Strip:
        """The records that pass the report's conditions, up to the window's end, those before its start included."""
        self.placer.ground.step()
        placer, rows = self.placer, self.reckoner.bases.rows
        era = self.reckoner.bases.era
        column = placer.ground.column(self.column)
        span = column_days(column) or (0, -1)
        days, clock = moments_on(column, rows, self._days_map() or DayMap(span[0], np.arange(span[0], span[1] + 1)))
        keep = days != NONE
        if era is not None and era.span is not None and self.column == placer.shifted:
            keep &= days <= era.span.last
        kept = np.flatnonzero(keep)
        stretches = self.stretches.at(days[kept], None if clock is None else clock[kept])
        kept, stretches = kept[stretches >= 0], stretches[stretches >= 0]
        fall = placer.fall(kept if rows is None else rows[kept])
        if placer.drops:
            place = np.full(placer.ground.records.count, -1, dtype=np.int64)
            place[kept if rows is None else rows[kept]] = np.arange(len(kept))
            assert fall.rows is not None
            stretches = stretches[place[fall.rows]]
        line_row, line_high, lines = self._rest(self.frame.lines, crossing[0], fall.down, fall.count)
        col_row, col_high, columns = self._rest(self.frame.columns, crossing[1], fall.across, fall.count)
        inside = np.flatnonzero((lines >= 0) & (columns >= 0))
        width, height = len(self.stretches.first), line_high * col_high
        if height * width > MOST_GROUPS:
            raise DefinitionError("the periods and lines are too many to run along; take a coarser period")
        ids = (lines[inside] * col_high + columns[inside]) * width + stretches[inside]
        picked = inside if fall.rows is None else fall.rows[inside]
        return Strip(Groups(ids, height * width, picked), height, width, line_row, col_row, col_high)

    def _rest(self, axis: Axis, depth: int, codes: list[Array], count: int) -> tuple[Index, int, Index]:
        """Lines of a depth told apart by all but the column's periods: each line's row, how many, each record's row."""
        kept = [k for k in range(depth) if not self._runs_on(axis.levels[k])]
        here = axis.path[axis.lines_at(depth)][:, kept]
        row, record = np.zeros(len(here), dtype=np.int64), np.zeros(count, dtype=np.int64)
        for i, k in enumerate(kept):
            size = axis.levels[k].size + 1
            found, row = np.unique(row * size + here[:, i], return_inverse=True)
            wanted = record * size + codes[k]
            at = np.searchsorted(found, wanted).clip(0, max(0, len(found) - 1))
            known = (record >= 0) & (codes[k] >= 0)
            record = np.where(known & (found[at] == wanted), at, -1) if len(found) else np.full(count, -1)
        return row, int(row.max()) + 1 if len(row) else 1, record

    def _days_map(self) -> DayMap | None:
        if self.view.days is None or self.column != self.placer.shifted:
            return None
        finest = max((level.period.grouper.grain for level in self.periods), key=lambda g: COARSER.get(g, 9))
        return self.reckoner.bases.open_days(self.view, finest)

    def _run(self, name: str, strip: Strip, restart: Grouper | str | None) -> Column:
        """A figure's running value in every group of a strip."""
        figure = self.reckoner.figures.get(name)
        if isinstance(figure, FormulaFigure):
            columns = {n: self._run(n, strip, restart) for n in names_in(figure.formula) if n in self.reckoner.figures}
            return evaluate(figure.formula, Scope(columns, strip.groups.count, self.placer.ground.as_of))
        if not isinstance(figure, Taken) or not isinstance(TAKES[figure.take], Additive):
            raise DefinitionError(
                f"{name!r} cannot be run on: only sums, counts, means, least and largest values, and formulas of them can"
            )
        take = TAKES[figure.take]
        assert isinstance(take, Additive)
        of, where = self.reckoner.taking(figure)
        parts = take.parts(strip.groups.where(None if where is None else where.mask), of)
        runs = []
        for ufunc, part in zip(take.combine, parts, strict=True):
            grid = _room_to_add(part) if ufunc is np.add else part
            grid = grid.reshape(strip.height, strip.width)
            segments = [ufunc.accumulate(grid[:, s], axis=1) for s in self._segments(restart)]
            runs.append(np.concatenate(segments, axis=1).reshape(-1))
        return take.finish(tuple(runs), of)

    def _segments(self, restart: Grouper | str | None) -> list[slice]:
        """The runs of stretches over which a figure adds up."""
        width = len(self.stretches.first)
        if not isinstance(restart, Grouper):
            return [slice(0, width)]
        coarse = restart.numbers(
            self._began(restart), None if restart.grain not in CLOCK else self.stretches.moments()[1]
        )
        turns = [0, *(np.flatnonzero(np.diff(coarse)) + 1).tolist(), width]
        return [slice(a, b) for a, b in itertools.pairwise(turns)]

    def _began(self, restart: Grouper) -> Index:
        """The first day of each stretch; where no level of the sheet cuts at the restart, that of its whole period."""
        days, _ = self.stretches.moments()
        groupers = [level.period.grouper for level in self.periods]
        if any(g.grain == restart.grain for g in groupers):
            return days
        finest = replace(max(groupers, key=lambda g: COARSER.get(g.grain, 9)), within=None)
        if finest.grain in CLOCK:
            return days
        starts = [finest.start(n) for n in finest.numbers(days, None).tolist()]
        return np.array(starts, dtype=np.int64)

    # -- moving

    def moving(self, figure: Moving) -> Column:
        """The sum or mean of the last periods, each crossing by its own periods."""
        blocks = {c: self._moving_at(figure, c) for c in self.frame.crossings}
        filled = {c: b for c, b in blocks.items() if b is not None}
        if not filled:
            size = self.frame.shape[0] * self.frame.shape[1]
            return Column(Kind.WHOLE, np.zeros(size, dtype=np.int64), np.ones(size, dtype=bool))
        if any(b.kind not in EXACT for b in filled.values()):
            filled = {c: ar.approximate(b.floats(), b.blanks) for c, b in filled.items()}
        return assembled(self.frame, filled)

    def _moving_at(self, figure: Moving, crossing: tuple[int, int]) -> Column | None:
        groupers = [axis.levels[k].period.grouper for axis, k, _ in self._at_crossing(crossing)]
        outer = {g.grain for g in groupers if g.within is None}
        if not groupers or any(g.within is not None and g.within not in outer for g in groupers):
            return None
        shape = self.frame.block_shape(crossing)
        if not len(self.stretches.of):
            return ar.exact(np.zeros(shape, np.int64).reshape(-1), np.ones(shape, dtype=bool).reshape(-1), 0)
        every = np.arange(len(self.stretches.first))
        cells, of_stretch = self._keys(crossing, every)
        period = np.cumsum(np.concatenate([[0], of_stretch[1:] != of_stretch[:-1]]))
        strip = self._gathered(self._strip(crossing), period)
        values = self._each(figure.moving, strip)
        grid = values.values.reshape(strip.height, strip.width)
        there = values.present.reshape(strip.height, strip.width)
        total = _windowed(_room_to_add(np.where(there, grid, 0)), figure.periods)
        if self.reckoner.adds_up(figure.moving):
            n = np.full(there.shape, figure.periods, dtype=np.int64)
        else:
            n = _windowed(there.astype(np.int64), figure.periods)
        different, first = np.unique(of_stretch, return_index=True)
        at = np.searchsorted(different, cells).clip(0, len(different) - 1)
        known = (cells >= 0) & (different[at] == cells)
        here = np.where(known, period[first[at]], 0)
        known &= here - figure.periods + 1 >= self._first(period)
        kept = Column(values.kind, total.reshape(-1), (n == 0).reshape(-1), values.places)
        if figure.take == "mean":
            kept = ar.divide(kept, ar.exact(n.reshape(-1), None, 0))
        picked = kept.take((strip.rows() * strip.width + here).reshape(-1))
        return replace(picked, blank=picked.blanks | ~known.reshape(-1))

    def _gathered(self, strip: Strip, period: Index) -> Strip:
        """A strip with its stretches gathered into periods."""
        width = int(period[-1]) + 1
        ids = strip.groups.ids // strip.width * width + period[strip.groups.ids % strip.width]
        return replace(strip, groups=Groups(ids, strip.height * width, strip.groups.rows), width=width)

    def _first(self, period: Index) -> int:
        """The period in which the first record that passes the report's conditions stands."""
        era = self.reckoner.bases.era
        if era is None or self.column != self.placer.shifted:
            return 0
        moment = era.first_moment
        at = int(self.stretches.at(np.array([moment // DAY_MICROSECONDS]), np.array([moment % DAY_MICROSECONDS]))[0])
        return int(period[max(at, 0)])

    def _each(self, name: str, strip: Strip) -> Column:
        """A figure in every group of a strip."""
        figure = self.reckoner.figures.get(name)
        if isinstance(figure, FormulaFigure):
            columns = {n: self._each(n, strip) for n in names_in(figure.formula) if n in self.reckoner.figures}
            return evaluate(figure.formula, Scope(columns, strip.groups.count, self.placer.ground.as_of))
        if not isinstance(figure, Taken):
            raise DefinitionError(
                f"{name!r} cannot be moved along: only figures taken from records, and formulas of them, can"
            )
        of, where = self.reckoner.taking(figure)
        take = TAKES[figure.take]
        groups = strip.groups.where(None if where is None else where.mask)
        return take.finish(take.parts(groups, of), of) if isinstance(take, Additive) else take.cells(groups, of)


def _began(grouper: Grouper, day: int, size: int) -> int:
    """The tick at which the period began that holds a day's first tick, be it before the column's first day."""
    alone = replace(grouper, within=None)
    start = alone.start(int(alone.numbers(np.array([day]), None)[0]))
    assert start is not None
    return start // size if alone.grain in CLOCK else start * (DAY_MICROSECONDS // size)


def _room_to_add(grid: Array) -> Array:
    """Amounts whose sums could pass 64 bits as Python integers, which do not wrap."""
    if grid.dtype == np.int64 and grid.size and ar.magnitude(grid.reshape(-1)) * grid.size > INT64_MOST:
        return grid.astype(object)
    return grid


def _windowed(grid: Array, n: int) -> Array:
    total = np.cumsum(grid, axis=1)
    total[:, n:] = total[:, n:] - total[:, :-n].copy()
    return total
