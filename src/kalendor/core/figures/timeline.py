"""A figure along a period column in date order, for running totals and moving windows; earlier periods included."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from kalendor.core.figures.kind import Reckoning
from kalendor.core.figures.occupied import Occupied
from kalendor.core.figures.stretches import Reach, Stretches, Strip
from kalendor.core.groupings.levels import Level
from kalendor.core.groupings.periods import CLOCK, Grain, Grouper
from kalendor.core.placing.bundles import Bundles, bundled, with_room
from kalendor.core.placing.by_day import by_day, moments_on
from kalendor.core.placing.frame import Axis
from kalendor.core.placing.views import View
from kalendor.core.placing.windows import NONE, DayMap
from kalendor.core.takes.aggregate import Additive, Parts
from kalendor.core.takes.takes import TAKES
from kalendor.core.values.columns import DAY_MICROSECONDS, Array
from kalendor.core.values.keys import Key, key
from kalendor.definitions.figure import Taken
from kalendor.errors import DefinitionError

Index = NDArray[np.int64]
MOST_STRETCHES = 20_000_000


class Timeline:
    """The periods of one date column (the sheet's first period column unless `along` names another), in one view."""

    def __init__(self, reckoner: Reckoning, view: View, along: str | None) -> None:
        self.reckoner, self.view = reckoner, view
        self.frame, self.placer = view.frame, view.placer
        levels = [*self.placer.down, *self.placer.across]
        self.column = along or next((x.period.grouper.column for x in levels if x.period is not None), "")
        self.periods = [x for x in levels if self._runs_on(x)]
        if not self.periods:
            raise DefinitionError(
                f"there is no period of {self.column or 'any date'!r} among the lines or columns to run along"
            )
        self.span = self.placer.ground.days(self.column)
        self.stretches = self._stretches()
        self._strips: dict[tuple[int, int], Strip] = {}
        self._parts_of: dict[tuple[str, Key], Parts] = {}
        self._bundles: dict[Key, Bundles] = {}

    def _runs_on(self, level: Level) -> bool:
        """Whether a level is a period of the column; a merging part of its date is not, and distinguishes rows."""
        period = level.period
        return period is not None and period.grouper.column == self.column and period.grouper.mode != "merging"

    def _stretches(self) -> Stretches:
        """The stretches over the column's days and those of the view, cut at every period of the sheet."""
        groupers = [level.period.grouper for level in self.periods]
        size = min((CLOCK.get(g.grain, DAY_MICROSECONDS) for g in groupers), default=DAY_MICROSECONDS)
        if self.span is None:
            return Stretches(0, size, np.zeros(0, np.int64), np.zeros(0, np.int64))
        low, high = self.span
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

    def _stretch_of(self, rows: Index | None, counted: DayMap | None, last: int | None) -> Index:
        """The stretch of each of the records at `rows`; −1 for those without a date, after the `last` day, or mapped to
        no day (None: each counts as its own day)."""
        column, stretches = self.placer.ground.column(self.column), self.stretches
        low, high = self.span or (0, -1)
        own = np.arange(low, high + 1)
        if stretches.size < DAY_MICROSECONDS or (counted is not None and counted.later):
            days, clock = moments_on(column, rows, counted or DayMap(low, own))
            known = days != NONE if last is None else (days != NONE) & (days <= last)
            found = np.full(len(days), -1, dtype=np.int64)
            found[known] = stretches.at(days[known], None if clock is None else clock[known])
            return found
        days = own if counted is None else counted.of(own)
        known = days != NONE if last is None else (days != NONE) & (days <= last)
        table = np.full(len(own) + 1, -1, dtype=np.int32)  # the last entry is for records without a date
        table[:-1][known] = stretches.at(days[known], None)
        return by_day(column, low, rows, table)

    def at_crossing(self, crossing: tuple[int, int]) -> list[tuple[Axis, int, bool]]:
        """The period levels of the column at a crossing: the axis, the level, and whether it is among the lines."""
        sides = ((self.frame.lines, crossing[0], True), (self.frame.columns, crossing[1], False))
        return [(axis, k, down) for axis, depth, down in sides for k in range(depth) if self._runs_on(axis.levels[k])]

    def keys(self, crossing: tuple[int, int], stretches: Index) -> tuple[Index, Index]:
        """A number for the periods of each cell, shape (lines, columns), and of each stretch; −1 for other members."""
        cells: Index = np.zeros(self.frame.block_shape(crossing), dtype=np.int64)
        days, clock = self.stretches.moments
        of_stretch = np.zeros(len(stretches), dtype=np.int64)
        for axis, k, down in self.at_crossing(crossing):
            period, size = axis.levels[k].period, len(axis.levels[k].period.numbers)
            codes = axis.path[axis.lines_at(crossing[0] if down else crossing[1]), k].astype(np.int64)
            codes = np.where((codes >= 0) & (codes < size), codes, -1)
            codes = codes[:, None] if down else codes[None, :]
            cells = np.where((cells < 0) | (codes < 0), -1, cells * (size + 1) + codes)
            own = period.codes(days[stretches], clock[stretches]).astype(np.int64)
            of_stretch = np.where((of_stretch < 0) | (own < 0), -2, of_stretch * (size + 1) + own)
        return cells, of_stretch

    def strip(self, crossing: tuple[int, int]) -> Strip:
        """The records of a crossing laid along the stretches."""
        if crossing not in self._strips:
            self._strips[crossing] = self._laid(crossing)
        return self._strips[crossing]

    def _laid(self, crossing: tuple[int, int]) -> Strip:
        bundles = self.bundles(self.placer.grain_at(crossing))
        line_row, line_high, lines = self._rest(self.frame.lines, crossing[0], bundles.down, bundles.count)
        col_row, col_high, columns = self._rest(self.frame.columns, crossing[1], bundles.across, bundles.count)
        width, height = len(self.stretches.first), line_high * col_high
        of = np.where((lines >= 0) & (columns >= 0), (lines * col_high + columns) * width + bundles.stretch, -1)
        return Strip(bundles, of, height, width, line_row, col_row, col_high)

    def bundles(self, grain: Grain | None) -> Bundles:
        """The bundles of the records that satisfy the report's conditions, up to the window's end, including those
        before its start, as placed at crossings of `grain`."""
        shifted = self.view.days is not None and self.column == self.placer.shifted
        own = key("bundles", self.view.key, self.column, grain if shifted else None)
        if own not in self._bundles:
            self._bundles[own] = self.view.memo(own, lambda: self._bundled(own, grain))
        return self._bundles[own]

    def _bundled(self, own: Key, grain: Grain | None) -> Bundles:
        placer, rows = self.placer, self.reckoner.bases.rows
        era = self.reckoner.bases.era
        bounded = era is not None and era.span is not None and self.column == placer.shifted
        stretches = self._stretch_of(
            rows, self._days_map(grain), era.span.last if bounded and era and era.span else None
        )
        if len(stretches) and int(stretches.min()) < 0:
            kept = np.flatnonzero(stretches >= 0)
            rows, stretches = kept if rows is None else rows[kept], stretches[kept]
        fall = placer.fall(rows)
        if placer.drops and fall.rows is not None:
            place = np.zeros(placer.ground.records.count, dtype=np.int64)
            place[slice(None) if rows is None else rows] = np.arange(len(stretches))
            stretches = stretches[place[fall.rows]]
        sides = [
            [None if self._runs_on(level) else codes for level, codes in zip(levels, found, strict=True)]
            for levels, found in ((placer.down, fall.down), (placer.across, fall.across))
        ]
        return bundled(sides[0], sides[1], stretches, fall.rows, own, self.view.memo)

    def parts(self, figure: Taken, own: Occupied) -> Parts:
        """The combinable parts of a figure for every group, and for one without records."""
        take, name = TAKES[figure.take], figure.name
        assert isinstance(take, Additive)
        bundles = own.strip.bundles
        if (name, bundles.groups.key) not in self._parts_of:
            of, where = self.reckoner.taking(figure)
            parts = take.parts(bundles.groups.where(None if where is None else where.mask), of)
            self._parts_of[name, bundles.groups.key] = with_room(take.combine, parts)
        found = self._parts_of[name, bundles.groups.key]
        return tuple(own.gathering.combined(ufunc, part) for ufunc, part in zip(take.combine, found, strict=True))

    def _rest(self, axis: Axis, depth: int, codes: Sequence[Array | None], count: int) -> tuple[Index, int, Index]:
        """The lines of a depth distinguished by everything except the column's periods: each line's row, their number,
        each bundle's row."""
        here = axis.path[axis.lines_at(depth)]
        row, bundle = np.zeros(len(here), dtype=np.int64), np.zeros(count, dtype=np.int64)
        for k, member in enumerate(codes[:depth]):
            if member is None:
                continue
            size = axis.levels[k].size + 1
            found, row = np.unique(row * size + here[:, k], return_inverse=True)
            wanted = bundle * size + member
            at = np.searchsorted(found, wanted).clip(0, max(0, len(found) - 1))
            known = (bundle >= 0) & (member >= 0)
            bundle = np.where(known & (found[at] == wanted), at, -1) if len(found) else np.full(count, -1)
        return row, int(row.max()) + 1 if len(row) else 1, bundle

    def _days_map(self, grain: Grain | None) -> DayMap | None:
        if self.view.days is None or self.column != self.placer.shifted:
            return None
        return self.reckoner.bases.open_days(self.view, grain)

    def between(self, strip: Strip, row: int, first: int, last: int, period: Index) -> Reach:
        """The records of a row of a strip in its places from `first` to `last`; `period` is the place of each stretch."""
        rows = strip.between(row * strip.width + first, row * strip.width + last)
        there = np.flatnonzero((period >= first) & (period <= last))
        days, _ = self.stretches.moments
        until = int(days[there[-1] + 1]) - 1 if there[-1] + 1 < len(days) else self.stretches.last_day()
        return Reach(rows, int(days[there[0]]), until)


def _began(grouper: Grouper, day: int, size: int) -> int:
    """The tick at which the period that contains a day's first tick began, even if before the column's first day, but
    not before the calendar's."""
    alone = replace(grouper, within=None)
    start = alone.start(int(alone.numbers(np.array([day]), None)[0]))
    assert start is not None
    if alone.grain in CLOCK:
        return start // size
    return int(alone.calendar.within(np.array([start]))[0]) * (DAY_MICROSECONDS // size)
