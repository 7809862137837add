"""Builders of small records and reports, and sheets as plain values."""

from datetime import date
from decimal import Decimal
from threading import Event
from typing import Any

from kalendor.core import report as report_
from kalendor.core.groupings.ground import groupings
from kalendor.core.placing.material import Material
from kalendor.core.plan import planned
from kalendor.core.report import work_out
from kalendor.core.sheet.sheet import Sheet
from kalendor.core.trail.cell import Cell
from kalendor.core.trail.trail import Trail
from kalendor.core.values.columns import Column, Records, date_column, number_column, text_column
from kalendor.definitions.kinds import definition
from kalendor.output.flat import flat

TODAY = date(2026, 8, 4)

SUM = {"name": "s", "take": "sum", "of": "v"}


def column(values: list[Any]) -> Column:
    """A column whose kind follows from its values."""
    known = [v for v in values if v is not None]
    if known and isinstance(known[0], date):
        return date_column(values)
    if known and isinstance(known[0], str) and not _is_number(known[0]):
        return text_column(values)
    if not known:
        return text_column(values)
    numbers = [None if v is None else Decimal(str(v)) for v in values]
    places = max(max(0, -int(n.as_tuple().exponent)) for n in numbers if n is not None)
    return number_column(numbers, places)


def _is_number(text: str) -> bool:
    return text.replace(".", "", 1).replace("-", "", 1).isdigit()


def records(**columns: list[Any]) -> Records:
    """Records from lists of values."""
    made = {name: column(values) for name, values in columns.items()}
    return Records(made, len(next(iter(columns.values()))))


def report(**keys: Any) -> Any:
    """A report definition; figures count records unless given."""
    base = {
        "kalendor": 1,
        "kind": "report",
        "title": "test",
        "source": "data",
        "figures": [{"name": "n", "take": "count"}],
    }
    return definition({**base, **keys}, "test")


def sheet(data: Records, *with_: dict[str, Any], others: dict[str, Records] | None = None, **keys: Any) -> Sheet:
    """The sheet of a report over records, with groupings and further sources."""
    found = groupings([definition(w, "with") for w in with_])
    return work_out(report(**keys), Material(data, found, others), TODAY)


def traced(document: Any, material: Material, found: Sheet, cell: Cell, **more: Any) -> Trail:
    """The trail of a cell of a report's sheet over the material, from a plan of its own."""
    worded = more.pop("worded", True)
    return report_.traced(planned(document, material, TODAY, **more), found, cell, worded)


def table(data: Records, *with_: dict[str, Any], **keys: Any) -> list[dict[str, str]]:
    """The flat sheet as dictionaries."""
    result = flat(sheet(data, *with_, **keys))
    return [dict(zip(result.headings, row, strict=True)) for row in result.rows]


def column_of(rows: list[dict[str, str]], *names: str) -> list[Any]:
    """Some fields of each row: texts for one name, tuples for several."""
    return [row[names[0]] if len(names) == 1 else tuple(row[n] for n in names) for row in rows]


def compared(as_: str = "base", with_: Any = "year_earlier", **more: Any) -> dict[str, Any]:
    return {"name": "c", "compare": "s", "with": with_, "as": as_, **more}


class LeftAfter(Event):
    """The event of a client that disconnects after the `last`th cancellation check; counts the checks."""

    def __init__(self, last: int) -> None:
        super().__init__()
        self.last, self.asked = last, 0

    def is_set(self) -> bool:
        self.asked += 1
        return self.asked > self.last
