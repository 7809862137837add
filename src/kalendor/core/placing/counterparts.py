"""Which cells of a comparison over time have a base: those whose days are the counterparts of days from the first
record on."""

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from kalendor.core.groupings.periods import CLOCK, Grain, width
from kalendor.core.placing.cells import Crossing
from kalendor.core.placing.era import Era
from kalendor.core.placing.frame import Axis, Frame
from kalendor.core.placing.positions import (
    NO_PERIOD,
    CellDays,
    cell_days,
    cell_periods,
    last_days_of,
    period_levels,
    starts_of,
    undated,
)
from kalendor.core.placing.shifts import Shift
from kalendor.core.placing.views import View
from kalendor.core.placing.windows import NONE, DayMap
from kalendor.core.values.columns import DAY_MICROSECONDS, Mask, days_of

Index = NDArray[np.int64]
SLACK = 1_500


@dataclass(frozen=True, eq=False)
class Targets:
    """The counterparts of base days, rising: of those from the first record on, and of those before it."""

    after: Index
    before: Index


@dataclass(frozen=True, eq=False)
class States:
    """For some ranges of days: whether one is the counterpart of a base day from the first record on; whether all base
    days lie before it; if neither, they have no counterpart."""

    reached: Mask
    before: Mask


@dataclass(frozen=True)
class Compared:
    """The shift of a comparison, and whether its pair is cut at the as-of date."""

    shift: Shift
    to_date: bool


