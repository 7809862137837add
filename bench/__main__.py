"""Measures sheets over many records beside a bare NumPy pass and SQLite's own SQL, all in one run, as ratios."""

import sqlite3
import subprocess
import sys
import time
from collections.abc import Callable
from datetime import date
from pathlib import Path

import numpy as np

from bench import intake
from kalendor.core.groupings.entries import grouped
from kalendor.core.groupings.ground import Ground, Groupings
from kalendor.core.placing.material import Material
from kalendor.core.plan import planned
from kalendor.core.report import sheet_of, traced, work_out
from kalendor.core.trail.cell import Cell
from kalendor.core.values.columns import Column, Kind, Records
from kalendor.core.values.keys import key
from kalendor.core.values.memory import Memory
from kalendor.definitions.axis import CategoryEntry
from kalendor.definitions.kinds import definition
from kalendor.definitions.report import Report
from kalendor.desk.desk import MEMORY_BYTES

AREAS, ROUTES, DAYS = 12, 400, 1004
TODAY = date(2026, 8, 4)


def records(count: int) -> Records:
    rng = np.random.Generator(np.random.PCG64(7))
    area = rng.integers(0, AREAS, count).astype(np.int32)
    columns = {
        "area": Column(Kind.TEXT, area, words=tuple(f"Area {i:02d}" for i in range(AREAS))),
        "route": Column(
            Kind.TEXT,
            rng.integers(0, ROUTES, count).astype(np.int32),
            words=tuple(f"Route {i:03d}" for i in range(ROUTES)),
        ),
        "on": Column(Kind.DATE, (19662 + rng.integers(0, DAYS, count)).astype(np.int32)),
        "amount": Column(Kind.DECIMAL, rng.integers(-10_000, 500_000, count), places=2),
    }
    return Records(columns, count)


def report(*takes: str) -> Report:
    figures = [{"name": t, "take": t, **({} if t == "count" else {"of": "amount"})} for t in takes]
    document = {"kalendor": 1, "kind": "report", "title": "bench", "source": "s", "figures": figures,
                "down": [{"category": "area"}, {"category": "route"}], "across": [{"period": "on", "grains": ["month"]}]}  # fmt: skip
    return definition(document, "bench")  # type: ignore[return-value]


def with_figure(asked: Report, **figure: object) -> Report:
    """A report with one figure more."""
    document = asked.model_dump(mode="json", by_alias=True, exclude_none=True)
    document["figures"].append({"name": "more", **figure})
    return definition(document, "bench")  # type: ignore[return-value]


def timed(work: Callable[[], object], times: int = 3) -> float:
    """The least of a few runs, in seconds."""
    best = float("inf")
    for _ in range(times):
        start = time.perf_counter()
        work()
        best = min(best, time.perf_counter() - start)
    return best


def bare_pass(data: Records) -> Callable[[], object]:
    """One pass over codes that are ready: a cell for each record, its sum and its count."""
    area, route = data.columns["area"].values, data.columns["route"].values
    months = data.columns["on"].values.astype("datetime64[D]").astype("datetime64[M]").astype(np.int64)
    month = (months - months.min()).astype(np.int32)
    amount = data.columns["amount"].values
    width = int(month.max()) + 1

    def work() -> object:
        cell = (area.astype(np.int64) * ROUTES + route) * width + month
        return np.bincount(cell, weights=amount), np.bincount(cell)

    return work


def sql(data: Records) -> Callable[[], object]:
    """The same sheet with all its subtotals by SQLite, six groupings joined."""
    db = sqlite3.connect(":memory:")
    db.execute("CREATE TABLE r (area TEXT, route TEXT, day TEXT, amount INTEGER)")
    words = {
        n: np.array(data.columns[n].words, dtype=object)[data.columns[n].values].tolist() for n in ("area", "route")
    }
    days = data.columns["on"].values.astype("datetime64[D]").astype(str).tolist()
    db.executemany(
        "INSERT INTO r VALUES (?, ?, ?, ?)",
        zip(words["area"], words["route"], days, data.columns["amount"].values.tolist(), strict=True),
    )
    month = "substr(day, 1, 7)"
    groups = [(a, b, c) for a, b in (("area", "route"), ("area", "NULL"), ("NULL", "NULL")) for c in (month, "NULL")]
    query = " UNION ALL ".join(
        f"SELECT {a}, {b}, {c}, sum(amount), count(*) FROM r GROUP BY 1, 2, 3" for a, b, c in groups
    )
    return lambda: db.execute(query).fetchall()


