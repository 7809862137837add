"""Moving sums and means over the last periods, earlier ones outside the window included."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from kalendor.core.figures.kind import Over, nothing
from kalendor.core.figures.occupied import Occupied, occupied, windowed, with_empty
from kalendor.core.figures.stretches import Placed, Reach, Strip
from kalendor.core.figures.timeline import Timeline
from kalendor.core.groupings.periods import Grouper
from kalendor.core.placing.cells import assembled
from kalendor.core.takes.aggregate import Additive
from kalendor.core.takes.takes import TAKES
from kalendor.core.values import arithmetic as ar
from kalendor.core.values.columns import DAY_MICROSECONDS, EXACT, Column
from kalendor.definitions.figure import Moving, Taken

Index = NDArray[np.int64]
REFUSAL = "cannot be moved along: only figures taken from records, and formulas of them, can"


class MovingAlong(Timeline):
    """The moving figures of one view."""

    def moving(self, figure: Moving) -> Column:
        """The sum or mean of the last periods, each crossing by its own periods."""
        blocks = {c: self._moving_at(figure, c) for c in self.frame.crossings}
        filled = {c: b for c, b in blocks.items() if b is not None}
        if not filled:
            return nothing(self.frame.shape[0] * self.frame.shape[1])
        if any(b.kind not in EXACT for b in filled.values()):
            filled = {c: ar.approximate(b.floats(), b.blanks) for c, b in filled.items()}
        return assembled(self.frame, filled)

    def moved_over(self, figure: Moving, crossing: tuple[int, int], line: int, column: int) -> Reach | None:
        """What the moving figure of one cell of a crossing counts; None if it is blank."""
        placed = self._placed_periods(figure, crossing)
        if placed is None or not placed.known[line, column]:
            return None
        last, row = int(placed.here[line, column]), int(placed.strip.rows()[line, column])
        return self.between(placed.strip, row, last - figure.periods + 1, last, placed.period)

    def _placed_periods(self, figure: Moving, crossing: tuple[int, int]) -> Placed | None:
        """The records of a crossing by its own periods, and the period of each cell; None if it has none of its own."""
        groupers = [axis.levels[k].period.grouper for axis, k, _ in self.at_crossing(crossing)]
        outer = {g.grain for g in groupers if g.within is None}
        if not groupers or any(g.within is not None and g.within not in outer for g in groupers):
            return None
        if not len(self.stretches.of):
            return None
        every = np.arange(len(self.stretches.first))
        cells, of_stretch = self.keys(crossing, every)
        period = self._periods(groupers)
        strip = self._gathered(self.strip(crossing), period)
        different, first = np.unique(of_stretch, return_index=True)
        at = np.searchsorted(different, cells).clip(0, len(different) - 1)
        known = (cells >= 0) & (different[at] == cells)
        here = np.where(known, period[first[at]], 0)
        begin, end = self._span(period)
        known &= (here - figure.periods + 1 >= begin) & (here <= end)
        return Placed(strip, period, here, known)

    def _periods(self, groupers: Sequence[Grouper]) -> Index:
        """The period of each stretch, numbered from 0, also those without a member on the sheet."""
        days, clock = self.stretches.moments
        turns = np.zeros(len(days), dtype=bool)
        for grouper in groupers:
            numbers = replace(grouper, within=None).numbers(days, clock)
            turns[1:] |= numbers[1:] != numbers[:-1]
        return np.cumsum(turns)

    def _moving_at(self, figure: Moving, crossing: tuple[int, int]) -> Column | None:
        placed = self._placed_periods(figure, crossing)
        if placed is None:
            return None
        n, own = figure.periods, occupied(placed.strip)
        row, here = placed.strip.rows().reshape(-1), placed.here.reshape(-1)
        begin, end = own.between(row, here - n + 1, here)
        empties = n - (end - begin)
        groups = Over(lambda taken: self._each(taken, own), own.count + 1, REFUSAL)
        values = self.reckoner.over(figure.moving, groups)
        there = values.present
        last = own.count
        total = windowed(np.where(there, values.values, 0)[:last], begin, end)
        total = with_empty(total, values.values[last] if there[last] else None, empties)
        if self.reckoner.adds_up(figure.moving):
            counted = np.full(len(here), n, dtype=np.int64)
        else:
            counted = with_empty(windowed(there[:last].astype(np.int64), begin, end), int(there[last]), empties)
        kept = Column(values.kind, total, counted == 0, values.places)
        if figure.take == "mean":
            kept = ar.divide(kept, ar.exact(counted, None, 0))
        return replace(kept, blank=kept.blanks | ~placed.known.reshape(-1))

    def _gathered(self, strip: Strip, period: Index) -> Strip:
        """A strip with its stretches gathered into periods."""
        width = int(period[-1]) + 1
        of = np.where(strip.of >= 0, strip.of // strip.width * width + period[strip.of % strip.width], -1)
        return replace(strip, of=of, width=width)

    def _span(self, period: Index) -> tuple[int, int]:
        """The periods of the first record that satisfies the report's conditions, and of the last one or the as-of
        date; all between count, with or without records."""
        era = self.reckoner.bases.era
        if era is None or self.column != self.placer.shifted:
            return 0, int(period[-1])
        moments = np.array([era.first_moment, (max(era.last, era.as_of) + 1) * DAY_MICROSECONDS - 1])
        first, last = self.stretches.at(moments // DAY_MICROSECONDS, moments % DAY_MICROSECONDS)
        return int(period[max(first, 0)]), int(period[last])  # index -1 is the last, beyond all periods

    def _each(self, figure: Taken, own: Occupied) -> Column:
        """A figure for every group, and for one without records."""
        of, where = self.reckoner.taking(figure)
        take = TAKES[figure.take]
        if isinstance(take, Additive):
            return take.finish(self.parts(figure, own), of)
        return take.cells(own.records().where(None if where is None else where.mask), of)
