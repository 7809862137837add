"""Random reports compared with the reference implementation, figure by figure and level by level."""

import sqlite3
from datetime import date
from decimal import Decimal
from fractions import Fraction
from typing import Any

from hypothesis import assume, given
from hypothesis import strategies as st

from tests.core import oracle
from tests.core.build import records, sheet, table

labels = st.one_of(st.none(), st.sampled_from(["North", "south", "Östlich", "b10", "b9", "a", "A"]))
kinds = st.sampled_from(["x", "y", None])
amounts = st.one_of(st.none(), st.decimals(min_value=-99999, max_value=99999, places=2))
dates = st.one_of(st.none(), st.dates(min_value=date(2023, 11, 1), max_value=date(2026, 3, 31)))
rows = st.lists(st.tuples(labels, kinds, dates, amounts), min_size=1, max_size=60)

entries = st.one_of(
    st.just({"category": "area"}),
    st.just({"category": "kind"}),
    st.sampled_from([["year"], ["year", "month"], ["quarter"], ["year", "quarter", "month"], ["week"]]).map(
        lambda grains: {"period": "on", "grains": grains}
    ),
)
TAKES = ["sum", "count", "count_values", "distinct", "mean", "median", "min", "max", "variance"]


def drawn(rows: list[tuple[Any, ...]]) -> tuple[Any, list[oracle.Record]]:
    area, kind, on, amount = (list(c) for c in zip(*rows, strict=True))
    area[0], kind[0], on[0], amount[0] = "a", "x", date(2024, 2, 29), Decimal("1.25")
    data = records(area=area, kind=kind, on=on, amount=amount)
    plain = [
        dict(zip(("area", "kind", "on", "amount"), row, strict=True))
        for row in zip(area, kind, on, amount, strict=True)
    ]
    return data, plain


def distinct_axes(down: list[Any], across: list[Any]) -> bool:
    """Each column is used once, so that level names are unique and no period is a place in another."""
    names = [e.get("category") or "on" for e in (*down, *across)]
    return len(set(names)) == len(names)


def figures() -> list[dict[str, Any]]:
    return [{"name": t, "take": t, **({} if t == "count" else {"of": "amount"})} for t in TAKES]


def close(got: str, want: Any) -> bool:
    if want is None:
        return got == ""
    if isinstance(want, int) or (
        isinstance(want, Fraction) and 100 % want.denominator == 0 and "." in got and len(got.split(".")[1]) == 2
    ):
        return Fraction(got) == want
    return abs(float(got) - float(want)) <= 1e-9 * max(1.0, abs(float(want)))


@given(rows, st.lists(entries, max_size=2), st.lists(entries, max_size=1))
def test_every_take_at_every_level(rows: list[Any], down: list[Any], across: list[Any]) -> None:
    assume(distinct_axes(down, across))
    data, plain = drawn(rows)
    got = table(data, down=down, across=across, figures=figures())
    cells = oracle.cells(plain, down, across)
    lines = oracle.ordered({d for d, _ in cells})
    columns = oracle.ordered({a for _, a in cells})
    want = [(d, a) for d in lines for a in columns if (d, a) in cells]
    assert len(got) == len(want)
    for row, key in zip(got, want, strict=True):
        for name in TAKES:
            wanted = oracle.take(name, cells[key], "amount")
            assert close(row[name], wanted), f"{name} at {key}: {row[name]} for {wanted}"


