"""The impact of a changed grouping on the reports that use it, line by line of the level that it makes."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import cast

import numpy as np

from kalendor.core.sheet.sheet import TOTAL, Sheet, Side
from kalendor.definitions.kinds import Grouping
from kalendor.definitions.report import Report
from kalendor.definitions.resting import entries_on
from kalendor.desk.desk import Desk
from kalendor.desk.groupings import uses
from kalendor.desk.ingredients import now
from kalendor.desk.sheets import sheet_from
from kalendor.errors import KalendorError
from kalendor.output.shown import shown_cells

SHOWN_LINES = 8


@dataclass(frozen=True)
class Moved:
    """A line whose first figure changes: its values before and after."""

    line: str
    before: str
    after: str


@dataclass(frozen=True)
class Impact:
    """The impact on one report: how many lines change, the first of them, or why it cannot be computed."""

    report: str
    moved: int
    lines: list[Moved]
    problem: str = ""


def impact(desk: Desk, before: Grouping, after: Grouping) -> list[Impact]:
    """What would change in each report that uses a grouping if the grouping were changed."""
    stored = [cast(Grouping, d.body) for d in desk.definitions.all("tree", "calendar", "buckets")]
    then = [*(d for d in stored if d != before), after]
    return [_impact(desk, cast(Report, report.body), before, stored, then) for report in uses(desk, before)]


def _impact(
    desk: Desk, report: Report, grouping: Grouping, before: Sequence[Grouping], after: Sequence[Grouping]
) -> Impact:
    rests = entries_on(report, grouping)
    try:
        old, new = (
            _lines(sheet_from(desk, now(desk, report, None, bodies)), report, rests) for bodies in (before, after)
        )
    except KalendorError as error:
        return Impact(report.title, 0, [], str(error))
    names = list(dict.fromkeys([*old, *new]))
    moved = [Moved(n, old.get(n, ""), new.get(n, "")) for n in names if old.get(n) != new.get(n)]
    return Impact(report.title, len(moved), moved[:SHOWN_LINES])


def _lines(sheet: Sheet, report: Report, rests: Sequence[object]) -> dict[str, str]:
    """The first figure's totals of each line down to the level that the grouping makes, and of each column likewise."""
    down, across = (
        _depth(side, entries, rests) for side, entries in ((sheet.lines, report.down), (sheet.columns, report.across))
    )
    found: dict[str, str] = {}
    if across:
        found |= _labelled(sheet, sheet.columns, across, 1)
    if down or not across:
        found |= _labelled(sheet, sheet.lines, down or min(1, len(sheet.lines.levels)), sheet.columns.count)
    return found


def _depth(side: Side, entries: Sequence[object], rests: Sequence[object]) -> int:
    """The depth of the first level made by an entry that uses the grouping; 0 if there is none."""
    positions = [i for i, entry in enumerate(entries) if any(entry is one for one in rests)]
    return next((k for k, level in enumerate(side.levels, start=1) if level.entry in positions), 0)


def _labelled(sheet: Sheet, side: Side, depth: int, step: int) -> dict[str, str]:
    here = np.flatnonzero(side.depth == depth)
    texts = shown_cells(sheet.figures[0], here * step)
    return {" › ".join(side.path(at)) or TOTAL: text for at, text in zip(here.tolist(), texts, strict=True)}
