"""Takes at every level compared with SQL."""

from typing import Any

import pytest

from tests.sql.invoices import KIND_PLACE, ROUTE_PLACE, agree


@pytest.mark.parametrize(
    ("take", "sql"),
    [
        ({"take": "sum", "of": "amount"}, "sum(amount) / 100.0"),
        ({"take": "count"}, "count(*)"),
        ({"take": "count_values", "of": "amount"}, "count(amount)"),
        ({"take": "distinct", "of": "crates"}, "count(DISTINCT crates)"),
        ({"take": "distinct", "of": "route"}, "count(DISTINCT route)"),
        ({"take": "mean", "of": "amount"}, "avg(amount) / 100.0"),
        ({"take": "min", "of": "amount"}, "min(amount) / 100.0"),
        ({"take": "max", "of": "day"}, "max(day)"),
        ({"take": "weighted_mean", "of": "amount", "weight": "crates"},
         "sum(amount * crates) / 100.0 / sum(CASE WHEN amount IS NOT NULL THEN crates END)"),
        ({"take": "variance_pop", "of": "crates"}, "avg(crates * crates * 1.0) - avg(crates) * avg(crates)"),
        ({"take": "variance", "of": "crates"},
         "(sum(crates * crates) - sum(crates) * sum(crates) * 1.0 / count(crates)) / (count(crates) - 1)"),
        ({"take": "sum", "of": "amount", "where": "paid IS NOT NULL AND crates > 9"},
         "sum(CASE WHEN paid IS NOT NULL AND crates > 9 THEN amount END) / 100.0"),
        ({"take": "count", "where": "route LIKE 'R%'"}, "sum(coalesce(route LIKE 'R%', 0))"),
    ],
    ids=lambda part: part["take"] if isinstance(part, dict) else "",
)  # fmt: skip
def test_takes_at_every_level(take: dict[str, Any], sql: str) -> None:
    agree(
        f"""WITH kinds AS (SELECT kind, route, {sql} AS v, 0 AS total FROM r GROUP BY kind, route),
        all_levels AS (
            SELECT *, 'route' AS level FROM kinds
            UNION ALL SELECT kind, NULL, {sql}, 1, 'kind' FROM r GROUP BY kind
            UNION ALL SELECT NULL, NULL, {sql}, 2, 'Total' FROM r)
        SELECT CASE WHEN total = 2 THEN '' ELSE coalesce(kind, '(blank)') END,
            CASE WHEN total > 0 THEN '' ELSE coalesce(route, '(blank)') END, level, v
        FROM all_levels ORDER BY total = 2, {KIND_PLACE}, total, {ROUTE_PLACE}""",
        ["kind", "route", "down_level", "v"],
        down=[{"category": "kind"}, {"category": "route"}],
        figures=[{"name": "v", **take}],
    )


@pytest.mark.parametrize(
    ("take", "place"),
    [
        ({"take": "median"}, "(c - 1) * 0.5"),
        ({"take": "percentile", "p": 90}, "(c - 1) * 0.9"),
        ({"take": "percentile", "p": 0}, "0"),
        ({"take": "percentile", "p": 33.3}, "(c - 1) * 0.333"),
        ({"take": "nth_largest", "n": 3}, "c - 3"),
        ({"take": "nth_smallest", "n": 2}, "1"),
    ],
    ids=str,
)
def test_order_statistics(take: dict[str, Any], place: str) -> None:
    agree(
        f"""WITH told AS (
            SELECT kind, amount, row_number() OVER w - 1 AS i, count(*) OVER (PARTITION BY kind) AS c FROM r
            WHERE amount IS NOT NULL WINDOW w AS (PARTITION BY kind ORDER BY amount)),
        at AS (SELECT kind, max({place}) AS at FROM told GROUP BY kind)
        SELECT coalesce(kind, '(blank)'),
            sum(amount * CASE WHEN i = floor(at) THEN 1 - (at - floor(at)) WHEN i = floor(at) + 1 THEN at - floor(at)
                ELSE 0 END) / 100.0
        FROM told JOIN at USING (kind) GROUP BY kind ORDER BY {KIND_PLACE}""".replace(
            "USING (kind)", "ON told.kind IS at.kind"
        )
        .replace("coalesce(kind", "coalesce(told.kind")
        .replace("GROUP BY kind ORDER BY", "GROUP BY told.kind ORDER BY")
        .replace("ORDER BY kind IS NULL, lower(kind)", "ORDER BY told.kind IS NULL, lower(told.kind)"),
        ["kind", "v"],
        down=[{"category": "kind"}],
        figures=[{"name": "v", "of": "amount", **take}],
        totals={"grand_down": "none"},
    )


@pytest.mark.parametrize(("take", "ends"), [("first", "ASC"), ("last", "DESC")], ids=["first", "last"])
def test_first_and_last_by_a_date(take: str, ends: str) -> None:
    tie = "no ASC" if take == "first" else "no DESC"
    agree(
        f"""SELECT coalesce(kind, '(blank)'), amount / 100.0 FROM (
            SELECT *, row_number() OVER (PARTITION BY kind ORDER BY due {ends}, {tie}) AS i FROM r
            WHERE due IS NOT NULL AND amount IS NOT NULL)
        WHERE i = 1 ORDER BY {KIND_PLACE}""",
        ["kind", "v"],
        down=[{"category": "kind"}],
        figures=[{"name": "v", "take": take, "of": "amount", "by": "due"}],
        totals={"grand_down": "none"},
    )
