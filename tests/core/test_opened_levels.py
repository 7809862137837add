"""Adding an inner level never changes the outer ones, for every calendar, shift and grain."""

from datetime import date, timedelta
from typing import Any

from hypothesis import given, note
from hypothesis import strategies as st

from tests.core.build import records, table

CALENDARS: list[dict[str, Any]] = [
    {"months": {"start_month": 1}},
    {"months": {"start_month": 11}},
    {"months": {"start_month": 4, "start_day": 6}},
    {"months": {"start_month": 1}, "week_start": "sunday"},
    {"weeks": {"pattern": "4-4-5", "ends": "nearest", "weekday": "saturday", "month": 1}},
    {"weeks": {"pattern": "13x4", "ends": "last", "weekday": "sunday", "month": 12}},
    {
        "table": {
            "periods": [
                {"start": (date(2021, 1, 1) + timedelta(at)).isoformat(), "name": f"{year} P{n}", "year": year, "quarter": quarter}
                for year, first, sizes in (
                    ("Y1", 0, (30, 40, 25, 28, 35, 50)),
                    ("Y2", 208, (31, 28, 28, 60)),
                    ("Y3", 355, (30, 45, 25, 28, 35, 50, 20)),
                    ("Y4", 588, (20, 40, 25, 90, 365)),
                )
                for n, (at, quarter) in enumerate(
                    zip((first + sum(sizes[:k]) for k in range(len(sizes))), ("Q1", "Q1", "Q2", "Q2", "Q2", "Q3", "Q3"), strict=False), 1
                )
            ],
            "ends": "2024-02-29",
        }
    },
]  # fmt: skip
GRAINS: list[Any] = ["year", "half", "quarter", "month", "week", {"days": 10, "from": "2023-01-04"}, "day"]
SHIFTS: list[Any] = [
    "year_earlier",
    "period_before",
    *({"back": n, "grain": g} for n in (1, 2) for g in ("year", "half", "quarter", "month", "week", "day")),
]
SHOWS: list[Any] = [
    None,
    {"last": 2, "grain": "month"},
    {"last": 2, "grain": "year"},
    {"this": "quarter"},
    {"previous": "month"},
    {"from": "2023-02-10", "to": "2023-03-31"},
    {"from": "2023-01-29"},
    {"to": "2023-08-30"},
]
WHOLE = ("year", "half", "quarter", "month")
ODD_DAYS = [date(2022, 1, 29), date(2022, 1, 31), date(2022, 2, 28), date(2023, 3, 31), date(2024, 2, 29)]
days = st.one_of(st.dates(date(2021, 1, 1), date(2024, 2, 29)), st.sampled_from(ODD_DAYS))


@given(
    st.lists(days, min_size=1, max_size=30),
    st.sampled_from(CALENDARS),
    st.integers(0, len(GRAINS) - 2),
    st.data(),
    st.sampled_from(SHIFTS),
    st.sampled_from(SHOWS),
    st.dates(date(2022, 12, 1), date(2024, 2, 29)),
    st.booleans(),
)
def test_what_stands_above_a_level_is_the_same_when_it_is_opened(
    on: list[date], calendar: dict[str, Any], grain: int, data: st.DataObject, shift: Any, show: Any, as_of: date, to_date: bool
) -> None:  # fmt: skip
    finer = data.draw(st.integers(grain + 1, len(GRAINS) - 1))
    upper = "run" if isinstance(GRAINS[grain], dict) else GRAINS[grain]
    figures: list[dict[str, Any]] = [
        {"name": "sum", "take": "sum", "of": "amount"},
        *(
            {"name": as_, "compare": "sum", "with": shift, "as": as_, "to_date": to_date}
            for as_ in ("base", "difference", "percent")
        ),
    ]
    if (
        max(on) <= as_of
    ):  # finer periods that begin after it have no running value, which a coarser one that has begun has
        figures.append({"name": "ran", "running": "sum", "along": "on"})
    if max(on) <= as_of and upper in WHOLE:
        figures.append({"name": "ran before", "compare": "ran", "with": shift, "as": "base", "to_date": to_date})
    report: dict[str, Any] = {"as_of": as_of.isoformat(), "figures": figures}
    if show is not None:
        each = show.keys() & {"last", "this"} and data.draw(st.booleans())
        report["window"] = {"of": "on", "calendar": "C", "show": show, "each_to_date": bool(each)}
    source = records(on=on, amount=[f"{n + 1}.25" for n in range(len(on))])
    groupings = [{"kalendor": 1, "kind": "calendar", "name": "C", **calendar}]

    def worked_out(*grains: Any) -> dict[str, dict[str, str]]:
        entry = {"period": "on", "calendar": "C", "grains": [*grains]}
        rows = table(source, *groupings, **report, down=[entry])
        return {row[upper]: row for row in rows if row["down_level"] in (upper, "Total")}

    entries = GRAINS[grain], GRAINS[finer], on, as_of, report.get("window"), shift, calendar
    note(entries)
    alone, opened = worked_out(GRAINS[grain]), worked_out(GRAINS[grain], GRAINS[finer])
    for label, row in alone.items():
        for figure in figures:
            name = figure["name"]
            assert opened[label][name] == row[name], f"{name} of {label or 'the total'} by {entries}"
            assert opened[label].get(f"{name} mark", "") == row.get(f"{name} mark", ""), f"mark of {name} of {label}"
