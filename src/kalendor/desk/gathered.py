"""Lines of a sheet gathered into a category, or renamed: the report and its tree changed as one, and undone as one."""

from collections.abc import Sequence

from kalendor.definitions.axis import CategoryEntry
from kalendor.definitions.report import Report
from kalendor.definitions.tree import Node, Tree
from kalendor.desk.desk import Desk
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
    tree = with_category(Tree(name=_free(desk, f"{shown} groups"), levels=levels), values, label)
    entries = [*report.down]
    entries[entry] = found.model_copy(update={"tree": tree.name, "levels": None, "name": None})
    changed = Report.model_validate(report.model_copy(update={"down": entries}).model_dump(by_alias=True))
    return desk.definitions.save_along(id, changed, tree, None, desk.now(), expected)


def rename(desk: Desk, id: int, entry: int, path: Sequence[str], label: str, expected: int | None) -> Stored:
    """The report with a line of a tree called otherwise: the category or the value that the labels of `path` lead to.

    Raises DefinitionError for an entry that is of no tree, and for a line that the tree does not name.
    """
    report = report_at(desk, id)
    found = report.down[entry] if 0 <= entry < len(report.down) else None
    if not isinstance(found, CategoryEntry) or found.tree is None:
        raise DefinitionError("only lines of a category tree can be renamed; gather lines into a category first")
    stored = desk.definitions.named("tree", found.tree)
    if stored is None or not isinstance(stored.body, Tree):
        raise DefinitionError(f"there is no category tree named {found.tree!r}")
    shown = found.levels or stored.body.levels
    skipped = stored.body.levels.index(shown[0]) if shown[0] in stored.body.levels else 0
    renamed, count = _renamed(stored.body.roots, list(path), label, skipped)
    if count != 1:
        raise DefinitionError(f"{path[-1]!r} is not a line that the tree names; open the tree to place it")
    tree = Tree.model_validate(stored.body.model_copy(update={"roots": renamed}).model_dump(by_alias=True))
    return desk.definitions.save_along(id, report, tree, stored.id, desk.now(), expected)


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
