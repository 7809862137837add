"""Calendars day by day, computed simply, as tables for SQL: one row for each day with its periods."""

import sqlite3
from calendar import monthrange
from datetime import date, timedelta
from typing import Any

FIRST, LAST = date(2021, 1, 1), date(2028, 12, 31)
SATURDAY = 5

TIMETABLE: dict[str, Any] = {
    "kalendor": 1, "kind": "calendar", "name": "Timetable year", "months": {"start_month": 11, "start_day": 1},
    "week_start": "monday", "year_name": {"by": "end", "prefix": "TY", "digits": 2},
}  # fmt: skip
RETAIL: dict[str, Any] = {
    "kalendor": 1, "kind": "calendar", "name": "Retail weeks",
    "weeks": {"pattern": "4-4-5", "ends": "nearest", "weekday": "saturday", "month": 1},
    "year_name": {"by": "start", "prefix": "RY", "digits": 2},
}  # fmt: skip


def days() -> list[date]:
    return [FIRST + timedelta(n) for n in range((LAST - FIRST).days + 1)]


def timetable(day: date) -> tuple[Any, ...]:
    """Year label, and the number and first day of the year, quarter, month and week of a day."""
    year = day.year + (day.month >= 11)
    month = (day.month - 11) % 12
    first = date(year - 1, 11, 1)
    quarter = month // 3
    month_start = day.replace(day=1)
    back = month % 3
    quarter_start = month_start
    for _ in range(back):
        quarter_start = (quarter_start - timedelta(1)).replace(day=1)
    monday = day - timedelta(day.weekday())
    return (f"TY{year % 100:02d}", year, first, quarter, quarter_start, month, month_start, None, monday)


def _ends() -> list[date]:
    """The Saturdays nearest to the end of January, year by year."""
    found = []
    for year in range(FIRST.year - 2, LAST.year + 3):
        nominal = date(year, 1, monthrange(year, 1)[1])
        around = [nominal + timedelta(n) for n in range(-3, 4)]
        found.append(next(day for day in around if day.weekday() == SATURDAY))
    return found


ENDS = _ends()
MONTH_WEEKS = (4, 4, 5) * 4


def retail(day: date) -> tuple[Any, ...]:
    """The same for the weeks calendar."""
    end = next(e for e in ENDS if e >= day)
    start = ENDS[ENDS.index(end) - 1] + timedelta(1)
    year = end.year - 1 if end.month <= 2 else end.year
    week = (day - start).days // 7
    month, first_week = 0, 0
    while month < 11 and week >= first_week + MONTH_WEEKS[month]:
        first_week += MONTH_WEEKS[month]
        month += 1
    quarter_week = month // 3 * 13
    at = [start + timedelta(7 * w) for w in (quarter_week, first_week, week)]
    return (f"RY{year % 100:02d}", year, start, month // 3, at[0], month, at[1], week, at[2])


def add_calendars(db: sqlite3.Connection) -> None:
    """The tables `timetable` and `retail`, a row a day."""
    for name, of in (("timetable", timetable), ("retail", retail)):
        db.execute(
            f"CREATE TABLE {name} (day TEXT PRIMARY KEY, label TEXT, year INTEGER, ystart TEXT, q INTEGER, qstart TEXT,"
            " m INTEGER, mstart TEXT, w INTEGER, wstart TEXT)"
        )
        for day in days():
            texts = [v.isoformat() if isinstance(v, date) else v for v in (day, *of(day))]
            db.execute(f"INSERT INTO {name} VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)", texts)
