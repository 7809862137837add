"""A figure along a period column in date order: running totals and moving windows, earlier periods included."""

import itertools
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from kalendor.core.figures.compare import Bases
from kalendor.core.formulas.expressions import names_in
from kalendor.core.formulas.formulas import Scope, evaluate
from kalendor.core.groupings.periods import COARSER, MERGING, Grouper, clock_of
from kalendor.core.placing.frame import Axis
from kalendor.core.placing.positions import NO_PERIOD, cell_periods, starts_of
from kalendor.core.placing.views import View, assembled
from kalendor.core.placing.windows import NONE, DayMap
from kalendor.core.takes.aggregate import Additive, Groups, Of
from kalendor.core.takes.takes import TAKES
from kalendor.core.values import arithmetic as ar
from kalendor.core.values.columns import EXACT, Array, Column, Mask, days_of
from kalendor.definitions.figure import Figure, FormulaFigure, Moving, Running, Taken
from kalendor.errors import DefinitionError

Index = NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class Strip:
    """Records of a crossing by row (all that is not the period) and period: group = row × width + ordinal − low."""

    groups: Groups
    height: int
    width: int
    low: int
    row_of_line: Index
    row_of_column: Index
    columns_high: int

    def rows(self) -> Index:
        """Shape (lines, columns): the row of each cell."""
        return self.row_of_line[:, None] * self.columns_high + self.row_of_column[None, :]


