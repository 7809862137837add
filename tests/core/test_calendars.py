"""Calendar dates checked by hand, and ISO weeks against the standard library."""

from datetime import date, timedelta
from typing import Any

import numpy as np
import pytest

from kalendor.core.groupings.calendars import Calendar, calendar
from kalendor.core.values.columns import day_number, day_of
from kalendor.definitions.kinds import default_calendar, definition
from kalendor.errors import DefinitionError


def made(**keys: Any) -> Calendar:
    return calendar(definition({"kalendor": 1, "kind": "calendar", "name": "C", **keys}, "test"))  # type: ignore[arg-type]


NOVEMBER = made(months={"start_month": 11}, year_name={"by": "end", "prefix": "TY", "digits": 2})
APRIL_6 = made(months={"start_month": 4, "start_day": 6}, year_name={"by": "start", "digits": 4})
LAST_SATURDAY = made(
    weeks={"pattern": "4-4-5", "ends": "last", "weekday": "saturday", "month": 1},
    year_name={"by": "start", "digits": 4},
)
NEAREST_SATURDAY = made(
    weeks={"pattern": "4-4-5", "ends": "nearest", "weekday": "saturday", "month": 1},
    year_name={"by": "start", "digits": 4},
)
FIVE_FOUR = made(
    weeks={"pattern": "5-4-4", "ends": "nearest", "weekday": "saturday", "month": 1},
    year_name={"by": "end", "digits": 4},
)
THIRTEEN = made(
    weeks={"pattern": "13x4", "ends": "nearest", "weekday": "sunday", "month": 12}, year_name={"by": "end", "digits": 4}
)
CIVIL = calendar(default_calendar())
SHORT = made(table={"periods": [
    {"start": "2025-01-01", "name": "P1", "year": "S25"}, {"start": "2025-02-15", "name": "P2", "year": "S25"},
    {"start": "2025-04-01", "name": "P1 new", "year": "FY26"}, {"start": "2025-05-01", "name": "P2 new", "year": "FY26"}],
    "ends": "2025-05-31"})  # fmt: skip


def at(which: Calendar, text: str) -> tuple[str, int, int, int, int]:
    """The year of a date, and its half, quarter, month and week in the year, from 1."""
    day = np.array(day_number(date.fromisoformat(text)))
    places = [int(which.places(g, which.ordinals(g, day))[1]) + 1 for g in ("half", "quarter", "month", "week")]
    year = which.year_name(int(which.ordinals("year", day)))
    return (year, *places)  # type: ignore[return-value]


