"""A period entry: a date column in the grains of a calendar, one level each."""

from collections.abc import Sequence
from dataclasses import replace

from kalendor.core.groupings.built import Builder, Built, level_names
from kalendor.core.groupings.ground import Ground
from kalendor.core.groupings.levels import ORDINARY, Level
from kalendor.core.groupings.period_names import with_names
from kalendor.core.groupings.periods import CLOCK, COARSER, Grouper, period_level
from kalendor.core.values.keys import Keyed
from kalendor.definitions.axis import AxisEntry, DayRun, PeriodEntry
from kalendor.errors import DefinitionError


class Periods(Builder[PeriodEntry]):
    def rests_on(self, ground: Ground, entry: PeriodEntry, other: Sequence[AxisEntry]) -> tuple[Keyed, ...]:
        return ground.groupings.calendar_document(entry.calendar), *(_within(entry, g, other) for g in entry.grains)

    def built(self, ground: Ground, entry: PeriodEntry, other: Sequence[AxisEntry]) -> Built:
        column = ground.column(entry.period)
        names = level_names(entry, len(entry.grains))
        grains = [g for g in entry.grains if isinstance(g, str) and g in COARSER]
        if grains != sorted(grains, key=COARSER.__getitem__) or len(set(map(str, entry.grains))) != len(entry.grains):
            raise DefinitionError(f"the grains of {entry.period!r} must go from coarser to finer, each once")
        which = ground.groupings.calendar(entry.calendar)
        levels = []
        for name, grain in zip(names, entry.grains, strict=True):
            run = grain if isinstance(grain, DayRun) else None
            grouper = Grouper(entry.period, which, "run" if run else str(grain), run, _within(entry, grain, other))
            period, codes, members = period_level(grouper, column)
            if entry.labels:
                members = replace(members, labels=tuple(with_names(members, entry.labels)))
            if entry.empty == "show":
                members = replace(members, always=members.special == ORDINARY)
            levels.append(Level(name, "period", 0, codes, members, period))
        return Built(tuple(levels))


def _within(entry: PeriodEntry, grain: object, other: Sequence[AxisEntry]) -> str | None:
    """The finest coarser grain of the same column and calendar on the other axis, if any."""
    if not isinstance(grain, str) or grain not in COARSER:
        return None
    found = [
        g
        for o in other
        if isinstance(o, PeriodEntry) and o.period == entry.period and o.calendar == entry.calendar
        for g in o.grains
        if isinstance(g, str) and g in COARSER and COARSER[g] < COARSER[grain] and (g == "day" or grain not in CLOCK)
    ]
    return max(found, key=COARSER.__getitem__, default=None)
