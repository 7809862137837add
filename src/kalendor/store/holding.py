"""What a file would do to the records that are there, month by month, and why a person is asked before it does it."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kalendor.core.values.columns import DATED, Column, Kind, Records, days_of
from kalendor.core.values.days import FULL_MONTH_NAMES, month_numbers
from kalendor.store.joining import Index, alike, keys_of

WITHOUT_DATE = "without a date"
ALL = "all records"
MOST_NAMED, MOST_TRIED = 3, 12
FEWEST_CODES = 50
DENSE = 20


@dataclass(frozen=True)
class MonthLine:
    """A month's records: how many stand now, how many of them leave, how many come; `held` where more leave than may."""

    month: str
    now: int
    leave: int
    come: int
    held: bool

    @property
    def after(self) -> int:
        """How many stand once the file is brought in."""
        return self.now - self.leave + self.come


@dataclass(frozen=True)
class Judged:
    """What a file would do, and the reasons why it is held for a person; none where it may be brought in by itself."""

    months: tuple[MonthLine, ...] = ()
    reasons: tuple[str, ...] = ()


def judged(before: Records, after: Records, out: Index, held_over: float, by: str | None = None) -> Judged:
    """What bringing in `after` would do, where it takes away the positions `out` of `before`.

    `held_over` is the share of a month's records that may go without others coming for them; `by` the date column that
    months go by, else the first of both.
    """
    months = tuple(_months(before, after, out, held_over, by))
    reasons = [
        f"{line.month} would go from {line.now:,} {_records(line.now)} to {line.after:,}"
        for line in months
        if line.held
    ]
    stays = np.ones(before.count, dtype=bool)
    stays[out] = False
    left = before if stays.all() else before.take(np.flatnonzero(stays))
    return Judged(months, (*reasons, *_twice(left, after)))


def _records(count: int) -> str:
    return "record" if count == 1 else "records"


# -- by month


def _months(before: Records, after: Records, out: Index, held_over: float, by: str | None) -> Iterator[MonthLine]:
    """The months that the file touches, and those between them."""
    name = by or next((n for n, c in after.columns.items() if c.kind in DATED and n in before.columns), None)
    old, new = _numbers(before, name), _numbers(after, name)
    counts = [_counts(part) for part in (old, old[out], new)]
    for number in _in_order({*counts[1], *counts[2]}, counts[0]):
        now, leave, come = (count.get(number, 0) for count in counts)
        held = now > 0 and leave > 0 and now - leave + come < now * (1 - held_over)
        yield MonthLine(_called(number, name), now, leave, come, held)


def _numbers(records: Records, name: str | None) -> Index:
    """The month of each record; -1 without a date, or where months are told apart by no column."""
    found = np.full(records.count, -1, dtype=np.int64)
    if name is not None and records.count:
        column = records.columns[name]
        found[column.present] = month_numbers(days_of(column)[column.present])
    return found


def _counts(numbers: Index) -> dict[int, int]:
    found, counts = np.unique(numbers, return_counts=True)
    return dict(zip(found.tolist(), counts.tolist(), strict=True))


def _in_order(touched: set[int], known: Mapping[int, int]) -> list[int]:
    """The months that are touched and those known between them, rising; records without a date last."""
    dated = sorted(touched - {-1})
    between = {number for number in known if dated and dated[0] < number < dated[-1]}
    return [*sorted({*dated, *between}), *([-1] if -1 in touched else [])]


def _called(number: int, name: str | None) -> str:
    if name is None:
        return ALL
    return WITHOUT_DATE if number < 0 else f"{FULL_MONTH_NAMES[number % 12]} {number // 12}"


# -- counted twice


def _twice(left: Records, after: Records) -> Iterator[str]:
    """Why records would be counted twice beside those that stay."""
    if not left.count or not after.count:
        return
    same = alike(left, after)
    if same * 2 >= after.count:
        yield f"{same:,} of its {after.count:,} {_records(after.count)} stand already, every column the same"
        return
    for name in code_columns(left):
        again = _again(left.columns[name], after.columns[name]) if name in after.columns else []
        if again:
            named = ", ".join(again[:MOST_NAMED])
            more = f" and {len(again) - MOST_NAMED:,} more" if len(again) > MOST_NAMED else ""
            yield f"{len(again):,} of its records have a {name} that stands already: {named}{more}"
            return


def code_columns(records: Records) -> list[str]:
    """Columns by which every record is known: no value is blank or stands twice, in text or in whole numbers close together
    that do not count the lines from 1."""
    if records.count < FEWEST_CODES:
        return []
    return [name for name, column in records.columns.items() if _is_code(column)]


def _is_code(column: Column) -> bool:
    count = len(column)
    if column.kind not in (Kind.TEXT, Kind.WHOLE) or not column.present.all():
        return False
    if column.kind is Kind.TEXT:
        return len(column.words) >= count and int(np.bincount(column.values).max()) == 1
    first = int(column.values.min())
    spread = int(column.values.max()) - first + 1
    return first > 1 and count <= spread <= DENSE * count and len(np.unique(column.values)) == count


def _again(old: Column, new: Column) -> list[str]:
    """The values of a column that stand in another."""
    if old.kind is not new.kind:
        return []
    if old.kind is Kind.TEXT:
        known = {old.words[n] for n in np.unique(old.values).tolist()}
        return [str(new.words[n]) for n in np.unique(new.values[new.present]).tolist() if new.words[n] in known]
    return [str(n) for n in np.intersect1d(old.values, new.values[new.present]).tolist()]


# -- keys


def guessed_key(before: Records, after: Records) -> list[str]:
    """The narrowest set of columns, one or two of the first twelve, by which records are told apart both here and in the
    file; empty where there is none."""
    both = [name for name in after.columns if name in before.columns]
    names = [name for name in both if _may_be_key(before.columns[name]) and _may_be_key(after.columns[name])][
        :MOST_TRIED
    ]
    pairs = [[a, b] for n, a in enumerate(names) for b in names[n + 1 :]]
    for key in [[name] for name in names] + pairs:
        if not repeated(after, key, 1) and not repeated(before, key, 1):
            return key
    return []


def _may_be_key(column: Column) -> bool:
    return column.kind in (Kind.TEXT, Kind.WHOLE, *DATED) and bool(column.present.all())


def repeated(records: Records, key: Sequence[str], most: int = MOST_NAMED) -> list[str]:
    """Values of a key that stand more than once, up to `most`, each as text; none where a column is not there."""
    if not records.count or not key or any(name not in records.columns for name in key):
        return []
    numbers = keys_of([records.columns[name] for name in key], records.count)
    _, first, counts = np.unique(numbers, return_index=True, return_counts=True)
    places: NDArray[np.int64] = first[counts > 1][:most]
    return [" · ".join(str(records.columns[name].item(int(at))) for name in key) for at in places]
