"""Measures what more cores give: edits a second of reports over a large source, with the server and its workers on one core and on
two, and how much of an edit's time a server without workers spends under the interpreter's lock.

Run as `python -m bench.cores [records] [seconds]`. Each asker edits a report of its own of 2,000 lines × 36 months and throws the answer
away unread.
"""

import itertools
import os
import subprocess
import sys
import tempfile
import threading
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import httpx
import numpy as np
from tests.browser.conftest import free_port

from kalendor.definitions.kinds import definition
from kalendor.desk.bringing_in import bring_in_file
from kalendor.desk.desk import Desk

ROUTES, ASKERS = 2_000, 4
NUMBERS = itertools.count()
TAKES = ("sum", "mean", "max", "min", "count_values")
REPORT: dict[str, Any] = {
    "kalendor": 1, "kind": "report", "source": "Sales", "down": [{"category": "area"}, {"category": "route"}],
    "across": [{"period": "sold on", "grains": ["year", "month"]}],
    "figures": [{"name": "Net", "take": "sum", "of": "amount"}, {"name": "Sales", "take": "count"}],
}  # fmt: skip


def export(path: Path, records: int) -> None:
    """Records of 2,000 routes in 20 areas over 36 months."""
    rng = np.random.Generator(np.random.PCG64(11))
    route = rng.integers(0, ROUTES, records).tolist()
    days = (np.datetime64("2023-08-01") + rng.integers(0, 1_095, records)).astype(str).tolist()
    amounts = rng.integers(-10_000, 500_000, records).tolist()
    with path.open("w") as file:
        file.write("sold on,area,route,amount\n")
        file.writelines(
            f"{d},Area {r % 20:02d},R-{r:04d},{a / 100:.2f}\n" for d, r, a in zip(days, route, amounts, strict=True)
        )


def made(folder: Path, records: int) -> list[int]:
    """The reports of a new workspace, one an asker."""
    desk = Desk(folder / "workspace")
    export(folder / "sales.csv", records)
    bring_in_file(desk, folder / "sales.csv", "Sales", None)
    bodies = [definition({**REPORT, "title": f"Report {i}"}, "bench") for i in range(ASKERS)]
    ids = [desk.definitions.add(body, desk.now()).id for body in bodies]
    desk.workspace.close()
    return ids


@contextmanager
def serving(workspace: Path, cores: int, workers: int) -> Iterator[str]:
    """The address of a server that may use some of the machine's cores."""
    port = free_port()
    server = started(workspace, port, workers, cores)
    try:
        yield f"http://127.0.0.1:{port}"
    finally:
        server.terminate()
        server.wait()


def started(workspace: Path, port: int, workers: int, cores: int | None = None) -> subprocess.Popen[bytes]:
    """A server whose workers stand ready; None: on all cores."""
    some = set(sorted(os.sched_getaffinity(0))[:cores])
    server = subprocess.Popen(
        [sys.executable, "-m", "kalendor.cli", "serve", "--workspace", str(workspace), "--port", str(port),
         "--workers", str(workers)], stdout=subprocess.DEVNULL, preexec_fn=lambda: os.sched_setaffinity(0, some),
    )  # fmt: skip
    while True:
        try:
            urllib.request.urlopen(f"http://127.0.0.1:{port}/api/session", timeout=1)
            break
        except OSError:
            time.sleep(0.1)
    time.sleep(8)  # until the workers stand ready, on one core, too
    return server


def edit(client: httpx.Client, id: int, document: dict[str, Any]) -> None:
    """One edit: another take and a condition that was never asked before, so that the sheet is worked out from the records."""
    n = next(NUMBERS)
    document["figures"][0]["take"] = TAKES[n % len(TAKES)]
    document["only"] = [f"amount > {n / 100}"]
    client.post(f"/api/reports/{id}/edits?columns=12", json=document).raise_for_status()


def edits(base: str, ids: list[int], seconds: float) -> float:
    """Edits a second of askers who ask again as soon as they are answered, each with a report; the first of each is not counted."""
    done, warm = [0] * len(ids), threading.Barrier(len(ids) + 1)
    stop = threading.Event()

    def ask(at: int) -> None:
        with httpx.Client(base_url=base, timeout=120, trust_env=False) as client:
            document = client.get(f"/api/reports/{ids[at]}").json()["document"]
            for _ in TAKES:
                edit(client, ids[at], document)
            warm.wait()
            while not stop.is_set():
                edit(client, ids[at], document)
                done[at] += 1

    threads = [threading.Thread(target=ask, args=(at,)) for at in range(len(ids))]
    for thread in threads:
        thread.start()
    warm.wait()
    start = time.perf_counter()
    time.sleep(seconds)
    counted, taken = sum(done), time.perf_counter() - start
    stop.set()
    for thread in threads:
        thread.join()
    return counted / taken


def main() -> None:
    records = int(sys.argv[1]) if len(sys.argv) > 1 else 3_000_000
    seconds = float(sys.argv[2]) if len(sys.argv) > 2 else 20.0
    folder = Path(tempfile.mkdtemp())
    ids = made(folder, records)
    print(f"{records:,} records, {ASKERS} reports of {ROUTES:,} lines × 36 months\n")
    print("| cores | workers | askers | edits a second |\n|---|---|---|---|")
    for cores, workers in ((1, 0), (2, 0), (1, 1), (2, 2)):
        with serving(folder / "workspace", cores, workers) as base:
            for askers in (1, 2, 4):
                print(
                    f"| {cores} | {workers or 'none'} | {askers} | {edits(base, ids[:askers], seconds):.1f} |",
                    flush=True,
                )


if __name__ == "__main__":
    main()
