"""Renames lines and columns of a sheet: report and tree change in one step and are undone in one."""

from collections.abc import Callable, Container, Sequence
from dataclasses import dataclass

import numpy as np

from kalendor.core.formulas.texts import written
from kalendor.core.groupings.levels import BLANK_LABEL
from kalendor.core.groupings.period_names import own_label, period_name, without_year
from kalendor.core.values.columns import Column, Kind
from kalendor.definitions.axis import AxisEntry, ByList, CategoryEntry, PeriodEntry
from kalendor.definitions.report import Report
from kalendor.definitions.tree import Node, Tree
from kalendor.desk.desk import Desk
from kalendor.desk.records import complete
from kalendor.desk.reports import report_at
from kalendor.errors import DefinitionError
from kalendor.store.definitions import Stored

Relabelled = Callable[[Sequence[str]], list[str]]  # new labels, outermost first


@dataclass(frozen=True)
class Place:
    """A line, or a column if `across`: the entry that makes it, and its labels, outermost first."""

    entry: int
    path: Sequence[str]
    across: bool = False

    def found(self, report: Report) -> AxisEntry | None:
        """The entry, if the report has it."""
        entries = report.across if self.across else report.down
        return entries[self.entry] if 0 <= self.entry < len(entries) else None


def rename(desk: Desk, id: int, place: Place, label: str, every: bool, expected: int | None) -> Stored:
    """The report with a line or column renamed: the category or value of its tree at the path of labels, a value of a
    column, or a period; with `every`, that period of every year, whose label then has no year. Whatever in the report
    refers to the label is updated.

    Raises DefinitionError for an entry of another kind, and for a line that the tree does not name.
    """
    report = report_at(desk, id)
    found = place.found(report)
    if isinstance(found, PeriodEntry):
        names = _period_names(found, place.path[-1], label, every)
        changed = _said_of(report, place, found.model_copy(update={"labels": names}), _of_periods(found.labels, names))
        return desk.definitions.save(id, changed, desk.now(), expected)
    if not isinstance(found, CategoryEntry):
        raise DefinitionError("only categories and periods can be renamed; ranges are named where their cuts are")
    moved = _at_path(place, label)
    if found.tree is None:
        labels = _called(desk, report, found, place.path[-1], label)
        changed = _said_of(report, place, found.model_copy(update={"labels": labels}), moved)
        return desk.definitions.save(id, changed, desk.now(), expected)
    stored = desk.definitions.named("tree", found.tree)
    if stored is None or not isinstance(stored.body, Tree):
        raise DefinitionError(f"there is no category tree named {found.tree!r}")
    shown = found.levels or stored.body.levels
    skipped = stored.body.levels.index(shown[0]) if shown[0] in stored.body.levels else 0
    renamed, count = _renamed(stored.body.roots, list(place.path), label, skipped)
    if count != 1:
        raise DefinitionError(f"{place.path[-1]!r} is not a line that the tree names; open the tree to place it")
    tree = Tree.model_validate(stored.body.model_copy(update={"roots": renamed}).model_dump(by_alias=True))
    return desk.definitions.save_along(id, _said_of(report, place, found, moved), tree, stored.id, desk.now(), expected)


def _period_names(entry: PeriodEntry, shown: str, label: str, every: bool) -> dict[str, str]:
    """An entry's period names after the one shown as `shown` is renamed to `label`."""
    if shown == entry.labels.get("", BLANK_LABEL):
        named, own = {**entry.labels, "": label}, BLANK_LABEL
        return named if label != own else {k: v for k, v in named.items() if k}
    own = own_label(shown, entry.labels)
    key = without_year(own)[1] if every else own
    others = {k: v for k, v in entry.labels.items() if k != key and not (every and without_year(k)[1] == key)}
    return others if period_name(own, others) == label or label == key else {**others, key: label}


def _of_periods(before: dict[str, str], after: dict[str, str]) -> Relabelled:
    return lambda labels: [period_name(own_label(one, before), after) for one in labels]


def _at_path(place: Place, label: str) -> Relabelled:
    path, width = list(place.path), len(place.path)

    def moved(labels: Sequence[str]) -> list[str]:
        found = list(labels)
        ends = len(found) - width + 1
        for i in range(ends) if place.entry else range(min(1, ends)):
            if found[i : i + width] == path:
                found[i + width - 1] = label
        return found

    return moved


def _called(desk: Desk, report: Report, entry: CategoryEntry, before: str, label: str) -> dict[str, str]:
    """A column's value names after those named `before` are renamed to `label`."""
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
    """The values of a column as shown on a sheet."""
    if column.kind is Kind.TEXT:
        return column.words
    return {written(column.item(i)) for i in np.unique(column.values, return_index=True)[1].tolist()}


def _said_of(report: Report, place: Place, entry: AxisEntry, moved: Relabelled) -> Report:
    """The report with its references to renamed lines or columns updated: manual order, signs, hidden lines, notes."""
    order = entry.order
    if isinstance(order, ByList):
        order = ByList(list=[moved([*place.path[:-1], one])[-1] for one in order.list])
    update: dict[str, object] = {"order": order}
    if isinstance(entry, CategoryEntry):
        update["signs"] = {moved([*place.path[:-1], one])[-1]: sign for one, sign in entry.signs.items()}
    axis, sight, note = ("across", "columns", "column") if place.across else ("down", "lines", "line")
    entries = [*getattr(report, axis)]
    entries[place.entry] = entry.model_copy(update=update)
    hidden = report.out_of_sight
    hidden = hidden.model_copy(update={sight: [moved(labels) for labels in getattr(hidden, sight)]})
    notes = [
        one.model_copy(update={note: moved(getattr(one, note))}) if getattr(one, note) else one for one in report.notes
    ]
    changed = report.model_copy(update={axis: entries, "out_of_sight": hidden, "notes": notes})
    return Report.model_validate(changed.model_dump(by_alias=True))


def _renamed(nodes: Sequence[Node], path: list[str], label: str, skipped: int) -> tuple[list[Node], int]:
    """The nodes with the one at `path` renamed, and how many were; `skipped` is the number of levels above the path."""
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
