"""Lines of a sheet gathered into a category: the report and its tree changed as one, and undone as one."""

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
