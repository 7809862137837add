"""The records added to and removed from a number between two computations of it."""

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kalendor.core.values.columns import Column, Records
from kalendor.output.numbers import as_read

Index = NDArray[np.int64]
MOST_ROWS = 42  # bits for a row's number, beside its source's


@dataclass(frozen=True)
class Record:
    """A record behind a part of a number: its row, its contribution, and its values in readable form."""

    part: str
    source: int
    row: int
    amount: str
    values: tuple[str, ...]


@dataclass(frozen=True, eq=False)
class Behind:
    """The records of one part of a number: their sources and rows, shape (n,), the contribution of each (None if
    contributions do not add up to it), and their positions `at` among the records that the number was computed from."""

    sources: Index
    rows: Index
    amounts: Column | None
    at: Index
    records: Records

    @property
    def keys(self) -> Index:
        """Shape (n,): a number for each record, encoding its source and row."""
        return (self.sources << MOST_ROWS) | self.rows

    def taken(self, part: str, which: Index, columns: Sequence[str]) -> list[Record]:
        """Some of the records, with their values in some columns."""
        amounts = [""] * len(which) if self.amounts is None else as_read(self.amounts.take(which))
        there = [self.records.columns[name].take(self.at[which]) for name in columns if name in self.records.columns]
        values = list(zip(*map(as_read, there), strict=True)) if there else [()] * len(which)
        rows = zip(self.sources[which].tolist(), self.rows[which].tolist(), amounts, values, strict=True)
        return [Record(part, source, row, amount, tuple(own)) for source, row, amount, own in rows]

    def alone(self, other: "Behind | None") -> Index:
        """The positions of those that `other` does not have, or has with another amount."""
        if other is None or not len(other.rows):
            return np.arange(len(self.rows))
        order = np.argsort(other.keys, kind="stable")
        ranked = other.keys[order]
        at = np.searchsorted(ranked, self.keys).clip(0, len(ranked) - 1)
        both = ranked[at] == self.keys
        if (self.amounts is None) != (other.amounts is None):
            return np.arange(len(self.rows))
        if self.amounts is not None and other.amounts is not None:
            both &= _same(self.amounts, other.amounts.take(order[at]))
        return np.flatnonzero(~both)


def _same(a: Column, b: Column) -> NDArray[np.bool_]:
    if a.kind is b.kind and a.places == b.places:
        equal: NDArray[np.bool_] = (a.blanks & b.blanks) | (~a.blanks & ~b.blanks & (a.values == b.values))
        return equal
    return np.array([x == y for x, y in zip(as_read(a), as_read(b), strict=True)], dtype=bool)


def different(
    was: Mapping[str, Behind], now: Mapping[str, Behind], columns: Sequence[str]
) -> list[tuple[bool, Record]]:
    """The records added (True) and removed, in the order of their rows. A record that was imported again in another
    file with all values equal is neither."""
    came: list[Record] = []
    left: list[Record] = []
    for part in dict.fromkeys([*now, *was]):
        old, new = was.get(part), now.get(part)
        came += [] if new is None else new.taken(part, new.alone(old), columns)
        left += [] if old is None else old.taken(part, old.alone(new), columns)
    again = Counter(map(_alike, came)) & Counter(map(_alike, left))
    found: list[tuple[bool, Record]] = []
    for way, records in ((True, came), (False, left)):
        same = again.copy()
        for one in records:
            if same[_alike(one)]:
                same[_alike(one)] -= 1
            else:
                found.append((way, one))
    return sorted(found, key=lambda pair: (pair[1].source, pair[1].row, pair[0]))


def _alike(one: Record) -> tuple[str, str, tuple[str, ...]]:
    return one.part, one.amount, one.values
