"""The rest of a top is a single member: the sheet equals that of its records under one name."""

from typing import Any

from hypothesis import assume, given, settings
from hypothesis import strategies as st

from tests.core.build import records, table
from tests.core.plain_calendars import Calendar, Weeks
from tests.core.test_kept_totals import dated_reports
from tests.core.test_whole_reports import calendars, columns_of, documents, rows, weeks


def told_apart(rows: list[dict[str, str]], figures: list[dict[str, Any]]) -> list[dict[str, str]]:
    """Rows sorted independently of the position of a top's rest."""
    names = {figure["name"] for figure in figures}
    return sorted(rows, key=lambda row: [(name, text) for name, text in row.items() if name not in names])


@settings(max_examples=settings.default.max_examples // 2)
@given(rows, dated_reports(), st.one_of(calendars, weeks), st.integers(1, 3))
def test_a_tops_rest_is_what_its_members_records_make_under_one_name(
    rows: list[Any], report: dict[str, Any], calendar: Calendar | Weeks, top: int
) -> None:
    figures = [figure for figure in report["figures"] if "rank" not in figure]  # a rest has no rank
    (areas, *others), report = report["down"], {**report, "figures": figures}
    data, docs = columns_of(rows), documents(calendar)
    data["area"] = [area or "none" for area in data["area"]]
    by_sum = {**areas, "order": {"by": "sum", "desc": True}}
    ordered = table(records(**data), *docs, **{**report, "down": [by_sum, *others]})
    beyond = list(dict.fromkeys(row["area"] for row in ordered if row["area"]))[top:]
    assume(beyond)
    with_top = {**report, "down": [{**areas, "top": top, "by": "sum", "rest": "Other"}, *others]}
    got = table(records(**data), *docs, **with_top)
    got = [{**row, "area": "Rest" if row["area"].startswith("Other (") else row["area"]} for row in got]
    data["area"] = ["Rest" if area in beyond else area for area in data["area"]]
    assert told_apart(got, figures) == told_apart(table(records(**data), *docs, **report), figures)


def test_a_rest_counts_the_members_of_its_own_group_also_where_groups_before_it_are_left_out() -> None:
    data = records(
        area=["A"] * 3 + ["B"] * 4 + ["C"] * 5, kind=[*"xyz", *"xyzw", *"xyzwv"], amount=[n + 1 for n in range(12)]
    )
    for totals in ("all", "kept"):
        rows = table(
            data,
            down=[{"category": "area"}, {"category": "kind", "top": 1, "by": "sum"}],
            figures=[{"name": "sum", "take": "sum", "of": "amount"}],
            keep=[{"level": "area", "where": "sum > 10"}],
            totals={"totals": totals},
        )
        rests = [(row["area"], row["kind"], row["sum"]) for row in rows if row["kind"].startswith("Other")]
        assert rests == [("B", "Other (3)", "15"), ("C", "Other (4)", "38")]
