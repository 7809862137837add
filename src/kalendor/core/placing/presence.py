"""Which members the sheet's records have, and which are shown though no record has them."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from kalendor.core.groupings.levels import Level
from kalendor.core.placing.frame import Always
from kalendor.core.values.columns import Mask

Index = NDArray[np.int64]


def held(level: Level, codes: NDArray[np.int32]) -> Mask:
    """Which members the sheet's records have."""
    found = np.zeros(level.size + 1, dtype=bool)
    found[codes] = True
    return found[:-1]


def on_sheet_periods(
    had: Sequence[Mask], levels: Sequence[Level], codes: Sequence[NDArray[np.int32]], count: int
) -> Index:
    """Positions of base records whose periods are among those that the sheet shows."""
    there = np.ones(count, dtype=bool)
    for mask, level, of_record in zip(had, levels, codes, strict=True):
        if level.period is not None and len(mask):
            there &= (of_record >= 0) & mask[np.maximum(of_record, 0)]
    return np.flatnonzero(there)


def shown_though_empty(levels: Sequence[Level], had: Sequence[Mask]) -> Always | None:
    """Names the members shown though empty under each line: inner ranges, and gaps between periods that are held."""
    if all(level.members.always is None for level in levels):
        return None
    shown: list[Index] = []
    for level, mask in zip(levels, had, strict=True):
        wanted = np.zeros(level.size, dtype=bool) if level.members.always is None else level.members.always
        codes = np.flatnonzero(wanted)
        if level.period is not None and len(codes):
            there = np.flatnonzero(mask & wanted)
            codes = codes[(codes >= there[0]) & (codes <= there[-1])] if len(there) else codes[:0]
        shown.append(codes)

    def always(paths: NDArray[np.int32], k: int) -> tuple[Index, Index]:
        codes = shown[k]
        above = np.repeat(np.arange(len(paths)), len(codes))
        member = np.tile(codes, len(paths))
        fits = np.ones(len(member), dtype=bool)
        if levels[k].period is not None and levels[k].period.grouper.mode == "own":
            all_starts = levels[k].members.starts
            starts = member if all_starts is None else all_starts[member]
            for j in range(k):
                if levels[j].period is not None and levels[j].entry == levels[k].entry:
                    fits &= levels[j].period.codes(starts, None) == paths[above, j]
        return above[fits], member[fits]

    return always
