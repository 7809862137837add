"""Fiscal periods, comparisons and running totals compared with SQL over calendars day by day."""

from typing import Any

import pytest

from tests.sql.calendars import RETAIL, TIMETABLE
from tests.sql.invoices import KIND_PLACE, agree

COUNT = {"name": "n", "take": "count"}
SUM = {"name": "sum", "take": "sum", "of": "amount"}
DISTINCT = {"name": "kinds", "take": "distinct", "of": "kind"}
BOTH = [pytest.param(TIMETABLE, "timetable", id="timetable"), pytest.param(RETAIL, "retail", id="retail")]
DATED = ["day IS NOT NULL"]


def period(calendar: dict[str, Any], *grains: str) -> dict[str, Any]:
    return {"period": "day", "calendar": calendar["name"], "grains": list(grains)}


@pytest.mark.parametrize(("calendar", "name"), BOTH)
def test_years_quarters_and_months_with_their_totals(calendar: dict[str, Any], name: str) -> None:
    takes = "count(*), sum(amount) / 100.0, count(DISTINCT kind)"
    agree(
        f"""WITH d AS (SELECT * FROM r JOIN {name} USING (day)),
        found AS (
            SELECT label, qstart, mstart, {takes}, 3 AS depth FROM d GROUP BY label, qstart, mstart
            UNION ALL SELECT label, qstart, '9', {takes}, 2 FROM d GROUP BY label, qstart
            UNION ALL SELECT label, '9', '9', {takes}, 1 FROM d GROUP BY label
            UNION ALL SELECT '~', '9', '9', {takes}, 0 FROM d)
        SELECT replace(label, '~', ''), replace(qstart, '9', CASE WHEN depth < 2 THEN '' ELSE '9' END),
            CASE WHEN depth = 3 THEN mstart ELSE '' END, "count(*)", "sum(amount) / 100.0", "count(DISTINCT kind)"
        FROM found ORDER BY label, qstart, mstart""",
        ["year", "quarter start", "month start", "n", "sum", "kinds"],
        calendar,
        only=DATED,
        down=[period(calendar, "year", "quarter", "month")],
        figures=[COUNT, SUM, DISTINCT],
    )


@pytest.mark.parametrize(("calendar", "name"), BOTH)
@pytest.mark.parametrize(
    ("grain", "number", "start"), [("year", "0", "ystart"), ("quarter", "q", "qstart"), ("month", "m", "mstart")]
)
def test_periods_beside_those_a_year_earlier(
    calendar: dict[str, Any], name: str, grain: str, number: str, start: str
) -> None:
    agree(
        f"""WITH d AS (SELECT *, {number} AS place, {start} AS start FROM r JOIN {name} USING (day)),
        s AS (SELECT year, place, start, sum(amount) AS v, count(*) AS n FROM d GROUP BY year, place, start)
        SELECT s.start, s.n, s.v / 100.0, b.v / 100.0, (s.v - b.v) / 100.0, (s.v - b.v) * 1.0 / b.v
        FROM s LEFT JOIN s AS b ON b.year = s.year - 1 AND b.place = s.place
        ORDER BY 1""",
        [f"{grain} start", "n", "sum", "b", "d", "p"],
        calendar,
        as_of="2027-12-31",
        only=DATED,
        window={"of": "day", "calendar": calendar["name"], "show": {"from": "2023-09-01", "to": "2027-12-31"}},
        down=[period(calendar, grain)],
        figures=[
            COUNT,
            SUM,
            *(
                {"name": n, "compare": "sum", "with": "year_earlier", "as": as_, "to_date": False}
                for n, as_ in (("b", "base"), ("d", "difference"), ("p", "percent"))
            ),
        ],
        totals={"grand_down": "none"},
    )


def test_weeks_beside_the_same_week_of_the_year_before() -> None:
    agree(
        """WITH d AS (SELECT * FROM r JOIN retail USING (day)),
        s AS (SELECT year, w, wstart, count(*) AS n FROM d GROUP BY year, w, wstart)
        SELECT s.wstart, s.n, CASE WHEN s.w < 52 AND (SELECT min(day) FROM r) <=
            (SELECT max(day) FROM retail AS c WHERE c.year = s.year - 1 AND c.w = s.w) THEN coalesce(b.n, 0) END
        FROM s LEFT JOIN s AS b ON b.year = s.year - 1 AND b.w = s.w
        WHERE s.wstart >= '2024-09-01' ORDER BY s.wstart""",
        ["week start", "n", "b"],
        RETAIL,
        as_of="2026-12-31",
        only=DATED,
        window={"of": "day", "calendar": "Retail weeks", "show": {"from": "2024-09-01", "to": "2026-12-31"}},
        down=[period(RETAIL, "week")],
        figures=[COUNT, {"name": "b", "compare": "n", "with": "year_earlier", "as": "base", "to_date": False}],
        keep=[{"level": "week", "where": "n > 0"}],
        totals={"grand_down": "none"},
    )


