"""Lines of a sheet gathered into a category, or renamed: the report and its tree changed as one, and undone as one."""

from collections.abc import Container, Sequence

import numpy as np

from kalendor.core.formulas.texts import written
from kalendor.core.groupings.levels import BLANK_LABEL
from kalendor.core.values.columns import Column, Kind
from kalendor.definitions.axis import ByList, CategoryEntry
from kalendor.definitions.report import Report
from kalendor.definitions.tree import Node, Tree
from kalendor.desk.desk import Desk
from kalendor.desk.records import complete
from kalendor.desk.reports import report_at
from kalendor.errors import DefinitionError
from kalendor.store.definitions import Stored


def gather(desk: Desk, id: int, entry: int, values: Sequence[str], label: str, expected: int | None) -> Stored:
    """The report with the values of a down entry under a category of that name: of the entry's tree, or of a new tree
    over its column.

    Raises DefinitionError for an entry that is no category, RevisionError as `Definitions.save`.
    """
    report = report_at(desk, id)
    found = report.down[entry] if 0 <= entry < len(report.down) else None
    if not isinstance(found, CategoryEntry):
        raise DefinitionError("only lines of a category can be gathered")
    if not values:
        raise DefinitionError("choose the lines to gather first")
    if found.tree is not None:
        stored = desk.definitions.named("tree", found.tree)
        if stored is None or not isinstance(stored.body, Tree):
            raise DefinitionError(f"there is no category tree named {found.tree!r}")
        tree = with_category(stored.body, values, label)
        return desk.definitions.save_along(id, report, tree, stored.id, desk.now(), expected)
    column = found.category
    shown = column[:1].upper() + column[1:]
    levels = [f"{shown} group", found.name or column]
    named = [Node(value=value, label=name) for value, name in found.labels.items()]
    tree = with_category(Tree(name=_free(desk, f"{shown} groups"), levels=levels, roots=named), values, label)
    entries = [*report.down]
    entries[entry] = found.model_copy(update={"tree": tree.name, "levels": None, "name": None, "labels": {}})
    changed = Report.model_validate(report.model_copy(update={"down": entries}).model_dump(by_alias=True))
    return desk.definitions.save_along(id, changed, tree, None, desk.now(), expected)


def rename(desk: Desk, id: int, entry: int, path: Sequence[str], label: str, expected: int | None) -> Stored:
    """The report with a line called otherwise: the category or value of its tree that the labels of `path` lead to, or the
    value of a column. What the report says of the line by its label follows.

    Raises DefinitionError for an entry that is no category, and for a line that the tree does not name.
    """
    report = report_at(desk, id)
    found = report.down[entry] if 0 <= entry < len(report.down) else None
    if not isinstance(found, CategoryEntry):
        raise DefinitionError("only lines of a category can be renamed")
    if found.tree is None:
        labels = _called(desk, report, found, path[-1], label)
        changed = _said_of(report, entry, found.model_copy(update={"labels": labels}), path, label)
        return desk.definitions.save(id, changed, desk.now(), expected)
    stored = desk.definitions.named("tree", found.tree)
    if stored is None or not isinstance(stored.body, Tree):
        raise DefinitionError(f"there is no category tree named {found.tree!r}")
    shown = found.levels or stored.body.levels
    skipped = stored.body.levels.index(shown[0]) if shown[0] in stored.body.levels else 0
    renamed, count = _renamed(stored.body.roots, list(path), label, skipped)
    if count != 1:
        raise DefinitionError(f"{path[-1]!r} is not a line that the tree names; open the tree to place it")
    tree = Tree.model_validate(stored.body.model_copy(update={"roots": renamed}).model_dump(by_alias=True))
    changed = _said_of(report, entry, found, path, label)
    return desk.definitions.save_along(id, changed, tree, stored.id, desk.now(), expected)


def ungroup(desk: Desk, id: int, entry: int, path: Sequence[str], expected: int | None) -> Stored:
    """The report without a category of its tree, whose members stand where it stood; where no category is left the entry is
    of its column's values again, under the names that they bear.

    Raises DefinitionError for an entry without a tree, and for a line that is no category of it.
    """
    report = report_at(desk, id)
    found = report.down[entry] if 0 <= entry < len(report.down) else None
    stored = desk.definitions.named("tree", found.tree) if isinstance(found, CategoryEntry) and found.tree else None
    if not isinstance(found, CategoryEntry) or stored is None or not isinstance(stored.body, Tree):
        raise DefinitionError("only categories of a tree can be ungrouped")
    shown = found.levels or stored.body.levels
    skipped = stored.body.levels.index(shown[0]) if shown[0] in stored.body.levels else 0
    roots, count = _dissolved(stored.body.roots, list(path), skipped)
    if count != 1:
        raise DefinitionError(f"{path[-1]!r} is not a category that the tree names; open the tree to change it")
    tree = Tree.model_validate(stored.body.model_copy(update={"roots": roots}).model_dump(by_alias=True))
    if any(node.value is None for node in roots):
        return desk.definitions.save_along(id, report, tree, stored.id, desk.now(), expected)
    entries = [*report.down]
    labels = {node.value: node.label for node in roots if node.value and node.label and node.label != node.value}
    plain = {"tree": None, "levels": None, "name": shown[-1] if shown[-1] != found.category else None, "labels": labels}
    entries[entry] = found.model_copy(update=plain)
    changed = Report.model_validate(report.model_copy(update={"down": entries}).model_dump(by_alias=True))
    return desk.definitions.save(id, changed, desk.now(), expected)


