"""Bringing 1 million records of 12 columns in, beside the fastest plain insert of the same rows into SQLite."""

import shutil
import sqlite3
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import numpy as np

from kalendor.desk.desk import Desk
from kalendor.store.rows import to_sql


def export(count: int) -> bytes:
    """A delimited file of 12 columns: codes, categories, dates, whole numbers and amounts."""
    rng = np.random.Generator(np.random.PCG64(11))
    days = (np.datetime64("2023-11-01") + rng.integers(0, 1000, count)).astype(str)
    columns = [
        np.char.add("T-", np.arange(count).astype(str)), days, np.char.add("R", rng.integers(0, 400, count).astype(str)),
        rng.choice(["adult", "child", "senior", "group"], count), rng.choice(["sailed", "void"], count),
        rng.integers(1, 9, count).astype(str), rng.integers(0, 2000, count).astype(str), days,
        *(np.char.add(np.char.add(rng.integers(-500, 3000, count).astype(str), "."), np.char.zfill(rng.integers(0, 100, count).astype(str), 2)) for _ in range(3)),
        np.char.add("note ", rng.integers(0, 50, count).astype(str)),
    ]  # fmt: skip
    heading = "ticket,sold on,route,fare,status,heads,metres,due on,gross,discount,tax,remark"
    lines = columns[0]
    for column in columns[1:]:
        lines = np.char.add(np.char.add(lines, ","), column)
    return (heading + "\n" + "\n".join(lines.tolist()) + "\n").encode()


def plain_insert(desk: Desk, folder: Path) -> float:
    """Seconds for one executemany of the same rows (intake, line and 12 columns), made beforehand, with the same durability."""
    records = desk.sources.records(desk.sources.all()[0])
    columns = [[1] * records.count, list(range(2, records.count + 2)), *(to_sql(c) for c in records.columns.values())]
    rows = list(zip(*columns, strict=True))
    db = sqlite3.connect(folder / "plain.sqlite", isolation_level=None)
    db.execute("PRAGMA journal_mode = WAL")
    db.execute("PRAGMA synchronous = FULL")
    db.execute(f"CREATE TABLE r ({', '.join(f'c{i}' for i in range(len(columns)))})")
    start = time.perf_counter()
    db.execute("BEGIN")
    db.executemany(f"INSERT INTO r VALUES ({', '.join('?' * len(columns))})", rows)
    db.execute("COMMIT")
    return time.perf_counter() - start


CHILD = """
import sys, time
from pathlib import Path
from kalendor.desk.bringing_in import keep, look_at
from kalendor.desk.desk import Desk
def peak():
    status = Path("/proc/self/status").read_text()
    return int(status.split("VmHWM:")[1].split()[0]) * 1024
desk = Desk(Path(sys.argv[2]))
start = time.perf_counter()
found = look_at(desk, "export.csv", Path(sys.argv[1]).read_bytes(), "Sales")
read = time.perf_counter() - start
keep(desk, found.token)
print(read, time.perf_counter() - start, peak())
"""


def measured(count: int = 1_000_000) -> None:
    """Print the intake of `count` records, in a process of its own, as a ratio to the plain insert."""
    folder = Path(tempfile.mkdtemp())
    try:
        (folder / "export.csv").write_bytes(export(count))
        command = [sys.executable, "-c", CHILD, str(folder / "export.csv"), str(folder / "workspace")]
        answer = subprocess.run(command, check=True, capture_output=True, text=True).stdout
        read, whole, peak = (float(part) for part in answer.split())
        plain = plain_insert(Desk(folder / "workspace"), folder)
    finally:
        shutil.rmtree(folder)
    print(f"\nintake of {count:,} records × 12 columns; plain insert of the same rows {plain:.1f} s")
    print(f"  reading, finding types           {read / plain:6.2f} × the plain insert")
    print(f"  the whole intake, cache included {whole / plain:6.2f} × the plain insert   (target ≤ 2)")
    print(f"  peak memory of the process       {peak / count / 12:6.0f} bytes a record and column")
