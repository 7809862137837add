"""The words on a sheet for what is hidden, reversed in sign, cut, or counted without being shown."""

from collections.abc import Mapping, Sequence

import numpy as np

from kalendor.core.figures.units import telling
from kalendor.core.groupings.periods import COARSER
from kalendor.core.placing.era import Era
from kalendor.core.placing.frame import Axis
from kalendor.core.placing.positions import days_at, period_levels
from kalendor.core.placing.windows import NONE
from kalendor.core.takes.units import Coded
from kalendor.core.values.columns import day_of
from kalendor.core.values.days import MONTH_NAMES
from kalendor.core.values.notation import grouped, noted_day
from kalendor.definitions.figure import Compare, FigureBase, Taken

MOST_NAMED = 3


def negative(labels: Sequence[str]) -> list[str]:
    """The note that the amounts of some categories are reversed in sign."""
    return [f"{', '.join(labels)} {'counts' if len(labels) == 1 else 'count'} negative"] if labels else []


def hidden(count: int, kept: bool) -> list[str]:
    """The note on how many lines `keep` hides, and whether totals count them."""
    if kept:
        return ["totals are of the lines kept alone"]
    if not count:
        return []
    return [f"{count} {'line is' if count == 1 else 'lines are'} hidden and still counted in totals"]


def out_of_sight(lines: int, columns: int) -> list[str]:
    """The note on how many lines and columns are hidden although totals count them."""
    said = [f"{n} {word if n == 1 else word + 's'}" for n, word in ((lines, "line"), (columns, "column")) if n]
    if not said:
        return []
    return [f"{' and '.join(said)} {'is' if lines + columns == 1 else 'are'} out of sight and still counted in totals"]


def rounded(figures: Sequence[tuple[str, int]]) -> list[str]:
    """The note on which figures are rounded so that they add up, and how many of each one's numbers differ from plain
    rounding."""
    found = []
    for name, moved in figures:
        differ = f"{grouped(moved)} number differs" if moved == 1 else f"{grouped(moved)} numbers differ"
        found.append(
            f"{name} is rounded so that it adds up; {differ} from the nearest"
            if moved
            else f"{name} is rounded so that it adds up"
        )
    return found


def compared(era: Era | None, figures: Sequence[Compare], unshown: int) -> list[str]:
    """The note on records that end before the day compared to, and on base records that no line or column shows."""
    found = []
    if era is not None and era.last < era.as_of and any(f.to_date for f in figures):
        found.append(f"records end on {noted_day(era.last)}; figures are compared to {noted_day(era.as_of)}")
    if unshown:
        records = "record of an earlier period answers" if unshown == 1 else "records of earlier periods answer"
        found.append(
            f"{grouped(unshown)} {records} to periods without records, which are not shown; totals count them as base"
        )
    return found


def mixed(units: Mapping[str, Coded], figures: Sequence[FigureBase]) -> list[str]:
    """The note on the units of the amounts that figures take, if there are several."""
    taken = dict.fromkeys(f.of for f in figures if isinstance(f, Taken) and f.of in units and telling(f, units))
    return [
        f"{name} is in {_named(units[name].labels)}: no number is shown over several of these; such cells are marked mixed"
        for name in taken
        if name is not None
    ]


def _named(labels: Sequence[str]) -> str:
    """The first few of some units, and the number of the others."""
    named, more = [label or "no unit" for label in labels[:MOST_NAMED]], len(labels) - MOST_NAMED
    if more > 0:
        return f"{', '.join(named)} and {grouped(more)} more"
    return " and ".join([", ".join(named[:-1]), named[-1]] if len(named) > 1 else named)


def without_counterpart(labels: Sequence[str]) -> list[str]:
    """The note on periods without a counterpart to compare with, because of which lines need not add up to a total."""
    if not labels:
        return []
    more = len(labels) - MOST_NAMED
    named = ", ".join(labels[:MOST_NAMED]) + (f" and {grouped(more)} more" if more > 0 else "")
    has, its = ("has", "its comparison is") if len(labels) == 1 else ("have", "their comparisons are")
    return [f"{named} {has} no counterpart; {its} blank, and totals are compared as a whole"]


def cut(axis: Axis, column: str, era: Era, to_date: bool | None) -> dict[int, str]:
    """For each line or column of a period that is cut: `to 31 Jul`; `part` if it is compared with whole ones.

    Periods are cut by the edges of a window and, if there are comparisons, by the as-of date or the data's end;
    `to_date` says whether any comparison is cut there, and is None if there are none.
    """
    notes: dict[int, str] = {}
    for depth in range(1, len(axis.levels) + 1):
        levels = [k for k in period_levels(axis, depth, column) if k == depth - 1]
        if not levels:
            continue
        period = axis.levels[depth - 1].period
        assert period is not None
        if (
            period.grouper.mode != "own"
            or period.grouper.grain not in COARSER
            or COARSER[period.grouper.grain] > COARSER["month"]
        ):
            continue
        first, last, is_period = days_at(axis, depth, depth - 1)
        known = np.flatnonzero(is_period)
        first, one, of_line = np.unique(first[known], return_index=True, return_inverse=True)
        last = last[known][one]
        said = [_note(era, start, end, to_date) for start, end in zip(first.tolist(), last.tolist(), strict=True)]
        noted = np.array([bool(note) for note in said], dtype=bool)[of_line]
        for at, which in zip(known[noted].tolist(), of_line[noted].tolist(), strict=True):
            notes[axis.offsets[depth] + at] = said[which]
    return notes


def _note(era: Era, start: int, end: int, to_date: bool | None) -> str:
    """The words for the period from `start` to `end` if not all of its days count."""
    if era.shown is not None:
        days = np.arange(start, end + 1)
        shown = days[era.shown.of(days) != NONE]
        if len(shown) and shown[-1] < end:
            return f"to {_said(int(shown[-1]))}"
    at = era.as_of if to_date else era.last
    if to_date is None or not start <= at < end:
        return ""
    return f"to {_said(at)}" if to_date else "part"


def _said(day: int) -> str:
    date = day_of(day)
    return f"{date.day} {MONTH_NAMES[date.month - 1]}"