@pytest.mark.parametrize(
    ("calendar", "name", "start", "base_start", "base_end"),
    [
        pytest.param(TIMETABLE, "timetable", "2025-11-01", "2024-11-01", "2025-02-14", id="timetable"),
        pytest.param(RETAIL, "retail", "2026-02-01", "2025-02-02", "2025-02-15", id="retail"),
    ],
)
def test_a_year_to_date_beside_the_same_part_of_the_year_before(
    calendar: dict[str, Any], name: str, start: str, base_start: str, base_end: str
) -> None:
    """14 February 2026 is a Saturday, the last day of the second week of the year that began on 1 February."""
    agree(
        f"""SELECT coalesce(kind, '(blank)'), sum(now), sum(amount * now) / 100.0, sum(amount * before) / 100.0,
            count(DISTINCT CASE WHEN before THEN route END)
        FROM (SELECT *, day BETWEEN '{start}' AND '2026-02-14' AS now,
            day BETWEEN '{base_start}' AND '{base_end}' AS before FROM r WHERE day IS NOT NULL)
        WHERE now OR before GROUP BY kind ORDER BY {KIND_PLACE}""",
        ["kind", "n", "sum", "b", "r"],
        calendar,
        as_of="2026-02-14",
        only=["day <= DATE '2026-02-14'"],
        window={"of": "day", "calendar": calendar["name"], "show": {"this": "year"}},
        down=[{"category": "kind"}],
        across=[period(calendar, "year")],
        figures=[
            COUNT,
            SUM,
            {"name": "routes", "take": "distinct", "of": "route", "hide": True},
            {"name": "b", "compare": "sum", "with": "year_earlier", "as": "base"},
            {"name": "r", "compare": "routes", "with": "year_earlier", "as": "base"},
        ],
        totals={"grand_down": "none", "grand_across": "none"},
    )


@pytest.mark.parametrize(("calendar", "name"), BOTH)
def test_years_stand_side_by_side_and_a_year_earlier_is_one_column_back(calendar: dict[str, Any], name: str) -> None:
    agree(
        f"""WITH d AS (SELECT * FROM r JOIN {name} USING (day)),
        s AS (SELECT m, year, label, mstart, count(*) AS n FROM d GROUP BY m, year, label, mstart)
        SELECT label, mstart, n, b FROM (
            SELECT s.m, s.year, s.label, s.mstart, s.n, b.n AS b FROM s LEFT JOIN s AS b ON b.year = s.year - 1 AND b.m = s.m
            UNION ALL SELECT DISTINCT c.m, c.year, c.label, c.mstart, 0, b.n
            FROM {name} AS c JOIN s AS b ON b.year = c.year - 1 AND b.m = c.m
            WHERE c.mstart BETWEEN '2026-09-08' AND '2026-10-31')
        ORDER BY m, year""",
        ["year", "month start", "n", "b"],
        calendar,
        as_of="2027-12-31",
        only=DATED,
        window={"of": "day", "calendar": calendar["name"], "show": {"from": "2023-09-01", "to": "2026-10-31"}},
        down=[period(calendar, "month")],
        across=[period(calendar, "year")],
        figures=[COUNT, {"name": "b", "compare": "n", "with": "year_earlier", "as": "base", "to_date": False}],
        totals={"grand_down": "none", "grand_across": "none"},
    )


@pytest.mark.parametrize(("calendar", "name"), BOTH)
@pytest.mark.parametrize(("restart", "by"), [("year", "ystart"), ("quarter", "qstart"), ("never", "1")])
def test_running_totals_within_each_kind(calendar: dict[str, Any], name: str, restart: str, by: str) -> None:
    agree(
        f"""WITH months AS (SELECT DISTINCT mstart, qstart, ystart FROM {name}
            WHERE day BETWEEN (SELECT min(day) FROM r) AND (SELECT max(day) FROM r)),
        kinds AS (SELECT DISTINCT kind FROM r WHERE day IS NOT NULL),
        cells AS (SELECT kind, months.*, (SELECT sum(amount) FROM r JOIN {name} AS c USING (day)
                WHERE r.kind IS kinds.kind AND c.mstart = months.mstart) AS v,
            (SELECT count(*) FROM r JOIN {name} AS c USING (day)
                WHERE r.kind IS kinds.kind AND c.mstart = months.mstart) AS n FROM kinds, months)
        SELECT coalesce(kind, '(blank)'), mstart, v / 100.0, run / 100.0 FROM (
            SELECT *, sum(v) OVER (PARTITION BY kind, {by} ORDER BY mstart) AS run FROM cells)
        WHERE n > 0 OR run IS NOT NULL ORDER BY {KIND_PLACE}, mstart""",
        ["kind", "month start", "sum", "run"],
        calendar,
        as_of="2026-12-31",
        only=DATED,
        down=[{"category": "kind"}],
        across=[period(calendar, "month")],
        figures=[SUM, {"name": "run", "running": "sum", "along": "day", "restart": restart}],
        totals={"grand_down": "none", "grand_across": "none"},
    )