class Figures(Protocol):
    """What a timeline asks of those who work figures out."""

    figures: Mapping[str, Figure]
    bases: Bases
    main: View

    def taking(self, figure: Taken) -> tuple[Of, Mask | None]:
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
        groupers = [x.period.grouper for x in levels if x.period is not None and x.period.grouper.column == self.column]
        own = [g for g in groupers if g.grain not in MERGING]
        if not own:
            raise DefinitionError(
                f"there is no period of {self.column or 'any date'!r} among the lines or columns to run along"
            )
        self.finest: Grouper = replace(max(own, key=lambda g: COARSER.get(g.grain, 9)), within=None)
        self._strips: dict[tuple[tuple[int, int], str], Strip] = {}

    def running(self, figure: Running) -> Column:
        """The value reached in every cell."""
        restart = self._restart(figure.restart)
        blocks = {c: self._running_at(figure, c, restart) for c in self.frame.crossings}
        return assembled(self.frame, blocks)

    def _restart(self, name: str) -> Grouper | str | None:
        """The grain to restart at, or the name of a level that is no period, or None for never."""
        if name == "never":
            return None
        for level in (*self.placer.down, *self.placer.across):
            if level.name == name:
                if level.period is None or level.period.grouper.column != self.column:
                    return name
                return replace(level.period.grouper, within=None)
        if name in COARSER and COARSER[name] <= COARSER.get(self.finest.grain, 9):
            return replace(self.finest, grain=name, run=None)
        raise DefinitionError(f"restart: there is no level and no coarser grain named {name!r}")

    def _running_at(self, figure: Running, crossing: tuple[int, int], restart: Grouper | str | None) -> Column:
        shape = self.frame.block_shape(crossing)
        reached = self._reached(crossing, restart)
        strip = self._strip(crossing, self.finest)
        cells = self._run(figure.running, strip, restart)
        known = (reached != NO_PERIOD) & (reached >= strip.low) & (reached < strip.low + strip.width)
        index = strip.rows() * strip.width + np.where(known, reached - strip.low, 0)
        if not len(cells):
            return ar.exact(np.zeros(shape, np.int64).reshape(-1), np.ones(shape, dtype=bool).reshape(-1), 0)
        picked = cells.take(index.reshape(-1))
        return Column(picked.kind, picked.values, picked.blanks | ~known.reshape(-1), picked.places)

    def _reached(self, crossing: tuple[int, int], restart: Grouper | str | None) -> Index:
        """The finest period whose running value each cell shows; NO_PERIOD where it shows none."""
        shape = self.frame.block_shape(crossing)
        own = cell_periods(self.frame, crossing, self.column)
        nothing = np.full(shape, NO_PERIOD)
        if isinstance(restart, str):
            names = [x.name for x in (*self.placer.down[: crossing[0]], *self.placer.across[: crossing[1]])]
            if restart not in names:
                return nothing
        shown = self._shown()
        if not len(shown):
            return nothing
        if own is None:
            return nothing if isinstance(restart, Grouper) else np.full(shape, shown[-1])
        grouper, ordinals = own
        if isinstance(restart, Grouper) and COARSER.get(grouper.grain, 9) < COARSER[restart.grain]:
            return nothing
        if grouper.grain == self.finest.grain:
            late = starts_of(grouper, ordinals) > self._end_of_as_of()
            return np.where(late, NO_PERIOD, ordinals)
        inside = self._coarse(grouper, shown)
        last = {int(o): int(s) for o, s in zip(inside, shown, strict=True)}
        different, at = np.unique(ordinals, return_inverse=True)
        return np.array([last.get(n, NO_PERIOD) for n in different.tolist()], dtype=np.int64)[at].reshape(shape)

    def _end_of_as_of(self) -> int:
        day = self.placer.ground.as_of
        return (day + 1) * 86_400_000_000 - 1 if self.finest.grain in ("hour", "minute") else day

    def _shown(self) -> Index:
        """The finest periods that the sheet's records hold, not after the as-of date, rising."""
        main = self.reckoner.main
        deepest = self.frame.crossings[-1]
        found = cell_periods(self.frame, deepest, self.column)
        assert found is not None
        ordinals = found[1][main.held()[self.frame.block(deepest)]]
        ordinals = np.unique(ordinals[ordinals != NO_PERIOD])
        return ordinals[starts_of(self.finest, ordinals) <= self._end_of_as_of()]

    def _coarse(self, grouper: Grouper, ordinals: Index) -> Index:
        """The period of a coarser grain that each finest period begins in."""
        starts = starts_of(self.finest, ordinals)
        if self.finest.grain in ("hour", "minute"):
            starts = starts // 86_400_000_000
        return replace(grouper, within=None).numbers(starts, None)

    def _strip(self, crossing: tuple[int, int], grouper: Grouper) -> Strip:
        key = (crossing, grouper.grain)
        if key not in self._strips:
            self._strips[key] = self._laid(crossing, grouper)
        return self._strips[key]

    def _laid(self, crossing: tuple[int, int], grouper: Grouper) -> Strip:
        """The records that pass the report's conditions, up to the window's end, those before its start included."""
        placer, rows = self.placer, self.reckoner.bases.rows
        era = self.reckoner.bases.era
        days_map = self._days_map(grouper)
        column = placer.ground.column(self.column)
        own = days_of(column) if rows is None else days_of(column)[rows]
        moved = own if days_map is None else days_map.of(own)
        if column.blank is not None:
            moved = np.where(column.blank if rows is None else column.blank[rows], NONE, moved)
        keep = moved != NONE
        if era is not None and era.span is not None and self.column == placer.shifted:
            keep &= moved <= era.span.last
        kept = np.flatnonzero(keep)
        picked = kept if rows is None else rows[kept]
        clock = clock_of(column)
        numbers = grouper.numbers(moved[kept], None if clock is None else clock[picked])
        fall = placer.fall(picked)
        line_row, line_high, lines = _rest(self.frame.lines, crossing[0], fall.down, self.column, len(picked))
        col_row, col_high, columns = _rest(self.frame.columns, crossing[1], fall.across, self.column, len(picked))
        inside = (lines >= 0) & (columns >= 0)
        numbers, lines, columns, picked = numbers[inside], lines[inside], columns[inside], picked[inside]
        shown = self._ordinals_shown(crossing, grouper)
        ends = [*(([int(numbers.min()), int(numbers.max())]) if len(numbers) else []), *shown]
        low, high = (min(ends), max(ends)) if ends else (0, 0)
        width = high - low + 1
        height = line_high * col_high
        if height * width > 200_000_000:
            raise DefinitionError("the periods and lines are too many to run along; take a coarser period")
        ids = (lines * col_high + columns) * width + numbers - low
        return Strip(Groups(ids, height * width, picked), height, width, low, line_row, col_row, col_high)

    def _ordinals_shown(self, crossing: tuple[int, int], grouper: Grouper) -> list[int]:
        shown = self._shown()
        if not len(shown):
            return []
        ends = shown[[0, -1]]
        return (ends if grouper.grain == self.finest.grain else self._coarse(grouper, ends)).tolist()

    def _days_map(self, grouper: Grouper) -> DayMap | None:
        if self.view.days is None or self.column != self.placer.shifted:
            return None
        return self.reckoner.bases.open_days(self.view.key, grouper.grain)

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
        parts = take.parts(strip.groups.where(where), of)
        runs = []
        for ufunc, part in zip(take.combine, parts, strict=True):
            grid = part.reshape(strip.height, strip.width)
            runs.append(
                np.concatenate(
                    [ufunc.accumulate(grid[:, s], axis=1) for s in self._segments(strip, restart)], axis=1
                ).reshape(-1)
            )
        return take.finish(tuple(runs), of)

    def _segments(self, strip: Strip, restart: Grouper | str | None) -> list[slice]:
        if not isinstance(restart, Grouper):
            return [slice(0, strip.width)]
        coarse = self._coarse(restart, np.arange(strip.low, strip.low + strip.width))
        turns = [0, *(np.flatnonzero(np.diff(coarse)) + 1).tolist(), strip.width]
        return [slice(a, b) for a, b in itertools.pairwise(turns)]

    def moving(self, figure: Moving) -> Column:
        """The sum or mean of the last periods, each crossing by its own grain."""
        blocks = {c: self._moving_at(figure, c) for c in self.frame.crossings}
        wanted = next((b for b in blocks.values() if b is not None), None)
        assert wanted is not None
        filled = {c: b for c, b in blocks.items() if b is not None}
        if any(b.kind not in EXACT for b in filled.values()):
            filled = {c: ar.approximate(b.floats(), b.blanks) for c, b in filled.items()}
        return assembled(self.frame, filled)

    def _moving_at(self, figure: Moving, crossing: tuple[int, int]) -> Column | None:
        own = cell_periods(self.frame, crossing, self.column)
        if own is None:
            return None
        grouper, ordinals = own
        strip = self._strip(crossing, grouper)
        values = self._each(figure.moving, strip)
        grid = values.values.reshape(strip.height, strip.width)
        there = values.present.reshape(strip.height, strip.width)
        total = _windowed(np.where(there, grid, 0), figure.periods)
        if self.reckoner.adds_up(figure.moving):
            n = np.full(there.shape, figure.periods, dtype=np.int64)
        else:
            n = _windowed(there.astype(np.int64), figure.periods)
        known = (ordinals != NO_PERIOD) & (ordinals - figure.periods + 1 >= self._first(strip, grouper))
        index = strip.rows() * strip.width + np.where(known, ordinals - strip.low, 0).clip(0, strip.width - 1)
        blank = (n == 0).reshape(-1)
        kept = Column(values.kind, total.reshape(-1), blank, values.places)
        if figure.take == "mean":
            kept = ar.divide(kept, ar.exact(n.reshape(-1), None, 0))
        picked = kept.take(index.reshape(-1))
        return Column(picked.kind, picked.values, picked.blanks | ~known.reshape(-1), picked.places)

    def _first(self, strip: Strip, grouper: Grouper) -> int:
        era = self.reckoner.bases.era
        if era is None or self.column != self.placer.shifted:
            return strip.low
        return int(replace(grouper, within=None).numbers(np.array([era.first]), None)[0])

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
        groups = strip.groups.where(where)
        return take.finish(take.parts(groups, of), of) if isinstance(take, Additive) else take.cells(groups, of)


