"""Periods for which editions are due: month ends, leap days, 53rd weeks, short years, and due dates."""

from datetime import date, timedelta
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kalendor.core.groupings.cadence_periods import (
    SIGNS,
    due_day,
    period_before,
    period_on,
    periods_ending,
    periods_named,
    year_before,
)
from kalendor.core.groupings.calendars import calendar
from kalendor.core.values.columns import day_number, day_of
from kalendor.definitions.calendar import Calendar
from kalendor.definitions.recurring import Due
from kalendor.errors import DefinitionError


def named(**keys: Any) -> Any:
    return calendar(Calendar.model_validate({"kalendor": 1, "name": "C", **keys}))


CIVIL = named(months={})
FISCAL = named(months={"start_month": 11}, year_name={"by": "end", "prefix": "TY", "digits": 2})
RETAIL = named(
    weeks={"pattern": "4-4-5", "ends": "nearest", "weekday": "saturday", "month": 1},
    year_name={"by": "start", "prefix": "RY", "digits": 2},
)
ISO = named(weeks={"pattern": "4-4-5", "ends": "nearest", "weekday": "sunday", "month": 12})
TABLE = named(
    table={
        "periods": [
            {"start": "2026-01-01", "name": "A", "year": "Short"}, {"start": "2026-02-10", "name": "B", "year": "Short"},
            {"start": "2026-03-01", "name": "C", "year": "Next"},
        ],
        "ends": "2026-03-31",
    }
)  # fmt: skip
days = st.dates(date(1990, 1, 1), date(2060, 12, 31)).map(day_number)


@given(days, st.sampled_from([CIVIL, FISCAL, RETAIL, ISO]), st.sampled_from(list(SIGNS)))
def test_periods_follow_on_each_other_without_a_gap(day: int, one: Any, every: str) -> None:
    period = period_on(one, every, day)
    assert period.first <= day <= period.last
    before = period_before(one, period)
    assert before is not None
    assert before.last + 1 == period.first
    assert period_on(one, every, period.last) == period == period_on(one, every, period.first)
    earlier = year_before(one, period)
    if earlier is not None:
        assert earlier.sign[: len(SIGNS[every])] == period.sign[: len(SIGNS[every])]
        assert earlier.last < period.first
    named_again = periods_named(one, every, period.label, [before, period])
    assert period in named_again


@pytest.mark.parametrize(
    ("one", "every", "text", "want"),
    [
        (CIVIL, "month", "2024-02", ["Feb 2024 M2 2024-02-01 2024-02-29"]),
        (FISCAL, "month", "2026-07", ["Jul 2026 M9 2026-07-01 2026-07-31"]),
        (FISCAL, "quarter", "2026-07", ["TY26 Q3 Q3 2026-05-01 2026-07-31"]),
        (FISCAL, "year", "2025", ["TY25 TY25 2024-11-01 2025-10-31"]),
        (CIVIL, "quarter", "2026-Q3", ["2026 Q3 Q3 2026-07-01 2026-09-30"]),
        (CIVIL, "week", "2026-W53", ["2026-W53 W53 2026-12-28 2027-01-03"]),
        (RETAIL, "month", "2026-07", ["RY26 M06 M6 2026-06-28 2026-08-01"]),
        (RETAIL, "month", "2026-08", ["RY26 M07 M7 2026-08-02 2026-08-29"]),
        (CIVIL, "month", "2026-07-31", ["Jul 2026 M7 2026-07-01 2026-07-31"]),
        (CIVIL, "year", "2026", ["2026 2026 2026-01-01 2026-12-31"]),
    ],
)
def test_a_period_is_named(one: Any, every: str, text: str, want: list[str]) -> None:
    found = periods_named(one, every, text)
    assert [f"{p.label} {p.sign} {day_of(p.first)} {day_of(p.last)}" for p in found] == want


def test_a_month_names_the_weeks_that_have_their_middle_in_it() -> None:
    assert [p.label for p in periods_named(CIVIL, "week", "2026-07")] == [
        "2026-W27",
        "2026-W28",
        "2026-W29",
        "2026-W30",
        "2026-W31",
    ]


@pytest.mark.parametrize(
    ("every", "text", "says"),
    [
        ("quarter", "2026-05", "no quarter of C ends then"), ("month", "next month", "is no period"),
        ("month", "2026-13", "is no period"), ("week", "2025-W53", "is no period"), ("month", "2026-02-30", "is no period"),
    ],
)  # fmt: skip
def test_what_names_no_period_is_said(every: str, text: str, says: str) -> None:
    with pytest.raises(DefinitionError, match=says):
        periods_named(CIVIL, every, text)


def test_a_53rd_week_has_none_a_year_earlier_and_a_calendar_ends_where_its_table_does() -> None:
    week = periods_named(CIVIL, "week", "2026-W53")[0]
    assert year_before(CIVIL, week) is None
    last = period_on(TABLE, "month", day_number(date(2026, 3, 5)))
    assert day_of(last.last) == date(2026, 3, 31)
    assert period_before(TABLE, period_on(TABLE, "month", day_number(date(2026, 1, 5)))) is None
    with pytest.raises(DefinitionError):
        period_on(TABLE, "month", day_number(date(2026, 4, 1)))


@pytest.mark.parametrize(
    ("end", "due", "holidays", "want"),
    [
        (date(2026, 7, 31), {"days": 3}, [], date(2026, 8, 3)),
        (date(2026, 7, 31), {"days": 0}, [], date(2026, 7, 31)),
        (date(2026, 7, 31), {"working_days": 3}, [], date(2026, 8, 5)),
        (date(2026, 7, 31), {"working_days": 3}, [date(2026, 8, 3), date(2026, 8, 1)], date(2026, 8, 6)),
        (date(2024, 2, 29), {"working_days": 1}, [], date(2024, 3, 1)),
        (date(2026, 10, 24), {"days": 1}, [], date(2026, 10, 25)),  # the clocks go back that night
        (date(2026, 12, 31), {"working_days": 2}, [date(2027, 1, 1)], date(2027, 1, 5)),
        (date(2026, 7, 31), {"working_days": 0}, [], date(2026, 7, 31)),
    ],
)
def test_the_day_on_which_an_edition_is_due(end: date, due: Any, holidays: list[date], want: date) -> None:
    period = period_on(CIVIL, "month", day_number(end))
    shifted = type(period)(**{**vars(period), "last": day_number(end)})
    assert day_of(due_day(shifted, Due.model_validate(due), holidays)) == want


@given(st.integers(0, 60), st.lists(st.dates(date(2026, 1, 1), date(2026, 12, 31)), max_size=12), days)
def test_working_days_are_counted_one_by_one(n: int, holidays: list[date], day: int) -> None:
    period = period_on(CIVIL, "month", day)
    found = day_of(due_day(period, Due(working_days=n), holidays))
    at, left = day_of(period.last), n
    while left:
        at += timedelta(days=1)
        left -= at.weekday() < 5 and at not in holidays
    assert found == at


def test_periods_that_end_between_two_days() -> None:
    first, last = day_number(date(2025, 11, 15)), day_number(date(2026, 2, 27))
    assert [p.label for p in periods_ending(CIVIL, "month", first, last)] == ["Nov 2025", "Dec 2025", "Jan 2026"]
    assert periods_ending(CIVIL, "year", first, last)[0].label == "2025"
