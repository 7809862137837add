"""Whole reports compared with SQL."""

from typing import Any

import pytest

from tests.sql.invoices import KIND_PLACE, ROUTE_PLACE, agree

COUNT = {"name": "n", "take": "count"}
SUM = {"name": "sum", "take": "sum", "of": "amount"}


def month_label(day: str) -> str:
    """SQL for `Jul 2026`."""
    name = f"substr('JanFebMarAprMayJunJulAugSepOctNovDec', 3 * strftime('%m', {day}) - 2, 3)"
    return f"{name} || ' ' || strftime('%Y', {day})"


@pytest.mark.parametrize(
    ("grain", "label", "place"),
    [
        ("year", "strftime('%Y', day)", "label"),
        ("half", "strftime('%Y', day) || ' H' || ((strftime('%m', day) + 5) / 6)", "label"),
        ("quarter", "strftime('%Y', day) || ' Q' || ((strftime('%m', day) + 2) / 3)", "label"),
        ("month", month_label("day"), "min(day)"),
        ("week", "strftime('%Y', date(day, '-3 days', 'weekday 4')) || '-W' || printf('%02d', (strftime('%j', date(day,"
         " '-3 days', 'weekday 4')) - 1) / 7 + 1)", "label"),
        ("day", "day", "label"),
        ("quarter_of_year", "'Q' || ((strftime('%m', day) + 2) / 3)", "label"),
        ("month_of_year", "substr('JanFebMarAprMayJunJulAugSepOctNovDec', 3 * strftime('%m', day) - 2, 3)",
         "strftime('%m', day)"),
        ("day_of_month", "CAST(strftime('%d', day) AS INTEGER)", "label"),
        ("week_of_year", "CASE WHEN day IS NOT NULL THEN 'W' || printf('%02d', (strftime('%j', date(day, '-3 days', 'weekday 4')) - 1) / 7 + 1) END",
         "label"),
    ],
    ids=lambda part: part if isinstance(part, str) and part.isidentifier() else "",
)  # fmt: skip
def test_periods(grain: str, label: str, place: str) -> None:
    agree(
        f"""SELECT coalesce(label, '(blank)'), n, sum FROM (
            SELECT {label} AS label, count(*) AS n, sum(amount) / 100.0 AS sum, {place} AS place FROM (
                SELECT *, {label} AS label FROM r) GROUP BY {label})
        ORDER BY label IS NULL, place""",
        [grain, "n", "sum"],
        down=[{"period": "day", "grains": [grain]}],
        figures=[COUNT, SUM],
        totals={"grand_down": "none"},
    )


def test_hours_of_the_day_and_days_of_the_week_cross() -> None:
    agree(
        """WITH cells AS (
            SELECT CAST(strftime('%H', at) AS INTEGER) AS hour, (strftime('%w', at) + 6) % 7 AS weekday, * FROM r
            WHERE at IS NOT NULL)
        SELECT hour, weekday, n FROM (
            SELECT hour, weekday, count(*) AS n FROM cells GROUP BY hour, weekday
            UNION ALL SELECT hour, 9, count(*) FROM cells GROUP BY hour
            UNION ALL SELECT 99, weekday, count(*) FROM cells GROUP BY weekday
            UNION ALL SELECT 99, 9, count(*) FROM cells)
        ORDER BY hour, weekday""".replace(
            "SELECT hour, weekday, n FROM (",
            """SELECT
            CASE hour WHEN 99 THEN 'Total' ELSE 'hour_of_day' END, CASE weekday WHEN 9 THEN '' ELSE
            CASE weekday WHEN 0 THEN 'Monday' WHEN 1 THEN 'Tuesday' WHEN 2 THEN 'Wednesday' WHEN 3 THEN 'Thursday'
            WHEN 4 THEN 'Friday' WHEN 5 THEN 'Saturday' ELSE 'Sunday' END END, n FROM (""",
        ),
        ["down_level", "day_of_week", "n"],
        only=["at IS NOT NULL"],
        down=[{"period": "at", "grains": ["hour_of_day"]}],
        across=[{"period": "at", "grains": ["day_of_week"]}],
        figures=[COUNT],
    )


def test_runs_of_ten_days() -> None:
    agree(
        """SELECT date('2024-01-03', (10 * run) || ' days'), count(*) FROM (
            SELECT CAST(floor((julianday(day) - julianday('2024-01-03')) / 10) AS INTEGER) AS run FROM r
            WHERE day IS NOT NULL)
        GROUP BY run ORDER BY run""",
        ["run start", "n"],
        only=["day IS NOT NULL"],
        down=[{"period": "day", "grains": [{"days": 10, "from": "2024-01-03"}]}],
        figures=[COUNT],
        totals={"grand_down": "none"},
    )


