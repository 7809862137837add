"""Folds members into one line: what falls beyond a top becomes Other, lines that are not kept become none."""

import numpy as np
from numpy.typing import NDArray

from kalendor.core.groupings.levels import NO_START, Members
from kalendor.core.placing.frame import Axis

Index = NDArray[np.int64]


def beyond_top(parent: Index, place: Index, special: NDArray[np.bool_], top: int) -> NDArray[np.bool_]:
    """Lines past the first `top` of their parent, in order of `place`; special lines neither compete nor fold."""
    order = np.lexsort((place, special, parent))
    turns = np.ones(len(order), dtype=bool)
    turns[1:] = parent[order][1:] != parent[order][:-1]
    start = np.maximum.accumulate(np.where(turns, np.arange(len(order)), 0)) if len(order) else order
    within = np.empty(len(order), dtype=np.int64)
    within[order] = np.arange(len(order)) - start
    return (within >= top) & ~special


def made_room(size: int, at: int) -> NDArray[np.int32]:
    """The new code of each old one after a member is inserted; the last entry keeps −1."""
    shift = np.arange(size + 1, dtype=np.int32)
    shift[at:-1] += 1
    shift[-1] = -1
    return shift


def with_member(members: Members, at: int, label: str, special: int) -> Members:
    """The members with one more inserted: the rest beyond a top, or a computed line."""
    return Members(
        (*members.labels[:at], label, *members.labels[at:]),
        np.insert(members.special, at, special),
        None if members.starts is None else np.insert(members.starts, at, NO_START),
        None if members.always is None else np.insert(members.always, at, False),
        None if members.codes is None else (*members.codes[:at], label, *members.codes[at:]),
    )


def moved_paths(lines: Axis, depth: int, shift: NDArray[np.int32]) -> list[NDArray[np.int32]]:
    """The members on the path of each line of a depth, by level, after a member was inserted at that depth."""
    paths = lines.path[lines.lines_at(depth)]
    return [*(paths[:, k] for k in range(depth - 1)), shift[paths[:, depth - 1]]]


def first_of_label(members: Members) -> NDArray[np.int32]:
    """The first member with each member's label, so that lines under a merged line merge by label."""
    first: dict[str, int] = {}
    table = [first.setdefault(label, i) for i, label in enumerate(members.labels)]
    return np.array([*table, -1], dtype=np.int32)
