"""Random definitions with every key, over ordinary or hostile names."""

from typing import Any

from hypothesis import strategies as st
from sqlglot import exp

from kalendor.core.formulas.expressions import parsed
from kalendor.core.groupings.ground import Groupings
from kalendor.core.values.columns import Records
from tests.core.test_any_report import DATA, GROUPINGS, places, reports

HOSTILE = {
    "area": "by", "kind": "not", "on": "in 2025", "paid": "Top 5", "amount": 'a "b", c', "heads": "across", "at": "שלום עולם",
    "ratio": "where x is 5", "count": "sum", "sum": "count of records", "f0": "by, then", "f1": "largest first", "f2": "2025-01-01",
    "T": "month", "Nov": "Net", "Retail": "last year", "Late": "90", "Region": "down", "Area": "area (x); y", "level 1": "only",
    "level 2": "(hidden)", "level 3": "1", "level 4": '"', "level 5": "then", "level 6": "›", "level 7": "a;b", "level 8": "day",
    "level 9": "p90", "level 10": "not blank", "level 11": "x = y", "level 12": "„x“", "made": "as of", "Other source": "Plan, by",
}  # fmt: skip
SQL = ("only", "where", "formula")
NAMED = frozenset(
    [
        "category",
        "tree",
        "levels",
        "name",
        "period",
        "calendar",
        "bucket",
        "set",
        "age",
        "opened",
        "closed",
        "by",
        "of",
        "along",
        "keys",
        "share",
        "rank",
        "running",
        "moving",
        "compare",
        "figure",
        "level",
        "restart",
        "weight",
        "placed_by",
        "source",
        "columns",
        "order",
        "lines",
        "take_column",
    ]
)
takes = st.sampled_from(
    [
        {"take": "percentile", "of": "amount", "p": 97.5}, {"take": "percentile", "of": "amount", "p": 1},
        {"take": "nth_largest", "of": "heads", "n": 3}, {"take": "nth_smallest", "of": "amount", "n": 11},
        {"take": "weighted_mean", "of": "amount", "weight": "heads"}, {"take": "first", "of": "kind", "by": "on"},
        {"take": "stdev_pop", "of": "ratio"}, {"take": "variance", "of": "ratio"}, {"take": "variance_pop", "of": "ratio"},
        {"take": "balance", "of": "heads", "by": "on", "keys": ["area", "kind"], "carry": True},
        {"take": "balance", "of": "heads", "by": "on"}, {"take": "sum", "of": "amount", "source": "Other source"},
    ]
)  # fmt: skip
formats = st.fixed_dictionaries(
    {},
    optional={
        "places": st.integers(0, 9), "thousands": st.booleans(), "unit": st.sampled_from(["one", "thousands", "millions"]),
        "currency": st.sampled_from(["", "€", "kr ;", '"']), "percent": st.sampled_from([None, True, False]),
        "negative": st.sampled_from(["parentheses", "minus"]), "zero": st.sampled_from(["number", "dash"]),
        "foots": st.booleans(),
    },
)  # fmt: skip
conditions = st.sampled_from(
    [
        "kind = 'x'", "kind <> 'x'", "kind <> 'x' OR kind IS NULL", "kind IN ('x', 'by')", "kind NOT IN ('x', 'y') OR kind IS NULL",
        "kind NOT IN ('x', 'y')", "area IS NULL", "area IS NOT NULL", "amount > -0.5", "amount BETWEEN 1 AND 5000", "heads >= 10000",
        "\"on\" <= DATE '2025-12-31'", "\"on\" = DATE '2024-02-29'", "area LIKE '%or%'", "area LIKE 'b%'", "area NOT LIKE '%9' OR area IS NULL",
        "area LIKE '50!%' ESCAPE '!'", "UPPER(area) = 'SOUTH'", "kind = 'x' OR amount > 5", "kind = 'x' AND amount > 5 AND area IS NULL",
        "kind = 'x' OR amount > 5 AND heads < 3", "(kind = 'x' OR amount > 5) AND heads < 3", "NOT (kind = 'x' AND heads = 2)",
        "kind = 'it''s \"x\", and'", "amount = heads", "amount > 1e3", "kind = '2025'", "kind = '2025-01-01'", "paid - \"on\" > 30",
        "kind = ')'", "kind NOT LIKE 'x%'", "kind IN ('x')", "kind = ''",
    ]
)  # fmt: skip
shows = st.sampled_from(
    [{"previous": "month"}, {"previous": "half"}, {"from": "2025-02-10"}, {"to": "2026-01-20"}, {"last": 1, "grain": "year"},
     {"last": 2, "grain": "half"}, {"from": "2025-01-01", "to": "2025-12-31"}, {"to_date": "year"}, {"this": "week"}]
)  # fmt: skip
labels = st.lists(st.sampled_from(["North", "x", "Jan 2025", 'a "b"', "by › c", ""]), min_size=1, max_size=3)
orders = st.sampled_from(
    [{"by": "sum", "desc": True, "column": ["2025", "Jan"]}, {"by": "sum", "column": ["x"], "level": "Region"}, {"list": []},
     {"by": "count", "desc": True, "level": "Area"}]
)  # fmt: skip


