"""Compares a file with the existing records month by month, and decides whether it is held for review."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from kalendor.core.values.columns import DATED, Column, Kind, Records, days_of
from kalendor.core.values.days import FULL_MONTH_NAMES, month_numbers
from kalendor.core.values.notation import grouped
from kalendor.store.joining import Index
from kalendor.store.keys import MOST_NAMED, RecordKeys, found_in

WITHOUT_DATE = "without a date"
ALL = "all records"
MOST_TRIED = 12
FEWEST_CODES = 50
DENSE = 20


@dataclass(frozen=True)
class MonthLine:
    """A month's records: how many there are now, how many a file removes and adds; `held` if it removes more than allowed."""

    month: str
    now: int
    leave: int
    come: int
    held: bool

    @property
    def after(self) -> int:
        """How many there are after the import."""
        return self.now - self.leave + self.come


What = Literal["same", "changed", "new"]


@dataclass(frozen=True)
class KeyLine:
    """What a file would do to records by key: those whose key is `new`, those that are `changed`, and those that are the
    `same` in every column; how many are removed and added, and the first few keys."""

    what: What
    leave: int
    come: int
    first: tuple[str, ...]


@dataclass(frozen=True)
class Judged:
    """What a file would do, and why it is held for review; no reasons if it may be imported automatically."""

    months: tuple[MonthLine, ...] = ()
    reasons: tuple[str, ...] = ()


class Joint:
    """A source's records and those of a file to be imported; what is derived from both is computed once.

    `by` is the date column that months go by, where both have it, else the first of both.
    """

    def __init__(self, before: Records, after: Records, by: str | None = None) -> None:
        self.before, self.after = before, after
        dates = [n for n, c in after.columns.items() if c.kind in DATED and n in before.columns]
        self.by = by if by in dates else next(iter(dates), None)
        self.keys = RecordKeys(before), RecordKeys(after)

    def judged(self, out: Index, held_over: float) -> Judged:
        """What the import would do if it removes the records at positions `out`; `held_over` is the share of a month's
        records that may be removed without being replaced."""
        months = tuple(self._months(out, held_over))
        stays = np.ones(self.before.count, dtype=bool)
        stays[out] = False
        twice = self._twice(stays) if stays.any() and self.after.count else ()
        return Judged(months, (*_taken_away([line for line in months if line.held]), *twice))

    def by_key(self, key: Sequence[str], out: Index) -> tuple[KeyLine, ...]:
        """What replacing records of equal key would do if it removes the records at positions `out`; empty if a key column
        is missing on either side. A record with a blank in its key counts as new."""
        if not key or any(name not in self.before.columns or name not in self.after.columns for name in key):
            return ()
        there, came = self.keys
        old, new = there.by(key), came.by(key)
        again = np.zeros(self.after.count, dtype=bool)
        again[self._same.again] = True
        filled = np.logical_and.reduce([self.after.columns[name].present for name in key])
        known, leaves = found_in(new, old) & filled, np.zeros(self.before.count, dtype=bool)
        leaves[out] = True
        stays = leaves & self._same.found
        nothing = np.zeros(self.before.count, dtype=bool)
        return (
            self._key_line("same", key, stays, known & again),
            self._key_line("changed", key, leaves & ~stays, known & ~again),
            self._key_line("new", key, nothing, ~known),
        )

    def _key_line(self, what: What, key: Sequence[str], leave: NDArray[np.bool_], come: NDArray[np.bool_]) -> KeyLine:
        return KeyLine(what, int(leave.sum()), int(come.sum()), _first(self.after, key, come))

    @cached_property
    def _months_of_each(self) -> tuple[Index, Index]:
        return _numbers(self.before, self.by), _numbers(self.after, self.by)

    @cached_property
    def _counts_of_each(self) -> tuple[dict[int, int], dict[int, int]]:
        old, new = self._months_of_each
        return _counts(old), _counts(new)

    @cached_property
    def _same(self) -> "_Standing":
        return _Standing(*self.keys, [name for name in self.before.columns if name in self.after.columns])

    @property
    def alike(self) -> int:
        """How many of the file's records exist already, equal in all columns."""
        return len(self._same.again)

    @cached_property
    def _codes(self) -> "list[tuple[str, _Standing]]":
        """The columns that identify records, with which of the file's records exist already by them."""
        return [
            (name, _Standing(*self.keys, [name]))
            for name, old in self.before.columns.items()
            if (new := self.after.columns.get(name)) is not None and new.kind is old.kind and self._is_code(old)
        ]

    def _is_code(self, column: Column) -> bool:
        return self.before.count >= FEWEST_CODES and is_code(column)

    def _months(self, out: Index, held_over: float) -> Iterator[MonthLine]:
        """The months the file affects, and those between them."""
        before, after = self._counts_of_each
        counts = before, _counts(self._months_of_each[0][out]), after
        for number in _in_order({*counts[1], *counts[2]}, counts[0]):
            now, leave, come = (count.get(number, 0) for count in counts)
            held = now > 0 and leave > 0 and now - leave + come < now * (1 - held_over)
            yield MonthLine(_called(number, self.by), now, leave, come, held)

    def _twice(self, stays: NDArray[np.bool_]) -> Iterator[str]:
        """Reasons why records would be counted twice."""
        count, same = self.after.count, len(self._same.beside(stays))
        if same * 2 >= count:
            yield f"{grouped(same)} of its {grouped(count)} {_records(count)} stand already, every column the same"
            return
        for name, standing in self._codes:
            again = standing.beside(stays)
            again = again[self.after.columns[name].present[again]]
            if len(again):
                named = ", ".join(str(self.after.columns[name].item(int(at))) for at in again[:MOST_NAMED])
                more = f" and {grouped(len(again) - MOST_NAMED)} more" if len(again) > MOST_NAMED else ""
                yield f"{grouped(len(again))} of its records have a {name} that stands already: {named}{more}"
                return


