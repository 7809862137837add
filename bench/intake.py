"""Bringing records of 12 columns in, beside the fastest plain insert of the same rows into SQLite."""

import shutil
import sqlite3
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from itertools import chain
from pathlib import Path

import numpy as np

from kalendor.desk.bringing_in import keep, leave, look_at_held
from kalendor.desk.desk import Desk
from kalendor.desk.outcomes import outcome
from kalendor.desk.uploads import hold_file
from kalendor.store.rows import to_sql

PART = 1_000_000
ROWS_A_STATEMENT = 100
HEADING = "ticket,sold on,route,fare,status,heads,metres,due on,gross,discount,tax,remark\n"


def write_export(path: Path, count: int) -> None:
    """A delimited file of 12 columns: codes that are all different, categories, dates, whole numbers and amounts."""
    with path.open("w") as file:
        file.write(HEADING)
        for first in range(0, count, PART):
            file.write(_lines(first, min(PART, count - first)))


def _lines(first: int, count: int) -> str:
    rng = np.random.Generator(np.random.PCG64(11 + first))
    days = (np.datetime64("2023-11-01") + rng.integers(0, 1000, count)).astype(str)
    columns = [
        np.char.add("T-", np.arange(first, first + count).astype(str)), days, np.char.add("R", rng.integers(0, 400, count).astype(str)),
        rng.choice(["adult", "child", "senior", "group"], count), rng.choice(["sailed", "void"], count),
        rng.integers(1, 9, count).astype(str), rng.integers(0, 2000, count).astype(str), days,
        *(np.char.add(np.char.add(rng.integers(-500, 3000, count).astype(str), "."), np.char.zfill(rng.integers(0, 100, count).astype(str), 2)) for _ in range(3)),
        np.char.add("note ", rng.integers(0, 50, count).astype(str)),
    ]  # fmt: skip
    lines = columns[0]
    for column in columns[1:]:
        lines = np.char.add(np.char.add(lines, ","), column)
    return "\n".join(lines.tolist()) + "\n"


def plain_inserts(desk: Desk, folder: Path) -> tuple[float, float]:
    """Seconds for an insert of the same rows (intake, line and 12 columns), made beforehand, with the same durability:
    by `executemany`, and by statements of 100 rows."""
    records = desk.sources.records(desk.sources.all()[0])
    columns = [[1] * records.count, list(range(2, records.count + 2)), *(to_sql(c) for c in records.columns.values())]
    rows = list(zip(*columns, strict=True))
    one = f"({', '.join('?' * len(columns))})"

    def row_by_row(db: sqlite3.Connection) -> None:
        db.executemany(f"INSERT INTO r VALUES {one}", rows)

    def by_statement(db: sqlite3.Connection) -> None:
        sql = f"INSERT INTO r VALUES {', '.join([one] * ROWS_A_STATEMENT)}"
        for at in range(0, len(rows) // ROWS_A_STATEMENT * ROWS_A_STATEMENT, ROWS_A_STATEMENT):
            db.execute(sql, list(chain.from_iterable(rows[at : at + ROWS_A_STATEMENT])))

    def seconds(work: Callable[[sqlite3.Connection], None]) -> float:
        path = folder / f"{work.__name__}.sqlite"
        db = sqlite3.connect(path, isolation_level=None)
        db.execute("PRAGMA journal_mode = WAL")
        db.execute("PRAGMA synchronous = FULL")
        db.execute(f"CREATE TABLE r ({', '.join(f'c{i}' for i in range(len(columns)))})")
        start = time.perf_counter()
        db.execute("BEGIN")
        work(db)
        db.execute("COMMIT")
        return time.perf_counter() - start

    return seconds(row_by_row), seconds(by_statement)


def strip(count: int = PART, rounds: int = 3) -> None:
    """Print what it takes to say what a file of `count` records would do to as many others, beside its reading: the least of
    a few rounds."""
    folder = Path(tempfile.mkdtemp())
    try:
        write_export(folder / "all.csv", 2 * count)
        lines = (folder / "all.csv").read_text().splitlines(keepends=True)
        for name, part in (("first", lines[1 : count + 1]), ("second", lines[count + 1 :])):
            (folder / f"{name}.csv").write_text("".join([HEADING, *part]))
        desk = Desk(folder / "workspace")
        keep(desk, look_at_held(desk, "first.csv", hold_file(desk, folder / "first.csv"), "Sales").token)
        found = []
        for _ in range(rounds):
            start = time.perf_counter()
            waiting = look_at_held(desk, "second.csv", hold_file(desk, folder / "second.csv"), "Sales")
            read = time.perf_counter()
            outcome(desk, waiting)
            found.append((read - start, time.perf_counter() - read))
            leave(desk, waiting.token)
        read, said = (min(part) for part in zip(*found, strict=True))
        print(f"\nwhat {count:,} records would do to {count:,}, 12 columns: {said:.2f} s over the reading (target ≤ 1)")
        print(f"  {said / read:.2f} × the reading of the file")
    finally:
        shutil.rmtree(folder)


CHILD = """
import sys, threading, time
from pathlib import Path
from kalendor.desk.bringing_in import keep, look_at_held
from kalendor.desk.desk import Desk
from kalendor.desk.uploads import hold_file
peak = [0]
def watch():
    while True:
        status = Path("/proc/self/status").read_text()
        peak[0] = max(peak[0], int(status.split("RssAnon:")[1].split()[0]) * 1024)
        time.sleep(0.02)
threading.Thread(target=watch, daemon=True).start()
desk = Desk(Path(sys.argv[2]))
start = time.perf_counter()
found = look_at_held(desk, "export.csv", hold_file(desk, Path(sys.argv[1])), "Sales")
read = time.perf_counter() - start
keep(desk, found.token)
print(read, time.perf_counter() - start, peak[0])
"""


def measured(count: int = 1_000_000, rounds: int = 5) -> None:
    """Print the intake of `count` records, in a process of its own, as a ratio to the plain insert: the least of a few
    rounds, intake and insert by turns."""
    folder = Path(tempfile.mkdtemp())
    try:
        write_export(folder / "export.csv", count)
        size = (folder / "export.csv").stat().st_size
        intakes, plain = [], []
        for round_ in range(rounds):
            here = folder / str(round_)
            here.mkdir()
            command = [sys.executable, "-c", CHILD, str(folder / "export.csv"), str(here / "workspace")]
            answer = subprocess.run(command, check=True, capture_output=True, text=True).stdout
            intakes.append([float(part) for part in answer.split()])
            if count <= PART:
                plain.append(plain_inserts(Desk(here / "workspace"), here))
            shutil.rmtree(here)
        read, whole, peak = (min(part) for part in zip(*intakes, strict=True))
        print(f"\nintake of {count:,} records × 12 columns, a file of {size / 1e6:,.0f} MB: {whole:.1f} s")
        if plain:
            by_row, by_statement = (min(part) for part in zip(*plain, strict=True))
            print(f"  plain insert row by row {by_row:.1f} s, by statements of 100 rows {by_statement:.1f} s")
            for seconds, words in ((by_row, "plain insert"), (min(by_row, by_statement), "fastest plain insert")):
                print(f"  reading, finding types           {read / seconds:6.2f} × the {words}")
                print(f"  the whole intake, cache included {whole / seconds:6.2f} × the {words}   (target ≤ 2)")
        print(f"  peak memory of its own           {peak / count / 12:6.0f} bytes a record and column")
    finally:
        shutil.rmtree(folder)
