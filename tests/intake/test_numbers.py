"""Number columns of Parquet files: the same as if their texts were read, without creating texts."""

from datetime import date
from decimal import Decimal
from pathlib import Path
from typing import Any

import pyarrow as pa
import pyarrow.parquet as pq
import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from kalendor.definitions.recipe import ColumnReading, Recipe
from kalendor.errors import KalendorError
from kalendor.intake.reading import read_bytes

whole = st.one_of(st.integers(-9, 9), st.integers(20200101, 20261231), st.integers(-(2**63), 2**63 - 1))
cents = st.integers(-(10**7), 10**7).map(lambda n: n / 100)
floats = st.one_of(
    cents,
    cents,
    st.floats(),
    st.integers(-(10**17), 10**17).map(float),
    st.sampled_from([1e-7, 0.1 + 0.2, 1e10, -0.0, 1e-6]),
)
exact = st.decimals(-(10**12), 10**12, places=3, allow_nan=False)
columns = st.one_of(
    st.tuples(st.just(pa.int64()), st.lists(st.one_of(st.none(), whole), min_size=1, max_size=30)),
    st.tuples(st.just(pa.date32()), st.lists(st.one_of(st.none(), st.dates()), min_size=1, max_size=30)),
    st.tuples(st.just(pa.date32()), st.lists(st.dates(date(2024, 1, 1), date(2026, 1, 1)), min_size=1, max_size=30)),
    st.tuples(st.just(pa.int16()), st.lists(st.one_of(st.none(), st.integers(-99, 99)), min_size=1, max_size=30)),
    st.tuples(st.just(pa.float64()), st.lists(st.one_of(st.none(), floats), min_size=1, max_size=30)),
    st.tuples(st.just(pa.float64()), st.lists(st.one_of(st.none(), cents), min_size=1, max_size=30)),
    st.tuples(st.just(pa.decimal128(18, 3)), st.lists(st.one_of(st.none(), exact), min_size=1, max_size=30)),
)  # fmt: skip
tellings = st.sampled_from(
    [
        None,
        {"type": "whole"},
        {"type": "decimal", "places": 2},
        {"type": "approximate"},
        {"type": "text"},
        {"type": "date"},
        {"type": "date", "format": "%d/%m/%Y"},
    ]
)


def outcome(data: bytes, recipe: Recipe) -> Any:
    """The complete reading of a file, or the message of its refusal."""
    try:
        found = read_bytes(data, "numbers.parquet", recipe)
    except KalendorError as error:
        return str(error)
    column = found.records.columns["v"]
    values = [column.item(i) for i in range(len(column))]
    return column.kind, column.places, list(map(repr, values)), found.refused, found.recipe, found.notes, found.foot


@given(columns, st.integers(1, 7), tellings)
@example((pa.decimal128(18, 3), [Decimal("1.000"), None]), 1, None)
@example((pa.float64(), [1.5, float("inf")]), 2, None)
def test_numbers_read_at_once_are_those_of_their_texts(column: Any, group: int, told: Any) -> None:
    kind, values = column
    sink = pa.BufferOutputStream()
    pq.write_table(pa.table({"v": pa.array(values, kind), "t": ["a"] * len(values)}), sink, row_group_size=group)
    recipe = Recipe(columns={} if told is None else {"v": ColumnReading(**told)})
    data = sink.getvalue().to_pybytes()
    at_once = outcome(data, recipe)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr("kalendor.intake.parquet.direct", lambda kind: None)
        assert at_once == outcome(data, recipe)


def test_of_many_numbers_no_text_is_made(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    from kalendor.intake.numbers import Numbers
    from kalendor.intake.reading import read_file

    monkeypatch.setattr(Numbers, "texts", property(lambda self: pytest.fail("texts were made")))
    path = tmp_path / "many.parquet"
    pq.write_table(pa.table({"net": [n / 100 for n in range(5000)], "id": [10**9 + n for n in range(5000)]}), path)
    found = read_file(path).records
    assert [(c.kind, c.places) for c in found.columns.values()] == [("decimal", 2), ("whole", 0)]
