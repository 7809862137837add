"""Random report definitions: each figure in each cell compared with the reference implementation."""

from datetime import date, timedelta
from decimal import Decimal
from typing import Any

from hypothesis import assume, example, given, settings
from hypothesis import strategies as st

from tests.core import plain_cells
from tests.core.build import records, table
from tests.core.plain import NOT_CHECKED, Plain
from tests.core.plain_calendars import PATTERNS, WEEKDAYS, Calendar, Weeks
from tests.core.plain_cells import MERGING
from tests.core.test_random_reports import amounts, kinds, labels

dates = st.one_of(st.none(), st.dates(min_value=date(2024, 1, 20), max_value=date(2026, 3, 31)))
heads = st.one_of(st.none(), st.integers(0, 9))
rows = st.lists(st.tuples(labels, kinds, dates, amounts, heads), min_size=1, max_size=40)
GRAINS = [["year"], ["half"], ["quarter"], ["month"], ["year", "month"], ["year", "quarter"], ["quarter", "month"], ["half", "month"], ["year", "quarter_of_year"], ["year", "month_of_year"]]  # fmt: skip
PLACES = [(["half"], ["year"]), (["quarter"], ["year"]), (["month"], ["year"]), (["quarter", "month"], ["year"]), (["month"], ["quarter"]), (["week"], ["year"]), (["week"], ["month"])]  # fmt: skip
WEEKS = [["week"], ["year", "week"], ["month", "week"], ["quarter", "week"]]
conditions = st.sampled_from(["amount > 0", "kind = 'x'", "kind IS NULL OR kind <> 'y'"])
calendars = st.sampled_from([Calendar(), Calendar(4), Calendar(11), Calendar(1, 6), Calendar(7, 28)])
weeks = st.builds(Weeks, st.sampled_from(list(PATTERNS)), st.sampled_from(["last", "nearest"]), st.sampled_from(WEEKDAYS), st.sampled_from([1, 3, 12]))  # fmt: skip

ENTRIES: list[dict[str, Any]] = [
    {"category": "area"},
    {"category": "area", "tree": "T"},
    {"category": "area", "signs": {"North": -1, "b10": -1}},
    {"category": "area", "labels": {"North": "south", "b10": "Tenth", "b9": "Tenth", "none": "x"}},
    {"category": "kind"},
    {"bucket": "amount", "cut": list(plain_cells.CUTS), "name": "size", "empty": "hide"},
    {"age": "on", "cut": list(plain_cells.AGE_CUTS), "name": "Age", "empty": "hide"},
]
TAKES: list[dict[str, Any]] = [
    *({"take": t, "of": "amount"} for t in ("mean", "median", "min", "max", "variance", "stdev", "variance_pop", "stdev_pop", "distinct", "count_values")),
    *({"take": "percentile", "of": "amount", "p": p} for p in (0, 12.5, 90)),
    *({"take": f"nth_{way}", "of": "amount", "n": n} for way in ("largest", "smallest") for n in (1, 3)),
    {"take": "weighted_mean", "of": "amount", "weight": "heads"},
    *({"take": end, "of": "amount", "by": "on"} for end in ("first", "last")),
    {"take": "sum", "of": "amount"}, {"take": "count"},
]  # fmt: skip
DERIVED: list[dict[str, Any]] = [
    {"formula": "sum / count"},
    *({"share": "sum", "of_total": part} for part in ("all", "parent", "column", "line")),
    *({"rank": "sum", "within": within} for within in ("parent", "all")),
]
DATED: list[dict[str, Any]] = [
    *({"running": "sum", "along": "on", "restart": restart} for restart in ("never", "year")),
    *({"moving": "sum", "periods": n, "take": take} for n in (1, 2, 3) for take in ("sum", "mean")),
    *(
        {"compare": "sum", "with": base, "as": shown, "to_date": to_date}
        for base in (
            "year_earlier",
            "period_before",
            {"back": 2, "grain": "year"},
            {"back": 2, "grain": "quarter"},
            {"back": 3, "grain": "month"},
            {"back": 52, "grain": "week"},
        )
        for shown in ("base", "difference", "percent", "index")
        for to_date in (True, False)
    ),
]


