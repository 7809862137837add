"""Values in a file that no category of a tree places."""

from typing import cast

from kalendor.core.groupings.trees import placing
from kalendor.core.values.columns import Kind, Records
from kalendor.definitions.axis import CategoryEntry
from kalendor.definitions.report import Report
from kalendor.definitions.tree import Tree
from kalendor.desk.desk import Desk
from kalendor.errors import DefinitionError

SHOWN = 4


def unplaced(desk: Desk, source: str, records: Records) -> list[str]:
    """For each tree that a report of the source uses on one of the columns, the values that it does not place, in
    words."""
    pairs: dict[tuple[str, str], None] = {}
    for stored in desk.definitions.all("report"):
        report = cast(Report, stored.body)
        if report.source.casefold() == source.casefold():
            entries = [entry for entry in report.entries_of(CategoryEntry) if entry.tree]
            pairs.update({(str(e.tree), e.category): None for e in entries})
    found = []
    for name, column_name in pairs:
        tree = desk.definitions.named("tree", name)
        column = records.columns.get(column_name)
        if tree is None or column is None or column.kind is not Kind.TEXT:
            continue
        used = [w for w in column.words if w]
        try:
            loose = placing(cast(Tree, tree.body), used).loose
        except DefinitionError:
            continue
        if loose:
            shown = ", ".join(loose[:SHOWN]) + (f" and {len(loose) - SHOWN} more" if len(loose) > SHOWN else "")
            found.append(f"{column_name} {shown} {'has' if len(loose) == 1 else 'have'} no place in {name} yet")
    return found
