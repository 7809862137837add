"""Reading in pieces gives the same as reading at once, wherever pieces end."""

import csv
import io
import json
from dataclasses import replace
from decimal import Decimal
from pathlib import Path

import numpy as np
import pyarrow as pa
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from kalendor.core.values import cores
from kalendor.core.values.columns import Column
from kalendor.definitions.recipe import ColumnReading, Recipe
from kalendor.errors import IntakeError
from kalendor.intake import content
from kalendor.intake.arrays import FEW_WORDS
from kalendor.intake.content import content_of, gathered
from kalendor.intake.delimited import _record_lines, read_delimited
from kalendor.intake.findings import find
from kalendor.intake.gathering import Gathering
from kalendor.intake.loose import Loose, Uncoded, coded, made
from kalendor.intake.reading import read_bytes, read_file, read_files
from kalendor.intake.structured import read_json_records
from kalendor.intake.text import Layout, layout_of
from kalendor.intake.typed import Reading
from tests.intake.test_loose import failures

CELL = st.text(st.sampled_from('ab,"\n é'), max_size=5)


@given(st.lists(st.tuples(CELL, CELL), min_size=1, max_size=12), st.integers(1, 9))
def test_parts_read_beside_each_other_make_the_whole(rows: list[tuple[str, str]], piece: int) -> None:
    out = io.StringIO()
    csv.writer(out, lineterminator="\n").writerows([("one", "two"), *rows])
    body = content_of(out.getvalue().encode())
    layout = Layout("utf-8", ",", 1, ("one", "two"))
    whole = read_delimited(body, "f", layout)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(content, "BLOCK", piece)
        parts = read_delimited(body, "f", layout)
    want = [(a.strip(), b.strip()) for a, b in rows if a.strip() or b.strip()]
    for found in (whole, parts):
        cells = zip(*([c.item(i) or "" for i in range(len(c))] for c in found.columns), strict=True)
        assert list(cells) == want
    assert parts.lines.tolist() == whole.lines.tolist()


@given(st.lists(st.tuples(CELL, CELL), max_size=12), st.integers(1, 9), st.sampled_from(["\n", "\r\n"]))
def test_records_begin_on_the_lines_that_an_editor_shows(rows: list[tuple[str, str]], piece: int, ending: str) -> None:
    out = io.StringIO()
    csv.writer(out, lineterminator=ending).writerows(rows)
    text = out.getvalue()
    want, read, at = [], [], 1
    reader = csv.reader(io.StringIO(text, newline=""))
    for cells in reader:
        if cells:
            want.append(at)
            read.append(cells)
        at = reader.line_num + 1
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(content, "BLOCK", piece)
        starts, cuts, quotes = _record_lines(content_of(text.encode()), 1)
    assert (starts.tolist(), quotes) == (want, text.count('"'))
    for cut in cuts:
        parts = [io.StringIO(part.decode(), newline="") for part in (text.encode()[:cut], text.encode()[cut:])]
        assert [cells for part in parts for cells in csv.reader(part) if cells] == read


OBJECTS = st.lists(st.dictionaries(st.sampled_from("abc"), st.one_of(st.text(max_size=4), st.integers()), min_size=1))


@given(OBJECTS, st.integers(1, 40), st.sampled_from([None, 1]))
def test_a_json_array_is_read_as_its_lines_are(
    objects: list[dict[str, object]], piece: int, indent: int | None
) -> None:
    whole = json.dumps(objects, indent=indent, ensure_ascii=False).encode()
    lines = "\n".join(json.dumps(o) for o in objects).encode()
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(content, "BLOCK", piece)
        if not objects:
            with pytest.raises(IntakeError, match="no JSON object"):
                read_json_records(content_of(whole), "f")
            return
        first, second = (read_json_records(content_of(data), "f") for data in (whole, lines))
    assert first.headings == second.headings
    for a, b in zip(first.columns, second.columns, strict=True):
        assert [a.item(i) for i in range(len(a))] == [b.item(i) for i in range(len(b))]