@st.composite
def definitions(draw: st.DrawFn, grains: list[list[str]] = GRAINS) -> dict[str, Any]:
    """A report: up to two entries down, one across, the sum and the count, and up to four other figures."""
    down = draw(st.lists(st.sampled_from(ENTRIES), max_size=2))
    across = draw(st.lists(st.sampled_from(ENTRIES), max_size=1))
    period = draw(st.sampled_from(["down", "across", "both", "none"]))
    if period == "both":
        finer, coarser = draw(st.sampled_from([p for p in PLACES if {*p[0]} <= {g for one in grains for g in one}]))
        one, other = (down, across) if draw(st.booleans()) else (across, down)
        one.append({"period": "on", "calendar": "C", "grains": finer})
        other.append({"period": "on", "calendar": "C", "grains": coarser})
    elif period != "none":
        if draw(st.booleans()):
            merged = draw(st.sampled_from(list(MERGING)))
            draw(st.sampled_from([down, across])).append({"period": "on", "calendar": "C", "grains": [merged]})
        (down if period == "down" else across).append(
            {"period": "on", "calendar": "C", "grains": draw(st.sampled_from(grains))}
        )
    columns = [next(iter(e.values())) for e in (*down, *across) if "period" not in e]
    assume(len(set(columns)) == len(columns) and len(down) <= 3)
    levels = [g for e in (*down, *across) for g in e.get("grains", [])]
    assume(len(set(levels)) == len(levels))
    pool = [*TAKES, *DERIVED, *(2 * DATED if period != "none" else [])]
    figures: list[dict[str, Any]] = [
        {"name": "sum", "take": "sum", "of": "amount"},
        {"name": "count", "take": "count"},
    ]
    for i, figure in enumerate(draw(st.lists(st.sampled_from(pool), max_size=4))):
        where = (
            {"where": draw(conditions)} if "take" in figure and "moving" not in figure and draw(st.booleans()) else {}
        )
        figures.append({"name": f"f{i}", **figure, **where})
    report: dict[str, Any] = {"down": down, "across": across, "figures": figures}
    report["only"] = draw(st.lists(conditions, max_size=2, unique=True))
    if period != "none" and draw(st.booleans()):
        show = {
            "last": draw(st.integers(1, 3)),
            "grain": draw(st.sampled_from(sorted({g for several in grains for g in several} - {*MERGING}))),
        }
        report["window"] = {"of": "on", "calendar": "C", "show": show, "each_to_date": draw(st.booleans())}
    return report


def columns_of(rows: list[Any]) -> dict[str, list[Any]]:
    names = ("area", "kind", "on", "amount", "heads")
    data = {name: list(values) for name, values in zip(names, zip(*rows, strict=True), strict=True)}
    first = ("a", "x", date(2025, 2, 28), Decimal("1.25"), 2)
    for name, value in zip(names, first, strict=True):
        data[name][0] = value
    return data


def level_names(entries: list[dict[str, Any]], read: Plain) -> list[tuple[str, bool]]:
    """The headings of an axis in the flat table, and whether each is a period, which is identified by its first day."""
    found = []
    for e in entries:
        if "period" in e:
            found += [(g, g not in MERGING and read.place_in(e, g) is None) for g in e["grains"]]
        elif e.get("tree"):
            found += [("Region", False), ("Area", False)]
        else:
            found.append((e.get("name") or e["category"], False))
    return found


def path_of(row: dict[str, str], names: list[tuple[str, bool]], level: str) -> tuple[Any, ...]:
    depth = 0 if level == "Total" else [n for n, _ in names].index(level) + 1
    return tuple(
        (date.fromisoformat(row[f"{n} start"]) if row[f"{n} start"] else row[n]) if dated else row[n]
        for n, dated in names[:depth]
    )


def agrees(got: str, want: Any, counts: bool) -> bool:
    if want is NOT_CHECKED:
        return True
    if want is None or (counts and want == 0):
        return got == "" or (counts and got == "0")
    return got != "" and abs(float(got) - float(want)) <= 1e-9 * max(1.0, abs(float(want)))


def documents(calendar: Calendar | Weeks) -> list[dict[str, Any]]:
    return [plain_cells.TREE, {"kalendor": 1, "kind": "calendar", "name": "C", **calendar.document}]


def held_against(
    report: dict[str, Any],
    data: dict[str, list[Any]],
    calendar: Calendar | Weeks,
    line: dict[str, Any] | None = None,
    of: tuple[str, str] = ("", ""),
    before: int = 0,
) -> None:
    """Each figure of each row equals the reference, and no cell with records is missing. The report's as-of date is
    `before` days before the last date."""
    as_of = max(d for d in data["on"] if d is not None) - timedelta(before)
    given_records = [dict(zip(data, values, strict=True)) for values in zip(*data.values(), strict=True)]
    got = table(
        records(**data), *documents(calendar), **{**report, "as_of": as_of.isoformat(), "lines": [line] if line else []}
    )
    read = Plain({**report, "lines": [{**line, "of": of}] if line else []}, given_records, calendar, as_of)
    for f in read.figures.values():
        f["moving_take"] = f.get("take")
    down, across = level_names(read.down, read), level_names(read.across, read)
    seen = set()
    for row in got:
        d, a = (
            path_of(row, down, row.get("down_level", "Total")),
            path_of(row, across, row.get("across_level", "Total")),
        )
        seen.add((d, a))
        for name, figure in read.figures.items():
            want = read.figure(name, d, a)
            counts = figure.get("take") in ("count", "count_values", "distinct")
            assert agrees(row[name], want, counts), f"{figure} at {d} × {a}: {row[name]!r} for {want}"
            mark = read.mark(figure, d, a) if "compare" in figure else NOT_CHECKED
            assert mark in (NOT_CHECKED, row.get(f"{name} mark", "")), f"{figure} at {d} × {a}"
    assert not set(read.cells()) - seen


