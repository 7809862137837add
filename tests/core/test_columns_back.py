"""Years across: a year earlier is the same line, one column back."""

from datetime import date, timedelta
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from tests.core.build import records, table
from tests.core.plain_calendars import Calendar, Weeks
from tests.core.test_whole_reports import calendars, columns_of, documents, rows, weeks

GRAINS = ["half", "quarter", "month", "week", "quarter_of_year", "month_of_year", "day_of_week"]


@given(rows, st.one_of(calendars, weeks), st.sampled_from(GRAINS), st.booleans(), st.booleans())
def test_a_year_earlier_is_one_column_back(
    rows: list[Any], calendar: Calendar | Weeks, grain: str, to_date: bool, turned: bool
) -> None:
    data = columns_of(rows)
    last = max(d for d in data["on"] if d is not None)
    finer, year = ({"period": "on", "calendar": "C", "grains": [g]} for g in (grain, "year"))
    down, across = (year, finer) if turned else (finer, year)
    figures = [
        {"name": "sum", "take": "sum", "of": "amount"},
        {"name": "base", "compare": "sum", "with": "year_earlier", "as": "base", "to_date": to_date},
    ]
    got = table(records(**data), *documents(calendar), down=[down], across=[across], figures=figures)
    sums = {(row[grain], row["year start"]): row["sum"] for row in got if row["year start"]}
    cut = calendar.start("year", last)
    for row in got:
        if not row[grain] or not row["year start"] or row["year start"] == cut.isoformat():
            continue  # the last year is compared as far as it goes
        before = calendar.start("year", date.fromisoformat(row["year start"]) - timedelta(1)).isoformat()
        then = sums.get((row[grain], before), "")
        if row["base"] or then:
            assert row["base"] == then, f"{row}: {then} one column back"
