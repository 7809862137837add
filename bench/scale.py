"""Partitions: seconds and memory by records and workers, beside reading the same columns by pyarrow alone; and merging alone.

python -m bench.scale [millions ...]        the most of them needs some 10 bytes of disk a record
"""

import json
import os
import pickle
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from datetime import date
from pathlib import Path
from typing import Any, TypeVar

import numpy as np
import pyarrow as pa
import pyarrow.parquet as pq

from bench.large import own_memory
from kalendor.api.trail_view import trail_view
from kalendor.core.partials.condensing import condensed, merged
from kalendor.core.placing.material import Material
from kalendor.core.trail.cell import Cell
from kalendor.core.values.columns import Column, Kind, Records
from kalendor.definitions.kinds import definition
from kalendor.desk.desk import Desk
from kalendor.desk.ingredients import now
from kalendor.desk.linked.looking import link, look
from kalendor.desk.linked.sheets import over
from kalendor.desk.linked.work import partial_in
from kalendor.desk.sheets import sheet_now
from kalendor.desk.spreading import unwatched
from kalendor.desk.trails import trail_at

V = TypeVar("V")
FILE = 1_000_000
STORES, REGIONS, MONTHS = 400, 12, 33
COLUMNS = ["sold_on", "region", "store", "net"]
FIRST = (date(2024, 1, 1) - date(1970, 1, 1)).days
AS_OF = date(2026, 9, 30)
REPORT: dict[str, Any] = {
    "kalendor": 1, "kind": "report", "title": "Sales", "source": "sales",
    "down": [{"category": "region"}, {"category": "store"}], "across": [{"period": "sold_on", "grains": ["year", "month"]}],
    "figures": [{"name": "Net", "take": "sum", "of": "net"}, {"name": "Sales", "take": "count"}],
}  # fmt: skip


def write_file(path: Path, number: int, files: int) -> None:
    """A file of a million sales, of a stretch of days of its own."""
    rng = np.random.Generator(np.random.PCG64(number))
    store = rng.integers(0, STORES, FILE).astype(np.int32)
    days = MONTHS * 30
    sold_on = FIRST + number * days // files + rng.integers(0, max(1, days // files) + 1, FILE)
    table = pa.table(
        {
            "sold_on": pa.array(sold_on.astype(np.int32), pa.date32()),
            "region": pa.DictionaryArray.from_arrays(store % REGIONS, [f"Region {k:02}" for k in range(REGIONS)]),
            "store": pa.DictionaryArray.from_arrays(store, [f"Store {k:03}" for k in range(STORES)]),
            "net": rng.integers(-5000, 90_000, FILE) / 100,
            "lines": rng.integers(1, 9, FILE),
        }
    )
    pq.write_table(table, path, row_group_size=250_000, compression="snappy")


def read_alone(path: Path) -> int:
    """The columns read by pyarrow, in one thread."""
    return sum(len(batch) for batch in pq.ParquetFile(path).iter_batches(1 << 17, columns=COLUMNS, use_threads=False))


def timed(command: list[str]) -> tuple[float, float]:
    """Seconds, and the most memory (GB) that any of the processes held for itself."""
    begun, most = time.perf_counter(), 0.0
    with subprocess.Popen(command) as process:
        while process.poll() is None:
            most = max([most, *(own_memory(pid) for pid in [process.pid, *children(process.pid)])])
            time.sleep(0.05)
    if process.returncode:
        raise SystemExit(process.returncode)
    return time.perf_counter() - begun, most


def children(pid: int) -> list[int]:
    """The processes that a process started."""
    found = " ".join(path.read_text() for path in Path(f"/proc/{pid}/task").glob("*/children"))
    return [int(one) for one in found.split()]


def run(folder: Path, files: list[Path], workers: int) -> tuple[float, float]:
    """A report over some files with so many workers."""
    (folder / "report.json").write_text(json.dumps(REPORT))
    data = [one for path in files for one in ("--data", str(path))]
    more = [
        "--as-of",
        AS_OF.isoformat(),
        "--out",
        str(folder / f"{workers}.csv"),
        "--workers",
        str(workers),
        "--memory",
        "1GB",
    ]
    return timed([sys.executable, "-m", "kalendor.cli", "run", str(folder / "report.json"), *data, *more])


def reading(files: list[Path], workers: int) -> float:
    """Seconds in which pyarrow alone reads the columns on so many processes."""
    with ProcessPoolExecutor(workers) as pool:
        list(pool.map(len, [[]] * workers))
        begun = time.perf_counter()
        list(pool.map(read_alone, files))
        return time.perf_counter() - begun


