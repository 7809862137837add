"""Random reports: computed or refused with a message, every record placed, and the same again from the cache."""

import resource
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import date, datetime, timedelta
from decimal import Decimal
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from kalendor.core.groupings.ground import groupings
from kalendor.core.placing.material import Material
from kalendor.core.report import work_out
from kalendor.core.sheet.sheet import Sheet
from kalendor.core.values.columns import Column, Kind, Records
from kalendor.core.values.keys import Memo
from kalendor.core.values.memory import Memory
from kalendor.definitions.kinds import definition
from kalendor.errors import DefinitionError, KalendorError
from kalendor.output.delimited import flat_delimited, sheet_delimited
from kalendor.output.flat import flat
from kalendor.output.handover import Handover
from kalendor.output.json_files import flat_json, sheet_json
from tests.core.build import TODAY, column

COUNT, MOST_MEMORY = 80, 3 << 30


def fixed() -> Records:
    """Records of every kind, with blanks in each column."""
    rng = np.random.Generator(np.random.PCG64(5))

    def some(values: list[Any]) -> list[Any]:
        return [None if rng.random() < 0.08 else values[int(rng.integers(0, len(values)))] for _ in range(COUNT)]

    days = [date(2024, 1, 20) + timedelta(days=int(n)) for n in rng.integers(0, 900, 60)]
    columns = {
        "area": column(some(["North", "south", "b10", "b9", "Ärea", "north"])),
        "kind": column(some(["x", "y", "z"])),
        "on": column(some(days)),
        "paid": column(some(days)),
        "amount": column(some([Decimal(int(n)) / 100 for n in rng.integers(-9999, 99999, 50)])),
        "heads": column(some(list(range(9)))),
    }
    moments = some([datetime(2025, 3, 1, 23, 30) + timedelta(hours=int(n)) for n in rng.integers(0, 99, 30)])
    epoch = datetime(1970, 1, 1)
    micro = np.array([0 if m is None else int((m - epoch) / timedelta(microseconds=1)) for m in moments])
    columns["at"] = Column(Kind.DATETIME, micro, np.array([m is None for m in moments]))
    columns["ratio"] = Column(Kind.APPROXIMATE, rng.random(COUNT), rng.random(COUNT) < 0.1)
    return Records(columns, COUNT)


DATA = fixed()
TREE = {
    "levels": ["Region", "Area"], "kind": "tree", "name": "T",
    "roots": [{"label": "Up", "under": [{"value": "North"}, {"value": "b9", "sign": -1}]}, {"label": "B", "rule": "value LIKE 'b%'"},
              {"value": "south"}],
}  # fmt: skip
CALENDARS: list[dict[str, Any]] = [
    {"name": "Nov", "months": {"start_month": 11}, "week_start": "sunday"},
    {"name": "Day6", "months": {"start_month": 4, "start_day": 6}, "year_name": {"by": "start", "prefix": "Y", "digits": 4}},
    {"name": "Retail", "weeks": {"pattern": "4-5-4", "ends": "last", "weekday": "saturday", "month": 1}},
    {"name": "Thirteen", "weeks": {"pattern": "13x4", "ends": "nearest", "weekday": "sunday", "month": 12}},
    {"name": "Table", "table": {"periods": [
        {"start": f"{2023 + n // 4}-{n % 4 * 3 + 1:02}-01", "name": f"P{n % 4 + 1}", "year": f"S{2023 + n // 4}"} for n in range(20)],
        "ends": "2027-12-31"}},
]  # fmt: skip
BUCKETS = {"kind": "buckets", "name": "Late", "cut": [0, 30, 90]}
GROUPINGS = groupings(
    [
        definition({"kalendor": 1, "kind": kind, **body}, "test")
        for kind, body in [("tree", TREE), ("buckets", BUCKETS), *(("calendar", c) for c in CALENDARS)]
    ]
)
MATERIAL = Material(DATA, GROUPINGS, stamp="fixed")
MEMORY = Memory(1 << 28)
MADE = ("Made", "Again")
MADE_OF = {"area": ("North", "south"), "kind": ("x", "y"), "heads": ("3", "4")}

calendar_names = st.sampled_from([None, *(c["name"] for c in CALENDARS)])
own_grains = st.sampled_from(["year", "half", "quarter", "month", "week", "day"])
grains = st.one_of(
    st.lists(own_grains, min_size=1, max_size=3, unique=True),
    st.lists(st.sampled_from(["quarter_of_year", "month_of_year", "week_of_year", "day_of_month", "day_of_week"]), min_size=1, max_size=2, unique=True),
    st.just([{"days": 10, "from": "2024-01-03"}]),
)  # fmt: skip
figure_names = st.sampled_from(["count", "sum", "f0", "f1"])
orders = st.one_of(
    st.sampled_from(["tree", "label", "label_desc", "date", "date_desc", "first_seen"]),
    st.builds(lambda by, desc: {"by": by, "desc": desc}, figure_names, st.booleans()),
    st.just({"list": ["y", "b9", "Up", "Jan 2025"]}),
)
options = st.fixed_dictionaries(
    {},
    optional={
        "order": orders,
        "empty": st.sampled_from(["show", "hide"]),
        "name": st.integers(1, 12).map("level {}".format),
    },
)
tops = st.one_of(
    st.just({}), st.builds(lambda n, by, rest: {"top": n, "by": by, "rest": rest}, st.integers(1, 3), figure_names, st.sampled_from(["Other", None]))
)  # fmt: skip