class Counterparts:
    """The counterparts for one sheet, whose own records are those of `main`."""

    def __init__(self, main: View, era: Era) -> None:
        self.main, self.frame, self.placer, self.era = main, main.frame, main.placer, era
        self._cells: dict[Crossing, CellDays | None] = {}
        self._has: dict[tuple[Compared, Crossing], Mask] = {}
        self._targets: dict[tuple[Compared, Grain | None], Targets] = {}
        self._early: dict[Compared, tuple[tuple[int, int], Mask] | None] = {}

    def days(self, compared: Compared, grain: Grain | None, shown: DayMap | None) -> DayMap:
        """The day that each day of the data counts as when it is a base for cells of `grain` (None: totals)."""
        era = self.era
        days = np.arange(era.first, era.last + 1 + (1 if compared.shift.later(self._grain(grain, compared)) else 0))
        target = self._forward(compared, grain, days, shown)
        return DayMap(era.first, target, compared.shift.later(self._grain(grain, compared)))

    def running_days(self, compared: Compared, grain: Grain | None) -> DayMap:
        """The same for figures that run through the periods, ignoring the window's edges: a day without a counterpart
        counts with the next one, which is as far as the base has run by then."""
        found = self.days(compared, grain, None)
        if grain is None or width(grain) > width("day"):
            return found
        whole = DayMap(found.low, self._forward(compared, None, np.arange(len(found.table)) + found.low, None))
        lost = (found.table == NONE) & (whole.table != NONE)
        following = np.where(found.table == NONE, np.iinfo(np.int64).max, found.table)
        following = np.minimum.accumulate(following[::-1])[::-1]
        known = following != np.iinfo(np.int64).max
        return replace(found, table=np.where(lost & known, following, found.table))

    def has_base(self, compared: Compared) -> Mask:
        """Shape (lines × columns,): False where there is nothing to compare with: no counterpart, a base that ends
        before the first record, a period that has not begun by the cut, or none at all."""
        result = np.ones(self.frame.shape, dtype=bool)
        for crossing in self.frame.crossings:
            result[self.frame.block(crossing)] = self.has_base_at(compared, crossing)
        return result.reshape(-1)

    def has_base_at(self, compared: Compared, crossing: tuple[int, int]) -> Mask:
        """The same for the cells of one crossing, shape (lines, columns); cached."""
        if (compared, crossing) not in self._has:
            self._has[compared, crossing] = self._has_base_at(compared, crossing)
        return self._has[compared, crossing]

    def _has_base_at(self, compared: Compared, crossing: tuple[int, int]) -> Mask:
        if self.placer.coarsest_grain is None:
            return np.full(self.frame.block_shape(crossing), self._window_has(compared))
        own = self._days_at(crossing)
        if own is None:
            dated = ~undated(self.frame, crossing, self.placer.shifted or "")
            return self._totals_have(compared, crossing) & dated
        found = ~own.undated
        if compared.shift.later(self.placer.grain_at(crossing) or "day"):
            found[own.known] = self._hours_after_first(crossing)[own.known]
        else:
            grain = self.placer.grain_at(crossing)
            found[own.known] = self._reached(compared, grain, own.first[own.known], own.last[own.known])
        begun = ~own.known | (own.first <= self.era.as_of) if compared.to_date else True
        return found & begun

    def lacking(self, compared: Compared) -> list[str]:
        """The labels of the periods on the sheet that hold records and have no counterpart."""
        found: dict[str, None] = {}
        for axis, down in ((self.frame.lines, True), (self.frame.columns, False)):
            for k in period_levels(axis, len(axis.levels), self.placer.shifted or ""):
                crossing = (k + 1, 0) if down else (0, k + 1)
                own = self._days_at(crossing)
                if own is None or compared.shift.later(self.placer.grain_at(crossing) or "day"):
                    continue
                states = self._states(compared, self.placer.grain_at(crossing), own.first.ravel(), own.last.ravel())
                without = own.known.ravel() & ~states.reached & ~states.before & (own.first.ravel() <= self.era.as_of)
                codes = axis.path[axis.lines_at(k + 1), k][
                    without & self.main.held()[self.frame.block(crossing)].ravel()
                ]
                found |= dict.fromkeys(axis.levels[k].members.labels[code] for code in codes.tolist())
        return list(found)

    # -- days

    def _days_at(self, crossing: Crossing) -> CellDays | None:
        """The days of the cells of a crossing (see `cell_days`); cached."""
        if crossing not in self._cells:
            self._cells[crossing] = cell_days(self.frame, crossing, self.placer.shifted or "")
        return self._cells[crossing]

    def _grain(self, grain: Grain | None, compared: Compared) -> Grain:
        """The grain to compare by: a crossing's own, else the sheet's coarsest, else the window's."""
        by = "year" if compared.shift.kind == "year_earlier" else compared.shift.grain
        return grain or self.placer.coarsest_grain or self.era.grain or by

    def _forward(self, compared: Compared, grain: Grain | None, days: Index, shown: DayMap | None) -> Index:
        era = self.era
        own = self._grain(grain, compared)
        target = compared.shift.forward(era.calendar, own, days, whole=grain is None)
        target = np.where(era.alike(days), target, NONE)
        if shown is not None:
            target = np.where(target == NONE, NONE, shown.of(target))
        return np.where(target > era.as_of, NONE, target) if compared.to_date else target

    def _states(self, compared: Compared, grain: Grain | None, first: Index, last: Index) -> States:
        """The states of ranges of days of one grain: whether their base, as cut, exists, and whether it is before the
        data."""
        reached = self._reached(compared, grain, first, last)
        if not len(first):
            return States(reached, reached)
        era, own = self.era, self._grain(grain, compared)
        before = self._targets_of(compared, grain, first, last).before
        earlier = _any_within(before, first, last) | compared.shift.before(era.calendar, own, first, era.first - SLACK)
        return States(reached, ~reached & earlier)

    def _reached(self, compared: Compared, grain: Grain | None, first: Index, last: Index) -> Mask:
        """Which ranges of days of one grain contain the counterpart of a base day from the first record on."""
        if not len(first):
            return np.zeros(0, dtype=bool)
        return _any_within(self._targets_of(compared, grain, first, last).after, first, last)

    def _targets_of(self, compared: Compared, grain: Grain | None, first: Index, last: Index) -> Targets:
        """The counterparts of base days for cells of `grain`; computed for all days of the sheet, and cached."""
        if (compared, grain) not in self._targets:
            era = self.era
            low, high = self._shown_days(int(first.min()), int(last.max()))
            days = compared.shift.base_days(era.calendar, self._grain(grain, compared), low, high, era.first - SLACK)
            target = self._forward(compared, grain, days, era.shown)
            there, after = target != NONE, days >= era.first
            self._targets[compared, grain] = Targets(
                np.unique(target[there & after]), np.unique(target[there & ~after])
            )
        return self._targets[compared, grain]

    def _shown_days(self, first: int, last: int) -> tuple[int, int]:
        """The first and last day of all periods on the sheet, and of those from `first` to `last`."""
        return min(first, self._sheet_days[0]), max(last, self._sheet_days[1])

    @cached_property
    def _sheet_days(self) -> tuple[int, int]:
        """The first and last day of all periods on the sheet; the last before the first where it has none."""
        first, last = np.iinfo(np.int64).max, np.iinfo(np.int64).min
        for levels, down in ((self.placer.down, True), (self.placer.across, False)):
            for k in self.placer.periods_on(down):
                period = levels[k].period
                if period.grouper.mode == "own" and len(period.numbers):
                    ends = np.array([period.numbers[0], period.numbers[-1]])
                    begins = int(starts_of(period.grouper, ends[:1])[0])
                    begins = begins // DAY_MICROSECONDS if period.grouper.grain in CLOCK else begins
                    first, last = min(first, begins), max(last, int(last_days_of(period.grouper, ends[1:])[0]))
        return first, last

    def _hours_after_first(self, crossing: tuple[int, int]) -> Mask:
        """Which hours and minutes begin after the first record, so that some records come before them."""
        found = cell_periods(self.frame, crossing, self.placer.shifted or "")
        assert found is not None
        grouper, ordinals = found
        known = ordinals != NO_PERIOD
        starts: Mask = np.zeros(ordinals.shape, dtype=bool)
        starts[known] = grouper.starts(ordinals[known]) > self.era.first_moment
        return starts

    # -- totals

    def _window_has(self, compared: Compared) -> bool:
        """Without a period on an axis: whether each period of the window that has records has a base that is not before
        the first record, and at least one has any."""
        era = self.era
        assert era.span is not None
        column = self.placer.ground.column(self.placer.shifted or "")
        shown = column if self.main.rows is None else column.take(self.main.rows)
        days = np.unique(days_of(shown)[shown.present])
        if compared.to_date:
            days = days[days <= era.as_of]
        whole = np.array([era.span.first]), np.array([era.span.last])
        if era.grain is None or compared.shift.kind == "back" or not len(days):
            return bool(self._reached(compared, None, *whole)[0])
        held = np.unique(era.calendar.ordinals(era.grain, days))
        bounds = era.calendar.starts(era.grain, held), era.calendar.starts(era.grain, held + 1) - 1
        states = self._states(compared, None, *bounds)
        return bool(states.reached.any() and not states.before.any())

    def _totals_have(self, compared: Compared, crossing: tuple[int, int]) -> Mask:
        """False for totals over a period of the outermost level whose base is before the first record, and if no day of
        theirs has a counterpart."""
        shape = self.frame.block_shape(crossing)
        early = self._early_periods(compared)
        targets = self._targets.get((compared, None))
        if early is None:
            return np.ones(shape, dtype=bool)
        below, missing = early
        if targets is None:
            targets = self._targets_of(compared, None, np.array([self.era.first]), np.array([self.era.last]))
        if not len(targets.after) and not self._by_hours(compared):
            return np.zeros(shape, dtype=bool)
        return ~_over_periods(self.frame, missing, below, crossing, self.placer.shifted or "")

    def _by_hours(self, compared: Compared) -> bool:
        return bool(compared.shift.later(self.placer.coarsest_grain or "day"))

    def _early_periods(self, compared: Compared) -> tuple[tuple[int, int], Mask] | None:
        """The crossing of the outermost periods alone, and those of its cells that have records and whose base is
        before the first record."""
        if compared not in self._early:
            self._early[compared] = self._found_early(compared)
        return self._early[compared]

    def _found_early(self, compared: Compared) -> tuple[tuple[int, int], Mask] | None:
        crossing = self.placer.outermost
        own = None if crossing is None else self._days_at(crossing)
        if crossing is None or own is None:
            return None
        held = self.main.held()[self.frame.block(crossing)] & own.known
        early = np.zeros(held.shape, dtype=bool)
        if self._by_hours(compared):
            early[held] = ~self._hours_after_first(crossing)[held]
        else:
            early[held] = self._states(compared, self.placer.grain_at(crossing), own.first[held], own.last[held]).before
        return crossing, early


