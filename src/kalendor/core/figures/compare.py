"""Comparisons: the base of each cell, whether there is one, and the pair as base, difference, percent or index."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from kalendor.core.groupings.periods import CLOCK, Grouper
from kalendor.core.placing.era import Era
from kalendor.core.placing.frame import Axis, Frame
from kalendor.core.placing.positions import NO_PERIOD, cell_periods, last_days_of, period_levels
from kalendor.core.placing.views import Placer, View
from kalendor.core.placing.windows import DayMap, Shift, cut_map, shift_map
from kalendor.core.takes.aggregate import counts
from kalendor.core.values import arithmetic as ar
from kalendor.core.values.columns import DAY_MICROSECONDS, Column, Mask, days_of
from kalendor.core.values.keys import Key, key
from kalendor.definitions.figure import Back, Compare
from kalendor.errors import DefinitionError

Index = NDArray[np.int64]
NO_MARK, NEW, GONE, NOT_MEANINGFUL = 0, 1, 2, 3
MARK_WORDS = ("", "new", "gone", "n/m")


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
    """The views that comparisons are taken in, each made once.

    `rows` are the records that pass the report's conditions; `main` is the sheet's own view of those that it shows.
    `dateless`: there is a date column to compare by, and none of these records has a date.
    """

    def __init__(
        self,
        placer: Placer,
        rows: NDArray[np.int64] | None,
        main: View,
        era: Era | None,
        dateless: bool = False,
    ) -> None:
        self.frame, self.placer, self.rows, self.main, self.era = main.frame, placer, rows, main, era
        self.dateless = dateless
        self._views: dict[Key, View] = {}
        self._open: dict[Key, Callable[[str], DayMap]] = {}
        self._targets: dict[tuple[Shift, str], tuple[int, Index]] = {}
        self._missing: dict[Shift, list[tuple[tuple[int, int], Mask]]] = {}

    def shift_of(self, figure: Compare) -> Shift:
        """How far back a comparison's base lies.

        Raises DefinitionError where there is neither a period on an axis nor a window.
        """
        return shift_of(figure, self.era, self.placer)

    def _grain(self, grain: str | None, shift: Shift | None = None) -> str:
        """The grain to compare by: a crossing's own, else the sheet's coarsest, else the one that the window counts in;
        for a window from a date to a date the one that the base lies back by."""
        assert self.era is not None
        if shift is not None and shift.kind == "back":
            by_shift = shift.grain
        else:
            by_shift = "year" if shift is not None and shift.kind == "year_earlier" else "day"
        return grain or self.placer.coarsest_grain() or self.era.grain or by_shift

    def value_view(self, to_date: bool) -> View:
        """The sheet's records, those after the cut left out."""
        era = self.era
        assert era is not None
        last = era.last if era.span is None else min(era.last, era.span.last)
        if not to_date or last <= era.as_of:
            return self.main
        own = key("cut", self.main.key)
        self._open[own] = lambda grain: cut_map(era.first, era.last, None, era.as_of)
        return self._view(own, lambda grain: cut_map(era.first, era.last, era.shown, era.as_of))

    def cut_cells(self) -> Mask | None:
        """Shape (lines × columns,): True where a cell holds records on both sides of the cut, so that what is compared
        is only a part of what it shows; None where no cell does."""
        cut = self.value_view(to_date=True)
        if cut is self.main:
            return None
        result = np.zeros(self.frame.shape, dtype=bool)
        for crossing in self.frame.crossings:
            whole, part = (counts(view.groups(crossing)) for view in (self.main, cut))
            result[self.frame.block(crossing)] = ((part > 0) & (part < whole)).reshape(self.frame.block_shape(crossing))
        return result.reshape(-1)

    def base_view(self, shift: Shift, to_date: bool) -> View:
        """The records of the earlier periods, standing where they are the base: those that answer to days shown."""
        own = key("base", self.main.key, shift.kind, shift.count, shift.grain, shift.by_place, to_date)
        self._open[own] = lambda grain: self._base_days(shift, to_date, None, grain)
        return self._view(own, lambda grain: self._base_days(shift, to_date, self._shown(), grain))

    def _base_days(self, shift: Shift, to_date: bool, shown: DayMap | None, grain: str | None) -> DayMap:
        era = self.era
        assert era is not None
        cut = era.as_of if to_date else None
        return shift_map(shift, era.calendar, self._grain(grain, shift), era.first, era.last, shown, cut)

    def _shown(self) -> DayMap | None:
        return self.era.shown if self.era is not None else None

    def open_days(self, view: View, grain: str) -> DayMap | None:
        """The days of a view of these bases, the window's edges left open, for figures that run through it."""
        return self._open[view.key](grain) if view.key in self._open else None

    def _view(self, own: Key, days: Callable[[str | None], DayMap]) -> View:
        if own not in self._views:
            self._views[own] = View(own, self.frame, self.placer, self.rows, days, self.main.memo)
        return self._views[own]

    def member(self, value: Column, label: str) -> tuple[Column, Mask]:
        """Each cell's base at the named member of the innermost category level, and where there is one."""
        at = self.member_lines(label)
        width = self.frame.columns.count
        index = np.maximum(at, 0)[:, None] * width + np.arange(width)[None, :]
        return value.take(index.reshape(-1)), np.repeat(at >= 0, width)

    def member_lines(self, label: str) -> NDArray[np.int64]:
        """Shape (lines,): the line of the named member that each line is compared with; −1 where there is none.

        Raises DefinitionError where no category stands among the lines, or it has no such member.
        """
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
        return np.array(
            [
                home.get((int(lines.depth[i]), *lines.path[i, rest].tolist()), -1) if lines.path[i, k] >= 0 else -1
                for i in range(lines.count)
            ],
            dtype=np.int64,
        )

    def has_base(self, shift: Shift, to_date: bool) -> Mask:
        """Shape (lines × columns,): False where there is nothing to compare with: where a cell's base, or that of any
        period under it, lies before the first record, and where its period has not begun by the cut."""
        result = np.ones(self.frame.shape, dtype=bool)
        for crossing in self.frame.crossings:
            result[self.frame.block(crossing)] = self.has_base_at(shift, to_date, crossing)
        return result.reshape(-1)

    def has_base_at(self, shift: Shift, to_date: bool, crossing: tuple[int, int]) -> Mask:
        """The same for the cells of one crossing, shape (lines, columns)."""
        era, column = self.era, self.placer.shifted
        assert era is not None
        assert column is not None
        if self.placer.coarsest_grain() is None:
            return np.full(self.frame.block_shape(crossing), self._window_reached(shift, to_date))
        fine = np.ones(self.frame.block_shape(crossing), dtype=bool)
        own = cell_periods(self.frame, crossing, column)
        if own is not None:
            grouper, ordinals = own
            different, at = np.unique(ordinals, return_inverse=True)
            compared = np.ones(len(different), dtype=bool)
            known = different != NO_PERIOD
            compared[known] = self._compared(shift, to_date, grouper, different[known])
            fine = compared[at.reshape(ordinals.shape)]
        return fine & self._all_below_reached(shift, crossing)

    def _window_reached(self, shift: Shift, to_date: bool) -> bool:
        """Without a period axis: whether each period of the window that holds records has a base."""
        era = self.era
        assert era is not None
        assert era.span is not None
        grain = self._grain(None, shift)
        column = self.placer.ground.column(self.placer.shifted or "")
        shown = column if self.main.rows is None else column.take(self.main.rows)
        days = np.unique(days_of(shown)[shown.present])
        if to_date:
            days = days[days <= era.as_of]
        if not len(days):
            last = min(era.span.last, era.as_of) if to_date else era.span.last
            first = max(era.span.first, era.first)
            return bool(self._reached(shift, grain, np.array([first]), np.array([last]))[0])
        if era.grain is None:
            return bool(self._reached(shift, grain, days, days).any())
        held = np.unique(era.calendar.ordinals(grain, days))
        bounds = era.calendar.starts(grain, held), era.calendar.starts(grain, held + 1) - 1
        return bool(self._reached(shift, grain, *bounds).all())

    def _compared(self, shift: Shift, to_date: bool, grouper: Grouper, ordinals: Index) -> Mask:
        """Which of some periods have begun by the cut and have a base."""
        era = self.era
        assert era is not None
        starts = grouper.starts(ordinals)
        days = starts // DAY_MICROSECONDS if grouper.grain in CLOCK else starts
        return self._period_reached(shift, grouper, ordinals) & (not to_date or days <= era.as_of)

    def _period_reached(self, shift: Shift, grouper: Grouper, ordinals: Index) -> Mask:
        """Of which periods the base, as cut, does not end before the first record."""
        era = self.era
        assert era is not None
        starts = grouper.starts(ordinals)
        if shift.later(grouper.grain):
            return starts > era.first_moment
        if grouper.grain in CLOCK:
            starts = starts // DAY_MICROSECONDS
        return self._reached(shift, grouper.grain, starts, last_days_of(grouper, ordinals))

    def _reached(self, shift: Shift, grain: str, first: Index, last: Index) -> Mask:
        """Of which stretches of days from `first` to `last` the base is not before the first record: some day from then on
        counts as one of them."""
        era = self.era
        assert era is not None
        end = int(last.max(initial=era.first - 1))
        if end < era.first:
            return np.zeros(len(first), dtype=bool)
        if (shift, grain) not in self._targets or self._targets[shift, grain][0] < end:
            days = np.arange(era.first, end + 1)
            self._targets[shift, grain] = end, np.unique(shift.forward(era.calendar, grain, days))
        targets = self._targets[shift, grain][1]
        return np.searchsorted(targets, first) < np.searchsorted(targets, last, side="right")

    def _all_below_reached(self, shift: Shift, crossing: tuple[int, int]) -> Mask:
        """False for cells that hold records of a period, of any level under them, which has no base."""
        shape = self.frame.block_shape(crossing)
        result = np.ones(shape, dtype=bool)
        for below, missing in self._without_base(shift):
            if below != crossing and below[0] >= crossing[0] and below[1] >= crossing[1]:
                result &= ~_over_periods(self.frame, missing, below, crossing, self.placer.shifted or "")
        return result

    def _without_base(self, shift: Shift) -> list[tuple[tuple[int, int], Mask]]:
        """For each crossing that ends at a period level: the cells that hold records and whose period has no base."""
        if shift not in self._missing:
            self._missing[shift] = [
                (crossing, missing)
                for crossing in self.frame.crossings
                if (missing := self._missing_at(shift, crossing)) is not None and missing.any()
            ]
        return self._missing[shift]

    def _missing_at(self, shift: Shift, crossing: tuple[int, int]) -> Mask | None:
        column = self.placer.shifted
        assert column is not None
        found = cell_periods(self.frame, crossing, column)
        if found is None:
            return None
        grouper, ordinals = found
        held = self.main.held()[self.frame.block(crossing)] & (ordinals != NO_PERIOD)
        different = np.unique(ordinals[held])
        missing: Mask = held & np.isin(ordinals, different[~self._period_reached(shift, grouper, different)])
        return missing


