"""The bases of comparisons: the view of each, and whether a cell has one."""

from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray

from kalendor.core.groupings.periods import Grain
from kalendor.core.placing.counterparts import Compared, Counterparts
from kalendor.core.placing.era import Era
from kalendor.core.placing.placer import Placer
from kalendor.core.placing.shifts import Shift
from kalendor.core.placing.views import View
from kalendor.core.placing.windows import DayMap, cut_map
from kalendor.core.takes.groups import counts
from kalendor.core.values.columns import Column, Mask
from kalendor.core.values.keys import Key, key
from kalendor.definitions.figure import Back, Compare
from kalendor.errors import DefinitionError

NO_MARK, NEW, GONE, NOT_MEANINGFUL, MIXED = 0, 1, 2, 3, 4
MARK_WORDS = ("", "new", "gone", "n/m", "mixed")


class Bases:
    """The views of comparisons, each made once.

    `rows` are the records that satisfy the report's conditions; `main` is the sheet's own view. `dateless`: there is a
    date column to compare by, but none of these records has a date.
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
        self._open: dict[Key, Callable[[Grain | None], DayMap]] = {}
        self.counterparts = None if era is None else Counterparts(main, era)

    def shift_of(self, figure: Compare) -> Shift:
        """The shift of a comparison's base.

        Raises DefinitionError without a period on an axis or a window.
        """
        return shift_of(figure, self.era, self.placer)

    def value_view(self, to_date: bool) -> View:
        """The sheet's records without those after the cut."""
        era = self.era
        assert era is not None
        last = era.last if era.span is None else min(era.last, era.span.last)
        if not to_date or last <= era.as_of:
            return self.main
        own = key("cut", self.main.key)
        self._open[own] = lambda grain: cut_map(era.first, era.last, None, era.as_of)
        return self._view(own, lambda grain: cut_map(era.first, era.last, era.shown, era.as_of))

    def cut_cells(self) -> Mask | None:
        """Shape (lines × columns,): True for cells with records on both sides of the cut, so that only a part of what
        they show is compared; None if there are none."""
        cut = self.value_view(to_date=True)
        if cut is self.main:
            return None
        result = np.zeros(self.frame.shape, dtype=bool)
        for crossing in self.frame.crossings:
            whole, part = (counts(view.groups(crossing)) for view in (self.main, cut))
            result[self.frame.block(crossing)] = ((part > 0) & (part < whole)).reshape(self.frame.block_shape(crossing))
        return result.reshape(-1)

    def base_view(self, shift: Shift, to_date: bool) -> View:
        """The records of the earlier periods, placed where they are the base of days shown."""
        own = key("base", self.main.key, shift.kind, shift.count, shift.grain, shift.by_place, to_date)
        compared, counterparts, era = Compared(shift, to_date), self.counterparts, self.era
        assert counterparts is not None
        assert era is not None
        self._open[own] = lambda grain: counterparts.running_days(compared, grain)
        return self._view(own, lambda grain: counterparts.days(compared, grain, era.shown))

    def has_base(self, shift: Shift, to_date: bool) -> Mask:
        """Shape (lines × columns,): False where there is nothing to compare with."""
        assert self.counterparts is not None
        return self.counterparts.has_base(Compared(shift, to_date))

    def has_base_at(self, shift: Shift, to_date: bool, crossing: tuple[int, int]) -> Mask:
        """The same for the cells of one crossing, shape (lines, columns)."""
        assert self.counterparts is not None
        return self.counterparts.has_base_at(Compared(shift, to_date), crossing)

    def lacking(self, figures: Sequence[Compare]) -> list[str]:
        """The labels of the periods that have no counterpart in an earlier one."""
        if self.counterparts is None or self.dateless:
            return []
        found: dict[str, None] = {}
        for compared in dict.fromkeys(Compared(self.shift_of(f), f.to_date) for f in figures):
            found |= dict.fromkeys(self.counterparts.lacking(compared))
        return list(found)

    def open_days(self, view: View, grain: Grain | None) -> DayMap | None:
        """The days of a view of these bases, ignoring the window's edges, for figures that run through it."""
        return self._open[view.key](grain) if view.key in self._open else None

    def _view(self, own: Key, days: Callable[[Grain | None], DayMap]) -> View:
        if own not in self._views:
            self._views[own] = View(own, self.frame, self.placer, self.rows, days, self.main.memo)
        return self._views[own]

    def member(self, value: Column, label: str) -> tuple[Column, Mask]:
        """Each cell's base at the named member of the innermost category level, and whether there is one."""
        at = self.member_lines(label)
        width = self.frame.columns.count
        index = np.maximum(at, 0)[:, None] * width + np.arange(width)[None, :]
        return value.take(index.reshape(-1)), np.repeat(at >= 0, width)

    def member_lines(self, label: str) -> NDArray[np.int64]:
        """Shape (lines,): the line of the named member that each line is compared with; −1 for none.

        Raises DefinitionError if there is no category among the lines, or it has no such member.
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


def shift_of(figure: Compare, era: Era | None, placer: Placer) -> Shift:
    """The shift of a comparison's base; without a period axis it is that of the window itself, by as many periods as it
    shows, or by its length if it is given by dates.

    Raises DefinitionError without a period on an axis or a window.
    """
    if era is None or (era.span is None and placer.coarsest_grain is None):
        raise DefinitionError("comparing with an earlier period needs a period on an axis, or a window")
    if isinstance(figure.with_, Back):
        return Shift("back", figure.with_.back, figure.with_.grain, placer.weeks_are_places)
    if figure.with_ == "period_before" and placer.coarsest_grain is None:
        assert era.before is not None
        return Shift("back", *era.before)
    return Shift(str(figure.with_), by_place=placer.weeks_are_places)
