"""A specimen of many records: a few that together have every distinct value, as far as these are few, and the first and
last of each column; with counts over all records."""

import json
from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from kalendor.core.partials.joining import packed, under
from kalendor.core.values.columns import DATED, Column, Kind, Records, column_days, day_of, days_of
from kalendor.intake.typed import Reading

FIRST = 1_000  # records from the beginning
MOST_WORDS = 2_000  # distinct values of each column in a specimen
MOST_DAYS = 40_000  # days from a column's first to its last beyond which records are no longer counted by day
Index = NDArray[np.int64]


@dataclass(frozen=True)
class Days:
    """The number of records on each day from `first` on, days since 1970-01-01."""

    first: int
    counts: tuple[int, ...]

    def __add__(self, other: "Days") -> "Days":
        first = min(self.first, other.first)
        last = max(self.first + len(self.counts), other.first + len(other.counts))
        found = np.zeros(last - first, dtype=np.int64)
        for one in (self, other):
            found[one.first - first : one.first - first + len(one.counts)] += one.counts
        return Days(first, tuple(found.tolist()))


@dataclass(frozen=True)
class Facts:
    """Counts over all records: their number, lines that are not records, blank values by column, and records by day of
    each date column; a column with too long a span of days is left out."""

    records: int = 0
    refused: int = 0
    empty: int = 0
    blanks: dict[str, int] = field(default_factory=dict)
    days: dict[str, Days] = field(default_factory=dict)

    def __add__(self, other: "Facts") -> "Facts":
        names = dict.fromkeys([*self.blanks, *other.blanks])
        both = {
            name: _sum(self.days.get(name), other.days.get(name)) for name in dict.fromkeys([*self.days, *other.days])
        }
        return Facts(
            self.records + other.records,
            self.refused + other.refused,
            self.empty + other.empty,
            {name: self.blanks.get(name, 0) + other.blanks.get(name, 0) for name in names},
            {name: days for name, days in both.items() if len(days.counts) <= MOST_DAYS},
        )

    @property
    def spanned(self) -> tuple[str | None, str | None]:
        """The first and last day of the first date column."""
        days = next(iter(self.days.values()), None)
        return (
            (None, None) if days is None else (str(day_of(days.first)), str(day_of(days.first + len(days.counts) - 1)))
        )

    def as_json(self) -> str:
        """The facts as JSON."""
        days = {name: [one.first, list(one.counts)] for name, one in self.days.items()}
        return json.dumps([self.records, self.refused, self.empty, self.blanks, days])

    @classmethod
    def from_json(cls, text: str) -> "Facts":
        """Inverse of `as_json`."""
        records, refused, empty, blanks, days = json.loads(text)
        return cls(
            records, refused, empty, blanks, {n: Days(first, tuple(counts)) for n, (first, counts) in days.items()}
        )


@dataclass(frozen=True, eq=False)
class Specimen:
    """A specimen of some records, the line of each in its file, shape (n,), and the facts of all of them."""

    records: Records
    lines: Index
    facts: Facts


def specimen_of(reading: Reading) -> Specimen:
    """The specimen of what was read."""
    records = reading.records
    blanks = {name: int(column.blanks.sum()) for name, column in records.columns.items()}
    days = {n: one for n, c in records.columns.items() if (one := _days(c)) is not None}
    facts = Facts(records.count, len(reading.refused), reading.empty, blanks, days)
    return _picked(records, reading.lines.astype(np.int64), facts)


def put_together(parts: Sequence[Specimen]) -> Specimen:
    """The specimen of several parts of the records, in order."""
    facts = parts[0].facts
    for one in parts[1:]:
        facts += one.facts
    names = list(parts[0].records.columns)
    columns = {name: packed(under([one.records.columns[name] for one in parts])) for name in names}
    lines = np.concatenate([one.lines for one in parts])
    return _picked(Records(columns, len(lines)), lines, facts)


def _picked(records: Records, lines: Index, facts: Facts) -> Specimen:
    rows = [np.arange(min(FIRST, records.count)), *(_telling(column) for column in records.columns.values())]
    chosen = np.unique(np.concatenate(rows))
    columns = {name: packed(column.take(chosen)) for name, column in records.columns.items()}
    return Specimen(Records(columns, len(chosen)), lines[chosen], facts)


def _telling(column: Column) -> Index:
    """Records that show a column's values: the first of each text, the least and the greatest of others."""
    there = np.flatnonzero(column.present)
    if not len(there):
        return there
    values = column.values[there]
    if column.kind in (Kind.TEXT, Kind.YES_NO):
        first = np.unique(values, return_index=True)[1]
        return there[np.sort(first)[:MOST_WORDS]]
    return there[[int(np.argmin(values)), int(np.argmax(values))]]


def _days(column: Column) -> Days | None:
    span = column_days(column) if column.kind in DATED else None
    if span is None or span[1] - span[0] >= MOST_DAYS:
        return None
    counts = np.bincount(days_of(column)[column.present] - span[0], minlength=span[1] - span[0] + 1)
    return Days(span[0], tuple(counts.tolist()))


def _sum(one: Days | None, other: Days | None) -> Days:
    found = one + other if one is not None and other is not None else one or other
    assert found is not None
    return found
