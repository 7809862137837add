"""Measures intake and a sheet of two levels at 10 and 50 million records, each in a process of its own: seconds, and the most memory
that this process and the reader held for themselves, what is mapped from files left out. Run as `python -m bench.large [millions ...]`."""

import os
import subprocess
import sys
import tempfile
import threading
import time
from datetime import date
from pathlib import Path

import numpy as np

from kalendor.core.placing.material import Material
from kalendor.core.report import work_out
from kalendor.definitions.kinds import definition
from kalendor.definitions.report import Report
from kalendor.desk.bringing_in import bring_in_file
from kalendor.desk.desk import Desk
from kalendor.desk.records import complete
from kalendor.intake.apart import Apart

AT_ONCE = 1_000_000
REPORT = {"kalendor": 1, "kind": "report", "title": "t", "source": "Large", "down": [{"category": "area"}, {"category": "route"}],
          "figures": [{"name": "Net", "take": "sum", "of": "amount"}, {"name": "Records", "take": "count"}]}  # fmt: skip


class Watch:
    """The most memory that this process and those that it started held for themselves, in GB, looked at every 20 ms."""

    def __init__(self) -> None:
        self.here = self.started = 0.0
        threading.Thread(target=self._look, daemon=True).start()

    def _look(self) -> None:
        while True:
            self.here = max(self.here, own_memory(os.getpid()))
            started = " ".join(p.read_text() for p in Path("/proc/self/task").glob("*/children")).split()
            self.started = max([self.started, *(own_memory(int(pid)) for pid in started)])
            time.sleep(0.02)


def own_memory(pid: int) -> float:
    try:
        status = Path(f"/proc/{pid}/status").read_text()
    except OSError:
        return 0.0
    return int(status.split("RssAnon:")[1].split()[0]) / 1e6 if "RssAnon:" in status else 0.0


def export(path: Path, millions: int) -> None:
    """Records of 2,000 routes in 20 areas over ten years."""
    rng = np.random.Generator(np.random.PCG64(11))
    with path.open("w") as file:
        file.write("sold on,area,route,amount\n")
        for _ in range(millions):
            route = rng.integers(0, 2_000, AT_ONCE).tolist()
            days = (np.datetime64("2016-01-01") + rng.integers(0, 3_650, AT_ONCE)).astype(str).tolist()
            amounts = rng.integers(1_000, 99_999, AT_ONCE).tolist()
            file.writelines(
                f"{d},Area {r % 20:02d},R-{r:04d},{a // 100}.{a % 100:02d}\n"
                for d, r, a in zip(days, route, amounts, strict=True)
            )


def one(millions: int) -> None:
    """Bring in, and work a sheet out, first and again; a line of the table."""
    with tempfile.TemporaryDirectory() as folder:
        export(Path(folder) / "large.csv", millions)
        size = (Path(folder) / "large.csv").stat().st_size
        watch = Watch()
        desk = Desk(Path(folder) / "workspace", readers=Apart(Path(folder) / "scratch"))
        start = time.perf_counter()
        bring_in_file(desk, Path(folder) / "large.csv", "Large", None)
        took = time.perf_counter() - start
        desk.readers.close()
        source = desk.sources.named("Large")
        assert source is not None
        report = definition(REPORT, "bench")
        assert isinstance(report, Report)
        times = []
        for _ in range(2):
            start = time.perf_counter()
            work_out(report, Material(complete(desk, source).records, {}, {}, 0), date(2026, 8, 4))
            times.append(time.perf_counter() - start)
        print(
            f"| {millions} million, {size / 1e9:.1f} GB | {took:.0f} s | {times[0]:.1f} s | {times[1]:.1f} s | {watch.here:.2f} GB | {watch.started:.2f} GB |",
            flush=True,
        )


def main() -> None:
    if sys.argv[1:2] == ["one"]:
        one(int(sys.argv[2]))
        return
    print(
        "| records | intake | first sheet | again | most memory here | in the reader |\n|---|---|---|---|---|---|",
        flush=True,
    )
    for millions in map(int, sys.argv[1:] or ("10", "50")):
        subprocess.run([sys.executable, "-m", "bench.large", "one", str(millions)], check=True)


if __name__ == "__main__":
    main()