@pytest.mark.parametrize(
    ("which", "text", "want"),
    [
        # a year from 1 November, named by its end; weeks from Monday, week 1 holds 1 November, also its days of October
        (NOVEMBER, "2025-10-31", ("TY25", 2, 4, 12, 1)),
        (NOVEMBER, "2025-11-01", ("TY26", 1, 1, 1, 1)),
        (NOVEMBER, "2025-11-02", ("TY26", 1, 1, 1, 1)),
        (NOVEMBER, "2025-11-03", ("TY26", 1, 1, 1, 2)),
        (NOVEMBER, "2026-01-31", ("TY26", 1, 1, 3, 14)),
        (NOVEMBER, "2026-02-01", ("TY26", 1, 2, 4, 14)),
        (NOVEMBER, "2026-04-30", ("TY26", 1, 2, 6, 27)),
        (NOVEMBER, "2026-05-01", ("TY26", 2, 3, 7, 27)),
        (NOVEMBER, "2026-07-31", ("TY26", 2, 3, 9, 40)),
        (NOVEMBER, "2026-10-31", ("TY26", 2, 4, 12, 1)),
        (NOVEMBER, "2024-02-29", ("TY24", 1, 2, 4, 18)),
        # a year from 6 April, named by its start
        (APRIL_6, "2025-04-05", ("2024", 2, 4, 12, 1)),
        (APRIL_6, "2025-04-06", ("2025", 1, 1, 1, 1)),
        (APRIL_6, "2025-05-05", ("2025", 1, 1, 1, 6)),
        (APRIL_6, "2025-05-06", ("2025", 1, 1, 2, 6)),
        (APRIL_6, "2025-07-05", ("2025", 1, 1, 3, 14)),
        (APRIL_6, "2025-07-06", ("2025", 1, 2, 4, 14)),
        (APRIL_6, "2024-02-29", ("2023", 2, 4, 11, 48)),
        (APRIL_6, "2026-01-01", ("2025", 2, 3, 9, 40)),
        # the last Saturday of January: years end 2024-01-27, 2025-01-25, 2026-01-31 (53 weeks), 2027-01-30
        (LAST_SATURDAY, "2024-01-27", ("2023", 2, 4, 12, 52)),
        (LAST_SATURDAY, "2024-01-28", ("2024", 1, 1, 1, 1)),
        (LAST_SATURDAY, "2025-01-25", ("2024", 2, 4, 12, 52)),
        (LAST_SATURDAY, "2025-01-26", ("2025", 1, 1, 1, 1)),
        (LAST_SATURDAY, "2025-02-22", ("2025", 1, 1, 1, 4)),
        (LAST_SATURDAY, "2025-02-23", ("2025", 1, 1, 2, 5)),
        (LAST_SATURDAY, "2025-03-22", ("2025", 1, 1, 2, 8)),
        (LAST_SATURDAY, "2025-03-23", ("2025", 1, 1, 3, 9)),
        (LAST_SATURDAY, "2025-04-26", ("2025", 1, 1, 3, 13)),
        (LAST_SATURDAY, "2025-04-27", ("2025", 1, 2, 4, 14)),
        (LAST_SATURDAY, "2026-01-24", ("2025", 2, 4, 12, 52)),
        (LAST_SATURDAY, "2026-01-25", ("2025", 2, 4, 12, 53)),
        (LAST_SATURDAY, "2026-01-31", ("2025", 2, 4, 12, 53)),
        (LAST_SATURDAY, "2026-02-01", ("2026", 1, 1, 1, 1)),
        # the Saturday nearest 31 January: years end 2024-02-03 (53 weeks), 2025-02-01, 2026-01-31, 2027-01-30
        (NEAREST_SATURDAY, "2023-01-28", ("2022", 2, 4, 12, 52)),
        (NEAREST_SATURDAY, "2023-01-29", ("2023", 1, 1, 1, 1)),
        (NEAREST_SATURDAY, "2024-01-28", ("2023", 2, 4, 12, 53)),
        (NEAREST_SATURDAY, "2024-02-03", ("2023", 2, 4, 12, 53)),
        (NEAREST_SATURDAY, "2024-02-04", ("2024", 1, 1, 1, 1)),
        (NEAREST_SATURDAY, "2025-02-01", ("2024", 2, 4, 12, 52)),
        (NEAREST_SATURDAY, "2025-02-02", ("2025", 1, 1, 1, 1)),
        (NEAREST_SATURDAY, "2026-01-31", ("2025", 2, 4, 12, 52)),
        (NEAREST_SATURDAY, "2026-02-01", ("2026", 1, 1, 1, 1)),
        # the same weeks by 5-4-4, named by the year the nominal end falls in
        (FIVE_FOUR, "2025-03-08", ("2026", 1, 1, 1, 5)),
        (FIVE_FOUR, "2025-03-09", ("2026", 1, 1, 2, 6)),
        (FIVE_FOUR, "2025-04-05", ("2026", 1, 1, 2, 9)),
        (FIVE_FOUR, "2025-04-06", ("2026", 1, 1, 3, 10)),
        (FIVE_FOUR, "2025-05-04", ("2026", 1, 2, 4, 14)),
        # thirteen periods of four weeks; quarters of 3, 3, 3 and 4
        (THIRTEEN, "2025-01-26", ("2025", 1, 1, 1, 4)),
        (THIRTEEN, "2025-01-27", ("2025", 1, 1, 2, 5)),
        (THIRTEEN, "2025-03-23", ("2025", 1, 1, 3, 12)),
        (THIRTEEN, "2025-03-24", ("2025", 1, 2, 4, 13)),
        (THIRTEEN, "2025-09-08", ("2025", 2, 4, 10, 37)),
        (THIRTEEN, "2025-12-28", ("2025", 2, 4, 13, 52)),
        (THIRTEEN, "2026-12-28", ("2026", 2, 4, 13, 53)),
        (THIRTEEN, "2027-01-03", ("2026", 2, 4, 13, 53)),
        # the civil year, its weeks by ISO 8601
        (CIVIL, "2024-12-30", ("2024", 2, 4, 12, 1)),
        (CIVIL, "2025-01-01", ("2025", 1, 1, 1, 1)),
        (CIVIL, "2020-12-31", ("2020", 2, 4, 12, 53)),
        (CIVIL, "2021-01-03", ("2021", 1, 1, 1, 53)),
        (CIVIL, "2024-06-30", ("2024", 1, 2, 6, 26)),
        (CIVIL, "2024-07-01", ("2024", 2, 3, 7, 27)),
        # a short year by table
        (SHORT, "2025-02-14", ("S25", 1, 1, 1, 7)),
        (SHORT, "2025-02-15", ("S25", 1, 1, 2, 7)),
        (SHORT, "2025-04-01", ("FY26", 1, 1, 1, 1)),
        (SHORT, "2025-05-31", ("FY26", 1, 1, 2, 9)),
    ],
)
def test_where_a_date_falls(which: Calendar, text: str, want: tuple[str, int, int, int, int]) -> None:
    assert at(which, text) == want


