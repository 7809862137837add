"""Lays out the frame of a sheet: the lines and columns of its records, and those that comparisons and entries add."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kalendor.core.placing.frame import Always, Frame, axis
from kalendor.core.placing.leaves import Narrowed, leaves, narrowed
from kalendor.core.placing.placer import Fall, Placer
from kalendor.core.placing.presence import as_far, counted, held, reached, shown_though_empty
from kalendor.core.values.columns import Mask
from kalendor.core.values.keys import Key, key
from kalendor.core.values.notation import grouped
from kalendor.errors import DefinitionError

Index = NDArray[np.int64]
MOST_NUMBERS = 100_000_000
MoreLines = Callable[[Always | None], Always | None]


@dataclass(frozen=True, eq=False)
class Laid:
    """A frame, and the number of records of comparisons' bases in periods that the window covers and the sheet does not
    show.

    `propped`, shape (lines,), is True for lines that exist only because others are computed from them.
    """

    frame: Frame
    unshown: int
    propped: Mask


@dataclass(frozen=True, eq=False)
class Base:
    """The placement of the records of a comparison's base at some crossings."""

    fall: Callable[[], Fall]
    crossings: list[tuple[int, int]]


def laid(
    placer: Placer,
    rows: Index | None,
    bases: Sequence[Base],
    totals: tuple[Mask, Mask],
    more_lines: MoreLines,
    props: MoreLines | None,
    levels_key: Key,
) -> Laid:
    """The frame of the records at `rows` and of those of the `bases`. Base records count in the periods of the sheet;
    elsewhere only their categories do, as far as totals show them. `totals`, shape (depths + 1,) each, says at which
    depths down and across figures are shown.

    `more_lines` adds lines that are shown without records, `props` hidden ones that others are computed from.
    """
    down, across = placer.down, placer.across
    stand, lie = _standing(placer, rows, levels_key)
    sets_down: list[Any] = [(stand.codes, stand.count)]
    sets_across: list[Any] = [(lie.codes, lie.count)]
    had = [
        held(level, codes)
        for side, levels in ((stand, down), (lie, across))
        for level, codes in zip(levels, side.codes, strict=True)
    ]
    unshown = 0
    for base in bases:
        found, beyond = _of_base(base, placer, had, totals)
        sets_down.append(found[0])
        sets_across.append(found[1])
        unshown = max(unshown, beyond)
    always = more_lines(shown_though_empty(down, had[: len(down)]))
    lines = axis(down, sets_down, always)
    propped = np.zeros(lines.count, dtype=bool)
    if props is not None:
        shown, lines = lines, axis(down, sets_down, props(always))
        propped = lines.beyond(shown)
    columns = axis(across, sets_across, shown_though_empty(across, had[len(down) :]))
    return Laid(Frame(stand.found_on(lines), lie.found_on(columns)), unshown, propped)


def _of_base(base: Base, placer: Placer, had: Sequence[Any], totals: tuple[Mask, Mask]) -> tuple[tuple[Any, Any], int]:
    """The members of a base's records down and across, as far as the sheet has or counts them, and the number of
    records with none of their own."""
    down, across, fall = placer.down, placer.across, base.fall()
    there = (
        reached(had[: len(down)], down, fall.down, fall.count),
        reached(had[len(down) :], across, fall.across, fall.count),
    )
    whole = bool((there[0] == len(down)).all() and (there[1] == len(across)).all())

    def as_counted(codes: Any, far: Any) -> Any:
        depth = far[-1, -1] if whole else far[there]
        return (codes, fall.count) if whole and depth == len(codes) else as_far(codes, depth, fall.count)

    sets = tuple(map(as_counted, (fall.down, fall.across), counted(base.crossings, totals)))
    own = (len(down), len(across)) in base.crossings and not whole
    beyond = (there[0] < len(down)) | (there[1] < len(across)) if own else np.zeros(0, dtype=bool)
    return (sets[0], sets[1]), _how_many(beyond, fall.rows, placer.ground.times)


def _how_many(mask: Mask, rows: Index | None, times: Index | None) -> int:
    """How many of the records at `rows` a mask selects."""
    if times is None or not len(mask):
        return int(mask.sum())
    return int((times if rows is None else times[rows])[mask].sum())


def check_size(frame: Frame, figures: int) -> None:
    """Raises DefinitionError for more numbers than can be held in memory."""
    lines, columns = frame.shape
    if lines * columns * max(figures, 1) > MOST_NUMBERS:
        raise DefinitionError(
            f"the sheet would have {grouped(lines)} lines and {grouped(columns)} columns of {grouped(figures)} "
            f"{'figure' if figures == 1 else 'figures'}; take a coarser level, or narrow it by a condition"
        )


def _standing(placer: Placer, rows: Index | None, levels_key: Key) -> tuple[Narrowed, Narrowed]:
    """The paths of the sheet's records down and across; those of all records are cached, unless lines are folded."""
    if placer.folds:
        fall = placer.fall(rows)
        sides = (placer.down, fall.down), (placer.across, fall.across)
        folded = [leaves(levels, fall.count, codes) for levels, codes in sides]
        return narrowed(folded[0], None), narrowed(folded[1], None)
    count, memo = placer.ground.records.count, placer.ground.memo
    down = memo(key("lines", levels_key), lambda: leaves(placer.down, count))
    across = memo(key("columns", levels_key), lambda: leaves(placer.across, count))
    return narrowed(down, rows), narrowed(across, rows)
