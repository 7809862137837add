"""Measures what each writer takes for 100,000 lines, and a PDF of 500 pages: seconds, and memory over the sheet itself.

Each is written in a process of its own. Run as `python -m bench.files`.
"""

import io
import os
import resource
import subprocess
import sys
import threading
import time
from contextlib import suppress
from datetime import date
from pathlib import Path

import numpy as np
import pypdf

from kalendor.core.placing.material import Material
from kalendor.core.report import work_out
from kalendor.core.sheet.sheet import Sheet
from kalendor.core.values.columns import Column, Kind, Records
from kalendor.definitions.kinds import definition
from kalendor.definitions.report import Report
from kalendor.output.handover import Handover
from kalendor.output.writers import write

LINES, GROUP = 100_000, 40
FIGURES = [
    {"name": "Net", "take": "sum", "of": "amount"}, {"name": "Records", "take": "count"},
    {"name": "Share", "share": "Net"}, {"name": "Mean", "take": "mean", "of": "amount"},
    {"name": "Largest", "take": "max", "of": "amount"}, {"name": "Share of area", "share": "Net", "of_total": "parent"},
]  # fmt: skip
WRITTEN = [
    ("csv", "flat", LINES, 6), ("csv", "sheet", LINES, 6), ("json", "flat", LINES, 6), ("parquet", "flat", LINES, 6),
    ("xlsx", "sheet", LINES, 6), ("ods", "sheet", LINES, 6), ("html", "sheet", LINES, 6), ("pdf", "sheet", 26_000, 2),
    ("pdf", "sheet", 26_000, 6),
]  # fmt: skip


def large(lines: int, figures: int) -> Sheet:
    """A sheet of two levels with so many lines."""
    rng = np.random.Generator(np.random.PCG64(7))
    at = np.arange(lines)
    areas = max(1, lines // GROUP)
    columns = {
        "area": Column(
            Kind.TEXT, (at * areas // lines).astype(np.int32), words=tuple(f"Area {i:05d}" for i in range(areas))
        ),
        "customer": Column(Kind.TEXT, at.astype(np.int32), words=tuple(f"Customer {i}" for i in range(lines))),
        "amount": Column(Kind.DECIMAL, rng.integers(-10_000, 5_000_000, lines), places=2),
    }
    document = {"kalendor": 1, "kind": "report", "title": "bench", "source": "s", "figures": FIGURES[:figures],
                "down": [{"category": "area"}, {"category": "customer"}]}  # fmt: skip
    report = definition(document, "bench")
    assert isinstance(report, Report)
    return work_out(report, Material(Records(columns, lines), {}, {}, 0), date(2026, 8, 4))


def one(form: str, shape: str, lines: int, figures: int) -> None:
    """Write one file and print its line of the table."""
    sheet = large(lines, figures)
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    done, others = threading.Event(), [0.0]
    looking = threading.Thread(target=_most_of_children, args=(done, others))
    looking.start()
    start = time.perf_counter()
    made = write(Handover(sheet), form, shape)
    took = time.perf_counter() - start
    done.set()
    looking.join()
    own = (resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before) / 1024
    pages = f", {len(pypdf.PdfReader(io.BytesIO(made)).pages)} pages" if form == "pdf" else ""
    memory = f"{others[0]:,.0f} MB in its own processes" if form == "pdf" else f"{own:,.0f} MB"
    print(
        f"| {form}, {shape}, {lines:,} lines × {figures} columns{pages} | {took:.1f} s | {memory} | {len(made) / 1e6:.1f} MB |"
    )


def _most_of_children(done: threading.Event, most: list[float]) -> None:
    """Notes the most memory (MB) that the processes of this one hold together until it is done."""
    page, me = os.sysconf("SC_PAGE_SIZE") / (1 << 20), str(os.getpid())
    while not done.wait(0.02):
        held = 0.0
        for stat in Path("/proc").glob("[0-9]*/stat"):
            with suppress(OSError):
                told = stat.read_text().rsplit(")", 1)[1].split()
                held += int(told[21]) * page if told[1] == me else 0.0
        most[0] = max(most[0], held)


def main() -> None:
    if len(sys.argv) > 1:
        one(sys.argv[1], sys.argv[2], int(sys.argv[3]), int(sys.argv[4]))
        return
    print("| file | time | memory over the sheet | size |\n|---|---|---|---|", flush=True)
    for form, shape, lines, figures in WRITTEN:
        subprocess.run([sys.executable, "-m", "bench.files", form, shape, str(lines), str(figures)], check=True)


if __name__ == "__main__":
    main()
