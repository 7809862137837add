"""Empty periods that are shown: all that begin before the last one with a record ends, under each period that they
intersect."""

from datetime import date, datetime, timedelta
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from kalendor.core.sheet.sheet import Sheet
from kalendor.core.values.columns import Column, Kind
from kalendor.errors import DefinitionError
from tests.core.build import records, sheet
from tests.core.plain_calendars import Calendar, Weeks
from tests.core.test_whole_reports import calendars, documents, weeks

COUNT: dict[str, Any] = {"name": "count", "take": "count"}
EPOCH = date(1970, 1, 1)
dates = st.lists(st.dates(date(2024, 11, 1), date(2026, 2, 28)), min_size=1, max_size=5)
nested = st.sampled_from([
    ["week"], ["month"], ["year", "week"], ["month", "week"], ["year", "month"], ["quarter", "month", "week"],
    ["year", "quarter", "week"], ["half", "month"],
])  # fmt: skip


def starts_of(found: Sheet, depth: int) -> set[tuple[date, ...]]:
    """The paths of the lines of a depth, each period by its first day."""
    lines, paths = found.lines, set()
    for at in np.flatnonzero(lines.depth == depth).tolist():
        path: list[date] = []
        while lines.depth[at] > 0:
            path.append(EPOCH + timedelta(int(lines.starts[at])))
            at = int(lines.parent[at])
        paths.add(tuple(path[::-1]))
    return paths


@given(dates, nested, st.one_of(calendars, weeks))
def test_gaps_are_filled_wherever_a_period_has_a_day(
    days: list[date], grains: list[str], calendar: Calendar | Weeks
) -> None:
    entry = {"period": "on", "calendar": "C", "grains": grains, "empty": "show"}
    found = sheet(records(on=days), *documents(calendar), down=[entry], figures=[COUNT])
    every = {
        grain: (calendar.start(grain, min(days)), calendar.moved(grain, calendar.start(grain, max(days)), 1))
        for grain in grains
    }
    for depth in range(1, len(grains) + 1):
        first = min(every[g][0] for g in grains)
        last = max(every[g][1] for g in grains)
        wanted = set()
        for n in range((last - first).days):
            day = first + timedelta(n)
            if all(every[g][0] <= day < every[g][1] for g in grains[:depth]):
                wanted.add(tuple(calendar.start(g, day) for g in grains[:depth]))
        assert starts_of(found, depth) == wanted


def test_hours_of_each_day_are_filled() -> None:
    moments = [datetime(2026, 1, 1, 22), datetime(2026, 1, 2, 1), datetime(2026, 1, 4, 1)]
    at = [round((m - datetime(1970, 1, 1)).total_seconds()) * 1_000_000 for m in moments]
    data = records(n=[1, 2, 3]).with_column("at", Column(Kind.DATETIME, np.array(at)))
    entry = {"period": "at", "grains": ["day", "hour"], "empty": "show"}
    found = sheet(data, down=[entry], figures=[COUNT])
    by_day = np.bincount(found.lines.parent[found.lines.depth == 2])
    assert by_day[by_day > 0].tolist() == [2, 24, 24, 2]


@pytest.mark.parametrize("across", [False, True])
def test_more_empty_lines_than_can_be_held_are_refused_before_they_are_made(across: bool) -> None:
    far = [date(2000, 1, 1), date(2026, 1, 1)]
    entries = [{"period": c, "grains": ["day"], "empty": "show", "name": c} for c in ("a", "b", "c")]
    with pytest.raises(DefinitionError, match="showing what is empty would make 90,212,004 lines or columns; hide it"):
        sheet(records(a=far, b=far, c=far), figures=[COUNT], **{"across" if across else "down": entries})


def test_a_sheet_of_more_numbers_than_can_be_held_is_refused() -> None:
    """A sheet may be small enough with one figure and too large with two."""
    far = [date(2000, 1, 1), date(2022, 1, 1)]
    keys = {
        side: [{"period": c, "grains": ["day"], "empty": "show", "name": c}]
        for side, c in (("down", "a"), ("across", "b"))
    }
    with pytest.raises(DefinitionError, match="8,038 lines and 8,038 columns of 2 figures; take a coarser level"):
        sheet(records(a=far, b=far), figures=[COUNT, {**COUNT, "name": "again"}], **keys)