def _over_periods(frame: Frame, cells: Mask, below: tuple[int, int], crossing: tuple[int, int], column: str) -> Mask:
    """Which cells of a crossing lie over the period of one of the given cells of a crossing below it, on whatever line."""
    under_lines, lines, _ = _period_ids(frame.lines, below[0], crossing[0], column)
    under_columns, columns, width = _period_ids(frame.columns, below[1], crossing[1], column)
    at = np.nonzero(cells)
    found = np.unique(under_lines[at[0]] * width + under_columns[at[1]])
    return np.isin(lines[:, None] * width + columns[None, :], found)


def _period_ids(axis: Axis, below: int, depth: int, column: str) -> tuple[NDArray[np.int64], NDArray[np.int64], int]:
    """A number for the periods down to `depth` of each line of the depths `below` and `depth`, and how many there are."""
    levels = period_levels(axis, depth, column)
    paths = [axis.path[axis.lines_at(d)][:, levels].astype(np.int64) for d in (below, depth)]
    if not levels:
        return np.zeros(len(paths[0]), np.int64), np.zeros(len(paths[1]), np.int64), 1
    different, ids = np.unique(np.concatenate(paths), axis=0, return_inverse=True)
    ids = ids.reshape(-1)
    return ids[: len(paths[0])], ids[len(paths[0]) :], len(different)


def shift_of(figure: Compare, era: Era | None, placer: Placer) -> Shift:
    """How far back a comparison's base lies: without a period axis the window itself is moved, by one of its periods,
    or by its length where it is from a date to a date.

    Raises DefinitionError where there is neither a period on an axis nor a window.
    """
    if era is None or (era.span is None and placer.coarsest_grain() is None):
        raise DefinitionError("comparing with an earlier period needs a period on an axis, or a window")
    if isinstance(figure.with_, Back):
        return Shift("back", figure.with_.back, figure.with_.grain, placer.weeks_are_places)
    if figure.with_ == "period_before" and placer.coarsest_grain() is None and era.grain is None:
        assert era.span is not None
        return Shift("back", era.span.last - era.span.first + 1, "day")
    return Shift(str(figure.with_), by_place=placer.weeks_are_places)