def measured(count: int) -> None:
    data = records(count)
    material = Material(data, stamp=key("bench"))
    memory = Memory(1 << 31)
    plain, statistics = report("sum", "count"), report("sum", "count", "distinct", "median")
    bare = timed(bare_pass(data))
    start = time.perf_counter()
    work_out(plain, material, TODAY, memo=memory)
    first = time.perf_counter() - start
    again = timed(lambda: work_out(plain, material, TODAY, memo=memory))
    ordered = timed(lambda: work_out(statistics, material, TODAY, memo=memory), 1)
    mean = report("mean", "count")
    edit = timed(lambda: work_out(mean, material, TODAY, memo=memory), 2)
    narrowed = plain.model_copy(update={"only": ["amount > 0 AND route <> 'Route 007'"]})
    start = time.perf_counter()
    work_out(narrowed, material, TODAY, memo=memory)
    condition = time.perf_counter() - start
    added = {
        "a running total added": with_figure(plain, running="sum", along="on"),
        "a moving mean of 12 months added": with_figure(plain, moving="sum", periods=12, take="mean"),
        "a comparison with a year earlier": with_figure(
            plain, compare="sum", **{"with": "year_earlier", "as": "percent"}
        ),
    }
    took = {
        name: timed(lambda more=more: work_out(more, material, TODAY, memo=memory), 1) for name, more in added.items()
    }
    print(
        f"\n{count:,} records, area and route down, month across, every subtotal; bare NumPy pass {bare * 1000:.0f} ms"
    )
    print(f"  first sheet, codes not yet kept      {first / bare:6.1f} × the bare pass")
    print(f"  sheet again, codes kept              {again / bare:6.1f} × the bare pass   (target ≤ 3)")
    print(f"  another take in one figure           {edit / bare:6.1f} × the bare pass, {edit * 1000:.0f} ms")
    print(f"  a condition added                    {condition / bare:6.1f} × the bare pass, {condition * 1000:.0f} ms")
    for name, seconds in took.items():
        print(f"  {name:<36} {seconds / bare:6.1f} × the bare pass, {seconds * 1000:.0f} ms")
    print(f"  the same with distinct and median    {ordered / bare:6.1f} × the bare pass")
    first_trail, trail = traced_after(added["a comparison with a year earlier"], material, memory)
    print(
        f"  the first trail after its sheet      {first_trail / bare:6.1f} × the bare pass, {first_trail * 1000:.0f} ms"
    )
    print(f"  another trail, with its conditions   {trail / bare:6.1f} × the bare pass, {trail * 1000:.0f} ms")
    if count > 1_000_000:
        command = [sys.executable, "-m", "bench", "memory", str(count)]
        bytes_held = int(subprocess.run(command, check=True, capture_output=True, text=True).stdout)
        print(f"  peak memory of a process of its own  {bytes_held / count / 4:6.0f} bytes a record and column in use")
    else:
        slow = timed(sql(data), 1)
        print(
            f"  SQLite's SQL on the same records     {slow / bare:6.1f} × the bare pass; {slow / again:.0f} × the sheet   (target ≥ 200)"
        )
        many_values(count)


def traced_after(asked: Report, material: Material, memory: Memory) -> tuple[float, float]:
    """How long the trail of a comparison takes once its sheet is there, in seconds: the first one, and another."""
    plan = planned(asked, material, TODAY, memo=memory)
    sheet = sheet_of(plan)
    inner = np.flatnonzero(sheet.lines.depth == len(sheet.lines.levels))
    took = []
    for line in inner[:2].tolist():
        start = time.perf_counter()
        traced(plan, sheet, Cell("more", int(line), sheet.columns.count // 2))
        took.append(time.perf_counter() - start)
    return took[0], took[1]


def peak(count: int) -> int:
    """The most memory, in bytes, that this process has held over the sheets measured, with what the server keeps."""
    material, memory = Material(records(count), stamp=key("bench")), Memory(MEMORY_BYTES)
    narrowed = report("sum", "count").model_copy(update={"only": ["amount > 0 AND route <> 'Route 007'"]})
    for asked in (report("sum", "count"), narrowed, report("sum", "count", "distinct", "median")):
        work_out(asked, material, TODAY, memo=memory)
    status = Path("/proc/self/status").read_text()
    return int(status.split("VmHWM:")[1].split()[0]) * 1024


def many_values(count: int, values: int = 50_000) -> None:
    """Group codes over many different values, beside one take and one bincount over the same arrays."""
    rng = np.random.Generator(np.random.PCG64(5))
    codes = rng.integers(0, values, count).astype(np.int32)
    data = Records({"v": Column(Kind.TEXT, codes, words=tuple(f"V{i:05d}" for i in range(values)))}, count)
    table = rng.permutation(values).astype(np.int32)
    bare = timed(lambda: np.bincount(np.take(table, codes)))
    ground = Ground(data, Groupings(), 0, Memory(1 << 28), key("many"))
    entries = [CategoryEntry(category="v")]
    grouped(ground, entries, [])
    again = timed(lambda: grouped(ground, entries, []))
    print(
        f"\ngroup codes, {count:,} records and {values:,} values, once kept: {again / bare:.3f} × one take and one bincount   (target ≤ 2)"
    )


def main() -> None:
    if sys.argv[1:2] == ["memory"]:
        print(peak(int(sys.argv[2])))
        return
    intake.measured()
    intake.strip()
    intake.measured(10_000_000, rounds=1)
    for count in [int(a) for a in sys.argv[1:]] or [1_000_000, 10_000_000]:
        measured(count)


if __name__ == "__main__":
    main()
