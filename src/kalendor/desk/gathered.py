"""Gathers lines of a sheet into a category, or ungroups one: report and tree change in one step and are undone in one."""

from collections.abc import Sequence

from kalendor.definitions.axis import CategoryEntry
from kalendor.definitions.report import Report
from kalendor.definitions.tree import Node, Tree
from kalendor.desk.desk import Desk
from kalendor.desk.reports import report_at
from kalendor.errors import DefinitionError
from kalendor.store.definitions import Stored


def gather(desk: Desk, id: int, entry: int, values: Sequence[str], label: str, expected: int | None) -> Stored:
    """The report with values of a down entry gathered in a category of that name: of the entry's tree, or of a new tree
    over its column.

    Raises DefinitionError for an entry that is not a category, RevisionError as `Definitions.save` does.
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


def ungroup(desk: Desk, id: int, entry: int, path: Sequence[str], expected: int | None) -> Stored:
    """The report without a category of its tree; its members take its place. If no category is left, the entry groups
    by its column's values again, with the labels they have in the tree.

    Raises DefinitionError for an entry without a tree, and for a line that is not a category of it.
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
    """The nodes with the children of the category at `path` in its place, and the number of children."""
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


def _free(desk: Desk, wanted: str) -> str:
    name, count = wanted, 1
    while desk.definitions.named("tree", name) is not None:
        count += 1
        name = f"{wanted} {count}"
    return name


def with_category(tree: Tree, values: Sequence[str], label: str) -> Tree:
    """The tree with the values in a new category after its other roots, and nowhere else."""
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