def test_ranges_hold_their_lower_cut() -> None:
    agree(
        """SELECT label, count(*), sum(amount) / 100.0 FROM (
            SELECT *, CASE WHEN amount IS NULL THEN '(blank)' WHEN amount < 0 THEN 'Under 0'
            WHEN amount < 50000 THEN '0 up to 500' WHEN amount < 250000 THEN '500 up to 2,500'
            ELSE '2,500 and over' END AS label FROM r)
        GROUP BY label ORDER BY CASE label WHEN '(blank)' THEN 9 WHEN 'Under 0' THEN 0 WHEN '0 up to 500' THEN 1
            WHEN '500 up to 2,500' THEN 2 ELSE 3 END""",
        ["amount", "n", "sum"],
        down=[{"bucket": "amount", "cut": [0, 500, 2500]}],
        figures=[COUNT, SUM],
        totals={"grand_down": "none"},
    )


def test_whole_ranges_are_named_inclusively() -> None:
    agree(
        """SELECT CASE crates / 10 WHEN 0 THEN '0 – 9' WHEN 1 THEN '10 – 19' WHEN 2 THEN '20 – 29' ELSE '30 and over' END,
            count(*), avg(crates) FROM r GROUP BY crates / 10 ORDER BY crates / 10""",
        ["crates", "n", "mean"],
        down=[{"bucket": "crates", "cut": {"from": 0, "to": 30, "step": 10}}],
        figures=[COUNT, {"name": "mean", "take": "mean", "of": "crates"}],
        totals={"grand_down": "none"},
    )


def test_ages_of_items_open_at_the_as_of_date() -> None:
    agree(
        """WITH open AS (
            SELECT *, julianday('2025-05-31') - julianday(due) AS age FROM r
            WHERE day <= '2025-05-31' AND (paid IS NULL OR paid > '2025-05-31'))
        SELECT label, count(*), sum(amount) / 100.0 FROM (
            SELECT *, CASE WHEN due IS NULL THEN '(no date)' WHEN age <= 0 THEN 'Not yet due' WHEN age <= 30 THEN '1 – 30'
            WHEN age <= 60 THEN '31 – 60' ELSE 'Over 60' END AS label FROM open)
        GROUP BY label ORDER BY label = '(no date)', CASE label WHEN 'Not yet due' THEN 0 ELSE 1 END,
            CASE label WHEN '1 – 30' THEN 0 WHEN '31 – 60' THEN 1 ELSE 2 END""",
        ["Age", "n", "sum"],
        as_of="2025-05-31",
        down=[{"age": "due", "cut": [0, 30, 60], "opened": "day", "closed": "paid"}],
        figures=[COUNT, SUM],
        totals={"grand_down": "none"},
    )


def test_conditions_set_records_aside() -> None:
    agree(
        f"""SELECT coalesce(kind, '(blank)'), count(*) FROM r
        WHERE (crates BETWEEN 5 AND 30 OR route IN ('R1', 'R21')) AND NOT (amount < 100) AND day >= '2024-02-01'
        GROUP BY kind ORDER BY {KIND_PLACE}""",
        ["kind", "n"],
        only=["crates BETWEEN 5 AND 30 OR route IN ('R1', 'R21')", "NOT (amount < 1)", "day >= DATE '2024-02-01'"],
        down=[{"category": "kind"}],
        figures=[COUNT],
        totals={"grand_down": "none"},
    )


def test_shares_of_parent_column_line_and_all() -> None:
    agree(
        f"""WITH cells AS (SELECT kind, strftime('%Y', day) AS y, count(*) AS n FROM r
            WHERE day IS NOT NULL GROUP BY 1, 2)
        SELECT coalesce(kind, '(blank)'), y, n * 1.0 / sum(n) OVER (), n * 1.0 / sum(n) OVER (PARTITION BY y),
            n * 1.0 / sum(n) OVER (PARTITION BY kind) FROM cells ORDER BY {KIND_PLACE}, y""",
        ["kind", "year", "all", "column", "line"],
        only=["day IS NOT NULL"],
        down=[{"category": "kind"}],
        across=[{"period": "day", "grains": ["year"]}],
        figures=[COUNT, *({"name": of, "share": "n", "of_total": of} for of in ("all", "column", "line"))],
        totals={"grand_down": "none", "grand_across": "none"},
    )