@st.composite
def definitions(draw: st.DrawFn) -> dict[str, Any]:
    """A report document with any of its keys."""
    made: dict[str, Any] = draw(reports())
    for i, figure in enumerate(draw(st.lists(takes, max_size=2))):
        made["figures"].append({"name": f"level {i + 1}", **figure})
    for figure in made["figures"]:
        for key, values in (("format", formats), ("hide", st.booleans())):
            if draw(st.integers(0, 5)) == 0:
                figure[key] = draw(values)
        if "take" in figure and "moving" not in figure and draw(st.integers(0, 4)) == 0:
            figure["where"] = draw(conditions)
    for entry in (*made["down"], *made["across"]):
        if draw(st.integers(0, 6)) == 0:
            entry["order"] = draw(orders)
        if "bucket" in entry and draw(st.integers(0, 4)) == 0:
            entry["cut"] = {"quantiles": 4}
        if "category" in entry and draw(st.integers(0, 4)) == 0:
            entry |= draw(
                st.sampled_from(
                    [{"placed": "was", "placed_by": "on"}, {"placed": "was"}, {"placed": "now"}, {"placed": "2025-03-01"},
                     {"signs": {"North": -1, "x": 1, "b9": -1}}, {"rest": "What is left"}]
                )
            )  # fmt: skip
    said: dict[str, st.SearchStrategy[Any]] = {
        "only": st.lists(conditions, max_size=3),
        "window": st.builds(lambda show, cut: {"of": "on", "show": show, "each_to_date": cut and not show.keys() & {"from", "to"}}, shows, st.booleans()),
        "keep": st.lists(st.sampled_from([{"level": "Region", "where": "sum > 3 AND count < 9"}, {"level": "area", "where": "sum IS NOT NULL"}]), min_size=1, max_size=2),
        "totals": st.fixed_dictionaries({}, optional={"down": places, "grand_across": places, "levels": st.dictionaries(st.sampled_from(["Region", "kind"]), places, max_size=2), "totals": st.just("kept")}),
        "columns": st.just([{"name": "made", "formula": "amount - COALESCE(heads, 0)"}, {"name": "level 12", "lookup": {"source": "Other source", "match": {"kind": "code", "area": "by, x"}, "take": "name"}}, {"name": "rate", "lookup": {"source": "Other source", "as_at": {"on": "valid, from"}, "take": "rate"}}]),
        "beside": st.just([{"source": "Other source", "match": {"on": "month"}}]),
        "controls": st.just([{"figure": "sum", "expect": "-12.50"}, {"figure": "count", "expect": "80", "as_of": "2025-12-31"}]),
        "lines": st.just([{"name": "level 11", "level": "kind", "formula": "x - y"}, {"name": "Gap", "level": "kind", "formula": "x - y", "after": "x"}]),
        "records": st.sampled_from([{}, {"columns": ["on", "amount"]}, {"order": ["on"]}, {"columns": ["kind"], "order": ["on", "heads"]}]),
        "layout": st.just({"lines": "columns", "labels": "each", "grand": "All, by", "levels": {"Region": {"space": True, "bold": True}, "kind": {}}, "widths": {"": 12, "sum": 9}}),
        "out_of_sight": st.builds(lambda lines, columns: {"lines": lines, "columns": columns}, st.lists(labels, max_size=2), st.lists(labels, max_size=1)),
        "silenced": st.just([{"only": "kind = 'x'"}, {"down": {"category": "kind", "top": 2, "by": "sum"}}, {"across": {"period": "on", "grains": ["year", "month"]}}, {"keep": {"level": "kind", "where": "sum > 2"}}, {"window": {"of": "on", "show": {"this": "month"}}}]),
    }  # fmt: skip
    for key, values in said.items():
        if draw(st.integers(0, 5)) == 0:
            made[key] = draw(values)
    return made


def renamed(value: Any, key: str | None = None) -> Any:
    """A document with its ordinary names replaced by hostile ones."""
    if isinstance(value, dict):
        return {k: renamed(v, k) for k, v in value.items()}
    if isinstance(value, list):
        return [renamed(v, key) for v in value]
    if isinstance(value, str) and key in SQL:
        return _sql(value)
    return HOSTILE.get(value, value) if isinstance(value, str) and key in NAMED and value != "lines" else value


def _sql(text: str) -> str:
    tree = parsed(text).copy()
    for column in tree.find_all(exp.Column):
        column.set("this", exp.to_identifier(HOSTILE.get(column.name, column.name), quoted=True))
    return str(tree.sql())


def hostile() -> tuple[Records, Groupings]:
    """The records and groupings of the random reports with hostile names."""
    trees = {
        HOSTILE[name]: tree.model_copy(
            update={"name": HOSTILE[name], "levels": [HOSTILE[level] for level in tree.levels]}
        )
        for name, tree in GROUPINGS.trees.items()
    }
    calendars = {
        HOSTILE.get(name, name): own.model_copy(update={"name": HOSTILE.get(name, name)})
        for name, own in GROUPINGS.calendars.items()
    }
    sets = {
        HOSTILE[name]: own.model_copy(update={"name": HOSTILE[name]}) for name, own in GROUPINGS.bucket_sets.items()
    }
    columns = {HOSTILE[name]: column for name, column in DATA.columns.items()}
    return Records(columns, DATA.count), Groupings(trees, calendars, sets)