@given(rows)
def test_a_year_earlier_is_the_same_month_of_the_year_before(rows: list[Any]) -> None:
    data, plain = drawn(rows)
    figures = [
        {"name": "sum", "take": "sum", "of": "amount"},
        {"name": "was", "compare": "sum", "with": "year_earlier", "as": "base", "to_date": False},
        {"name": "moved", "compare": "sum", "with": "year_earlier", "as": "difference", "to_date": False},
    ]
    got = table(
        data,
        down=[{"category": "area"}],
        across=[{"period": "on", "grains": ["month"]}],
        figures=figures,
        totals={"grand_across": "none"},
    )
    first = min(r["on"] for r in plain if r["on"])
    for row in got:
        if not row["month start"]:
            continue
        month = date.fromisoformat(row["month start"])
        inside = [r for r in plain if row["down_level"] == "Total" or (r["area"] or "(blank)") == row["area"]]
        base = [r for r in inside if r["on"] and oracle.month_of(oracle.a_year_on(oracle.month_of(r["on"]))) == month]
        now = [r for r in inside if r["on"] and oracle.month_of(r["on"]) == month]
        before_all = month.replace(year=month.year - 1) < oracle.month_of(first)
        was = None if before_all else oracle.take("sum", base, "amount")
        assert close(row["was"], was)
        if not before_all and (was is not None or oracle.take("sum", now, "amount") is not None):
            assert close(row["moved"], Fraction(oracle.take("sum", now, "amount") or 0) - Fraction(was or 0))


@given(rows)
def test_running_totals_restart_each_year_and_carry_over_empty_months(rows: list[Any]) -> None:
    data, plain = drawn(rows)
    figures = [
        {"name": "sum", "take": "sum", "of": "amount"},
        {"name": "run", "running": "sum", "along": "on", "restart": "year"},
    ]
    got = table(
        data, down=[{"period": "on", "grains": ["year", "month"]}], across=[{"category": "kind"}], figures=figures
    )
    for row in got:
        if row["down_level"] != "month" or not row["month start"] or row["across_level"] == "Total":
            continue
        month = date.fromisoformat(row["month start"])
        so_far = [
            r for r in plain
            if r["on"] and (r["kind"] or "(blank)") == row["kind"] and r["on"].year == month.year and oracle.month_of(r["on"]) <= month
        ]  # fmt: skip
        assert close(row["run"], oracle.take("sum", so_far, "amount"))


@given(
    st.lists(
        st.tuples(labels, st.one_of(st.none(), st.decimals(min_value=-(10**15), max_value=10**15, places=3))),
        min_size=1,
        max_size=80,
    )
)
def test_subtotals_foot_exactly_as_sqlite_adds_them(rows: list[Any]) -> None:
    area, amount = (list(c) for c in zip(*rows, strict=True))
    area[0], amount[0] = "a", Decimal("0.125")
    got = table(
        records(area=area, amount=amount),
        down=[{"category": "area"}],
        figures=[{"name": "sum", "take": "sum", "of": "amount"}],
    )
    db = sqlite3.connect(":memory:")
    db.execute("CREATE TABLE t (area TEXT, units INTEGER)")
    units = [None if a is None else int(a.scaleb(3)) for a in amount]
    db.executemany("INSERT INTO t VALUES (?, ?)", zip(area, units, strict=True))
    want = dict(db.execute("SELECT coalesce(area, '(blank)'), sum(units) FROM t GROUP BY 1"))
    total = db.execute("SELECT sum(units) FROM t").fetchone()[0]
    for row in got:
        wanted = total if row["down_level"] == "Total" else want[row["area"]]
        assert (None if row["sum"] == "" else int(Decimal(row["sum"]).scaleb(3))) == wanted


@given(rows, st.lists(entries, min_size=1, max_size=2))
def test_every_record_is_on_the_sheet_or_accounted_for(rows: list[Any], down: list[Any]) -> None:
    assume(distinct_axes(down, []))
    data, plain = drawn(rows)
    tie = sheet(data, down=down, only=["kind = 'x'", "amount > 0"]).tie_out
    left = [r for r in plain if r["kind"] == "x"]
    kept = [r for r in left if r["amount"] is not None and r["amount"] > 0]
    assert [s.records for s in tie.steps] == [len(plain) - len(left), len(left) - len(kept)]
    assert tie.on_sheet == len(kept)
