"""Folds the rest beyond a top into one member, and removes lines that are not kept."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from kalendor.core.figures.reckoner import Reckoner
from kalendor.core.formulas.formulas import holds
from kalendor.core.formulas.scope import Scope
from kalendor.core.groupings.levels import ORDINARY, OTHER, WORKED, Level
from kalendor.core.placing.folding import beyond_top, first_of_label, made_room, moved_paths, with_member
from kalendor.core.placing.frame import Axis, axis
from kalendor.core.placing.placer import LEFT_OUT, Fold
from kalendor.core.sheet.arrange import ByValue, beneath, ranked
from kalendor.core.sheet.orders import at_total, depth_of, side_of
from kalendor.core.values.columns import Mask
from kalendor.definitions.axis import Entry
from kalendor.definitions.report import Keep
from kalendor.errors import DefinitionError

Index = NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class Rest:
    """The rest beyond a top at a depth: its name, and the number of members it represents beneath each line above it;
    `counts`, shape (lines of depth − 1,), is by the lines of `above`, the axis at the time the top was taken."""

    down: bool
    depth: int
    name: str
    above: Axis
    counts: Index


@dataclass(frozen=True, eq=False)
class Folded:
    """The levels of both axes after folding, the folds so far, and the lines that represent a rest."""

    down: tuple[Level, ...]
    across: tuple[Level, ...]
    folds: tuple[Fold, ...] = ()
    rests: tuple["Rest", ...] = ()

    def levels(self, down: bool) -> tuple[Level, ...]:
        """The levels of one axis."""
        return self.down if down else self.across


def tops(folded: Folded, entries: Sequence[Entry], down: bool) -> list[tuple[int, Entry]]:
    """The entries that show only a top, and the depth of each."""
    return [
        (depth_of(folded.levels(down), position, None), entry)
        for position, entry in enumerate(entries)
        if entry.top is not None
    ]


def top_folded(folded: Folded, reckoner: Reckoner, down: bool, depth: int, entry: Entry) -> Folded:
    """The levels with members beyond the first n within their parent folded into one."""
    lines = side_of(reckoner, down)
    assert entry.by is not None
    assert entry.top is not None
    values, blank = at_total(reckoner, down, entry.by, depth)
    place = ranked(lines, ByValue(depth, values, blank, descending=True))
    here = lines.lines_at(depth)
    special = lines.levels[depth - 1].members.special[lines.path[here, depth - 1]] != ORDINARY
    if down:
        special |= reckoner.propped[here]
    beyond = beyond_top(lines.parent[here], place, special, entry.top)
    return _with_other(folded, down, depth, lines, beyond, entry) if beyond.any() else folded


def _with_other(folded: Folded, down: bool, depth: int, lines: Axis, beyond: Mask, entry: Entry) -> Folded:
    levels = folded.levels(down)
    level = levels[depth - 1]
    at = int(np.isin(level.members.special, (ORDINARY, WORKED)).sum())
    members = with_member(level.members, at, entry.rest or "Other", OTHER)
    shift = made_room(level.size, at)
    levels = (*levels[: depth - 1], replace(level, codes=shift[level.codes], members=members), *levels[depth:])
    moved = axis(levels[:depth], [(moved_paths(lines, depth, shift), int(beyond.size))])
    below = tuple(first_of_label(x.members) for x in levels[depth:] if x.entry == level.entry)
    fold = Fold(moved, depth, beyond, at, below, down)
    parents = moved.parent[moved.lines_at(depth)][beyond] - moved.offsets[depth - 1]
    counts = np.bincount(parents, minlength=moved.offsets[depth] - moved.offsets[depth - 1])
    rest = Rest(down, depth, entry.rest or "Other", moved, counts)
    sides = {"down": levels} if down else {"across": levels}
    return replace(folded, **sides, folds=(*folded.folds, fold), rests=(*folded.rests, rest))


def other_names(folded: Folded, lines: Axis, down: bool) -> dict[int, tuple[str, int]]:
    """The name of each line (or column) that represents a rest beyond a top, and its number of members."""
    found: dict[int, tuple[str, int]] = {}
    for rest in folded.rests:
        if rest.down != down:
            continue
        here = np.arange(lines.offsets[rest.depth], lines.offsets[rest.depth + 1])
        here = here[lines.levels[rest.depth - 1].members.special[lines.path[here, rest.depth - 1]] == OTHER]
        above = rest.above.locate([*lines.path[here, : rest.depth - 1].T], rest.depth - 1, len(here))
        counts = np.where(above >= 0, rest.counts[np.maximum(above, 0)], 0).tolist()
        found.update({i: (rest.name, n) for i, n in zip(here.tolist(), counts, strict=True) if n})
    return found


def hidden_rest(lines: Axis, tops: Sequence[tuple[int, Entry]]) -> Mask:
    """Lines (or columns) of a top's rest that the report hides."""
    hidden = np.zeros(lines.count, dtype=bool)
    for depth, entry in tops:
        if entry.rest is None:
            here = lines.lines_at(depth)
            hidden[here] |= lines.levels[depth - 1].members.special[lines.path[here, depth - 1]] == OTHER
    return beneath(lines, hidden)


def not_kept(keeps: Sequence[Keep], reckoner: Reckoner, hidden: Mask, as_of: int) -> tuple[Mask, int]:
    """Lines hidden by `keep`, including those hidden before, and the number it hides at its own levels.

    Raises DefinitionError for a level that is not among the lines.
    """
    lines = reckoner.frame.lines
    width, count = reckoner.frame.columns.count, 0
    for keep in keeps:
        depth = _depth(keep, lines.levels)
        here = lines.lines_at(depth)
        at = np.arange(here.start, here.stop) * width
        columns = {name: reckoner.shown(name).cells.take(at) for name in reckoner.figures if name in keep.where}
        met = holds(keep.where, Scope(columns, here.stop - here.start, as_of))
        flagged = np.zeros(lines.count, dtype=bool)
        flagged[here] = ~met
        count += int((flagged & ~hidden).sum())
        hidden = hidden | beneath(lines, flagged)
    return hidden, count


def _depth(keep: Keep, levels: Sequence[Level]) -> int:
    names = [level.name for level in levels]
    if keep.level not in names:
        raise DefinitionError(
            f"keep: there is no level {keep.level!r} among the lines; there are {', '.join(names) or 'none'}"
        )
    return names.index(keep.level) + 1


def folded_away(folded: Folded, keeps: Sequence[Keep], lines: Axis, hidden: Mask) -> Folded:
    """The levels without the lines that are not kept and their records."""
    depths = [_depth(keep, folded.down) for keep in keeps]
    folds = tuple(
        Fold(
            lines,
            depth,
            hidden[lines.lines_at(depth)],
            LEFT_OUT,
            others=all(x.period is None for x in folded.down[:depth]),
        )
        for depth in depths
    )
    return replace(folded, folds=(*folded.folds, *folds))