def _dissolved(nodes: Sequence[Node], path: list[str], skipped: int) -> tuple[list[Node], int]:
    """The nodes with what stands under the category at the path in its place, and how many there were."""
    made: list[Node] = []
    count = 0
    for node in nodes:
        if node.value is not None or (not skipped and node.label != path[0]):
            made.append(node)
        elif not skipped and len(path) == 1:
            made, count = [*made, *node.under], count + 1
        else:
            under, n = _dissolved(node.under, path if skipped else path[1:], max(0, skipped - 1))
            made.append(node.model_copy(update={"under": under}))
            count += n
    return made, count


def _called(desk: Desk, report: Report, entry: CategoryEntry, before: str, label: str) -> dict[str, str]:
    """What the values of a column are called when those called `before` are called `label`."""
    if before == entry.labels.get("", BLANK_LABEL):
        return {**entry.labels, "": label} if label != BLANK_LABEL else {k: v for k, v in entry.labels.items() if k}
    source = desk.sources.named(report.source)
    column = None if source is None else complete(desk, source).records.columns.get(entry.category)
    if column is None or before not in _values(column):
        own = [value for value, name in entry.labels.items() if name == before]
    else:
        own = [value for value in (before, *entry.labels) if entry.labels.get(value, value) == before]
    if not own:
        raise DefinitionError(f"{before!r} is no value of {entry.category} that can be renamed")
    named = {**entry.labels, **dict.fromkeys(own, label)}
    return {value: name for value, name in named.items() if value != name}


def _values(column: Column) -> Container[str]:
    """The values of a column as they stand on a sheet."""
    if column.kind is Kind.TEXT:
        return column.words
    return {written(column.item(i)) for i in np.unique(column.values, return_index=True)[1].tolist()}


def _said_of(report: Report, at: int, entry: CategoryEntry, path: Sequence[str], label: str) -> Report:
    """The report with what it says of a renamed line: its place in an order by hand, its sign, out of sight, notes."""
    before, width = path[-1], len(path)

    def moved(labels: Sequence[str]) -> list[str]:
        found = list(labels)
        for i in range(len(found) - width + 1) if at else range(min(1, len(found) - width + 1)):
            if found[i : i + width] == list(path):
                found[i + width - 1] = label
        return found

    order = entry.order
    if isinstance(order, ByList):
        order = ByList(list=[label if one == before else one for one in order.list])
    signs = {label if one == before else one: sign for one, sign in entry.signs.items()}
    entries = [*report.down]
    entries[at] = entry.model_copy(update={"order": order, "signs": signs})
    hidden = report.out_of_sight
    hidden = hidden.model_copy(update={"lines": [moved(line) for line in hidden.lines]})
    notes = [note.model_copy(update={"line": moved(note.line)}) if note.line else note for note in report.notes]
    changed = report.model_copy(update={"down": entries, "out_of_sight": hidden, "notes": notes})
    return Report.model_validate(changed.model_dump(by_alias=True))


def _renamed(nodes: Sequence[Node], path: list[str], label: str, skipped: int) -> tuple[list[Node], int]:
    """The nodes with the one at the path renamed, and how many there were; `skipped` levels stand above the path."""
    made, count = [], 0
    for node in nodes:
        here = node.label or node.value
        if skipped and node.value is None:
            under, n = _renamed(node.under, path, label, skipped - 1)
            node, count = node.model_copy(update={"under": under}), count + n
        elif here == path[0] and len(path) == 1:
            node, count = node.model_copy(update={"label": label}), count + 1
        elif here == path[0]:
            under, n = _renamed(node.under, path[1:], label, 0)
            node, count = node.model_copy(update={"under": under}), count + n
        made.append(node)
    return made, count


def _free(desk: Desk, wanted: str) -> str:
    name, count = wanted, 1
    while desk.definitions.named("tree", name) is not None:
        count += 1
        name = f"{wanted} {count}"
    return name


def with_category(tree: Tree, values: Sequence[str], label: str) -> Tree:
    """The tree with the values under a new category at the end of its roots, and nowhere else."""
    wanted = set(values)
    known: dict[str, Node] = {}

    def without(nodes: Sequence[Node]) -> list[Node]:
        kept = []
        for node in nodes:
            if node.value is not None:
                if node.value in wanted:
                    known.setdefault(node.value, node)
                    continue
                kept.append(node)
            else:
                kept.append(node.model_copy(update={"under": without(node.under)}))
        return kept

    roots = without(tree.roots)
    taken = {node.label for node in roots}
    name, count = label, 1
    while name in taken:
        count += 1
        name = f"{label} {count}"
    members = [(known.get(value) or Node(value=value)).model_copy(update={"since": None}) for value in values]
    return Tree.model_validate(
        tree.model_copy(update={"roots": [*roots, Node(label=name, under=members)]}).model_dump(by_alias=True)
    )
