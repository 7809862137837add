"""A category entry: a column's own values, or the levels of a tree over them."""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import date

import numpy as np
from numpy.typing import NDArray

from kalendor.core.formulas import texts
from kalendor.core.groupings import trees
from kalendor.core.groupings.built import Builder, Built, level_names
from kalendor.core.groupings.ground import Ground
from kalendor.core.groupings.levels import (
    ORDINARY,
    Level,
    Members,
    label_key,
    marked,
    reads_as_special,
    reordered,
    told_apart,
    with_blank,
)
from kalendor.core.groupings.order import in_order
from kalendor.core.values.columns import DATED, Column, Kind, day_number, days_of
from kalendor.core.values.keys import Keyed
from kalendor.definitions.axis import AxisEntry, CategoryEntry
from kalendor.definitions.tree import Tree
from kalendor.errors import DefinitionError


class Categories(Builder[CategoryEntry]):
    def rests_on(self, ground: Ground, entry: CategoryEntry, other: Sequence[AxisEntry]) -> tuple[Keyed, ...]:
        if entry.tree is None:
            return ()
        return ground.groupings.tree(entry.tree), ground.as_of if entry.placed else None

    def built(self, ground: Ground, entry: CategoryEntry, other: Sequence[AxisEntry]) -> Built:
        if entry.tree is None:
            codes, members = _called(*_values(ground.column(entry.category)), entry.labels)
            levels = [Level(level_names(entry, 1)[0], "category", 0, codes, members)]
            signs, negative = None, []
        else:
            tree = ground.groupings.tree(entry.tree)
            levels, signs = _of_tree(ground, entry, tree)
            negative = trees.negative(tree.roots)
        negative = [*(label for label, sign in entry.signs.items() if sign < 0), *negative]
        ordered = [in_order(level, entry) for level in _signed(entry, levels, signs)]
        ordered = [replace(level, members=told_apart(level.members, entry.rest)) for level in ordered]
        return Built(tuple(ordered), tuple(dict.fromkeys(negative)))


def _of_tree(ground: Ground, entry: CategoryEntry, tree: Tree) -> tuple[list[Level], NDArray[np.int8] | None]:
    """The wanted levels of a tree over a column, and the sign of each record if any is reversed."""
    text = texts.as_text(ground.column(entry.category))
    days, at = _placed_at(ground, entry, tree, text.words)
    wanted = entry.levels or tree.levels
    found = trees.tree_levels(tree, wanted, text.words, text.blank is not None, days)
    levels = []
    of_value = text.values if text.blank is None else np.where(text.blank, len(text.words), text.values)
    for name, (table, members) in zip(wanted, found.levels, strict=True):
        of_record = table[at, of_value] if table.size else np.zeros(len(text), np.int32)
        levels.append(Level(name, "category", 0, of_record.astype(np.int32), members))
    if len(levels) == 1 and entry.name:
        levels = [replace(levels[0], name=entry.name)]
    return levels, found.signs[at, of_value] if (found.signs < 0).any() else None


def _signed(entry: CategoryEntry, levels: list[Level], signs: NDArray[np.int8] | None) -> list[Level]:
    """The levels, the first of them with the sign of each record: the tree's times the entry's own."""
    for label, sign in entry.signs.items():
        holds_label = [np.array([name == label for name in x.members.labels], dtype=bool)[x.codes] for x in levels]
        if not any(found.any() for found in holds_label) or sign > 0:
            continue
        turned = np.where(np.logical_or.reduce(holds_label), np.int8(-1), np.int8(1))
        signs = turned if signs is None else signs * turned
    return [replace(levels[0], signs=signs), *levels[1:]]


def _placed_at(
    ground: Ground, entry: CategoryEntry, tree: Tree, values: Sequence[str]
) -> tuple[list[date | None], NDArray[np.int64] | int]:
    """The days as at which values are placed, and which of them applies to each record; None is the current placement."""
    if entry.placed != "was":
        return [entry.placed if isinstance(entry.placed, date) else None], 0
    changes = trees.Placer(tree, ()).changes
    when = ground.column(entry.placed_by or _only_date(ground))
    if when.kind not in DATED:
        raise DefinitionError(f"{entry.placed_by!r} is {when.kind.value}, not a date; values are placed as at a date")
    at = np.searchsorted([day_number(day) for day in changes], days_of(when), side="right")
    return [date.min, *changes, None], np.where(when.blanks, len(changes) + 1, at)


def _only_date(ground: Ground) -> str:
    names = [name for name, column in ground.records.columns.items() if column.kind in DATED]
    if len(names) != 1:
        raise DefinitionError(
            '"placed": "was" needs "placed_by", the date column that says when each record was'
            + (f"; there are {', '.join(names)}" if names else "")
        )
    return names[0]


def _values(column: Column) -> tuple[NDArray[np.int32], Members]:
    """Each distinct value is a member: text by label, other kinds by value."""
    if column.kind is Kind.TEXT:
        words = list(column.words)
        order = sorted(range(len(words)), key=[label_key(word) for word in words].__getitem__)
        rank = np.empty(max(1, len(order)), dtype=np.int32)
        rank[order] = np.arange(len(order), dtype=np.int32)
        labels = [words[i] for i in order]
        codes = column.values if order == list(range(len(order))) else rank[column.values]
        return with_blank(labels, codes, column.blank)
    values = column.values if column.blank is None else column.values[column.present]
    different = np.unique(values)
    plain = Column(column.kind, different, None, column.places)
    labels = [texts.written(plain.item(i)) for i in range(len(different))]
    codes = np.searchsorted(different, column.values).clip(0, max(0, len(different) - 1))
    return with_blank(labels, codes, column.blank)


def _called(codes: NDArray[np.int32], members: Members, labels: Mapping[str, str]) -> tuple[NDArray[np.int32], Members]:
    """Values under their display names, blanks under that of ""; those of one name become one member. A member's code
    is then its value, None if it represents several. Blanks never get a name that a value has."""
    if not labels:
        return codes, members
    values_of: dict[tuple[str, int], list[int]] = {}
    for i, (value, special) in enumerate(zip(members.labels, members.special.tolist(), strict=True)):
        named = value if special == ORDINARY else ""  # "" among a column's words occurs only at blanks
        wanted = labels.get(named, value) if named or special != ORDINARY else value
        doubtful = special != ORDINARY and (reads_as_special(wanted, "Other") or (wanted, ORDINARY) in values_of)
        values_of.setdefault((value if doubtful else wanted, special), []).append(i)
    found = list(values_of)
    rank = np.empty(len(members), dtype=np.int32)
    for at, one in enumerate(found):
        rank[values_of[one]] = at
    values = [members.labels[of[0]] if len(of) == 1 else None for of in values_of.values()]
    renamed = marked([label for label, _ in found], [special for _, special in found], codes=tuple(values))
    ordered = sorted(range(len(found)), key=lambda i: (found[i][1], label_key(found[i][0])))
    return reordered(rank[codes], renamed, np.array(ordered, dtype=np.int64))