def _any_within(days: Index, first: Index, last: Index) -> Mask:
    """Which ranges from `first` to `last` contain one of the rising `days`."""
    found: Mask = np.searchsorted(days, first) < np.searchsorted(days, last, side="right")
    return found


def _over_periods(frame: Frame, cells: Mask, below: tuple[int, int], crossing: tuple[int, int], column: str) -> Mask:
    """Which cells of a crossing are over one of the given cells of the crossing `below`, whose levels the crossing has
    only in part: matched by the periods that both have, on any line."""
    depth = min(below[0], crossing[0]), min(below[1], crossing[1])
    under_lines, lines, _ = _period_ids(frame.lines, below[0], crossing[0], depth[0], column)
    under_columns, columns, width = _period_ids(frame.columns, below[1], crossing[1], depth[1], column)
    at = np.nonzero(cells)
    found = np.unique(under_lines[at[0]] * width + under_columns[at[1]])
    return np.isin(lines[:, None] * width + columns[None, :], found)


def _period_ids(axis: Axis, below: int, depth: int, common: int, column: str) -> tuple[Index, Index, int]:
    """A number for the periods down to the depth `common` of each line of the depths `below` and `depth`, and the
    number of distinct ones."""
    levels = period_levels(axis, common, column)
    paths = [axis.path[axis.lines_at(d)][:, levels].astype(np.int64) for d in (below, depth)]
    if not levels:
        return np.zeros(len(paths[0]), np.int64), np.zeros(len(paths[1]), np.int64), 1
    different, ids = np.unique(np.concatenate(paths), axis=0, return_inverse=True)
    ids = ids.reshape(-1)
    return ids[: len(paths[0])], ids[len(paths[0]) :], len(different)