def test_running_totals_restart_at_the_year_and_moving_means() -> None:
    agree(
        f"""WITH RECURSIVE months(m) AS (
            SELECT min(date(day, 'start of month')) FROM r
            UNION ALL SELECT date(m, '+1 month') FROM months WHERE m < (SELECT date(max(day), 'start of month') FROM r)),
        sums AS (SELECT m, coalesce((SELECT sum(amount) FROM r WHERE date(day, 'start of month') = m), 0) AS s FROM months)
        SELECT {month_label("m")}, s / 100.0, sum(s) OVER (PARTITION BY strftime('%Y', m) ORDER BY m) / 100.0,
            CASE WHEN row_number() OVER (ORDER BY m) >= 3
            THEN avg(s) OVER (ORDER BY m ROWS 2 PRECEDING) / 100.0 END
        FROM sums ORDER BY m""",
        ["month", "sum", "so far", "three"],
        as_of="2026-12-31",
        only=["day IS NOT NULL"],
        down=[{"period": "day", "grains": ["month"]}],
        figures=[
            SUM,
            {"name": "so far", "running": "sum", "along": "day", "restart": "year"},
            {"name": "three", "moving": "sum", "periods": 3, "take": "mean"},
        ],
        totals={"grand_down": "none"},
    )


@pytest.mark.parametrize(
    ("shown", "sql"),
    [
        ("base", "b / 100.0"),
        ("difference", "(coalesce(v, 0) - coalesce(b, 0)) / 100.0"),
        ("percent", "CASE WHEN b > 0 THEN (v - b) * 1.0 / b END"),
        ("index", "CASE WHEN b > 0 THEN 100.0 * v / b END"),
    ],
)
@pytest.mark.parametrize(("with_", "back"), [("year_earlier", "-12"), ("period_before", "-3"), ({"back": 2, "grain": "year"}, "-24")])  # fmt: skip
def test_quarters_beside_earlier_ones(shown: str, sql: str, with_: Any, back: str) -> None:
    agree(
        f"""WITH q AS (SELECT *, date(day, 'start of month', '-' || ((strftime('%m', day) - 1) % 3) || ' months') AS q
            FROM r WHERE day IS NOT NULL),
        kinds AS (SELECT DISTINCT kind FROM q), quarters AS (SELECT DISTINCT q FROM q),
        sums AS (SELECT kind, q, sum(amount) AS s FROM q GROUP BY kind, q),
        cells AS (SELECT kinds.kind AS kind, quarters.q AS q,
            (SELECT s FROM sums WHERE sums.kind IS kinds.kind AND sums.q = quarters.q) AS v,
            (SELECT s FROM sums WHERE sums.kind IS kinds.kind AND sums.q = date(quarters.q, '{back} months')) AS b,
            (SELECT count(*) FROM q WHERE q.kind IS kinds.kind AND q.q = quarters.q) AS n,
            date(quarters.q, '{back} months') < '2023-07-01' AS none FROM kinds, quarters)
        SELECT coalesce(kind, '(blank)'), q, CASE WHEN NOT none THEN {sql} END FROM cells
        WHERE n > 0 OR v IS NOT NULL OR b IS NOT NULL AND NOT none ORDER BY {KIND_PLACE}, q""",
        ["kind", "quarter start", "c"],
        as_of="2026-12-31",
        only=["day IS NOT NULL"],
        down=[{"category": "kind"}],
        across=[{"period": "day", "grains": ["quarter"]}],
        figures=[SUM, {"name": "c", "compare": "sum", "with": with_, "as": shown, "to_date": False}],
        totals={"grand_down": "none", "grand_across": "none"},
    )


def test_a_part_of_a_year_beside_the_same_part() -> None:
    agree(
        f"""SELECT coalesce(kind, '(blank)'), count(CASE WHEN day BETWEEN '2026-01-01' AND '2026-05-17' THEN 1 END),
            count(CASE WHEN day BETWEEN '2025-01-01' AND '2025-05-17' THEN 1 END)
        FROM r WHERE day BETWEEN '2026-01-01' AND '2026-05-17' OR day BETWEEN '2025-01-01' AND '2025-05-17'
        GROUP BY kind ORDER BY {KIND_PLACE}""",
        ["kind", "n", "c"],
        as_of="2026-05-17",
        window={"of": "day", "show": {"this": "year"}},
        only=["day <= DATE '2026-05-17'"],
        down=[{"category": "kind"}],
        figures=[COUNT, {"name": "c", "compare": "n", "with": "year_earlier", "as": "base"}],
        totals={"grand_down": "none"},
    )


def test_the_two_largest_routes_of_each_kind_and_the_rest_together() -> None:
    agree(
        f"""WITH sums AS (SELECT kind, route, sum(amount) AS s FROM r WHERE route IS NOT NULL GROUP BY kind, route),
        placed AS (SELECT *, row_number() OVER (PARTITION BY kind ORDER BY s DESC) AS i,
            count(*) OVER (PARTITION BY kind) AS c FROM sums)
        SELECT coalesce(kind, '(blank)'), CASE WHEN i <= 2 THEN route ELSE 'Other (' || (c - 2) || ')' END AS label,
            sum(s) / 100.0 FROM placed GROUP BY kind, label ORDER BY {KIND_PLACE}, min(i)""",
        ["kind", "route", "sum"],
        only=["route IS NOT NULL"],
        down=[
            {"category": "kind"},
            {"category": "route", "top": 2, "by": "sum", "rest": "Other", "order": {"by": "sum", "desc": True}},
        ],
        figures=[SUM],
        totals={"grand_down": "none", "levels": {"kind": "none"}},
    )


