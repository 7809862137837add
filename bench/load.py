"""Measures a server under load: twenty analysts who edit reports over a source of 200,000 records while fifty readers read an
edition, each asking again as soon as they are answered or after a pause; and a heavy report beside light ones.

Run as `python -m bench.load [seconds] [pause]`. Only this machine's own server is asked, for a bounded time.
"""

import json
import random
import sys
import tempfile
import threading
import time
from collections.abc import Callable
from datetime import date
from pathlib import Path
from typing import Any

import httpx
import numpy as np
from tests.browser.conftest import serving

from kalendor.api.workers.pool import usual_count
from kalendor.definitions.kinds import definition
from kalendor.desk.bringing_in import bring_in_file
from kalendor.desk.desk import Desk
from kalendor.desk.editions.issuing import issue
from kalendor.desk.editions.owed import named_periods

RECORDS, ANALYSTS, READERS = 200_000, 20, 50
TAKES = ("sum", "mean", "max", "min", "count_values")
REPORT: dict[str, Any] = {
    "kalendor": 1, "kind": "report", "source": "Sales",
    "down": [{"category": "area"}, {"category": "route"}], "across": [{"period": "sold on", "grains": ["year"]}],
    "cadence": {"every": "month", "since": "2026-06-01", "due": {"days": 3}},
}  # fmt: skip


def export(path: Path) -> None:
    """Records of 400 routes in 20 areas over three years."""
    rng = np.random.Generator(np.random.PCG64(11))
    route = rng.integers(0, 400, RECORDS).tolist()
    days = (np.datetime64("2023-08-01") + rng.integers(0, 1_095, RECORDS)).astype(str).tolist()
    amounts = rng.integers(-10_000, 500_000, RECORDS).tolist()
    lines = [f"{d},Area {r % 20:02d},R-{r:03d},{'sailed' if a % 7 else 'refunded'},{a / 100:.2f}"
             for d, r, a in zip(days, route, amounts, strict=True)]  # fmt: skip
    path.write_text("sold on,area,route,status,amount\n" + "\n".join(lines) + "\n")


def made(folder: Path) -> tuple[list[int], str]:
    """A workspace with a report for each analyst, and the secret of a link to an edition."""
    desk = Desk(folder / "workspace")
    export(folder / "sales.csv")
    bring_in_file(desk, folder / "sales.csv", "Sales", None)
    ids = []
    for i in range(ANALYSTS):
        figures = [{"name": "Net", "take": "sum", "of": "amount"}, {"name": "Sales", "take": "count"}]
        body = definition({**REPORT, "title": f"Report {i}", "figures": figures}, "bench")
        ids.append(desk.definitions.add(body, desk.now()).id)
    stored = desk.definitions.one(ids[0])
    (period,) = named_periods(desk, stored, "2026-06")[1]
    edition = issue(desk, stored.id, period).edition
    _, secret = desk.links.make(stored.id, edition.id, "words", None, desk.now())
    desk.workspace.close()
    return ids, secret


class Times:
    """Seconds that answers took, and what was no success."""

    def __init__(self) -> None:
        self.taken: list[float] = []
        self.wrong: list[str] = []

    def ask(self, client: httpx.Client, method: str, path: str, **more: Any) -> Any:
        start = time.perf_counter()
        answer = client.request(method, path, **more)
        self.taken.append(time.perf_counter() - start)
        if answer.status_code >= 400:
            self.wrong.append(f"{method} {path}: {answer.status_code} {answer.text[:100]}")
            return None
        return answer.json()

    def line(self, what: str) -> str:
        t = np.sort(self.taken)
        median, high, higher = (t[min(len(t) - 1, int(len(t) * q))] for q in (0.5, 0.95, 0.99))
        return f"| {what} | {len(t):,} | {median:.2f} s | {high:.2f} s | {higher:.2f} s | {len(self.wrong)} |"


def analyst(base: str, id: int, until: float, pause: float, times: Times) -> None:
    """Edits a report: another take, a condition, and back."""
    with httpx.Client(base_url=base, timeout=60, trust_env=False) as client:
        document = client.get(f"/api/reports/{id}").json()["document"]
        n = id
        time.sleep(random.random() * pause)  # people do not begin at one moment
        while time.perf_counter() < until:
            n += 1
            document["figures"][0]["take"] = TAKES[n % len(TAKES)]
            document["only"] = [f"amount > {n % 50}"] if n % 3 == 0 else []
            times.ask(client, "POST", f"/api/reports/{id}/edits?first=0&columns=40", json=document)
            time.sleep(pause)


def reader(base: str, secret: str, until: float, pause: float, times: Times) -> None:
    """Reads an edition, and asks how a number came about."""
    with httpx.Client(base_url=base, timeout=60, trust_env=False) as client:
        edition = client.get(f"/api/read/{secret}").json()["editions"][0]["id"]
        path = f"/api/read/{secret}/editions/{edition}"
        time.sleep(random.random() * pause)
        while time.perf_counter() < until:
            sheet = times.ask(client, "GET", f"{path}/sheet")
            if sheet is not None:
                times.ask(client, "GET", f"{path}/sheets/{sheet['key']}/trail?figure=Net")
            time.sleep(pause)


def main() -> None:
    seconds = float(sys.argv[1]) if len(sys.argv) > 1 else 60.0
    pause = float(sys.argv[2]) if len(sys.argv) > 2 else 1.0
    folder = Path(tempfile.mkdtemp())
    ids, secret = made(folder)
    for base in serving(folder / "workspace", workers=usual_count()):
        time.sleep(5)  # until the workers stand ready
        until = time.perf_counter() + seconds
        editing, reading = Times(), Times()
        work: list[tuple[Callable[..., None], Any, Times]] = [
            *((analyst, id, editing) for id in ids), *((reader, secret, reading) for _ in range(READERS)),
        ]  # fmt: skip
        threads = [threading.Thread(target=one, args=(base, given, until, pause, times)) for one, given, times in work]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        print(f"{date.today()}, {seconds:.0f} s, a pause of {pause:g} s between two requests\n")
        print("| who | answers | median | 95 of 100 | 99 of 100 | errors |\n|---|---|---|---|---|---|")
        print(editing.line(f"{ANALYSTS} analysts, an edit"))
        print(reading.line(f"{READERS} readers, a sheet or an explanation"))
        print(json.dumps([*editing.wrong[:3], *reading.wrong[:3]]))


if __name__ == "__main__":
    main()
