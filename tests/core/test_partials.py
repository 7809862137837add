"""Partials of records split and merged in any way: the sheet equals that of all records, byte for byte."""

import itertools
from collections.abc import Callable
from dataclasses import asdict, replace
from datetime import date
from decimal import Decimal
from typing import Any
from unittest.mock import patch

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from kalendor.core.partials import by_values, condensing
from kalendor.core.partials.condensing import condensed, merged, rows_of
from kalendor.core.partials.rests import partial_key, rests_on_day
from kalendor.core.partials.stored import from_bytes, to_bytes
from kalendor.core.placing.material import Material
from kalendor.core.plan import planned
from kalendor.core.report import sheet_of
from kalendor.core.sheet.plain import plain
from kalendor.core.sheet.sheet import Sheet
from kalendor.core.values.columns import Column, Kind, Records, text_column
from kalendor.definitions.kinds import definition
from kalendor.errors import DefinitionError
from tests.core.build import TODAY, records
from tests.core.test_any_report import DATA, MATERIAL, reports


def cut(material: Material, report: Any, as_of: date, cuts: list[int]) -> list[Material]:
    """One partial for each range of records between the cuts."""
    bounds = [0, *sorted(cuts), material.records.count]
    return [
        condensed(
            report,
            Material(
                material.records.take(np.arange(a, b)), material.groupings, material.looked_up,
                material.refused if not a and not k else 0,
            ),
            as_of,
            a,
            whole=k == 0,
        )
        for k, (a, b) in enumerate(itertools.pairwise(bounds))
    ]  # fmt: skip


def merged_by(report: Any, partials: list[Material], as_of: date, picks: list[int]) -> Material:
    """The partials merged two or three at a time, chosen by `picks`."""
    left = list(partials)
    for pick in picks:
        if len(left) < 2:
            break
        taken = [left.pop(pick % len(left)) for _ in range(min(2 + pick % 2, len(left)))]
        left.append(merged(report, taken, as_of))
    return merged(report, left, as_of)


def outcome(made: Callable[[], Sheet]) -> Any:
    """A complete sheet, or the message of its refusal."""
    try:
        sheet = made()
    except DefinitionError as error:
        return str(error)
    return plain(sheet), asdict(sheet.tie_out)


MORE_TAKES: list[dict[str, Any]] = [
    *({"take": take, "of": of} for take in ("sum", "mean", "variance", "stdev_pop", "min", "max", "median", "distinct") for of in ("ratio", "far", "huge")),
    *({"take": take, "of": of} for take in ("min", "max", "count_values", "distinct") for of in ("area", "at", "on")),
    *({"take": "percentile", "of": of, "p": p} for of in ("amount", "ratio") for p in (0, 12.5, 90)),
    *({"take": f"nth_{way}", "of": "amount", "n": n} for way in ("largest", "smallest") for n in (1, 3)),
    *({"take": "weighted_mean", "of": of, "weight": weight} for of in ("amount", "far") for weight in ("heads", "ratio")),
    *({"take": end, "of": of, "by": by} for end in ("first", "last") for of in ("amount", "area") for by in ("on", "at")),
    *({"take": "balance", "of": of, "by": by, "keys": keys, "carry": carry} for of in ("amount", "ratio") for by in ("on", "at") for keys in ([], ["kind"], ["area", "heads"]) for carry in (True, False)),
    *({"take": take, "of": of} for take in ("sum", "mean", "min") for of in ("twice", "rate", "target")),
    *({"take": take, "of": "amount", "source": "plan"} for take in ("sum", "mean", "median")), {"take": "count", "source": "plan"},
]  # fmt: skip
MADE = [
    {"name": "twice", "formula": "amount * 2"},
    {"name": "rate", "formula": "amount / heads"},
    {"name": "named", "lookup": {"source": "names", "match": {"area": "code"}, "take": "name"}},
    {"name": "target", "lookup": {"source": "plan", "match": {"area": "where"}, "take": "planned"}},
    {"name": "at_the_time", "lookup": {"source": "names", "as_at": {"on": "since"}, "take": "name"}},
]
OTHERS = {
    "plan": records(
        where=["North", "south", "nowhere", "b10"] * 3,
        day=[date(2025, n, 3) for n in range(1, 13)],
        planned=[Decimal("100.5"), Decimal(7), None, Decimal("12.125")] * 3,
    ),
    "names": records(code=["North", "b9", "b10"], name=["The north", "Nine", "Ten"], since=[date(2024, 5, 1), date(2025, 1, 1), date(2025, 8, 1)]),
}  # fmt: skip
MOVED: Any = definition(
    {"kalendor": 1, "kind": "tree", "name": "Moved", "levels": ["Side", "Where"],
     "roots": [{"label": "Old", "sign": -1, "under": [{"value": "North"}, {"value": "b9"}]},
               {"label": "New", "under": [{"value": "North", "since": "2025-06-01"}, {"value": "south"}]}]},
    "test",
)  # fmt: skip


def with_more_columns() -> Material:
    """The records with amounts in two currencies, some far apart in size and some with sums beyond 64 bits."""
    rng = np.random.Generator(np.random.PCG64(11))
    size, data = DATA.count, DATA
    far = rng.choice([1e300, -1e300, 1.1, 3e-9, 1e-300, -0.1, 0.0], size) * rng.random(size)
    huge = rng.integers(-(2**62), 2**62, size)
    more = {
        "far": Column(Kind.APPROXIMATE, far, rng.random(size) < 0.1),
        "huge": Column(Kind.WHOLE, huge, rng.random(size) < 0.1),
        "currency": text_column([["EUR", "SEK", None][int(n)] for n in rng.integers(0, 3, size)]),
        "amount": replace(data.columns["amount"], unit=("currency",)),
    }
    trees = {**MATERIAL.groupings.trees, "Moved": MOVED}
    return Material(Records({**data.columns, **more}, size), replace(MATERIAL.groupings, trees=trees), OTHERS)