def test_lines_kept_and_ranked() -> None:
    agree(
        f"""WITH sums AS (SELECT kind, route, sum(amount) AS s, count(*) AS n FROM r GROUP BY kind, route),
        ranked AS (SELECT *, CASE WHEN route IS NOT NULL THEN
            rank() OVER (PARTITION BY kind, route IS NULL ORDER BY n DESC) END AS p, CASE WHEN route IS NOT NULL THEN
            rank() OVER (PARTITION BY route IS NULL ORDER BY n DESC) END AS q FROM sums)
        SELECT coalesce(kind, '(blank)'), coalesce(route, '(blank)'), n, p, q FROM ranked WHERE n > 55
        ORDER BY {KIND_PLACE}, {ROUTE_PLACE}""",
        ["kind", "route", "n", "p", "q"],
        down=[{"category": "kind"}, {"category": "route"}],
        figures=[
            COUNT,
            {"name": "p", "rank": "n", "within": "parent"},
            {"name": "q", "rank": "n", "within": "all"},
        ],
        keep=[{"level": "route", "where": "n > 55"}],
        totals={"grand_down": "none", "levels": {"kind": "none"}},
    )


@pytest.mark.parametrize(
    ("show", "sql"),
    [
        ({"last": 3, "grain": "month"}, "day BETWEEN '2026-03-01' AND '2026-05-17'"),
        ({"this": "quarter"}, "day BETWEEN '2026-04-01' AND '2026-05-17'"),
        ({"to_date": "year"}, "day BETWEEN '2026-01-01' AND '2026-05-17'"),
        ({"from": "2024-02-10", "to": "2026-06-30"}, "day BETWEEN '2024-02-10' AND '2026-06-30'"),
        ({"last": 2, "grain": "year", "each_to_date": True},
         "(day BETWEEN '2026-01-01' AND '2026-05-17' OR day BETWEEN '2025-01-01' AND '2025-05-17')"),
    ],
    ids=str,
)  # fmt: skip
def test_windows(show: dict[str, Any], sql: str) -> None:
    window: dict[str, Any] = {"of": "day", "show": show}
    if "each_to_date" in show:
        window = {"of": "day", "show": {k: v for k, v in show.items() if k != "each_to_date"}, "each_to_date": True}
    agree(
        f"SELECT coalesce(kind, '(blank)'), count(*), sum(amount) / 100.0 FROM r WHERE {sql} GROUP BY kind"
        f" ORDER BY {KIND_PLACE}",
        ["kind", "n", "sum"],
        as_of="2026-05-17",
        window=window,
        down=[{"category": "kind"}],
        figures=[COUNT, SUM],
        totals={"grand_down": "none"},
    )


@pytest.mark.parametrize(
    ("order", "sql"),
    [
        ("first_seen", "min(no)"),
        ("label", "label IS NULL, label"),
        ("label_desc", "label IS NULL, label DESC"),
        ({"by": "sum", "desc": True}, "label IS NULL, sum(amount) DESC"),
        ({"by": "n"}, "label IS NULL, count(*), label"),
        ({"list": ["Jul 2025", "Jan 2024"]}, "CASE label WHEN 'Jul 2025' THEN 0 WHEN 'Jan 2024' THEN 1 ELSE 2 END, min(day)"),
    ],
    ids=str,
)  # fmt: skip
def test_orders_of_months(order: Any, sql: str) -> None:
    agree(
        f"""SELECT label, count(*), sum(amount) / 100.0 FROM (SELECT *, {month_label("day")} AS label FROM r)
        WHERE crates > 12 AND day IS NOT NULL GROUP BY label ORDER BY {sql}""",
        ["month", "n", "sum"],
        only=["crates > 12", "day IS NOT NULL"],
        down=[{"period": "day", "grains": ["month"], "order": order}],
        figures=[COUNT, SUM],
        totals={"grand_down": "none"},
    )


def test_routes_stand_as_they_first_appear_within_their_kind() -> None:
    agree(
        """SELECT coalesce(kind, '(blank)'), coalesce(route, '(blank)'), count(*) FROM (
            SELECT *, min(no) OVER (PARTITION BY kind) AS k FROM r WHERE crates > 30)
        GROUP BY kind, route ORDER BY kind IS NULL, k, route IS NULL, min(no)""",
        ["kind", "route", "n"],
        only=["crates > 30"],
        down=[{"category": "kind", "order": "first_seen"}, {"category": "route", "order": "first_seen"}],
        figures=[COUNT],
        totals={"grand_down": "none", "levels": {"kind": "none"}},
    )
