"""Large arrays in memory-mapped files: the same reading wherever they lie, and memory that does not grow with the
records."""

import errno
import gzip
import io
import json
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import date, timedelta
from decimal import Decimal
from pathlib import Path
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.parquet as pq
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from kalendor.core.values import cores
from kalendor.definitions.recipe import Recipe
from kalendor.intake import content, gathering, room
from kalendor.intake.apart import Apart, Asked, Bounds
from kalendor.intake.reading import read_bytes
from kalendor.intake.room import Room, anywhere, joined, kept, laid_out, lying_in, picked
from kalendor.intake.typed import Reading


@contextmanager
def small(folder: Path, in_memory: int, segment: int, piece: int) -> Iterator[None]:
    """Context in which arrays lie in files from the first byte on, and work is done in small pieces."""
    with pytest.MonkeyPatch.context() as patch, lying_in(Room(folder, in_memory, segment)):
        patch.setattr(cores, "PIECE", piece)
        patch.setattr(content, "BLOCK", 8 * piece)
        patch.setattr(gathering, "MANY_WAITING", piece)
        yield


SIZES = st.tuples(st.sampled_from([0, 100, 1 << 20]), st.sampled_from([64, 1 << 12]), st.integers(2, 40))
CODES = st.lists(st.integers(0, 6), max_size=60)