@given(rows, definitions([*GRAINS, *WEEKS]), calendars, st.sampled_from([0, 0, 1, 20, 250]))
@example(
    rows=[(None, "x", None, None, None)],
    report={
        "down": [{"period": "on", "calendar": "C", "grains": ["year"]}],
        "across": [],
        "figures": [
            {"name": "sum", "take": "sum", "of": "amount"},
            {"name": "f0", "running": "sum", "along": "on", "restart": "never"},
        ],
        "only": [],
    },
    calendar=Calendar(month=1, day=1),
    before=1,
)
def test_a_whole_report_is_what_the_plain_reading_says(
    rows: list[Any], report: dict[str, Any], calendar: Calendar | Weeks, before: int
) -> None:
    held_against(report, columns_of(rows), calendar, before=before)


@settings(max_examples=settings.default.max_examples // 2)
@given(rows, definitions([*GRAINS, *WEEKS]), weeks, st.sampled_from([0, 0, 1, 20, 250]))
def test_a_whole_report_by_years_of_weeks_is_what_the_plain_reading_says(
    rows: list[Any], report: dict[str, Any], calendar: Weeks, before: int
) -> None:
    held_against(report, columns_of(rows), calendar, before=before)


SHOWS: list[dict[str, Any]] = [
    *({"this": g} for g in ("year", "quarter", "month")),
    *({"last": n, "grain": g} for n in (1, 2, 3) for g in ("year", "quarter", "month")),
]


@given(
    rows,
    calendars,
    st.sampled_from(SHOWS),
    st.sampled_from(["year_earlier", "period_before", {"back": 2, "grain": "quarter"}, {"back": 1, "grain": "month"}]),
    st.sampled_from(["base", "difference", "percent"]),
    st.booleans(),
    st.integers(0, 90),
)
@example(
    rows=[(None, "x", None, None, None), (None, "x", date(2025, 6, 1), None, None)],
    calendar=Calendar(month=1, day=6),
    show={"this": "month"},
    base="period_before",
    as_="base",
    to_date=False,
    before=57,
)
def test_without_a_period_axis_the_window_is_moved_as_the_axis_would_be_in_total(
    rows: list[Any], calendar: Calendar | Weeks, show: dict[str, Any], base: Any, as_: str, to_date: bool, before: int
) -> None:
    data = columns_of(rows)
    as_of = max(d for d in data["on"] if d is not None) - timedelta(before)
    report: dict[str, Any] = {
        "window": {"of": "on", "calendar": "C", "show": show},
        "as_of": as_of.isoformat(),
        "figures": [
            {"name": "sum", "take": "sum", "of": "amount"},
            {"name": "f", "compare": "sum", "with": base, "as": as_, "to_date": to_date},
        ],
    }
    assume(base != "period_before" or show.get("last", 1) == 1)
    grain = show.get("grain") or show["this"]
    down = [{"period": "on", "calendar": "C", "grains": [grain]}]
    (alone,) = table(records(**data), *documents(calendar), **report) or [{}]
    total = table(records(**data), *documents(calendar), **report, down=down)[-1:] or [{}]
    assert {n: alone.get(n, "") for n in ("sum", "f")} == {n: total[0].get(n, "") for n in ("sum", "f")}


@given(rows, definitions(), calendars, st.sampled_from([("North", "b10"), ("b9", "Östlich"), ("a", "A")]))
def test_a_line_made_from_lines_is_what_the_plain_reading_says(
    rows: list[Any], report: dict[str, Any], calendar: Calendar | Weeks, of: tuple[str, str]
) -> None:
    entries = [*report["down"], *report["across"]]
    assume(not any(e.get("category") == "area" for e in entries))
    down = (
        [{"category": "area"}, *report["down"]] if len(report["down"]) < 2 else [*report["down"], {"category": "area"}]
    )
    report = {**report, "down": down}
    line = {"name": "Made", "level": "area", "formula": f'"{of[0]}" - "{of[1]}"'}
    held_against(report, columns_of(rows), calendar, line, of)


@given(rows, definitions(), calendars, st.booleans())
def test_a_figure_that_runs_down_the_lines_adds_them_up_as_they_stand(
    rows: list[Any], report: dict[str, Any], calendar: Calendar | Weeks, again: bool
) -> None:
    """A running figure restarts under each member of the outermost level on request; a total shows the final value."""
    assume(report["down"])
    plainly = Plain(report, [], calendar, date(2026, 1, 1))
    down, across = level_names(report["down"], plainly), level_names(report["across"], plainly)
    restart = down[0][0] if again else "never"
    figures = [*report["figures"][:2], {"name": "run", "running": "sum", "along": "lines", "restart": restart}]
    got = table(records(**columns_of(rows)), *documents(calendar), **{**report, "figures": figures})
    reached: dict[Any, Decimal] = {}
    for row in got:
        column = path_of(row, across, row.get("across_level", "Total"))
        depth = len(path_of(row, down, row["down_level"]))
        home = column, path_of(row, down, down[0][0]) if again and depth else ()
        if depth == len(down):
            reached[home] = reached.get(home, Decimal(0)) + Decimal(row["sum"] or 0)
        wanted = None if again and depth == 0 else reached.get(home)
        assert (Decimal(row["run"]) if row["run"] else None) == wanted