@st.composite
def entries(draw: st.DrawFn) -> dict[str, Any]:
    kind = draw(st.sampled_from(["category", "tree", "period", "clock", "bucket", "age"]))
    said: dict[str, Any] = {**draw(options), **draw(tops)}
    match kind:
        case "category":
            labels = draw(st.sampled_from([{}, {"labels": {"North": "south", "x": "Ex", "3": "Three", "4": "Three"}}]))
            return {"category": draw(st.sampled_from(["area", "kind", "heads"])), **labels, **said}
        case "tree":
            levels = draw(st.sampled_from([{}, {"levels": ["Region"]}, {"levels": ["Area"]}]))
            said.pop("name", None)
            return {"category": "area", "tree": "T", **levels, **said}
        case "period":
            picked = draw(grains)
            said.pop("name", None) if len(picked) > 1 else None
            calendar = draw(calendar_names)
            return {
                "period": draw(st.sampled_from(["on", "on", "at"])),
                "grains": picked,
                **({"calendar": calendar} if calendar else {}),
                **said,
            }
        case "clock":
            return {"period": "at", "grains": [draw(st.sampled_from(["hour", "minute", "hour_of_day"]))], **said}
        case "bucket":
            column, cut = draw(st.sampled_from([("amount", [0, 500]), ("heads", {"from": 0, "to": 6, "step": 2}), ("ratio", [0.25, 0.5])]))  # fmt: skip
            return {"bucket": column, "cut": cut, **said}
        case _:
            open_items = draw(st.sampled_from([{}, {"opened": "on", "closed": "paid"}]))
            cut = draw(st.sampled_from([{"cut": [0, 30]}, {"set": "Late"}]))
            return {"age": "on", **cut, **open_items, **said}


takes = st.one_of(
    st.builds(
        lambda take, of: {"take": take, "of": of},
        st.sampled_from(["sum", "mean", "median", "min", "max", "stdev", "distinct", "count_values"]),
        st.sampled_from(["amount", "heads", "ratio"]),
    ),
    st.sampled_from(
        [
            {"take": "distinct", "of": "area"},
            {"take": "last", "of": "amount", "by": "on"},
            {"take": "balance", "of": "heads", "by": "on", "keys": ["area"]},
        ]
    ),
)
derived = st.one_of(
    st.builds(lambda of: {"share": "sum", "of_total": of}, st.sampled_from(["all", "parent", "column", "line"])),
    st.builds(lambda w: {"rank": "sum", "within": w}, st.sampled_from(["parent", "all"])),
    st.builds(lambda along, r: {"running": "sum", "along": along, "restart": r}, st.sampled_from(["on", "lines", None]), st.sampled_from(["never", "year", "Region"])),
    st.builds(lambda n, t: {"moving": "count", "periods": n, "take": t}, st.integers(1, 3), st.sampled_from(["sum", "mean"])),
    st.builds(
        lambda of, base, as_, cut: {"compare": of, "with": base, "as": as_, "to_date": cut},
        st.sampled_from(["sum", "count", "f0"]),
        st.sampled_from(["year_earlier", "period_before", {"back": 2, "grain": "month"}, {"member": "y"}, {"figure": "count"}]),
        st.sampled_from(["base", "difference", "percent", "index"]),
        st.booleans(),
    ),
    st.just({"formula": "sum / NULLIF(count, 0)"}),
)  # fmt: skip
shows = st.one_of(
    st.builds(lambda n, g: {"last": n, "grain": g}, st.integers(1, 4), own_grains),
    st.builds(lambda g: {"this": g}, own_grains),
    st.builds(lambda g: {"to_date": g}, own_grains),
    st.just({"from": "2025-02-10", "to": "2026-01-20"}),
)
places = st.sampled_from(["after", "before", "none"])


