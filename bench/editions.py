"""Measures 1,000 editions in a workspace: the board, opening one, taking a move apart, and an edition's size beside the CSV
of its sheet. Run as `python -m bench.editions`."""

import tempfile
import time
from collections.abc import Callable
from datetime import date, datetime
from pathlib import Path
from typing import Any

from kalendor.core.values.columns import day_number
from kalendor.definitions.kinds import definition
from kalendor.desk.bringing_in import keep, look_at
from kalendor.desk.desk import Desk
from kalendor.desk.editions.board import board
from kalendor.desk.editions.handing import edition_file
from kalendor.desk.editions.issuing import issue, opened
from kalendor.desk.editions.moved import parts
from kalendor.desk.editions.owed import recurs
from kalendor.desk.editions.standing import standing
from kalendor.desk.editions.steps import moved
from kalendor.desk.sheets import all_groupings

REPORTS, MONTHS, RECORDS, KINDS = 20, 50, 48_000, 60
ROUNDS = 7


def clocked(work: Callable[[], Any]) -> float:
    """The middle of a few runs, in milliseconds."""
    found = []
    for _ in range(ROUNDS):
        start = time.perf_counter()
        work()
        found.append(time.perf_counter() - start)
    return sorted(found)[ROUNDS // 2] * 1000


def prepared(folder: Path) -> Desk:
    """A workspace with a source of 48,000 records over 50 months and 20 reports that each owe every month."""
    desk = Desk(folder, now=lambda: datetime(2026, 8, 4, 9, 20))
    start = date(2022, 6, 1).toordinal()
    lines = [
        f"{date.fromordinal(start + i * 1520 // RECORDS)},k{i * 7 % KINDS:02d},a{i % 5},{i * 37 % 9000 / 100:.2f}"
        for i in range(RECORDS)
    ]
    keep(desk, look_at(desk, "sales.csv", ("day,kind,area,amount\n" + "\n".join(lines) + "\n").encode(), "Sales").token)
    for n in range(REPORTS):
        desk.definitions.add(definition(report(n), "bench"), desk.now())
    return desk


def report(n: int) -> dict[str, Any]:
    figures = [
        {"name": "Amount", "take": "sum", "of": "amount"}, {"name": "Sales", "take": "count"},
        {"name": "Change", "compare": "Amount", "with": "year_earlier", "as": "percent"},
    ]  # fmt: skip
    return {
        "kalendor": 1, "kind": "report", "title": f"Sales {n}", "source": "Sales", "figures": figures,
        "window": {"of": "day", "show": {"to_date": "year"}}, "down": [{"category": "area"}, {"category": "kind"}],
        "cadence": {"every": "month", "since": "2022-06-01"},
    }  # fmt: skip


def main() -> None:
    with tempfile.TemporaryDirectory() as folder:
        desk = prepared(Path(folder) / "workspace")
        known = all_groupings(desk)
        begun = time.perf_counter()
        for stored in desk.definitions.all("report"):
            one = recurs(stored, known)
            for month in range(MONTHS):
                day = day_number(date(2022 + (5 + month) // 12, (5 + month) % 12 + 1, 15))
                issue(desk, stored.id, one.on(day))
        issued = time.perf_counter() - begun
        editions = desk.editions.all()
        print(f"{len(editions):,} editions issued, {issued / len(editions) * 1000:.0f} ms each")
        print(f"the board, nothing moved: {clocked(lambda: board(desk)):.0f} ms (target 300)")
        late = "day,kind,area,amount\n2026-06-11,k01,a1,5.00\n"
        keep(desk, look_at(desk, "late.csv", late.encode(), "Sales").token)
        print(f"the board, all to be compared anew: {clocked(lambda: board(desk)):.0f} ms")
        begun = time.perf_counter()
        standing(desk, editions)
        print(f"all compared with now: {(time.perf_counter() - begun) / len(editions) * 1000:.0f} ms each")
        print(f"the board after it: {clocked(lambda: board(desk)):.0f} ms")
        last = next(e for e in reversed(editions) if e.label == "Jul 2026")

        def cold() -> None:
            desk.sheets.clear()
            opened(desk, last.id)

        print(f"an edition opened: {clocked(cold):.0f} ms")
        found = moved(desk, last.id, None)
        print(f"a moved number taken apart: {clocked(lambda: parts(desk, found, found.cells[0].place)):.0f} ms")
        csv = len(edition_file(desk, last.id, "csv", "flat").content)
        kept = desk.workspace.db.execute("SELECT length(document) FROM edition WHERE id = ?", (last.id,)).fetchone()[0]
        print(f"an edition of {csv / 1024:.0f} kB of CSV is kept in {kept / 1024:.0f} kB ({kept / csv:.2f} ×)")


if __name__ == "__main__":
    main()
