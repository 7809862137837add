"""Trees to and from delimited files: one column a level, the last one the value; calendars by table likewise."""

import csv
import io
from collections.abc import Sequence

from kalendor.core.texts import as_text
from kalendor.definitions.kinds import definition
from kalendor.definitions.recipe import ColumnReading, Recipe
from kalendor.definitions.tree import Node, Tree
from kalendor.desk.desk import Desk
from kalendor.desk.records import complete
from kalendor.errors import DefinitionError, IntakeError
from kalendor.intake.reading import read_bytes


def tree_from_rows(name: str, levels: Sequence[str], rows: Sequence[Sequence[str]]) -> Tree:
    """A tree from rows of labels, outermost first, the value last; blanks between leave a level out.

    Raises DefinitionError where a value stands in two categories.
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


def tree_from_file(name: str, file_name: str, data: bytes) -> Tree:
    """A tree from a delimited file with a heading line: one column a level, the last one the value.

    Raises IntakeError where the file cannot be read, DefinitionError where no tree can be made of it.
    """
    first = read_bytes(data, file_name, Recipe())
    told = Recipe(columns={h: ColumnReading(type="text") for h in first.headings})
    reading = read_bytes(data, file_name, told)
    if len(reading.headings) < 2:
        raise IntakeError(
            f"{file_name}: a tree needs at least two columns, its levels from the outside in and the value last"
        )
    columns = [reading.records.columns[h] for h in reading.headings]
    rows = [[column.item(i) or "" for column in columns] for i in range(reading.records.count)]
    return tree_from_rows(name, reading.headings, rows)


def tree_from_columns(desk: Desk, name: str, source_name: str, names: Sequence[str]) -> Tree:
    """A tree from two or more columns of a source, the last one the value; a value keeps the first place it is met in."""
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
    """A tree as a delimited file: one column a level, the last one the value. Rules have no column and are left out."""
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
