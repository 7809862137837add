"""Keeps a server busy for an hour and follows its memory, descriptors and threads, its workers and other processes included.

Run as `python -m bench.soak [minutes]`. Five analysts edit, ten readers read, a file is brought in each minute, and an export is made
every ten seconds. The memory is the proportional set size, in which what processes share is counted once.
"""

import os
import random
import sys
import tempfile
import threading
import time
from datetime import date
from pathlib import Path

import httpx
from tests.browser.conftest import free_port

from bench.cores import started
from bench.load import Times, analyst, made, reader
from kalendor.api.workers.pool import usual_count

PAUSE, ANALYSTS, READERS = 2.0, 5, 10
REST_SECONDS = 60


def processes(root: int) -> list[int]:
    """A process and all beneath it."""
    parents: dict[int, int] = {}
    for entry in os.listdir("/proc"):
        if entry.isdigit():
            try:
                parents[int(entry)] = int(Path(f"/proc/{entry}/stat").read_text().rsplit(")", 1)[1].split()[1])
            except OSError:
                continue
    found = [root]
    for one in found:
        found += [child for child, parent in parents.items() if parent == one]
    return found


def measured(root: int) -> tuple[float, int, int]:
    """Memory in MB, open descriptors and threads of a process and all beneath it."""
    memory, descriptors, threads = 0, 0, 0
    for one in processes(root):
        try:
            told = Path(f"/proc/{one}/smaps_rollup").read_text()
            memory += next(int(line.split()[1]) for line in told.splitlines() if line.startswith("Pss:"))
            descriptors += len(os.listdir(f"/proc/{one}/fd"))
            threads += len(os.listdir(f"/proc/{one}/task"))
        except (OSError, StopIteration):
            continue
    return memory / 1000, descriptors, threads


def bring_in(base: str, until: float, times: Times) -> None:
    """A file each minute into a source of its own, which it replaces."""
    with httpx.Client(base_url=base, timeout=60, trust_env=False) as client:
        while time.perf_counter() < until:
            lines = "\n".join(f"2026-07-{d:02d},{random.randrange(1_000)}" for d in range(1, 29))
            sent = {"file": ("small.csv", f"day,amount\n{lines}\n".encode()), "source": (None, "Small")}
            job = client.post("/api/waiting", files=sent).json()
            while job["state"] == "working":
                job = client.get(f"/api/jobs/{job['id']}").json()
            client.put(f"/api/waiting/{job['token']}", json={"join": "replace_all", "join_by": []}).raise_for_status()
            times.ask(client, "POST", f"/api/waiting/{job['token']}/keep?again=true&seen=true")
            time.sleep(60)


def export(base: str, id: int, until: float, times: Times) -> None:
    """A workbook, a web page and flat text by turns."""
    with httpx.Client(base_url=base, timeout=60, trust_env=False) as client:
        while time.perf_counter() < until:
            for form in ("xlsx", "html", "csv"):
                answer = client.get(f"/api/reports/{id}/file?format={form}")
                times.wrong += [] if answer.status_code == 200 else [f"{form}: {answer.status_code}"]
                time.sleep(10)


def main() -> None:
    minutes = float(sys.argv[1]) if len(sys.argv) > 1 else 60.0
    folder = Path(tempfile.mkdtemp())
    ids, secret = made(folder)
    port = free_port()
    server = started(folder / "workspace", port, usual_count())
    base, until = f"http://127.0.0.1:{port}", time.perf_counter() + minutes * 60
    editing, reading, other = Times(), Times(), Times()
    work = [
        *(threading.Thread(target=analyst, args=(base, id, until, PAUSE, editing)) for id in ids[:ANALYSTS]),
        *(threading.Thread(target=reader, args=(base, secret, until, PAUSE, reading)) for _ in range(READERS)),
        threading.Thread(target=bring_in, args=(base, until, other)),
        threading.Thread(target=export, args=(base, ids[-1], until, other)),
    ]
    print(
        f"{date.today()}, {minutes:.0f} minutes\n\n| minute | memory, MB | descriptors | threads |\n|---|---|---|---|"
    )
    for thread in work:
        thread.start()
    for minute in (m for m in (1, 2, 5, *range(10, int(minutes) + 1, 10)) if m <= minutes):
        time.sleep(max(0.0, until - minutes * 60 + minute * 60 - time.perf_counter()))
        print("| {} | {:.0f} | {} | {} |".format(minute, *measured(server.pid)), flush=True)
    for thread in work:
        thread.join()
    time.sleep(REST_SECONDS)
    print("| after a minute of rest | {:.0f} | {} | {} |\n".format(*measured(server.pid)))
    print(editing.line("edits"), reading.line("readings"), [*editing.wrong, *reading.wrong, *other.wrong][:5], sep="\n")
    server.terminate()
    server.wait()


if __name__ == "__main__":
    main()
