"""Which days a window shows, and which earlier day is the base of which."""

from datetime import date
from typing import Any

import numpy as np
import pytest

from kalendor.core.groupings.calendars import Calendar, calendar
from kalendor.core.placing.shifts import Shift
from kalendor.core.placing.windows import NONE, before_place, window_span
from kalendor.core.values.columns import day_number, day_of
from kalendor.definitions.kinds import default_calendar, definition
from kalendor.definitions.report import Window
from tests.core.build import records, sheet


def made(**keys: Any) -> Calendar:
    return calendar(definition({"kalendor": 1, "kind": "calendar", "name": "C", **keys}, "t"))  # type: ignore[arg-type]


CIVIL = calendar(default_calendar())
NOVEMBER = made(months={"start_month": 11})
RETAIL = made(weeks={"pattern": "4-4-5", "ends": "nearest", "weekday": "saturday", "month": 1})
YEAR, BEFORE = Shift("year_earlier"), Shift("period_before")


@pytest.mark.parametrize(
    ("which", "show", "as_of", "first", "last"),
    [
        (CIVIL, {"last": 2, "grain": "year"}, "2026-07-31", "2025-01-01", "2026-07-31"),
        (NOVEMBER, {"last": 2, "grain": "year"}, "2026-07-31", "2024-11-01", "2026-07-31"),
        (NOVEMBER, {"this": "quarter"}, "2026-07-31", "2026-05-01", "2026-07-31"),
        (CIVIL, {"to_date": "month"}, "2026-02-14", "2026-02-01", "2026-02-14"),
        (CIVIL, {"last": 3, "grain": "week"}, "2026-07-31", "2026-07-13", "2026-07-31"),
        (RETAIL, {"this": "year"}, "2026-01-15", "2025-02-02", "2026-01-15"),
        (CIVIL, {"from": "2025-11-01", "to": "2026-01-31"}, "2025-12-01", "2025-11-01", "2026-01-31"),
    ],
)
def test_the_days_a_window_shows(which: Calendar, show: dict[str, Any], as_of: str, first: str, last: str) -> None:
    window = Window.model_validate({"of": "on", "show": show})
    span = window_span(window, which, day_number(date.fromisoformat(as_of)))
    assert (day_of(span.first).isoformat(), day_of(span.last).isoformat()) == (first, last)


@pytest.mark.parametrize(
    ("which", "shift", "grain", "base", "stands_for"),
    [
        (CIVIL, YEAR, "month", "2024-02-29", "2025-02-28"),
        (CIVIL, YEAR, "year", "2023-02-28", "2024-02-28"),
        (CIVIL, YEAR, "day", "2024-02-29", None),
        (CIVIL, YEAR, "day", "2024-03-01", "2025-03-01"),
        (CIVIL, YEAR, "week", "2024-12-30", "2025-12-29"),
        (CIVIL, YEAR, "week", "2020-12-31", None),
        (NOVEMBER, YEAR, "quarter", "2025-01-31", "2026-01-31"),
        (RETAIL, YEAR, "week", "2025-02-02", "2026-02-01"),
        (RETAIL, YEAR, "week", "2024-02-03", None),
        (RETAIL, YEAR, "month", "2025-02-05", "2026-02-04"),
        (CIVIL, BEFORE, "month", "2026-01-31", "2026-02-28"),
        (CIVIL, BEFORE, "month", "2026-02-10", "2026-03-10"),
        (CIVIL, BEFORE, "quarter", "2025-12-31", "2026-03-31"),
        (CIVIL, BEFORE, "year", "2024-12-31", "2025-12-31"),
        (CIVIL, BEFORE, "day", "2026-02-28", "2026-03-01"),
        (CIVIL, Shift("back", 2, "month"), "month", "2026-01-15", "2026-03-15"),
        (CIVIL, Shift("back", 1, "quarter"), "month", "2026-02-10", "2026-05-10"),
        (CIVIL, Shift("back", 52, "week"), "week", "2020-01-01", "2020-12-30"),
        (CIVIL, Shift("back", 3, "day"), "day", "2026-02-27", "2026-03-02"),
        (CIVIL, Shift("back", 2, "year"), "month", "2024-02-29", "2026-02-28"),
    ],
)
def test_the_day_that_a_base_day_stands_for(
    which: Calendar, shift: Shift, grain: str, base: str, stands_for: str | None
) -> None:
    found = int(shift.forward(which, grain, np.array([day_number(date.fromisoformat(base))]))[0])
    assert (None if found == NONE else day_of(found).isoformat()) == stands_for


def test_each_period_is_cut_at_the_same_place() -> None:
    cut = day_number(date(2026, 7, 31))
    days = np.array([day_number(date(2025, 7, 31)), day_number(date(2025, 8, 1)), day_number(date(2024, 7, 1)), cut])
    assert before_place(CIVIL, "year", days, cut).tolist() == [True, False, True, True]
    months = np.array([day_number(date(2026, 6, 15)), day_number(date(2026, 6, 16)), day_number(date(2026, 7, 15))])
    assert before_place(CIVIL, "month", months, day_number(date(2026, 7, 15))).tolist() == [True, False, True]


def test_records_without_a_date_are_a_step_of_their_own() -> None:
    data = records(on=[date(2026, 1, 5), None, date(2025, 1, 5), None], at=[date(2026, 1, 1)] * 4, v=[1, 2, 3, 4])
    window = {"of": "on", "show": {"from": "2026-01-01", "to": "2026-12-31"}}
    for across in ([], [{"period": "on", "grains": ["year"]}], [{"period": "at", "grains": ["year"]}]):
        tie = sheet(data, window=window, across=across, only=["v < 4"]).tie_out
        assert [(step.why, step.records) for step in tie.steps] == [
            ("v < 4", 1), ("without a date", 1), ("outside the window", 1)
        ]  # fmt: skip
        assert tie.on_sheet == 1
