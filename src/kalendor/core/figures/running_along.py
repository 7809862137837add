"""Running totals along a period column, earlier periods included."""

import itertools
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from kalendor.core.figures.kind import Over
from kalendor.core.figures.occupied import Occupied, accumulated, occupied
from kalendor.core.figures.stretches import Reach
from kalendor.core.figures.timeline import Timeline
from kalendor.core.groupings.periods import CLOCK, COARSER, Grouper
from kalendor.core.placing.cells import assembled
from kalendor.core.takes.aggregate import Additive
from kalendor.core.takes.takes import TAKES
from kalendor.core.values import arithmetic as ar
from kalendor.core.values.columns import Column
from kalendor.definitions.figure import Running, Taken
from kalendor.errors import DefinitionError

Index = NDArray[np.int64]
REFUSAL = "cannot be run on: only sums, counts, means, least and largest values, and formulas of them can"


class RunningAlong(Timeline):
    """The running figures of one view."""

    def running(self, figure: Running) -> Column:
        """The value reached in every cell."""
        restart = self._restart(figure.restart)
        return assembled(self.frame, {c: self._running_at(figure, c, restart) for c in self.frame.crossings})

    def ran_over(self, figure: Running, crossing: tuple[int, int], line: int, column: int) -> Reach | None:
        """What the running figure of one cell of a crossing counts; None if it is blank."""
        restart = self._restart(figure.restart)
        reached = int(self._reached(crossing, restart)[line, column])
        if reached < 0:
            return None
        strip = self.strip(crossing)
        begun = next(s.start for s in self._segments(restart) if s.start <= reached < s.stop)
        return self.between(strip, int(strip.rows()[line, column]), begun, reached, np.arange(strip.width))

    def _restart(self, name: str) -> Grouper | str | None:
        """The grain to restart at, or the name of a level that is not a period, or None for never."""
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
        reached = self._reached(crossing, restart).reshape(-1)
        if not len(self.stretches.of):
            return ar.exact(np.zeros(len(reached), np.int64), np.ones(len(reached), dtype=bool), 0)
        strip = self.strip(crossing)
        own, part = occupied(strip), self._parts(restart)
        wanted = strip.rows().reshape(-1) * strip.width + np.maximum(reached, 0)
        first, at = own.first_of(part), own.up_to(wanted, part)
        groups = Over(lambda taken: self._run(taken, own, first, at), len(at), REFUSAL)
        cells = self.reckoner.over(figure.running, groups)
        return replace(cells, blank=cells.blanks | (reached < 0))

    def _reached(self, crossing: tuple[int, int], restart: Grouper | str | None) -> Index:
        """The stretch whose running value each cell shows, the last one within it that has begun by the as-of date,
        with or without records; −1 if none has, and above the level that it restarts at, where it has no single value."""
        shape = self.frame.block_shape(crossing)
        nothing = np.full(shape, -1, dtype=np.int64)
        at_crossing = self.at_crossing(crossing)
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
        began, _ = self.stretches.moments
        stretches = np.flatnonzero(began <= self.placer.ground.as_of)
        if not len(stretches):
            return nothing
        cells, of_stretch = self.keys(crossing, stretches)
        different, last = np.unique(of_stretch[::-1], return_index=True)
        last = stretches[len(stretches) - 1 - last]
        at = np.searchsorted(different, cells).clip(0, len(different) - 1)
        return np.where((cells >= 0) & (different[at] == cells), last[at], -1)

    def _run(self, figure: Taken, own: Occupied, first: Index, at: Index) -> Column:
        """A figure's running value in the groups `at`, restarting at the groups `first`."""
        take, (of, _) = TAKES[figure.take], self.reckoner.taking(figure)
        if not isinstance(take, Additive):
            raise DefinitionError(f"{figure.name!r} {REFUSAL}")
        runs = [
            np.append(accumulated(ufunc, part[: own.count], first), part[own.count :])[at]
            for ufunc, part in zip(take.combine, self.parts(figure, own), strict=True)
        ]
        return take.finish(tuple(runs), of)

    def _segments(self, restart: Grouper | str | None) -> list[slice]:
        """The runs of stretches over which a figure accumulates."""
        part = self._parts(restart)
        turns = [0, *(np.flatnonzero(np.diff(part)) + 1).tolist(), len(part)]
        return [slice(a, b) for a, b in itertools.pairwise(turns)]

    def _parts(self, restart: Grouper | str | None) -> Index:
        """Shape (stretches,): the run of each stretch, from 0."""
        if not isinstance(restart, Grouper):
            return np.zeros(len(self.stretches.first), dtype=np.int64)
        coarse = restart.numbers(
            self.stretches.moments[0], None if restart.grain not in CLOCK else self.stretches.moments[1]
        )
        return np.cumsum(np.diff(coarse, prepend=coarse[:1]) != 0)