def _windowed(grid: Array, n: int) -> Array:
    total = np.cumsum(grid, axis=1)
    total[:, n:] = total[:, n:] - total[:, :-n].copy()
    return total


def _rest(axis: Axis, depth: int, codes: list[Array], column: str, count: int) -> tuple[Index, int, Index]:
    """Lines of a depth told apart by everything but the column's periods: each line's row, how many, each record's row."""
    kept = [k for k in range(depth) if (p := axis.levels[k].period) is None or p.grouper.column != column]
    here = axis.path[axis.lines_at(depth)][:, kept]
    if not kept:
        return np.zeros(len(here), dtype=np.int64), 1, np.zeros(count, dtype=np.int64)
    row, record = np.zeros(len(here), dtype=np.int64), np.zeros(count, dtype=np.int64)
    for i, k in enumerate(kept):
        size = axis.levels[k].size + 1
        keys = row * size + here[:, i]
        found, row = np.unique(keys, return_inverse=True)
        wanted = record * size + codes[k]
        at = np.searchsorted(found, wanted).clip(0, max(0, len(found) - 1))
        known = (record >= 0) & (codes[k] >= 0)
        record = np.where(known & (found[at] == wanted), at, -1) if len(found) else np.full(count, -1)
    return row, int(row.max()) + 1 if len(row) else 1, record
