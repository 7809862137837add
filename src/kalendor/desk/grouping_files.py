"""Reads and writes trees as delimited files, one column a level, the value last; calendars by table likewise."""

import csv
import io
from collections.abc import Mapping, Sequence
from datetime import timedelta

from kalendor.core.formulas.texts import as_text, written
from kalendor.core.values.columns import Column, Kind
from kalendor.definitions.calendar import Table
from kalendor.definitions.document import parse
from kalendor.definitions.kinds import definition
from kalendor.definitions.recipe import ColumnReading, Recipe
from kalendor.definitions.tree import Node, Tree
from kalendor.desk.desk import Desk
from kalendor.desk.records import complete
from kalendor.desk.small_files import ReadBytes
from kalendor.errors import DefinitionError, IntakeError
from kalendor.intake.reading import read_bytes
from kalendor.intake.together import heading_key

FIRST_DAY = ("start", "starts", "firstday", "first", "from", "begins")
LAST_DAY = ("end", "ends", "lastday", "last", "to")
PERIOD = ("name", "period", "month")


def tree_from_rows(name: str, levels: Sequence[str], rows: Sequence[Sequence[str]]) -> Tree:
    """A tree from rows of labels, outermost first, the value last; blank labels skip a level.

    Raises DefinitionError if a value stands in two categories.
    """
    roots: list[dict[str, object]] = []
    homes: dict[str, tuple[str, ...]] = {}
    for row in rows:
        *labels, value = [cell.strip() for cell in row]
        if not value:
            continue
        path = tuple(label for label in labels if label)
        if homes.setdefault(value, path) != path:
            raise DefinitionError(
                f"{value!r} stands under both {' › '.join(homes[value])} and {' › '.join(path)}; a value has one place"
            )
        here = roots
        for label in path:
            found = next((n for n in here if n.get("label") == label and "under" in n), None)
            if found is None:
                found = {"label": label, "under": []}
                here.append(found)
            here = found["under"]  # type: ignore[assignment]
        if not any(n.get("value") == value for n in here):
            here.append({"value": value})
    tree = definition(
        {"kalendor": 1, "kind": "tree", "name": name, "levels": list(levels), "roots": roots}, name, ("tree",)
    )
    assert isinstance(tree, Tree)
    return tree


def tree_from_file(name: str, file_name: str, data: bytes, read: ReadBytes = read_bytes) -> Tree:
    """A tree from a delimited file with a heading line: one column a level, the value last.

    Raises IntakeError if the file cannot be read, DefinitionError if it does not give a tree.
    """
    first = read(data, file_name, Recipe())
    told = Recipe(columns={h: ColumnReading(type="text") for h in first.headings})
    reading = read(data, file_name, told)
    if len(reading.headings) < 2:
        raise IntakeError(
            f"{file_name}: a tree needs at least two columns, its levels from the outside in and the value last"
        )
    columns = [reading.records.columns[h] for h in reading.headings]
    rows = [[column.item(i) or "" for column in columns] for i in range(reading.records.count)]
    return tree_from_rows(name, reading.headings, rows)


def tree_from_columns(desk: Desk, name: str, source_name: str, names: Sequence[str]) -> Tree:
    """A tree from two or more columns of a source, the value last; a value keeps the first place where it occurs."""
    source = desk.sources.named(source_name)
    if source is None or len(names) < 2:
        raise DefinitionError("a tree is read from two or more columns of a source, the last one the value")
    records = complete(desk, source).records
    missing = next((n for n in names if n not in records.columns), None)
    if missing is not None:
        raise DefinitionError(f"there is no column {missing!r} in {source_name}")
    columns = [as_text(records.columns[n]) for n in names]
    seen: dict[str, list[str]] = {}
    for row in sorted({tuple(c.item(i) or "" for c in columns) for i in range(records.count)}):
        seen.setdefault(row[-1], list(row))
    return tree_from_rows(name, names, list(seen.values()))


def tree_as_file(tree: Tree) -> bytes:
    """A tree as a delimited file: one column a level, the value last. Rules have no column and are left out."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(tree.levels)

    def walk(nodes: Sequence[Node], path: list[str]) -> None:
        for node in nodes:
            if node.value is not None:
                blank = [""] * (len(tree.levels) - 1 - len(path))
                writer.writerow([*path[: len(tree.levels) - 1], *blank, node.value])
            else:
                walk(node.under, [*path, node.label or ""])

    walk(tree.roots, [])
    return out.getvalue().encode("utf-8")


def table_from_file(file_name: str, data: bytes, read: ReadBytes = read_bytes) -> Table:
    """A calendar's table from a delimited file: start, name and year of each period, optionally a quarter, and the last
    day of each (required for the last one).

    Raises IntakeError if a column is missing, a cell is blank, or a period does not start on the day after the one
    before.
    """
    reading = read(data, file_name, Recipe())
    by_key = {heading_key(h): column for h, column in reading.records.columns.items()}

    def find(*keys: str) -> Column | None:
        return next((by_key[k] for k in keys if k in by_key), None)

    start, name, year = find(*FIRST_DAY), find(*PERIOD), find("year", "fiscalyear")
    quarter, end = find("quarter"), find(*LAST_DAY)
    for wanted, column in (("start", start), ("name", name), ("year", year), ("end", end)):
        if column is None:
            raise IntakeError(f"{file_name}: there is no column {wanted!r}; it has {', '.join(reading.headings)}")
        if wanted in ("start", "end") and column.kind is not Kind.DATE:
            raise IntakeError(f"{file_name}: the column {wanted!r} holds no dates that can be read")
    assert start is not None
    assert name is not None
    assert year is not None
    assert end is not None
    if reading.refused or start.blank is not None:
        line = reading.refused[0].line if reading.refused else int(reading.lines[start.blanks][0])
        raise IntakeError(f"{file_name}: line {line}: a period without the day it starts on")
    cells = {"name": name, "year": year, **({"quarter": quarter} if quarter is not None else {})}
    periods = [_period(file_name, int(reading.lines[i]), i, cells, start, end) for i in range(reading.records.count)]
    last = end.item(reading.records.count - 1) if periods else None
    if last is None:
        raise IntakeError(f"{file_name}: the last period needs the day it ends on")
    return parse(Table, {"periods": periods, "ends": last}, file_name)


def _period(
    file_name: str, line: int, i: int, cells: Mapping[str, Column], start: Column, end: Column
) -> dict[str, object]:
    """The i-th period of a table, checked to follow the one before."""
    told = {key: written(column.item(i)) for key, column in cells.items() if column.item(i) is not None}
    if {"name", "year"} - told.keys():
        raise IntakeError(f"{file_name}: line {line}: a period needs a name and a year")
    if i and end.item(i - 1) not in (None, start.item(i) - timedelta(1)):
        raise IntakeError(
            f"{file_name}: line {line}: this period starts on {start.item(i)}, and the one before "
            f"ends on {end.item(i - 1)}; periods follow one on another"
        )
    return {"start": start.item(i), **told}


def table_as_file(table: Table) -> bytes:
    """A calendar's table as a delimited file that can be read again."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(["start", "end", "name", "quarter", "year"])
    after = [*(p.start for p in table.periods[1:]), table.ends + timedelta(1)]
    for period, following in zip(table.periods, after, strict=True):
        writer.writerow([period.start, following - timedelta(1), period.name, period.quarter or "", period.year])
    return out.getvalue().encode("utf-8")
