"""Comparisons: the base of each cell, whether there is one, and the pair as base, difference, percent or index."""

from functools import partial

import numpy as np
from numpy.typing import NDArray

from kalendor.core.groupings.calendars import Calendar
from kalendor.core.groupings.periods import COARSER
from kalendor.core.placing.era import Era
from kalendor.core.placing.frame import Frame
from kalendor.core.placing.positions import NO_PERIOD, cell_periods, last_days_of, numbers_at, period_levels
from kalendor.core.placing.views import Placer, View
from kalendor.core.placing.windows import NONE, DayMap, Shift, cut_map, shift_map
from kalendor.core.values import arithmetic as ar
from kalendor.core.values.columns import Array, Column, Mask
from kalendor.definitions.figure import Back, Compare
from kalendor.errors import DefinitionError

NO_MARK, NEW, GONE, NOT_MEANINGFUL = 0, 1, 2, 3
MARK_WORDS = ("", "new", "gone", "n/m")
FAR = 400 * 366


def _zero_where_blank(column: Column) -> Column:
    if column.blank is None:
        return column
    values = np.where(column.blank, 0, column.values)
    return Column(column.kind, values, None, column.places)


def against(
    as_: str, value: Column, base: Column, has_base: Mask | None, additive: bool, zero_is_none: bool
) -> tuple[Column, NDArray[np.int8]]:
    """A compared pair in every cell, and a mark in each.

    `has_base`, shape (n,), is False where there is nothing to compare with (None: there always is); `additive`
    sides count as 0 where they are missing; with `zero_is_none` a 0 is a missing side.
    """
    none = np.zeros(len(value), dtype=bool) if has_base is None else ~has_base
    no_value, no_base = value.blanks, base.blanks
    if zero_is_none:
        no_value, no_base = no_value | (value.values == 0), no_base | (base.values == 0)
    marks = np.zeros(len(value), dtype=np.int8)
    if as_ == "base":
        return Column(base.kind, base.values, base.blanks | none, base.places), marks
    if as_ == "difference":
        if additive:
            found = ar.subtract(_zero_where_blank(value), _zero_where_blank(base))
            return Column(found.kind, found.values, (no_value & no_base) | none, found.places), marks
        found = ar.subtract(value, base)
        return Column(found.kind, found.values, found.blanks | none, found.places), marks
    low = ~no_base & (base.values <= 0)
    marks[~no_value & no_base & ~none] = NEW
    marks[no_value & ~no_base & ~none] = GONE
    marks[~no_value & low & ~none] = NOT_MEANINGFUL
    top = ar.subtract(value, base) if as_ == "percent" else value
    ratio = ar.divide(top, base)
    values = ratio.values if as_ == "percent" else ratio.values * 100.0
    return ar.approximate(values, no_value | no_base | low | none), marks