@st.composite
def reports(draw: st.DrawFn) -> dict[str, Any]:
    figures: list[dict[str, Any]] = [
        {"name": "count", "take": "count"},
        {"name": "sum", "take": "sum", "of": draw(st.sampled_from(["amount", "heads", "ratio"]))},
    ]
    for i, figure in enumerate(draw(st.lists(st.one_of(takes, derived), max_size=3))):
        figures.append({"name": f"f{i}", **figure})
    report: dict[str, Any] = {
        "kalendor": 1, "kind": "report", "title": "any", "source": "data", "figures": figures,
        "down": draw(st.lists(entries(), max_size=3)), "across": draw(st.lists(entries(), max_size=1)),
        "only": draw(st.lists(st.sampled_from(["amount > 0", "kind <> 'x'", '"on" IS NOT NULL', "kind = 'none of them'", "kind = 'none of them' OR \"on\" IS NULL"]), max_size=1)),
        "as_of": draw(st.sampled_from(["2026-05-17", "2025-12-31", "2024-02-29"])),
        "totals": {side: draw(places) for side in ("down", "across", "grand_down", "grand_across")},
    }  # fmt: skip
    if draw(st.booleans()):
        calendar = draw(calendar_names)
        show = draw(shows)
        window = {"of": "on", "show": show, "each_to_date": "from" not in show and draw(st.booleans())}
        report["window"] = {**window, **({"calendar": calendar} if calendar else {})}
    if draw(st.booleans()):
        level = "Area" if report["down"] and "tree" in report["down"][0] else "month"
        levels = [entry.get("name") or entry.get("category") or level for entry in report["down"]]
        level = level if level == "Area" else levels[0] if levels else ""
        report["keep"] = [{"level": level, "where": "count > 2"}] if levels else []
        report["totals"]["totals"] = draw(st.sampled_from(["all", "kept"]))
    report["lines"] = draw(made_lines(report["down"]))
    return report


@st.composite
def made_lines(draw: st.DrawFn, down: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """Up to two lines made from others, the second possibly from the first."""
    levels = [(e.get("levels", ["Area"])[-1] if e.get("tree") else e.get("name") or e["category"], e["category"]) for e in down if "category" in e]  # fmt: skip
    if not levels or draw(st.integers(0, 2)) == 0:
        return []
    level, column = draw(st.sampled_from(levels))
    one, other = MADE_OF[column]
    line = {
        "name": MADE[0],
        "level": level,
        "formula": f'"{one}" - "{other}"',
        "after": draw(st.sampled_from([None, one])),
    }
    again = {"name": MADE[1], "level": level, "formula": f'{MADE[0]} + "{one}" * 2 + "nowhere"'}
    return [line, again][: draw(st.integers(1, 2))]


@contextmanager
def within_memory(more: int) -> Iterator[None]:
    """Context that limits the bytes that may be allocated beside those in use."""
    held = int(Path("/proc/self/statm").read_text().split()[0]) * resource.getpagesize()
    before = resource.getrlimit(resource.RLIMIT_AS)
    resource.setrlimit(resource.RLIMIT_AS, (held + more, before[1]))
    try:
        yield
    finally:
        resource.setrlimit(resource.RLIMIT_AS, before)


def worked(report: dict[str, Any], memo: Memo | None) -> Sheet | str:
    """The sheet, or the message of its refusal; `COUNT` records never need much memory."""
    with within_memory(MOST_MEMORY):
        return _worked(report, memo)


def _worked(report: dict[str, Any], memo: Memo | None) -> Sheet | str:
    try:
        parsed = definition(report, "test")
        return work_out(parsed, MATERIAL, TODAY) if memo is None else work_out(parsed, MATERIAL, TODAY, memo=memo)  # type: ignore[arg-type]
    except DefinitionError as error:
        return str(error)


@given(reports())
def test_any_report(report: dict[str, Any]) -> None:
    try:
        fresh, again = worked(report, None), worked(report, MEMORY)
    except KalendorError as error:
        raise AssertionError(f"refused as {type(error).__name__}: {error}") from error
    if isinstance(fresh, str) or isinstance(again, str):
        assert fresh == again
        return
    assert flat_delimited(Handover(fresh)) == flat_delimited(Handover(again))
    assert sheet_delimited(Handover(fresh)) == sheet_delimited(Handover(again))
    flat_json(Handover(fresh))
    sheet_json(Handover(fresh))
    tie = fresh.tie_out
    assert tie.read == COUNT
    assert tie.on_sheet == COUNT - sum(step.records for step in tie.steps)
    if any(entry.get("rest", "Other") is None for entry in (*report["down"], *report["across"])) or tie.hidden_lines:
        return
    rows = flat(fresh).rows
    names = flat(fresh).headings
    inner = [
        row
        for row in rows
        if all(
            row[names.index(f"{side}_level")] == levels[-1].name
            for side, levels in (("down", fresh.lines.levels), ("across", fresh.columns.levels))
            if levels
        )
        and not {*MADE} & {*row}
    ]
    assert sum(int(row[names.index("count")] or 0) for row in inner) == tie.on_sheet or not (
        fresh.lines.levels or fresh.columns.levels
    )


@given(reports())
def test_a_sheet_is_the_same_from_bundles_of_records_and_from_the_records(report: dict[str, Any]) -> None:
    one = worked(report, None)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr("kalendor.core.placing.views.few", lambda down, across: False)
        other = worked(report, None)
    if isinstance(one, str) or isinstance(other, str):
        assert one == other
        return
    assert flat_delimited(Handover(one)) == flat_delimited(Handover(other))