def measure(millions: list[int]) -> None:
    """The table by records and workers."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        most = max(millions)
        paths = [folder / f"day-{k:04}.parquet" for k in range(most)]
        with ProcessPoolExecutor(os.cpu_count()) as pool:
            list(pool.map(write_file, paths, range(most), [most] * most))
        print(f"{most} million records in {sum(p.stat().st_size for p in paths) / 1e9:.1f} GB of Parquet", flush=True)
        print("millions  workers  seconds  µs a record  memory of a process  pyarrow alone", flush=True)
        for count in millions:
            files = paths[:: most // count][:count]
            for workers in (1, 2, 4):
                seconds, memory = run(folder, files, workers)
                alone = reading(files, workers)
                print(
                    f"{count:8}  {workers:7}  {seconds:7.1f}  {seconds / count:11.2f}  {memory * 1000:16.0f} MB  {seconds / alone:11.1f} ×",
                    flush=True,
                )
            if len({(folder / f"{w}.csv").read_bytes() for w in (1, 2, 4)}) != 1:
                raise SystemExit("the sheets differ")


def partial(number: int) -> Material:
    """The partial of a day of all stores."""
    store = np.arange(STORES, dtype=np.int32)
    columns = {
        "sold_on": Column(Kind.DATE, np.full(STORES, FIRST + number % 990, dtype=np.int32)),
        "region": Column(Kind.TEXT, store % REGIONS, words=tuple(f"Region {k:02}" for k in range(REGIONS))),
        "store": Column(Kind.TEXT, store, words=tuple(f"Store {k:03}" for k in range(STORES))),
        "net": Column(Kind.DECIMAL, store.astype(np.int64) * 100 + number, places=2),
    }
    report: Any = definition(REPORT, "bench")
    return condensed(report, Material(Records(columns, STORES)), AS_OF, number << 40, whole=number == 0)


def merging(count: int = 10_000) -> None:
    """Merging alone, eight at a time."""
    report: Any = definition(REPORT, "bench")
    partials = [partial(number) for number in range(count)]
    size = len(pickle.dumps(partials[0]))
    begun = time.perf_counter()
    while len(partials) > 1:
        partials = [merged(report, partials[at : at + 8], AS_OF) for at in range(0, len(partials), 8)]
    seconds = time.perf_counter() - begun
    print(
        f"merging {count:,} partials of {STORES} rows: {seconds:.1f} s, {seconds / count * 1000:.1f} ms each; one crosses in {size / 1000:.0f} kB"
    )


def following(millions: int = 100) -> None:
    """A linked folder of so many millions: the first look and sheet, and those after a new file, beside what that file costs alone."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name) / "sales"
        folder.mkdir()
        paths = [folder / f"day-{k:04}.parquet" for k in range(millions + 1)]
        with ProcessPoolExecutor(os.cpu_count()) as pool:
            list(pool.map(write_file, paths[:-1], range(millions), [millions + 1] * millions))
        desk = Desk(Path(name) / "workspace")
        desk.link_from = (folder,)
        report: Any = definition(REPORT, "bench")
        linked, source = spent(lambda: link(desk, "sales", str(folder), "**/*"))
        first, _ = spent(lambda: sheet_now(desk, report))
        write_file(paths[-1], millions, millions + 1)
        looked, _ = spent(lambda: look(desk, source))
        asked = over(desk, now(desk, report), unwatched)
        assert asked is not None
        alone, _ = spent(lambda: partial_in(asked.work, asked.parts[-1][1]))
        again, (key, sheet) = spent(lambda: sheet_now(desk, report))
        desk.plans.clear()
        trail, _ = spent(lambda: trail_view(trail_at(desk, report, key, Cell("Net", sheet.lines.count - 1, 1))))
        print(
            f"a linked folder of {millions} million records: {linked:.1f} s to link, {first:.1f} s for a first sheet; a new file of a"
            f" million: {looked:.1f} s to look, {again:.2f} s for the sheet, {alone:.2f} s for the file alone; a trail {trail:.1f} s",
            flush=True,
        )


def spent(work: Callable[[], V]) -> tuple[float, V]:
    """Seconds that something takes, and what it gives."""
    begun = time.perf_counter()
    found = work()
    return time.perf_counter() - begun, found


if __name__ == "__main__":
    merging()
    sizes = [int(one) for one in sys.argv[1:]] or [10, 100, 200]
    following(min(sizes[-1], 100))
    measure(sizes)