@given(SIZES, CODES, st.data())
@settings(suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_what_is_made_by_pieces_is_what_numpy_makes(
    tmp_path: Path, sizes: tuple[int, int, int], codes: list[int], data: st.DataObject
) -> None:
    array = np.array(codes, dtype=np.int32)
    mask = np.array(data.draw(st.lists(st.booleans(), min_size=len(codes), max_size=len(codes))), dtype=bool)
    values = np.arange(7) ** 2
    with small(tmp_path, *sizes):
        assert laid_out(values, array).tolist() == values[array].tolist()
        assert picked(array, mask).tolist() == array[mask].tolist()
        assert picked(array, np.flatnonzero(mask)).tolist() == array[mask].tolist()
        parts = [kept(array), kept(array[:3])]
        parts[0][:1] += 1
        assert joined(parts, np.int32).tolist() == [*(code + (i == 0) for i, code in enumerate(codes)), *codes[:3]]
        found = anywhere([mask, array > 3], len(array))
        assert found is not None
        assert found.tolist() == (mask | (array > 3)).tolist()
        several = [kept(np.full(n, n, dtype=np.int16)) for n in codes]
        assert [part.tolist() for part in several] == [[n] * n for n in codes]


WORDS = st.sampled_from(["", " ", "T-1", "Ålesund", "12", "12.50", "-3", "007", "1,234.50", "31/12/2026", "01/02/2026", "yes", "11%", "Total"])  # fmt: skip
ROWS = st.lists(st.tuples(WORDS, WORDS, WORDS), min_size=1, max_size=14)


def in_words(reading: Reading) -> Any:
    columns = {
        name: (c.kind, c.places, [c.item(i) for i in range(len(c))]) for name, c in reading.records.columns.items()
    }
    lines = np.asarray(reading.lines).tolist()
    return columns, lines, reading.refused, reading.recipe, reading.rivals, reading.foot, reading.notes


def files(rows: list[tuple[str, str, str]], every: bool) -> dict[str, bytes]:
    """The rows in each open format; `every`: each repeated with a text of its own, so that one column is nearly
    unique."""
    many = [(f"{a}{i}" if i % 3 else a, b, c) for i, (a, b, c) in enumerate(rows * 12)] if every else rows
    names = ("one", "two", "three")
    csv = "\n".join([",".join(names), *(",".join(f'"{cell}"' for cell in row) for row in many)])
    objects = [{name: cell for name, cell in zip(names, row, strict=True) if cell} or {"one": "x"} for row in many]
    out = io.BytesIO()
    pq.write_table(pa.table({n: [row[k] or None for row in many] for k, n in enumerate(names)}), out)
    ragged = "\n".join([csv, "a,b,c,d", "x"])
    return {
        "f.csv": csv.encode(), "ragged.csv": ragged.encode(), "f.parquet": out.getvalue(),
        "f.jsonl": "\n".join(map(json.dumps, objects)).encode(),
    }  # fmt: skip


@given(ROWS, st.booleans(), SIZES)
@settings(suppress_health_check=[HealthCheck.function_scoped_fixture], max_examples=25)
def test_a_file_is_read_the_same_wherever_its_arrays_lie(
    tmp_path: Path, rows: list[tuple[str, str, str]], every: bool, sizes: tuple[int, int, int]
) -> None:
    for name, data in files(rows, every).items():
        with pytest.MonkeyPatch.context() as patch:
            patch.setattr(gathering, "FEW_WORDS", 8)
            usual = in_words(read_bytes(data, name, Recipe()))
            with small(tmp_path, *sizes):
                assert in_words(read_bytes(data, name, Recipe())) == usual


def test_arrays_from_several_threads_do_not_share_their_room(tmp_path: Path) -> None:
    with lying_in(Room(tmp_path, 0, 1 << 12)):
        found = cores.each(lambda n: kept(np.full(n % 700, n)), list(range(400)), cores.MANY, 4)
    assert all((part == n).all() and len(part) == n % 700 for n, part in enumerate(found))
    assert not list(tmp_path.iterdir())


MOST_MEMORY = 440 << 20  # with all arrays in memory, 480 did not do


def test_a_reader_of_many_records_stays_within_its_memory(tmp_path: Path) -> None:
    days = (np.datetime64("2020-01-01") + np.arange(100_000) % 900).astype(str).tolist()
    lines = "".join(f"Area {i % 20},R-{i % 2000},{i * 7 % 99_989}.{i % 90 + 10},{day}\n" for i, day in enumerate(days))
    with (tmp_path / "large.csv").open("w") as file:
        file.write("area,route,amount,day\n")
        file.writelines([lines] * 40)
    reader = Apart(tmp_path / "scratch", Bounds(MOST_MEMORY))
    try:
        found = reader.read(Asked(tmp_path / "large.csv", "large.csv"))
    finally:
        reader.close()
    columns = found.records.columns
    assert [columns[n].item(3_999_999) for n in ("area", "route", "amount", "day")] == [
        "Area 19", "R-1999", Decimal(f"{99_999 * 7 % 99_989}.19"), date(2020, 1, 1) + timedelta(99_999 % 900),
    ]  # fmt: skip


FULL = """
import resource, sys
from pathlib import Path
from kalendor.intake.room import Room, lying_in, array_of
resource.setrlimit(resource.RLIMIT_FSIZE, (1 << 20, 1 << 20))
import signal
signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
with lying_in(Room(Path(sys.argv[1]), 0)):
    try:
        array_of(1 << 24, "int64")
    except OSError as error:
        print(error.strerror)
"""


def test_where_the_disk_has_no_room_it_is_an_error_and_no_crash(tmp_path: Path) -> None:
    found = subprocess.run([sys.executable, "-c", FULL, str(tmp_path)], capture_output=True, text=True, check=False)
    assert (found.returncode, found.stdout.strip()) == (0, "File too large")


@pytest.mark.parametrize("name", ["f.csv", "f.csv.gz", "f.parquet", "f.jsonl"])
def test_a_full_disk_is_not_said_to_be_the_files_fault(
    tmp_path: Path, name: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    made = files([("a", "b", "c")], every=True)
    data = gzip.compress(made["f.csv"]) if name.endswith(".gz") else made[name]

    def refused(*_: object, **__: object) -> None:
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(room.tempfile, "TemporaryFile", refused)
    monkeypatch.setattr(content, "SMALL", 1)
    with lying_in(Room(tmp_path, 0)), pytest.raises(OSError, match="No space left"):
        read_bytes(data, name, Recipe())
