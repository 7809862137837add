"""64-bit hashes of the values of some columns: equal for equal records, different for others except with negligible
probability."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from kalendor.core.values.columns import Column, Kind, Records
from kalendor.core.values.cores import each, pieces
from kalendor.core.values.words import quick_hashes_of

Keys = NDArray[np.uint64]
BLANK = np.uint64(0x9E3779B97F4A7C15)
SPREAD, SHIFT = np.uint64(0xFF51AFD7ED558CCD), np.uint64(33)
TABLE_BITS, FEW = 22, 1 << 14
SAMPLE, AT_ONCE = 20_000, 1 << 16
MOST_NAMED = 3


class RecordKeys:
    """The keys of a table's records by any of its columns; each column's part is computed once."""

    def __init__(self, records: Records) -> None:
        self.records = records
        self._parts: dict[str, Keys] = {}

    def by(self, names: Sequence[str], first: int | None = None) -> Keys:
        """Shape (n,): the keys of all records, or of the `first` few, by the columns named."""
        count = self.records.count if first is None else min(first, self.records.count)
        total = np.zeros(count, dtype=np.uint64)
        parts = [self._part(name) for name in names]

        def mixed(here: slice) -> None:
            own = total[here]
            for part in parts:
                own ^= part[here]
                own *= SPREAD
                own ^= own >> SHIFT

        each(mixed, pieces(count, AT_ONCE), count)
        return total

    def _part(self, name: str) -> Keys:
        if name not in self._parts:
            self._parts[name] = _part_of(self.records.columns[name])
        return self._parts[name]

    def doubled(self) -> int:
        """How many records are equal to one earlier in the table in all columns."""
        return len(_repeats(self.by(list(self.records.columns))))

    def repeated(self, key: Sequence[str], most: int = MOST_NAMED) -> list[str]:
        """Key values that occur more than once, up to `most`, as text; none if a column is missing."""
        columns = self.records.columns
        if not self.records.count or not key or any(name not in columns for name in key):
            return []
        numbers = self.by(key)
        places = sorted(int(np.argmax(numbers == one)) for one in np.unique(_repeats(numbers))[:most])
        return [" · ".join(str(columns[name].item(at)) for name in key) for at in places]

    def tells_apart(self, key: Sequence[str]) -> bool:
        """Whether all keys are different; checks the first few records before all of them."""
        return not len(_repeats(self.by(key, SAMPLE))) and not len(_repeats(self.by(key)))


def _part_of(column: Column) -> Keys:
    """A column's contribution to the keys of records."""
    if column.kind is Kind.TEXT:
        part = quick_hashes_of(column.words)[column.values]
    elif column.kind is Kind.APPROXIMATE:
        part = column.values.astype(np.float64).view(np.uint64)
    else:
        part = column.values.astype(np.int64, copy=False).view(np.uint64)
    return part if column.blank is None else np.where(column.blank, BLANK, part)


def _repeats(keys: Keys) -> Keys:
    """The repeated keys, each once for every repetition."""
    ordered: Keys = np.sort(keys)
    again: Keys = ordered[1:][ordered[1:] == ordered[:-1]]
    return again


def keys_of(records: Records) -> Keys:
    """The keys of records by all their columns."""
    return RecordKeys(records).by(list(records.columns))


def repeated(records: Records, key: Sequence[str], most: int = MOST_NAMED) -> list[str]:
    """Key values that occur more than once; see `RecordKeys`."""
    return RecordKeys(records).repeated(key, most)


def doubled(records: Records) -> int:
    """How many records occur earlier in the table, with all columns the same."""
    return RecordKeys(records).doubled()


def found_in(keys: Keys, others: Keys) -> NDArray[np.bool_]:
    """Which keys occur among others. If few do, as with a new month, most are ruled out by a table of their last bits.

    >>> found_in(np.array([3, 9, 1], np.uint64), np.array([1, 2, 3], np.uint64)).tolist()
    [True, False, True]
    """
    found = np.zeros(len(keys), dtype=bool)
    if not len(others) or not len(keys):
        return found
    may = np.arange(len(keys))
    if len(keys) > FEW:
        may = np.flatnonzero(_among(keys, others))
        others = others[_among(others, keys[may])]
    some = keys[may]
    order, known = np.argsort(some), np.sort(others)
    if len(known):
        at = np.minimum(np.searchsorted(known, some[order]), len(known) - 1)
        found[may[order]] = known[at] == some[order]
    return found


def _among(keys: Keys, others: Keys) -> NDArray[np.bool_]:
    """Which keys may occur among others: all that do, and a few false positives."""
    mask = np.uint64((1 << TABLE_BITS) - 1)
    table = np.zeros(1 << TABLE_BITS, dtype=bool)
    table[(others & mask).view(np.int64)] = True
    found: NDArray[np.bool_] = np.empty(len(keys), dtype=bool)

    def looked_up(here: slice) -> None:
        np.take(table, (keys[here] & mask).view(np.int64), out=found[here], mode="clip")

    each(looked_up, pieces(len(keys), AT_ONCE), len(keys))
    return found