class _Standing:
    """Which records of a file exist already by some columns; `again` are their positions, whatever is removed."""

    def __init__(self, before: RecordKeys, after: RecordKeys, names: Sequence[str]) -> None:
        self._old, self._new = before.by(names), after.by(names)
        self.again = np.flatnonzero(found_in(self._new, self._old))

    @property
    def found(self) -> NDArray[np.bool_]:
        """Which existing records the file contains too."""
        return found_in(self._old, self._new)

    def beside(self, stays: NDArray[np.bool_]) -> Index:
        """The positions of those that exist among the records that stay, a subset of `again`."""
        if stays.all() or not len(self.again):
            return self.again
        return self.again[found_in(self._new[self.again], self._old[stays])]


def _first(records: Records, key: Sequence[str], which: NDArray[np.bool_]) -> tuple[str, ...]:
    """The keys of the first few selected records, as text."""
    at = np.flatnonzero(which)[:MOST_NAMED].tolist()
    return tuple(" · ".join(str(records.columns[name].item(i) or "(blank)") for name in key) for i in at)


def _taken_away(held: Sequence[MonthLine]) -> Iterator[str]:
    """The months that would lose too much: the first few, and the others in total."""
    shown, others = held[:MOST_NAMED], held[MOST_NAMED:]
    for line in shown:
        yield f"{line.month} would go from {grouped(line.now)} {_records(line.now)} to {grouped(line.after)}"
    if others:
        now, after = sum(line.now for line in others), sum(line.after for line in others)
        count = f"{len(others)} more month{'' if len(others) == 1 else 's'}"
        yield f"{count} would go from {grouped(now)} {_records(now)} to {grouped(after)}"


def _records(count: int) -> str:
    return "record" if count == 1 else "records"


# -- by month


def _numbers(records: Records, name: str | None) -> Index:
    """The month of each record; -1 without a date or without a date column."""
    found = np.full(records.count, -1, dtype=np.int64)
    if name is not None and records.count:
        column = records.columns[name]
        found[column.present] = month_numbers(days_of(column)[column.present])
    return found


def _counts(numbers: Index) -> dict[int, int]:
    if not len(numbers):
        return {}
    first = int(numbers.min())
    counts = np.bincount(numbers - first)
    found = np.flatnonzero(counts)
    return dict(zip((found + first).tolist(), counts[found].tolist(), strict=True))


def _in_order(touched: set[int], known: Mapping[int, int]) -> list[int]:
    """The affected months and the known ones between them, ascending; records without a date last."""
    dated = sorted(touched - {-1})
    between = {number for number in known if dated and dated[0] < number < dated[-1]}
    return [*sorted({*dated, *between}), *([-1] if -1 in touched else [])]


def _called(number: int, name: str | None) -> str:
    if name is None:
        return ALL
    return WITHOUT_DATE if number < 0 else f"{FULL_MONTH_NAMES[number % 12]} {number // 12}"


# -- keys


def is_code(column: Column) -> bool:
    """Whether a column identifies records: no value is blank or repeated, and the values are texts, or dense integers
    other than line numbers from 1."""
    count = len(column)
    if column.kind not in (Kind.TEXT, Kind.WHOLE) or not column.present.all():
        return False
    if column.kind is Kind.TEXT:
        return len(column.words) >= count and int(np.bincount(column.values).max()) == 1
    first = int(column.values.min())
    spread = int(column.values.max()) - first + 1
    return first > 1 and count <= spread <= DENSE * count and len(np.unique(column.values)) == count


def guessed_key(before: RecordKeys, after: RecordKeys) -> list[str]:
    """The smallest set of columns, one or two of the first twelve, that identifies records both here and in the
    file; empty if there is none."""
    ours, theirs = before.records.columns, after.records.columns
    names = [name for name in theirs if name in ours and _may_be_key(ours[name]) and _may_be_key(theirs[name])][
        :MOST_TRIED
    ]
    pairs = [[a, b] for n, a in enumerate(names) for b in names[n + 1 :]]
    for key in [[name] for name in names] + pairs:
        if after.tells_apart(key) and before.tells_apart(key):
            return key
    return []


def _may_be_key(column: Column) -> bool:
    return column.kind in (Kind.TEXT, Kind.WHOLE, *DATED) and bool(column.present.all())
