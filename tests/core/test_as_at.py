"""Look-ups as at a date: of the matching lines, the last one whose date is not after the record's."""

from datetime import date, datetime, time, timedelta
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from kalendor.core.placing.lookups import Found, looked_up
from kalendor.core.values.columns import EPOCH, Column, Kind, Records, date_column, number_column, text_column
from kalendor.definitions.kinds import definition
from kalendor.definitions.report import Lookup
from kalendor.errors import DefinitionError
from tests.core.build import column_of, table

FIRST = date(1969, 12, 29)
days = st.none() | st.integers(0, 6).map(lambda n: FIRST + timedelta(days=n))
moments = st.none() | st.integers(0, 12).map(lambda n: datetime.combine(FIRST, time()) + timedelta(hours=12 * n))
names = st.none() | st.sampled_from("abc")


def dated(values: list[Any], timed: bool) -> Column:
    if not timed:
        return date_column(values)
    since = datetime.combine(EPOCH, time())
    micro = [0 if v is None else (v - since) // timedelta(microseconds=1) for v in values]
    return Column(Kind.DATETIME, np.array(micro, dtype=np.int64), np.array([v is None for v in values], dtype=bool))


def moment(value: date | datetime) -> datetime:
    return value if isinstance(value, datetime) else datetime.combine(value, time())


@st.composite
def two_tables(draw: st.DrawFn) -> tuple[list[Any], list[Any], bool, bool]:
    timed, since = draw(st.booleans()), draw(st.booleans())
    own = st.lists(st.tuples(names, names, moments if timed else days), max_size=12)
    there = st.lists(st.tuples(names, names, moments if since else days), max_size=12)
    return draw(own), draw(there), timed, since


def in_words(records: list[Any], lines: list[Any], keys: int) -> list[int | None]:
    """The line matched by each record, found by a linear search."""
    taken = list[int | None]()
    for *key, day in records:
        best: tuple[datetime, int] | None = None
        for at, (*other, since) in enumerate(lines):
            matches = all(a is not None and a == b for a, b in zip(key[:keys], other[:keys], strict=True))
            if matches and day is not None and since is not None and moment(since) <= moment(day):
                best = max(best or (moment(since), at), (moment(since), at))
        taken.append(None if best is None else best[1])
    return taken


@pytest.mark.parametrize("keys", [0, 1, 2])
@given(both=two_tables())
def test_any_tables_are_looked_up_as_a_plain_reading_does(
    keys: int, both: tuple[list[Any], list[Any], bool, bool]
) -> None:
    mine, lines, timed, since = both
    columns = [text_column([row[k] for row in mine]) for k in range(2)]
    own = Records({"k0": columns[0], "k1": columns[1], "on": dated([r[2] for r in mine], timed)}, len(mine))
    there = {f"c{k}": text_column([row[k] for row in lines]) for k in range(2)}
    there |= {"from": dated([r[2] for r in lines], since), "rate": number_column(list(range(len(lines))))}
    lookup = Lookup(source="R", match={f"k{k}": f"c{k}" for k in range(keys)}, as_at={"on": "from"}, take="rate")
    found = looked_up(own, lookup, {"R": Records(there, len(lines))})
    want = in_words(mine, lines, keys)
    assert [found.column.item(i) for i in range(len(mine))] == want
    assert found.unmatched == want.count(None)
    known = [row for row in lines if row[2] is not None and all(k is not None for k in row[:keys])]
    assert found.repeated == len(known) - len({(*row[:keys], moment(row[2])) for row in known})


RATES = {
    "code": text_column(["SEK", "SEK", "NOK", "SEK", None]),
    "valid_from": date_column([date(2026, 3, 1), date(2026, 1, 1), date(2026, 2, 1), date(2026, 3, 1), date(2026, 1, 1)]),
    "rate": number_column([2, 1, 5, 3, 9]),
}  # fmt: skip


def rated(as_at: dict[str, str], **columns: Column) -> Found:
    own = {
        "currency": text_column(["SEK"] * 2),
        "sold_on": date_column([date(2026, 2, 28), date(2026, 3, 1)]),
        **columns,
    }
    lookup = Lookup(source="Rates", match={"currency": "code"}, as_at=as_at, take="rate")
    return looked_up(Records(own, 2), lookup, {"Rates": Records(RATES, 5)})


def test_of_lines_of_one_date_the_one_that_came_last_stands_and_they_are_counted() -> None:
    found = rated({"sold_on": "valid_from"})
    assert [found.column.item(0), found.column.item(1), found.repeated] == [1, 3, 1]


@pytest.mark.parametrize(
    ("as_at", "said"),
    [
        ({"sold_on": "rate"}, "'Rates.rate' holds no dates"),
        ({"currency": "valid_from"}, "'currency' holds no dates"),
        ({"sold_on": "since"}, "Rates has no column 'since'"),
        ({"on": "valid_from"}, "there is no column 'on'"),
    ],
)
def test_what_is_no_date_or_not_there_is_said(as_at: dict[str, str], said: str) -> None:
    with pytest.raises(DefinitionError, match=said):
        rated(as_at)


def test_records_without_a_date_find_nothing() -> None:
    found = rated({"sold_on": "valid_from"}, sold_on=text_column([None, None]))
    assert (found.column.blanks.all(), found.unmatched) == (True, 2)


@pytest.mark.parametrize("lookup", [{}, {"match": {}}, {"as_at": {"a": "b", "c": "d"}, "match": {"x": "y"}}])
def test_a_look_up_says_by_which_columns_it_finds_a_line(lookup: dict[str, Any]) -> None:
    made = [{"name": "m", "lookup": {"source": "S", "take": "t", **lookup}}]
    with pytest.raises(DefinitionError, match=r"look-up needs|at most 1"):
        definition({"kalendor": 1, "kind": "report", "title": "t", "source": "d", "columns": made,
                    "figures": [{"name": "n", "take": "count"}]}, "test")  # fmt: skip


def test_a_report_converts_each_record_at_the_rate_of_its_day() -> None:
    data = Records(
        {
            "currency": text_column(["SEK", "SEK", "NOK", "NOK"]),
            "sold_on": date_column([date(2026, 1, 5), date(2026, 4, 1), date(2026, 1, 31), date(2026, 2, 1)]),
            "amount": number_column([100, 100, 10, 10]),
        },
        4,
    )
    lookup = {"source": "Rates", "match": {"currency": "code"}, "as_at": {"sold_on": "valid_from"}, "take": "rate"}
    asked: dict[str, Any] = {
        "columns": [{"name": "rate", "lookup": lookup}, {"name": "own", "formula": "amount * rate"}],
        "down": [{"category": "currency"}],
        "figures": [{"name": "s", "take": "sum", "of": "own"}, {"name": "n", "take": "count_values", "of": "rate"}],
    }
    rows = table(data, others={"Rates": Records(RATES, 5)}, **asked)
    assert column_of(rows, "s", "n") == [("50", "1"), ("400", "2"), ("450", "3")]