def test_iso_weeks_at_both_ends_of_sixty_years() -> None:
    iso = made(weeks={"pattern": "4-4-5", "ends": "nearest", "weekday": "sunday", "month": 12})
    for which in (iso, CIVIL):
        days = np.concatenate(
            [np.arange(day_number(date(y, 12, 20)), day_number(date(y + 1, 1, 12))) for y in range(1990, 2050)]
        )
        years, places = which.places("week", which.ordinals("week", days))
        for day, year, place in zip(days.tolist(), years.tolist(), places.tolist(), strict=True):
            iso_year, week, _ = day_of(day).isocalendar()
            assert (which.year_name(year), place + 1) == (str(iso_year), week)


@pytest.mark.parametrize("which", [NOVEMBER, APRIL_6, LAST_SATURDAY, NEAREST_SATURDAY, FIVE_FOUR, THIRTEEN, CIVIL])
def test_periods_tile_the_days_and_coarser_ones_hold_finer_ones(which: Calendar) -> None:
    days = np.arange(day_number(date(2015, 1, 1)), day_number(date(2031, 1, 1)))
    for grain in ("year", "half", "quarter", "month", "week", "day"):
        ordinals = which.ordinals(grain, days)
        assert set(np.diff(ordinals).tolist()) <= {0, 1}
        assert (which.starts(grain, ordinals) <= days).all()
        assert (which.starts(grain, ordinals + 1) > days).all()
        years, places = which.places(grain, ordinals)
        back, found = which.at(grain, years, places)
        assert found.all()
        assert (back == ordinals).all()
    for fine, coarse in (("quarter", "year"), ("month", "quarter"), ("quarter", "half")):
        first = which.starts(fine, which.ordinals(fine, days))
        assert (which.ordinals(coarse, first) == which.ordinals(coarse, days)).all()


@pytest.mark.parametrize(
    ("which", "grain", "text", "label"),
    [
        (NOVEMBER, "quarter", "2026-07-31", "TY26 Q3"),
        (NOVEMBER, "half", "2026-07-31", "TY26 H2"),
        (NOVEMBER, "month", "2026-07-31", "Jul 2026"),
        (NOVEMBER, "week", "2026-07-31", "Week of 27 Jul 2026"),
        (APRIL_6, "month", "2025-05-06", "2025 M02"),
        (LAST_SATURDAY, "week", "2026-01-31", "W53 2025"),
        (LAST_SATURDAY, "month", "2026-01-31", "2025 M12"),
        (CIVIL, "week", "2025-12-31", "2026-W01"),
        (CIVIL, "quarter", "2026-07-31", "2026 Q3"),
        (CIVIL, "day", "2026-07-31", "2026-07-31"),
        (SHORT, "month", "2025-05-02", "P2 new"),
    ],
)
def test_labels(which: Calendar, grain: str, text: str, label: str) -> None:
    ordinal = int(which.ordinals(grain, np.array(day_number(date.fromisoformat(text)))))
    assert which.label(grain, ordinal) == label


def test_days_outside_a_table_are_an_error_that_names_them() -> None:
    with pytest.raises(DefinitionError, match="runs from 2025-01-01 to 2025-05-31, and the records reach 2025-06-01"):
        SHORT.ordinals("month", np.array([day_number(date(2025, 5, 31) + timedelta(days=1))]))