MORE = with_more_columns()


@st.composite
def richer(draw: st.DrawFn) -> dict[str, Any]:
    """Random reports with further keys."""
    body = draw(reports())
    wheres = st.sampled_from([{}, {}, {"where": "amount > 100"}, {"where": "kind IS NULL OR heads > 3"}])
    for i, figure in enumerate(draw(st.lists(st.sampled_from(MORE_TAKES), max_size=4))):
        body["figures"].append({"name": f"g{i}", **figure, **draw(wheres)})
    body["columns"] = MADE
    if draw(st.booleans()):
        body["beside"] = [{"source": "plan", "match": {"area": "where", "on": "day", "amount": "planned"}}]
    else:
        body["figures"] = [f for f in body["figures"] if "source" not in f]
    more = [
        {"bucket": "amount", "cut": {"quantiles": 3}, "name": "Third"},
        {"age": "on", "cut": {"quantiles": 2}, "name": "Half"},
        {"category": "named"},
        {"category": "at_the_time"},
        {"category": "area", "tree": "Moved", "placed": "was", "placed_by": "on"},
        {"category": "kind", "signs": {"x": -1}},
    ]
    body["down"] = [*body["down"][:2], *draw(st.lists(st.sampled_from(more), max_size=1))]
    if draw(st.integers(0, 5)) == 0:
        body["records"] = {"columns": draw(st.sampled_from([[], ["area", "amount"]])), "order": ["on"]}
    return body


cuts_of = st.lists(st.integers(0, DATA.count), max_size=6)
picks_of = st.lists(st.integers(0, 50), min_size=6, max_size=6)


def held(report: dict[str, Any], material: Material, cuts: list[int], picks: list[int]) -> None:
    """The sheet from partials equals that from all records, or is refused with the same message."""
    document: Any = definition(report, "test")

    def in_parts() -> Any:
        partials = cut(material, document, document.as_of, cuts)
        return sheet_of(planned(document, merged_by(document, partials, document.as_of, picks), TODAY))

    assert outcome(in_parts) == outcome(lambda: sheet_of(planned(document, material, TODAY)))


@given(reports(), cuts_of, picks_of)
def test_any_report_from_partials_is_that_of_all_records(
    report: dict[str, Any], cuts: list[int], picks: list[int]
) -> None:
    held(report, MATERIAL, cuts, picks)


@given(reports(), richer(), cuts_of, picks_of)
def test_so_is_one_whose_records_are_condensed_by_their_values_first(
    report: dict[str, Any], more: dict[str, Any], cuts: list[int], picks: list[int]
) -> None:
    alone = {key: value for key, value in more.items() if key not in ("records", "beside")}
    alone["figures"] = [{key: value for key, value in f.items() if key != "source"} for f in more["figures"]]
    with patch.object(by_values, "_different", lambda _: 1), patch.object(condensing, "WORTH", 0):
        held(report, MATERIAL, cuts, picks)
        held(alone, MORE, cuts, picks)


@given(richer(), cuts_of, picks_of)
def test_so_is_one_with_plans_units_look_ups_and_amounts_of_any_size(
    report: dict[str, Any], cuts: list[int], picks: list[int]
) -> None:
    held(report, MORE, cuts, picks)


@given(richer(), cuts_of, picks_of, st.dates(date(2024, 1, 1), date(2026, 12, 31)))
def test_kept_partials_are_those_that_were_made(
    body: dict[str, Any], cuts: list[int], picks: list[int], day: date
) -> None:
    """Partials serialized and read back, computed on another day if nothing depends on the day, and for a report that
    differs only in parts that partials do not depend on, give the same sheet."""
    report: Any = definition(body, "test")
    like = report.model_copy(
        update={"title": "Another", "keep": [], "totals": type(report.totals)(), "lines": [], "controls": []}
    )
    assert partial_key(report) == partial_key(like)
    as_of = TODAY if rests_on_day(report) else day
    try:
        partials = [from_bytes(to_bytes(one)) for one in cut(MORE, like, as_of, cuts)]
        partials = [replace(one, groupings=MORE.groupings) for one in partials]
        whole = merged_by(like, partials, as_of, picks)
    except DefinitionError:
        return
    found = outcome(lambda: sheet_of(planned(report, whole, TODAY, TODAY)))
    assert found == outcome(lambda: sheet_of(planned(report, MORE, TODAY, TODAY)))


@given(richer(), cuts_of)
def test_each_record_is_found_in_the_row_that_stands_for_it(body: dict[str, Any], cuts: list[int]) -> None:
    report: Any = definition(body, "test")
    try:
        partials = cut(MORE, report, TODAY, cuts)
        whole = merged(report, partials, TODAY)
    except DefinitionError:
        return
    assert whole.condensed is not None
    times = np.zeros(whole.records.count, dtype=np.int64)
    bounds = [0, *sorted(cuts), MORE.records.count]
    for partial, (a, b) in zip(partials, itertools.pairwise(bounds), strict=True):
        part = replace(MORE, records=MORE.records.take(np.arange(a, b)), part=True)
        rows = rows_of(report, whole, part, TODAY, a)
        assert (rows >= 0).all()
        times += np.bincount(rows, minlength=len(times))
        assert set(rows.tolist()) <= set(rows_of(report, whole, partial, TODAY).tolist())
    own = np.ones(len(times), dtype=bool) if whole.condensed.origin is None else whole.condensed.origin.own
    assert (times == np.where(own, whole.condensed.times, 0)).all()
