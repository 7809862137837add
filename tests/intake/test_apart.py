"""Files read in separate processes: whatever a file does to its reader is a refusal with a message."""

import io
import zipfile
from collections.abc import Iterator
from dataclasses import fields, replace
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import xlsxwriter

from kalendor.definitions.recipe import ColumnReading, Recipe
from kalendor.errors import IntakeError
from kalendor.intake.apart import Apart, Asked, Bounds, Here
from kalendor.intake.typed import Reading

DATA = "sold on,what,n,rate\n2026-07-01,é,1.50,11%\n,b,,\n2026-07-03,c,x,12%\n" + "".join(
    f"2026-07-04,d,{n}.25,{n}%\n" for n in range(30)
)


@pytest.fixture
def apart(tmp_path: Path) -> Iterator[Apart]:
    found = Apart(tmp_path / "scratch", Bounds(1 << 30, 30))
    yield found
    found.close()


def asked(tmp_path: Path, data: bytes, name: str = "f.csv") -> Asked:
    path = tmp_path / name
    path.write_bytes(data)
    return Asked(path, name)


def as_values(reading: Reading) -> object:
    columns = {n: [c.item(i) for i in range(len(c))] for n, c in reading.records.columns.items()}
    kinds = {n: (c.kind, c.places, c.percent) for n, c in reading.records.columns.items()}
    rest = [getattr(reading, f.name) for f in fields(reading) if f.name not in ("records", "lines")]
    return columns, kinds, rest, np.asarray(reading.lines).tolist()


def test_a_reading_apart_is_the_same_as_one_here(apart: Apart, tmp_path: Path) -> None:
    for name, data in (
        ("f.csv", DATA.encode()),
        ("j.json", b'[{"a": 1, "b": "x"}]'),
        ("t.csv", b"a,n\nx,1\n,\ny,2\nTotal,3\n"),
        ("w.csv", b"a;w\nx;1,234\n"),
    ):
        one = asked(tmp_path, data, name)
        assert as_values(apart.read(one)) == as_values(Here().read(one))
        told = Recipe(columns={"gone": ColumnReading(), "n": ColumnReading(type="date", headings=["m"])})
        one = replace(one, recipe=told, strict=True, earlier=(Recipe(),) if name == "t.csv" else ())
        assert as_values(apart.read(one)) == as_values(Here().read(one))
    assert list((tmp_path / "scratch").iterdir()) == []


def test_what_is_wrong_comes_back_in_the_same_words(apart: Apart, tmp_path: Path) -> None:
    one = asked(tmp_path, b'a,"b\n1,2\n')
    with pytest.raises(IntakeError) as here:
        Here().read(one)
    with pytest.raises(IntakeError) as there:
        apart.read(one)
    assert str(here.value) == str(there.value)


def test_a_reader_that_dies_or_wants_too_much_or_takes_too_long_is_a_refusal(apart: Apart, tmp_path: Path) -> None:
    one = asked(tmp_path, b"a,b\n" + b"1,2\n" * 2_000_000)
    tight = Apart(tmp_path / "tight", Bounds(60 << 20, 30))
    with pytest.raises(IntakeError, match=r"cannot be read within 0\.0586 GiB of memory"):
        tight.read(one)
    tight.close()
    late = Apart(tmp_path / "late", Bounds(1 << 30, 0.0, 0.0))
    with pytest.raises(IntakeError, match="took too long"):
        late.read(one)
    late.close()

    readers = []
    taken = apart._taken

    def noted() -> Any:
        readers.append(taken())
        return readers[-1]

    apart._taken = noted  # type: ignore[method-assign]
    with pytest.raises(IntakeError, match="breaks what reads it"):
        apart.read(one, lambda done, total: readers[0].kill())


def test_reading_is_ended_by_the_one_who_waits(apart: Apart, tmp_path: Path) -> None:
    class StoppedError(Exception):
        pass

    def stop(done: int, total: int) -> None:
        raise StoppedError

    with pytest.raises(StoppedError):
        apart.read(asked(tmp_path, DATA.encode()), stop)
    assert apart.read(asked(tmp_path, DATA.encode())).records.count == 32


def far_out() -> bytes:
    held = io.BytesIO()
    book = xlsxwriter.Workbook(held, {"in_memory": True})
    sheet = book.add_worksheet("Data")
    sheet.write(0, 0, "a")
    sheet.write(1048575, 16383, 1)
    book.close()
    return held.getvalue()


def bomb() -> bytes:
    plain = far_out()
    held = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(plain)) as old, zipfile.ZipFile(held, "w", zipfile.ZIP_DEFLATED) as new:
        for part in old.namelist():
            body = old.read(part)
            if part == "xl/worksheets/sheet1.xml":
                body = b"<worksheet><sheetData>" + b" " * (100 << 20) + b"</sheetData></worksheet>"
            new.writestr(part, body)
    return held.getvalue()


@pytest.mark.parametrize(
    ("name", "data"),
    [
        ("far-out.xlsx", far_out),
        ("bomb.xlsx", bomb),
        ("deep.json", lambda: b'[{"a": ' + b"[" * 100_000 + b"]" * 100_000 + b"}]"),
        ("half.xlsx", lambda: far_out()[:300]),
        ("nothing.parquet", lambda: b"PAR1" + b"\x00" * 50 + b"PAR1"),
        ("cut.gz", lambda: b"\x1f\x8b\x08\x00"),
        ("nul.csv", lambda: b"a,b\n1,\x00\n"),
        ("one-cell.csv", lambda: b"a,b\n1," + b"x" * (20 << 20) + b"\n2,y\n"),
    ],
    ids=lambda part: part if isinstance(part, str) else "",
)
def test_what_would_end_a_server_is_read_or_refused_in_words(
    apart: Apart, tmp_path: Path, name: str, data: object
) -> None:
    try:
        said = str(apart.read(asked(tmp_path, data(), name)).records.count)  # type: ignore[operator]
    except IntakeError as error:
        said = str(error)
    assert said == "1" or name in said
