"""What a changed grouping would move: the reports that rest on it, line by line of their outermost level."""

from dataclasses import dataclass
from typing import cast

import numpy as np

from kalendor.core.axes import Groupings, groupings
from kalendor.core.sheet import Sheet
from kalendor.definitions.kinds import Grouping
from kalendor.definitions.report import Report
from kalendor.desk.desk import Desk
from kalendor.desk.groupings import uses
from kalendor.desk.sheets import worked_out
from kalendor.errors import KalendorError
from kalendor.output.shown import shown_cells

SHOWN_LINES = 8


@dataclass(frozen=True)
class Moved:
    """A line that moves: its first figure before and after."""

    line: str
    before: str
    after: str


@dataclass(frozen=True)
class Impact:
    """A report that rests on the grouping: how many lines move, the first of them, or why it cannot be worked out."""

    report: str
    moved: int
    lines: list[Moved]
    problem: str = ""


def impact(desk: Desk, before: Grouping, after: Grouping) -> list[Impact]:
    """What would move in each report that rests on a grouping, were it changed."""
    stored = [cast(Grouping, d.body) for d in desk.definitions.all("tree", "calendar", "buckets")]
    now = groupings(stored)
    then = groupings([*(d for d in stored if d != before), after])
    return [_impact(desk, cast(Report, report.body), now, then) for report in uses(desk, before)]


def _impact(desk: Desk, report: Report, now: Groupings, then: Groupings) -> Impact:
    try:
        old, new = (_lines(worked_out(desk, report, None, found)) for found in (now, then))
    except KalendorError as error:
        return Impact(report.title, 0, [], str(error))
    names = list(dict.fromkeys([*old, *new]))
    moved = [Moved(n, old.get(n, ""), new.get(n, "")) for n in names if old.get(n) != new.get(n)]
    return Impact(report.title, len(moved), moved[:SHOWN_LINES])


def _lines(sheet: Sheet) -> dict[str, str]:
    """The first figure of each line of the outermost level, in the total column."""
    axis = sheet.frame.lines
    here = np.arange(axis.offsets[1], axis.offsets[2]) if len(axis.offsets) > 2 else np.array([0])
    texts = shown_cells(sheet.figures[0], False, here * sheet.frame.columns.count)
    return {sheet.line_label(int(line)): text for line, text in zip(here.tolist(), texts, strict=True)}
