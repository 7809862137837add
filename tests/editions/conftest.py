"""A workspace with monthly sales and a report that is due for each month."""

from collections.abc import Callable
from datetime import datetime
from pathlib import Path
from typing import Any

import pytest

from kalendor.definitions.kinds import definition
from kalendor.desk.desk import Desk
from kalendor.desk.editions.issuing import Issued, issue
from kalendor.desk.editions.owed import named_periods
from kalendor.store.definitions import Stored
from tests.desk.test_bringing_in import bring

LINES = {
    "2026-05": "2026-05-01,kx,10.00\n2026-05-12,ky,5.00\n2026-05-23,kx,1.00\n2026-05-31,ky,2.00\n",
    "2026-06": "2026-06-01,kx,20.00\n2026-06-11,ky,6.00\n2026-06-21,kx,1.00\n2026-06-30,ky,3.00\n",
    "2026-07": "2026-07-01,kx,30.00\n2026-07-10,ky,7.00\n2026-07-21,kz,1.00\n2026-07-31,ky,4.00\n",
}
HEAD = "day,kind,amount\n"
TREE: dict[str, Any] = {
    "kind": "tree", "name": "Kinds", "levels": ["Side", "Kind"],
    "roots": [{"label": "North", "under": [{"value": "kx"}, {"value": "ky"}]}],
}  # fmt: skip
REPORT: dict[str, Any] = {
    "kind": "report", "title": "Sales by side", "source": "Sales",
    "window": {"of": "day", "show": {"this": "month"}},
    "down": [{"category": "kind", "tree": "Kinds"}],
    "figures": [{"name": "Amount", "take": "sum", "of": "amount"}, {"name": "Sales", "take": "count"}],
    "cadence": {"every": "month", "since": "2026-05-01", "due": {"days": 3}},
}  # fmt: skip


class Office:
    """An analyst's workspace with a settable clock."""

    def __init__(self, folder: Path) -> None:
        self.now = datetime(2026, 8, 2, 9, 0)
        self.desk = Desk(folder, now=lambda: self.now)
        for month in LINES:
            self.file(month)
        self.define(TREE)
        self.define(REPORT)

    def file(self, month: str, more: str = "", **change: Any) -> None:
        bring(self.desk, HEAD + LINES[month] + more, f"sales-{month}.csv", "Sales", **change)

    def define(self, document: dict[str, Any]) -> Stored:
        body = definition({"kalendor": 1, **document}, "test")
        name = document.get("name") or document["title"]
        here = self.desk.definitions.named(body.kind, name)
        if here is None:
            return self.desk.definitions.add(body, self.now)
        return self.desk.definitions.save(here.id, body, self.now)

    def report(self, **keys: Any) -> Stored:
        return self.define({**REPORT, **keys})

    @property
    def stored(self) -> Stored:
        found = self.desk.definitions.named("report", "Sales by side")
        assert found is not None
        return found

    def issue(self, text: str) -> Issued:
        stored = self.stored
        (period,) = named_periods(self.desk, stored, text)[1]
        return issue(self.desk, stored.id, period)


@pytest.fixture
def office(tmp_path: Path) -> Office:
    return Office(tmp_path / "workspace")


@pytest.fixture
def tables() -> Callable[[Desk], list[Any]]:
    return lambda desk: desk.workspace.db.execute("SELECT * FROM edition").fetchall()
