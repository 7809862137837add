"""Views of the records: the place of each on the frame, as it stands or shifted to the period it is the base of."""

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from kalendor.core.groupings.periods import Grain
from kalendor.core.placing.bundles import Bundles, bundled, few
from kalendor.core.placing.cells import Crossing, rolled_up
from kalendor.core.placing.frame import INT32_MOST, Frame
from kalendor.core.placing.placer import Fall, Placer
from kalendor.core.placing.windows import DayMap
from kalendor.core.takes.groups import Groups, counts
from kalendor.core.values.columns import Mask
from kalendor.core.values.keys import Key, Memo, key

Index = NDArray[np.int64]
Places = NDArray[np.signedinteger]


@dataclass(frozen=True, eq=False)
class Where:
    """A condition of a figure's own: `mask`, shape (all records,), with the key that names it."""

    key: Key
    mask: Mask


class View:
    """Records in groups, crossing by crossing.

    `key` names everything that the view depends on. Derived values are cached in `memo`, each complete and under a key
    of its own, so that a view has no state that another request could see half made.
    """

    def __init__(
        self,
        key: Key,
        frame: Frame,
        placer: Placer,
        rows: Index | None,
        days: Callable[[Grain | None], DayMap] | None,
        memo: Memo,
    ) -> None:
        self.key, self.frame, self.placer, self.rows, self.days, self.memo = key, frame, placer, rows, days, memo
        self._falls: dict[Grain | None, Fall] = {}

    @property
    def count(self) -> int:
        """The number of records in the view."""
        return self.placer.ground.records.count if self.rows is None else len(self.rows)

    def fall(self, grain: Grain | None) -> Fall:
        """The records at crossings of `grain` (None: totals), and their members."""
        grain = grain if self.days is not None else None
        if grain not in self._falls:
            if self.days is None:
                self._falls[grain] = self.placer.fall(self.rows)
            else:
                self._falls[grain] = self.placer.fall_on(self.rows, self.days(grain))
        return self._falls[grain]

    def grain_at(self, crossing: Crossing) -> Grain | None:
        """The grain by whose periods records are shifted at a crossing; None for totals, and in unshifted views."""
        return None if self.days is None else self.placer.grain_at(crossing)

    def bundles(self, grain: Grain | None) -> Bundles | None:
        """The records at crossings of `grain` bundled by their members; None if there would be too many bundles."""
        own = key("members", self.key, grain)

        def made() -> Bundles | None:
            fall = self.fall(grain)
            if not few(fall.down, fall.across):
                return None
            return bundled(fall.down, fall.across, np.zeros(fall.count, dtype=np.int32), fall.rows, own, self.memo)

        return self.memo(own, made)

    def groups(self, crossing: Crossing, where: Where | None = None) -> Groups:
        """The records in the cells of a crossing, numbered line by line; only those for which `where` is True."""
        if where is None:
            own = key("groups", self.key, crossing)
            return self.memo(own, lambda: self._grouped(own, crossing))
        own = key("groups", self.key, crossing, where.key)
        return self.memo(own, lambda: replace(self.groups(crossing).where(where.mask), key=own, memo=self.memo))

    def _grouped(self, own: Key, crossing: Crossing) -> Groups:
        if self.days is None and crossing != self.frame.crossings[-1]:
            inner = self.groups(self.frame.crossings[-1])
            above = self.frame.cells_above(crossing, len(inner.ids))
            if above is not None and len(inner.ids) == self.count:
                return Groups(above[inner.ids], math.prod(self.frame.block_shape(crossing)), inner.rows, own, self.memo)
        grain = self.grain_at(crossing)
        lines = self._located(grain, True, crossing[0])
        columns = self._located(grain, False, crossing[1])
        rows = self.rows if self.days is None and not self.placer.drops else self.fall(grain).rows
        height, width = self.frame.block_shape(crossing)
        ids = lines
        if width > 1:
            ids = np.multiply(lines, width, dtype=np.int32 if height * width <= INT32_MOST else np.int64)
            ids += columns
        if _any_lost(lines) or _any_lost(columns):
            kept = np.flatnonzero((lines >= 0) & (columns >= 0))
            return Groups(ids[kept], height * width, kept if rows is None else rows[kept], own, self.memo)
        return Groups(ids, height * width, rows, own, self.memo)

    def rows_at(self, crossing: Crossing, line: int, column: int) -> Index:
        """The records in one cell of a crossing, in source order; line and column count within the crossing.

        Records of other members are filtered out before any is placed.
        """
        grain, frame = self.grain_at(crossing), self.frame
        picked = self.rows
        for level, code in self.placer.fixed(frame, crossing, line, column, self.days is not None):
            picked = np.flatnonzero(level.codes == code) if picked is None else picked[level.codes[picked] == code]
        if picked is self.rows:
            fall = self.fall(grain)
        else:
            fall = self.placer.fall(picked) if self.days is None else self.placer.fall_on(picked, self.days(grain))
        here = frame.lines.locate(fall.down, crossing[0], fall.count) == line
        here &= frame.columns.locate(fall.across, crossing[1], fall.count) == column
        kept = np.flatnonzero(here)
        return np.sort(kept if fall.rows is None else fall.rows[kept])

    def held(self) -> Mask:
        """Shape (lines, columns): the cells that contain a record."""
        return self.memo(key("held", self.key), self._held)

    def _held(self) -> Mask:
        deepest = self.frame.crossings[-1]
        groups = self.groups(deepest)
        return rolled_up(self.frame, np.logical_or, counts(groups) > 0)

    def first_seen(self, down: bool, depth: int) -> Index:
        """The position of the first record of each line (or column) of a depth; lines without records come last."""
        at = self._located(None, down, depth)
        here = (self.frame.lines if down else self.frame.columns).lines_at(depth)
        first = np.full(here.stop - here.start, len(at), dtype=np.int64)
        kept = np.flatnonzero(at >= 0)[::-1]
        first[at[kept]] = kept
        return first

    def _located(self, grain: Grain | None, down: bool, depth: int) -> Places:
        """The line (or column) of a depth of each record of the fall at `grain`; −1 for none."""
        return self.memo(key("located", self.key, grain, down, depth), lambda: self._locate(grain, down, depth))

    def _locate(self, grain: Grain | None, down: bool, depth: int) -> Places:
        axis = self.frame.lines if down else self.frame.columns
        if self.days is None and axis.found:
            found = axis.found[0]
            if depth == len(axis.steps):
                return found
            if not _any_lost(found):
                if depth == 0:
                    return np.zeros(len(found), dtype=np.int32)
                ancestors: Places = axis.ancestor(depth).astype(np.int32)[found]
                return ancestors
        fall = self.fall(grain)
        return axis.locate(fall.down if down else fall.across, depth, fall.count)


def _any_lost(places: Places) -> bool:
    """True if some record has no line."""
    return len(places) > 0 and int(places.min()) < 0
