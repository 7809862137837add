"""Fuzzing of the readers: files are read, or refused with a message, in bounded time; every line of a file that is read
is accounted for."""

import gzip
import io
import json
import os
from collections.abc import Iterator
from contextlib import suppress
from itertools import product
from pathlib import Path

import pyarrow as pa
import pyarrow.parquet as pq
import pytest
import xlsxwriter
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from kalendor.definitions.kinds import definition
from kalendor.definitions.recipe import Recipe
from kalendor.errors import DefinitionError, IntakeError
from kalendor.intake.apart import Apart, Asked, Bounds
from kalendor.intake.reading import read_bytes

EXAMPLES = int(os.environ.get("KALENDOR_BYTES", "8"))
LETTERS = int(os.environ.get("KALENDOR_LETTERS", "3"))
CSV = ('sold on;what;n;rate\n2026-07-01;é;1,50;11%\n;b;;\n2026-07-03;"c;\n""x";7;12%\n' * 3).encode()
JSON = json.dumps([{"a": 1, "b": "x", "c": None}, {"a": 2.5, "b": "ÿ", "d": True}]).encode()


def parquet() -> bytes:
    file = io.BytesIO()
    pq.write_table(pa.table({"a": [1, 2, None], "b": ["x", None, "z"], "c": [1.5, 2.5, float("nan")]}), file)
    return file.getvalue()


def workbook() -> bytes:
    file = io.BytesIO()
    book = xlsxwriter.Workbook(file)
    sheet = book.add_worksheet()
    for row, line in enumerate([["on", "kind", "n"], ["2026-01-02", "a", 1], ["2026-01-03", "b", 2.5]]):
        for column, cell in enumerate(line):
            sheet.write(row, column, cell)
    book.close()
    return file.getvalue()


SAMPLES = {
    "f.csv": CSV,
    "f.json": JSON,
    "f.parquet": parquet(),
    "f.xlsx": workbook(),
    "f.csv.gz": gzip.compress(CSV, mtime=0),
}


@pytest.fixture(scope="module")
def reader(tmp_path_factory: pytest.TempPathFactory) -> Iterator[tuple[Apart, Path]]:
    found = Apart(tmp_path_factory.mktemp("scratch"), Bounds(2 << 30, 20))
    yield found, tmp_path_factory.mktemp("files")
    found.close()


@st.composite
def damaged(draw: st.DrawFn) -> tuple[str, bytes]:
    """A file of some format with bytes changed, removed, repeated or inserted."""
    name = draw(st.sampled_from(sorted(SAMPLES)))
    data = bytearray(SAMPLES[name])
    for _ in range(draw(st.integers(0, 5))):
        at = draw(st.integers(0, max(0, len(data) - 1)))
        size = draw(st.integers(0, 40))
        match draw(st.sampled_from(["other", "gone", "again", "in", "end"])):
            case "other":
                data[at : at + 1] = bytes([draw(st.integers(0, 255))])
            case "gone":
                del data[at : at + size]
            case "again":
                data[at:at] = data[at : at + size] * draw(st.integers(1, 30))
            case "in":
                data[at:at] = draw(st.binary(max_size=12))
            case "end":
                del data[at:]
    return name, bytes(data)


@settings(
    max_examples=EXAMPLES,
    deadline=None,
    suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow],
)
@given(damaged())
def test_a_damaged_file_is_read_or_refused_in_words(reader: tuple[Apart, Path], made: tuple[str, bytes]) -> None:
    apart, folder = reader
    name, data = made
    path = folder / name
    path.write_bytes(data)
    with suppress(IntakeError, DefinitionError):
        found = apart.read(Asked(path, name))
        assert {len(column) for column in found.records.columns.values()} <= {found.records.count}
        assert len(found.lines) == found.records.count


@settings(
    max_examples=EXAMPLES,
    deadline=None,
    suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow],
)
@given(
    st.text(st.sampled_from("a1,;\t\"'\n\r \x00é=-/.:%2026"), max_size=200),
    st.sampled_from(["utf-8", "utf-16", "utf-16-le", "cp1252", "utf-32"]),
)
def test_any_text_is_read_or_refused_in_words(reader: tuple[Apart, Path], text: str, encoding: str) -> None:
    apart, folder = reader
    path = folder / "any.csv"
    path.write_bytes(text.encode(encoding, "replace"))
    with suppress(IntakeError, DefinitionError):
        found = apart.read(Asked(path, "any.csv"))
        assert {len(column) for column in found.records.columns.values()} <= {found.records.count}


@pytest.mark.parametrize("size", range(1 + LETTERS))
@pytest.mark.parametrize(("begun", "alphabet"), [("", 'a",;\n\r \t'), ("[", '[]{}",:1\n'), ("{", '[]{}",:1\n')])
def test_every_small_text_of_what_a_table_is_made_of_is_read_or_refused_in_words(
    size: int, begun: str, alphabet: str
) -> None:
    for letters in product(alphabet, repeat=size):
        with suppress(IntakeError):
            found = read_bytes((begun + "".join(letters)).encode(), "small", Recipe())
            assert found.records.columns


def test_long_and_repeated_headings_are_names_that_a_report_can_use(reader: tuple[Apart, Path]) -> None:
    apart, folder = reader
    path = folder / "long.csv"
    path.write_text(",".join(["h" * 400] * 3) + "\n1,2,3\n")
    found = apart.read(Asked(path, "long.csv"))
    assert len(found.records.columns) == 3
    for name in found.records.columns:
        body = {
            "kalendor": 1,
            "kind": "report",
            "title": "t",
            "source": "s",
            "figures": [{"name": "n", "take": "sum", "of": name}],
        }
        assert definition(body, "test")