class Bases:
    """The views that comparisons are taken in, each made once."""

    def __init__(
        self, frame: Frame, placer: Placer, rows: NDArray[np.int64] | None, main: View, era: Era | None
    ) -> None:
        self.frame, self.placer, self.rows, self.main, self.era = frame, placer, rows, main, era
        self._views: dict[str, View] = {}
        self._shifts: dict[str, tuple[Shift, bool]] = {}

    def shift_of(self, figure: Compare) -> Shift:
        """How far back a comparison's base lies."""
        if self.era is None or (self.era.span is None and self.placer.coarsest_grain() is None):
            raise DefinitionError("comparing with an earlier period needs a period on an axis, or a window")
        if isinstance(figure.with_, Back):
            return Shift("back", figure.with_.back, figure.with_.grain)
        return Shift(str(figure.with_))

    def _grain(self, grain: str | None) -> str:
        assert self.era is not None
        return grain or self.placer.coarsest_grain() or self.era.grain or "day"

    def _shift(self, shift: Shift) -> Shift:
        """Without a period axis, the period before is the window of the same length before."""
        assert self.era is not None
        if shift.kind != "period_before" or self.placer.coarsest_grain() is not None or self.era.span is None:
            return shift
        if self.era.grain is None:
            return Shift("back", self.era.span.last - self.era.span.first + 1, "day")
        edges = self.era.calendar.ordinals(self.era.grain, np.array([self.era.span.first, self.era.span.last]))
        return Shift("back", int(edges[1] - edges[0]) + 1, self.era.grain)

    def value_view(self, shift: Shift, to_date: bool) -> View:
        """The sheet's records, those after the cut left out."""
        if not to_date:
            return self.main

        def days(grain: str | None) -> DayMap:
            assert self.era is not None
            g = self._grain(grain)
            era = self.era
            return cut_map(era.calendar, g, era.first, era.last, era.shown, era.cut_for(g))

        if not self._cuts():
            return self.main
        return self._view("cut", days)

    def _cuts(self) -> bool:
        """True where any record of the sheet lies after a cut."""
        era = self.era
        assert era is not None
        last = era.last if era.span is None else min(era.last, era.span.last)
        levels = [*self.placer.down, *self.placer.across]
        grains = {self._grain(None), *(levels[i].period.grouper.grain for i in self.placer.periods_on(levels))}
        return any(era.cut_for(g) < last for g in grains if g in COARSER or g == "run")

    def base_view(self, shift: Shift, to_date: bool) -> View:
        """The records of the earlier periods, standing where they are the base."""
        key = f"{shift}/{to_date}"
        self._shifts[key] = (self._shift(shift), to_date)
        return self._view(key, partial(self._base_days, self._shift(shift), to_date))

    def _base_days(self, shift: Shift, to_date: bool, grain: str | None) -> DayMap:
        assert self.era is not None
        g = self._grain(grain)
        era = self.era
        days = self._sheet_days(None if to_date or self.placer.coarsest_grain() is None else g)
        return shift_map(shift, era.calendar, g, era.first, era.last, days, era.cut_for(g) if to_date else None)

    def _sheet_days(self, whole: str | None) -> DayMap | None:
        """The days a base may count as: those the window shows, whether or not they hold records.

        A period of the grain `whole` that the window's end cuts counts as a whole.
        """
        assert self.era is not None
        era = self.era
        if era.span is None:
            return None
        last = era.span.last
        if whole is not None:
            whole = "day" if whole in ("hour", "minute", "run") else whole
            last = int(era.calendar.starts(whole, era.calendar.ordinals(whole, np.array(last)) + 1)) - 1
        days = np.arange(era.span.first, last + 1)
        if era.shown is not None:
            at = days - era.shown.low
            inside = (at >= 0) & (at < len(era.shown.table))
            gone = inside & (era.shown.table[np.where(inside, at, 0)] == NONE)
            days = np.where(gone, NONE, days)
        return DayMap(era.span.first, days)

    def open_days(self, key: str, grain: str) -> DayMap | None:
        """The days of a view of these bases, the window's edges left open, for figures that run through it."""
        era = self.era
        if era is None or key == self.main.key:
            return None
        if key == "cut":
            return cut_map(era.calendar, grain, era.first, era.last, None, era.cut_for(grain))
        shift, to_date = self._shifts[key]
        cut = era.cut_for(grain) if to_date else None
        return shift_map(shift, era.calendar, grain, era.first, era.last, None, cut)

    def _view(self, key: str, days: object) -> View:
        if key not in self._views:
            self._views[key] = View(key, self.frame, self.placer, self.rows, days)  # type: ignore[arg-type]
        return self._views[key]

    def member(self, value: Column, label: str) -> tuple[Column, Mask]:
        """Each cell's base at the named member of the innermost category level, and where there is one."""
        lines = self.frame.lines
        levels = [k for k, level in enumerate(lines.levels) if level.kind == "category"]
        if not levels:
            raise DefinitionError("comparing with a member needs a category among the lines")
        k = levels[-1]
        codes = [i for i, name in enumerate(lines.levels[k].members.labels) if name == label]
        if not codes:
            raise DefinitionError(f"{lines.levels[k].name} has no member {label!r}")
        same_entry = [j for j in range(k + 1) if lines.levels[j].entry == lines.levels[k].entry]
        rest = [j for j in range(len(lines.levels)) if j not in same_entry]
        chosen = np.flatnonzero(np.isin(lines.path[:, k], codes))
        home = {(int(lines.depth[i]), *lines.path[i, rest].tolist()): int(i) for i in chosen}
        at = np.array(
            [
                home.get((int(lines.depth[i]), *lines.path[i, rest].tolist()), -1) if lines.path[i, k] >= 0 else -1
                for i in range(lines.count)
            ],
            dtype=np.int64,
        )
        width = self.frame.columns.count
        index = np.maximum(at, 0)[:, None] * width + np.arange(width)[None, :]
        return value.take(index.reshape(-1)), np.repeat(at >= 0, width)

    def has_base(self, shift: Shift, to_date: bool) -> Mask:
        """Shape (lines × columns,): False where a cell's base, or that of any period under it, lies before the first record."""
        assert self.era is not None
        result = np.ones(self.frame.shape, dtype=bool)
        for crossing in self.frame.crossings:
            result[self.frame.block(crossing)] = self._has_base_at(shift, crossing)
        return result.reshape(-1)

    def _has_base_at(self, shift: Shift, crossing: tuple[int, int]) -> NDArray[np.bool_]:
        assert self.era is not None
        shape = self.frame.block_shape(crossing)
        column = self.placer.shifted
        assert column is not None
        if self.placer.coarsest_grain() is None:
            era = self.era
            assert era.span is not None
            reach = era.calendar, self._grain(None), np.array([era.span.last])
            return np.full(shape, bool(self._reached(shift, *reach)[0]))
        own = cell_periods(self.frame, crossing, column)
        fine = np.ones(shape, dtype=bool)
        if own is not None:
            grouper, ordinals = own
            known = ordinals != NO_PERIOD
            different, at = np.unique(ordinals, return_inverse=True)
            reached = np.array(
                [n == NO_PERIOD or self._period_reached(shift, grouper, n) for n in different.tolist()], dtype=bool
            )
            fine = reached[at.reshape(shape)] | ~known
        return fine & self._periods_below_reached(shift, crossing)

    def _period_reached(self, shift: Shift, grouper: object, ordinal: int) -> bool:
        assert self.era is not None
        grain = grouper.grain  # type: ignore[attr-defined]
        end = int(last_days_of(grouper, np.array([ordinal]))[0])  # type: ignore[arg-type]
        start = int(grouper.start(ordinal))  # type: ignore[attr-defined]
        if grain in ("hour", "minute"):
            start //= 86_400_000_000
        days = np.arange(start, end + 1)
        return bool(self._reached(shift, self.era.calendar, grain, days).any())

    def _reached(self, shift: Shift, calendar: Calendar, grain: str, days: Array) -> NDArray[np.bool_]:
        """True for days whose base day is not before the first record: some day from then on counts as them."""
        era = self.era
        assert era is not None
        found = (
            self._shift(shift).forward(calendar, grain, np.arange(era.first, int(days.max()) + 1))
            if int(days.max()) >= era.first
            else days[:0]
        )
        return np.isin(days, found)

    def _periods_below_reached(self, shift: Shift, crossing: tuple[int, int]) -> NDArray[np.bool_]:
        """False for cells that hold a finest period of the sheet which has no base."""
        shape = self.frame.block_shape(crossing)
        column = self.placer.shifted
        assert column is not None
        deepest = self.frame.crossings[-1]
        if crossing == deepest:
            return np.ones(shape, dtype=bool)
        bad = self._unreached(shift, deepest, column)
        if not bad:
            return np.ones(shape, dtype=bool)
        line_levels = period_levels(self.frame.lines, crossing[0], column)
        column_levels = period_levels(self.frame.columns, crossing[1], column)
        missing = {(line[: len(line_levels)], across[: len(column_levels)]) for line, across in bad}
        lines = _keys(self.frame.lines, crossing[0], line_levels)
        columns = _keys(self.frame.columns, crossing[1], column_levels)
        bad_lines = {line for line, _ in missing}
        result = np.ones(shape, dtype=bool)
        for i, line in enumerate(lines):
            if line in bad_lines:
                result[i] = [(line, across) not in missing for across in columns]
        return result

    def _unreached(
        self, shift: Shift, deepest: tuple[int, int], column: str
    ) -> set[tuple[tuple[int, ...], tuple[int, ...]]]:
        """The finest periods of the sheet without a base, as member numbers by level down and across."""
        found = cell_periods(self.frame, deepest, column)
        if found is None:
            return set()
        grouper, ordinals = found
        there = self.main.held()[self.frame.block(deepest)] & (ordinals != NO_PERIOD)
        without = {n for n in np.unique(ordinals[there]).tolist() if not self._period_reached(shift, grouper, n)}
        if not without:
            return set()
        lines = _keys(self.frame.lines, deepest[0], period_levels(self.frame.lines, deepest[0], column))
        columns = _keys(self.frame.columns, deepest[1], period_levels(self.frame.columns, deepest[1], column))
        at = np.argwhere(there & np.isin(ordinals, list(without)))
        return {(lines[i], columns[j]) for i, j in at.tolist()}


def _keys(axis: object, depth: int, levels: list[int]) -> list[tuple[int, ...]]:
    numbers = [numbers_at(axis, depth, k) for k in levels]  # type: ignore[arg-type]
    count = axis.offsets[depth + 1] - axis.offsets[depth]  # type: ignore[attr-defined]
    if not numbers:
        return [()] * count
    return list(zip(*(n.tolist() for n in numbers), strict=True))
