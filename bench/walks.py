"""The stage for counting how a value goes through the rooms: an edit, an issue, and a click on a number.

Imported, it sets up a workspace of 300 records and a report that compares by month; each public function is one walk.
"""

import atexit
import shutil
import tempfile
from datetime import datetime
from pathlib import Path

from kalendor.core.trail.cell import Cell
from kalendor.definitions.kinds import definition
from kalendor.definitions.report import Report
from kalendor.desk.bringing_in import keep, look_at
from kalendor.desk.desk import Desk
from kalendor.desk.editions.issuing import issue as issued
from kalendor.desk.editions.owed import named_periods
from kalendor.desk.sheets import sheet_now
from kalendor.desk.trails import trail_at

_FOLDER = Path(tempfile.mkdtemp())
atexit.register(shutil.rmtree, _FOLDER, ignore_errors=True)
_NOW = datetime(2026, 8, 3, 9, 0)
_DESK = Desk(_FOLDER / "workspace", now=lambda: _NOW)
_LINES = "".join(
    f"{2025 + n % 2}-{1 + n % 7:02d}-{1 + n % 28:02d},{'xyz'[n % 3]},{'pqrs'[n % 4]},{n}.25\n" for n in range(300)
)
keep(_DESK, look_at(_DESK, "sales.csv", f"day,area,route,amount\n{_LINES}".encode(), "Sales").token)
_DOCUMENT = {
    "kalendor": 1, "kind": "report", "title": "Sales by month", "source": "Sales",
    "down": [{"category": "area"}, {"category": "route"}],
    "across": [{"period": "day", "grains": ["year", "month"]}],
    "figures": [
        {"name": "Amount", "take": "sum", "of": "amount"},
        {"name": "Change", "compare": "Amount", "with": "year_earlier", "as": "percent"},
    ],
    "cadence": {"every": "month", "since": "2026-05-01", "due": {"days": 3}},
}  # fmt: skip
_STORED = _DESK.definitions.add(definition(_DOCUMENT, "walks"), _NOW)


def edit() -> None:
    """A figure added to the report, and its sheet."""
    figures = [*_DOCUMENT["figures"], {"name": "Typical", "take": "median", "of": "amount"}]  # type: ignore[misc]
    body = definition({**_DOCUMENT, "figures": figures}, "walks")
    assert isinstance(body, Report)
    _DESK.definitions.save(_STORED.id, body, _NOW)
    sheet_now(_DESK, body)


def issue() -> None:
    """July issued as an edition."""
    (period,) = named_periods(_DESK, _STORED, "2026-07")[1]
    issued(_DESK, _STORED.id, period)


def click() -> None:
    """A comparison in the middle of the sheet, asked for its trail."""
    body = definition(_DOCUMENT, "walks")
    assert isinstance(body, Report)
    with _DESK.workspace.snapshot():
        trail_at(_DESK, body, _KEY, Cell("Change", 3, 3))


_BODY = definition(_DOCUMENT, "walks")
assert isinstance(_BODY, Report)
_KEY, _ = sheet_now(_DESK, _BODY)  # a sheet that is on the screen already, as one is that is clicked
