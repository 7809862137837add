"""Totals of the kept lines alone: the sheet equals that of the kept lines' records."""

from datetime import date
from decimal import Decimal
from typing import Any

from hypothesis import assume, given
from hypothesis import strategies as st

from tests.core.build import records, table
from tests.core.plain_calendars import Calendar, Weeks
from tests.core.test_whole_reports import (
    DATED,
    DERIVED,
    GRAINS,
    PLACES,
    TAKES,
    WEEKS,
    calendars,
    columns_of,
    documents,
    rows,
    weeks,
)

KEPT = {"keep": [{"level": "area", "where": '"sum" > 0'}], "totals": {"totals": "kept"}}
FIRST, LAST = date(2024, 1, 1), date(2026, 4, 30)


@st.composite
def dated_reports(draw: st.DrawFn) -> dict[str, Any]:
    """Areas down, periods beneath, across or both, and figures of every kind."""

    def entry(grains: list[str]) -> dict[str, Any]:
        return {"period": "on", "calendar": "C", "grains": grains}

    down: list[dict[str, Any]] = [{"category": "area"}]
    across: list[dict[str, Any]] = []
    where = draw(st.sampled_from(["down", "across", "both"]))
    if where == "both":
        finer, coarser = draw(st.sampled_from(PLACES))
        down, across = [*down, entry(finer)], [entry(coarser)]
    else:
        (down if where == "down" else across).append(entry(draw(st.sampled_from([*GRAINS, *WEEKS]))))
    others = draw(st.lists(st.sampled_from([*TAKES, *DERIVED, *DATED, *DATED]), min_size=1, max_size=4))
    figures = [{"name": "sum", "take": "sum", "of": "amount"}, {"name": "count", "take": "count"}]
    figures += [{"name": f"f{i}", **figure} for i, figure in enumerate(others)]
    report: dict[str, Any] = {"down": down, "across": across, "figures": figures}
    if draw(st.booleans()):
        show = {"last": draw(st.integers(1, 3)), "grain": draw(st.sampled_from(["year", "quarter", "month"]))}
        report["window"] = {"of": "on", "calendar": "C", "show": show}
    report["as_of"] = draw(st.sampled_from([LAST.isoformat(), "2026-02-10", "2025-07-31"]))
    return report


@given(rows, dated_reports(), st.one_of(calendars, weeks), st.sampled_from([None, 1, 2]))
def test_kept_totals_are_those_of_the_kept_lines_records_alone(
    rows: list[Any], report: dict[str, Any], calendar: Calendar | Weeks, top: int | None
) -> None:
    if top is not None:
        areas, *others = report["down"]
        report = {**report, "down": [areas, {"category": "heads", "top": top, "by": "sum", "rest": "Other"}, *others]}
    bounds = [
        ("a", "x", day, Decimal(50_000), 1) for day in (FIRST, LAST)
    ]  # so that the data's span is that of any part
    data = columns_of([*rows, *bounds])
    data["area"] = [area or "none" for area in data["area"]]
    given_records, docs = records(**data), documents(calendar)
    areas = table(
        given_records, *docs, **{**report, "down": report["down"][:1], "across": [], "figures": report["figures"][:2]}
    )
    kept = [row["area"] for row in areas if row["down_level"] == "area" and row["sum"] and Decimal(row["sum"]) > 0]
    assume("a" in kept)
    listed = ", ".join(f"'{area}'" for area in kept)
    assert table(given_records, *docs, **report, **KEPT) == table(
        given_records, *docs, **report, only=[f"area IN ({listed})"]
    )