@pytest.mark.parametrize(
    ("text", "word"),
    [
        ('[{"a": 1} {"a": 2}]', "line 1: ',' is missing"),
        ('[{"a": 1},\n{"a": }]', "line 2, column 7"),
        ('[{"a": 1}', "is missing"),
        ('[{"a": 1}] [', "after the end"),
        ('[{"a": 1}, 5]', "not everything is an object"),
    ],
)
def test_a_broken_json_array_says_where(text: str, word: str) -> None:
    with pytest.raises(IntakeError, match=word):
        read_json_records(content_of(text.encode()), "f")


def test_a_column_that_begins_nearly_unique_is_coded_all_the_same() -> None:
    column = Gathering()
    first = [f" T-{i} " for i in range(FEW_WORDS + 1)]
    column.add(column.prepared(pa.array(first)))
    column.add(column.prepared(pa.array(["T-7", "", None, "new"])))
    found = coded(column.column())
    assert len(found.words) == FEW_WORDS + 3
    assert [found.item(i) for i in range(-4, 0)] == ["T-7", None, None, "new"]
    assert found.item(7) == "T-7"


@pytest.mark.parametrize("turned", [False, True])
def test_a_column_that_becomes_nearly_unique_loses_nothing(turned: bool, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(content, "BLOCK", 1 << 16)
    same_ones = [f"code {i % 5}" for i in range(20_000)]
    different = [f"T-{i}" for i in range(60_000)]
    want = [*different, *same_ones] if turned else [*same_ones, *different]
    body = content_of(("a\n" + "".join(f"{text}\n" for text in want)).encode())
    for _ in range(5):
        found = coded(read_delimited(body, "f", Layout("utf-8", ",", 1, ("a",))).columns[0])
        assert [found.item(i) for i in range(len(found))] == want


def test_a_ragged_line_far_down_is_refused_with_its_line(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(content, "BLOCK", 64)
    text = "a,b\n" + "".join(f"{i},x\n" for i in range(200)) + "1,2,3\n7,y\n"
    found = read_bytes(text.encode(), "f.csv", Recipe())
    assert [(r.line, r.text) for r in found.refused] == [(202, "1,2,3")]
    assert found.records.count == 201
    assert found.lines[-1] == 203


def test_a_stop_while_parts_are_read_leaves_nothing_running(monkeypatch: pytest.MonkeyPatch) -> None:
    class StopHere(Exception):
        pass

    def stop(done: int, _: int) -> None:
        if done > 50:
            raise StopHere

    monkeypatch.setattr(content, "BLOCK", 64)
    body = content_of(b"a,b\n" + b"".join(b"%d,x\n" % i for i in range(2000)))
    with pytest.raises(StopHere):
        read_delimited(body, "f", Layout("utf-8", ",", 1, ("a", "b")), stop)


def same(a: Reading, b: Reading) -> bool:
    return a.lines.tolist() == b.lines.tolist() and all(
        np.array_equal(a.records.columns[n].values, b.records.columns[n].values) for n in b.records.columns
    )


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16", "cp1252"])
def test_large_files_are_recoded_on_the_disk(encoding: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    text = "name,n\n" + "".join(f"café {i % 7},{i}\n" for i in range(5000))
    path = tmp_path / "f.csv"
    path.write_bytes(text.encode(encoding))
    want = read_bytes(text.encode(), "f.csv", Recipe())
    monkeypatch.setattr(content, "SMALL", 100)
    monkeypatch.setattr(content, "BLOCK", 1001)
    assert same(read_file(path), want)
    assert [p.name for p in tmp_path.iterdir()] == ["f.csv"]


def test_parts_are_gathered_in_memory_or_on_the_disk(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(content, "SMALL", 5)
    for parts in ([b"ab", b"cd"], [b"abc", b"def", b"ghi"], []):
        assert gathered(parts, tmp_path).tobytes() == b"".join(parts)


def test_how_far_a_reading_is_is_told() -> None:
    seen: list[tuple[int, int]] = []
    body = "".join(f"{i},x\n" for i in range(1000)).encode()
    content_file = content_of(b"n,t\n" + body)
    read_delimited(content_file, "f", layout_of(content_file, "f", "utf-8", None, None), lambda *so: seen.append(so))
    assert seen[-1] == (1000, 1000)


def test_texts_that_are_coded_later_are_the_same_column(tmp_path: Path) -> None:
    rows = [f"T-{i % 15000}" if i % 7 else "" for i in range(20_000)]
    path = tmp_path / "f.csv"
    path.write_text("id,n\n" + "".join(f"{text},{i}\n" for i, text in enumerate(rows)))
    want = read_file(path).records.columns["id"]
    assert type(want) is Column

    def fresh() -> Column:
        found = read_files([path]).records.columns["id"]
        assert isinstance(found, Uncoded)
        assert (len(found), found.kind, found.item(7), found.item(8)) == (20_000, want.kind, None, "T-8")
        return found

    at = np.array([5, 7, 9])
    for look in (
        lambda c: c.values.tolist(), lambda c: list(c.words), lambda c: c.blanks.tolist(), lambda c: c.take(at).item(2),
        lambda c: c.take(at).values.tolist() if c is want else made(c).take(at).values.tolist(),
        lambda c: list(replace(c, percent=True).words), lambda c: [c.item(i) for i in range(len(c))],
        lambda c: c.take(np.arange(1)).broadcast(3).item(2), lambda c: c.broadcast(20_000).item(9),
    ):  # fmt: skip
        column = fresh()
        assert look(column) == look(want)
        assert look(column) == look(want)  # and once it is coded


TEXTS = st.lists(
    st.sampled_from(["T-1", "12", "12.5", "007", "1E3", "2026-01-31", "31/01/2026", "10:30", "yes", "5%", "", " x ", "2026-01-31 10:00"]),
    min_size=1, max_size=6,
)  # fmt: skip


@given(TEXTS, st.integers(0, 3))
@settings(max_examples=30)
def test_what_a_nearly_unique_column_is_does_not_hang_on_when_it_is_coded(kinds: list[str], every: int) -> None:
    texts = [f"{kinds[i % len(kinds)]}" if every and i % (every + 1) == 0 else f"T-{i}" for i in range(1200)]
    if not every:
        texts = [f"{i}{kinds[i % len(kinds)]}" for i in range(1200)]
    array = pa.array([text.strip() for text in texts], pa.large_string())
    later, at_once = find(Loose(array), ColumnReading()), find(Loose(array).coded, ColumnReading())
    assert later is not None
    assert at_once is not None
    assert (later.reading, failures(later)) == (at_once.reading, failures(at_once))
    same_ones = range(0, 1200, 7)
    assert [later.column.item(i) for i in same_ones] == [at_once.column.item(i) for i in same_ones]


NUMBERS = st.lists(
    st.one_of(st.integers(-(10**16), 10**16).map(str), st.decimals(-1000, 1000, places=3).map(str), st.sampled_from(["", "0", "-", ".", "1.", "007", "-0.5", "1e3"])),
    max_size=12,
)  # fmt: skip


@given(NUMBERS, st.integers(1, 5))
def test_amounts_are_the_same_by_pieces_and_as_one(texts: list[str], piece: int) -> None:
    array = pa.array(texts, pa.large_string())
    whole = Loose(array).numbers()
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(cores, "PIECE", piece)
        parts = Loose(array).numbers()
        longest, blanks = Loose(array).longest, Loose(array).blanks.tolist()
    assert (whole is None) == (parts is None)
    if whole is not None and parts is not None:
        assert [parts.item(i) for i in range(len(parts))] == [Decimal(t) if t else None for t in texts]
        assert (parts.kind, parts.places) == (whole.kind, whole.places)
        assert [whole.item(i) for i in range(len(whole))] == [parts.item(i) for i in range(len(parts))]
    assert longest == max((len(text) for text in texts), default=0)
    assert blanks == [not text for text in texts]
