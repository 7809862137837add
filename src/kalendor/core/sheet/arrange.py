"""The display order of lines: sorted siblings, totals before or after or none, hidden lines left out."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kalendor.core.groupings.levels import LOOSE, ORDINARY, label_key
from kalendor.core.placing.frame import Axis
from kalendor.core.values.columns import Array, Mask

Index = NDArray[np.int64]
HEADING, LEAF, SUBTOTAL, GRAND = "heading", "leaf", "subtotal", "grand"
LAST = np.iinfo(np.int64).max


@dataclass(frozen=True, eq=False)
class Rows:
    """The lines in display order: `lines` are positions on the axis, `roles` their roles."""

    lines: Index
    roles: tuple[str, ...]

    def filled(self) -> Index:
        """The lines that bear figures, in order, without mere headings."""
        bears = np.array([role != HEADING for role in self.roles], dtype=bool)
        return self.lines[bears]

    def headings(self) -> Index:
        """The lines with a heading of their own above their children."""
        heads = np.array([role == HEADING for role in self.roles], dtype=bool)
        return self.lines[heads]


@dataclass(frozen=True, eq=False)
class ByValue:
    """An order of one depth's lines within their parent: by `values` (blanks last), then by label."""

    depth: int
    values: Array
    blank: Mask
    descending: bool


def sibling_ranks(axis: Axis, orders: Sequence[ByValue]) -> Index:
    """Each line's rank among the lines of its depth, shape (lines,); only the order within a parent is meaningful."""
    ranks = np.zeros(axis.count, dtype=np.int64)
    for d in range(1, len(axis.offsets) - 1):
        ranks[axis.lines_at(d)] = axis.path[axis.lines_at(d), d - 1]
    for order in orders:
        ranks[axis.lines_at(order.depth)] = ranked(axis, order)
    return ranks


def ranked(axis: Axis, order: ByValue) -> Index:
    """The rank of each line of a depth: ordinary members by value, then special ones unchanged."""
    here = axis.lines_at(order.depth)
    codes = axis.path[here, order.depth - 1]
    members = axis.levels[order.depth - 1].members
    by_label = np.empty(len(members), dtype=np.int64)
    by_label[sorted(range(len(members)), key=lambda i: label_key(members.labels[i]))] = np.arange(len(members))
    special = members.special[codes]
    values = order.values
    if values.dtype == object:
        values = np.unique(values, return_inverse=True)[1]
    keyed = (
        -values.astype(np.float64)
        if values.dtype == np.float64 and order.descending
        else -values
        if order.descending
        else values
    )
    ordinary = np.isin(special, (ORDINARY, LOOSE))
    last_key = np.where(ordinary, by_label[codes], codes)
    last = np.where(ordinary, ORDINARY, special)
    sorted_at = np.lexsort((last_key, np.where(order.blank | ~ordinary, 0, keyed), order.blank & ordinary, last))
    place = np.empty(len(codes), dtype=np.int64)
    place[sorted_at] = np.arange(len(codes))
    return place


def rows(axis: Axis, ranks: Index, hidden: Mask, place_of: Callable[[int], str], listed: bool = False) -> Rows:
    """The lines in display order; `place_of(depth)` is where totals of that depth are shown: before, after or none.
    `listed`: records are listed under the innermost lines, which are groups like those above them."""
    deepest = len(axis.offsets) - 2
    keys = np.full((axis.count, deepest + 1), 0, dtype=np.int64)
    for d in range(1, deepest + 1):
        here = axis.lines_at(d)
        up = axis.parent[here]
        keys[here, : d - 1] = keys[up, : d - 1]
        keys[here, d - 1] = ranks[here]
    entries: list[tuple[Index, NDArray[np.int64], str]] = []
    for d in range(deepest + 1):
        lines = np.arange(axis.offsets[d], axis.offsets[d + 1])
        lines = lines[~hidden[lines]]
        if d == deepest and not listed:
            entries.append((lines, np.zeros(len(lines), np.int64), LEAF))
            continue
        place = place_of(d)
        role = GRAND if d == 0 else SUBTOTAL
        if place != "before" and d > 0:
            empty = axis.leaf_count[lines] == 0
            entries.append((lines[~empty], np.full(int((~empty).sum()), -1), HEADING))
            entries.append((lines[empty], np.full(int(empty.sum()), -1), LEAF))
            lines = lines[~empty]
        if place != "none":
            entries.append((lines, np.full(len(lines), -1 if place == "before" else LAST), role))
    lines = np.concatenate([e[0] for e in entries])
    marker = np.concatenate([e[1] for e in entries])
    names = np.concatenate([np.full(len(e[0]), i) for i, e in enumerate(entries)])
    sort_keys = keys[lines]
    depth = axis.depth[lines]
    for d in range(deepest + 1):
        at = depth == d
        sort_keys[at, d] = marker[at]
    order = np.lexsort(sort_keys.T[::-1])
    roles = [e[2] for e in entries]
    return Rows(lines[order], tuple(roles[i] for i in names[order].tolist()))


def beneath(axis: Axis, flagged: Mask) -> Mask:
    """The flagged lines and all that are under them."""
    result = flagged.copy()
    for d in range(1, len(axis.offsets) - 1):
        here = axis.lines_at(d)
        result[here] |= result[axis.parent[here]]
    return result
