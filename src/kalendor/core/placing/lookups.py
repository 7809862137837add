"""Look-ups: a column taken from another source where the match columns agree."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date

import numpy as np
from numpy.typing import NDArray

from kalendor.core.formulas.texts import as_text
from kalendor.core.values.columns import (
    DATED,
    DAY_MICROSECONDS,
    NUMERIC,
    Column,
    Kind,
    Records,
    day_number,
    merge_words,
)
from kalendor.definitions.report import Lookup
from kalendor.errors import DefinitionError

Index = NDArray[np.int64]
FIRST_MOMENT = day_number(date.min) * DAY_MICROSECONDS
_POINTED = re.compile(r"-?[0-9]+\.[0-9]+")


@dataclass(frozen=True, eq=False)
class Found:
    """The looked-up column, shape (n,); the number of records without a match, and of keys that occur more than once."""

    column: Column
    unmatched: int
    repeated: int


def looked_up(records: Records, lookup: Lookup, sources: Mapping[str, Records]) -> Found:
    """The looked-up column: blank where no line matches; of several matching lines the first, or with a date the last.

    Raises DefinitionError for a source or a column that does not exist, and for a column of `as_at` that does not hold
    dates.
    """
    if lookup.source not in sources:
        raise DefinitionError(f"look-up: there is no source {lookup.source!r} (known: {', '.join(sources) or 'none'})")
    other = sources[lookup.source]
    for name in lookup.theirs:
        if name not in other.columns:
            raise DefinitionError(f"look-up: {lookup.source} has no column {name!r}; it has {', '.join(other.columns)}")
    for name in lookup.own:
        if name not in records.columns:
            raise DefinitionError(
                f"look-up: there is no column {name!r} to match by; there are {', '.join(records.columns)}"
            )
    if not other.count:
        nothing = np.ones(records.count, dtype=bool)
        return Found(Column(Kind.TEXT, np.zeros(records.count, np.int32), nothing, words=("",)), records.count, 0)
    mine, theirs = _keys(records, other, lookup)
    lines = _last_lines(records, other, lookup, mine, theirs) if lookup.as_at else _first_lines(mine, theirs)
    fetched = other.columns[lookup.take].take(lines.rows.clip(0))
    blank = fetched.blanks | (lines.rows < 0)
    column = Column(fetched.kind, fetched.values, blank, fetched.places, fetched.words, fetched.percent)
    return Found(column, int((lines.rows < 0).sum()), lines.repeated)


@dataclass(frozen=True, eq=False)
class _Lines:
    """The line of the other source for each record, −1 for none; the number of lines with the same key as another."""

    rows: Index
    repeated: int


def _keys(records: Records, other: Records, lookup: Lookup) -> tuple[Index, Index]:
    if not lookup.match:
        return np.zeros(records.count, dtype=np.int64), np.zeros(other.count, dtype=np.int64)
    own = [records.columns[name] for name in lookup.match]
    return matched_keys(own, [other.columns[name] for name in lookup.match.values()])


def _first_lines(mine: Index, theirs: Index) -> _Lines:
    keys, first = np.unique(theirs, return_index=True)
    valid = keys >= 0
    keys, first = keys[valid], first[valid]
    repeated = int((theirs >= 0).sum()) - len(keys)
    if not len(keys):
        return _Lines(np.full(len(mine), -1, dtype=np.int64), repeated)
    at = np.searchsorted(keys, mine).clip(0, len(keys) - 1)
    return _Lines(np.where((mine >= 0) & (keys[at] == mine), first[at], -1), repeated)


def _last_lines(records: Records, other: Records, lookup: Lookup, mine: Index, theirs: Index) -> _Lines:
    """Of the lines with a record's key the last whose date is not after the record's; of equal dates the last in the
    file."""
    (own, there), *_ = lookup.as_at.items()
    moments, since = _moments(records.columns[own], own), _moments(other.columns[there], f"{lookup.source}.{there}")
    dates = np.unique(since[since >= 0])
    step = len(dates) + 1

    def placed(keys: Index, days: Index) -> Index:
        """Key and date as one number, which rises with the date within a key; −1 if either is blank."""
        return np.where((keys < 0) | (days < 0), -1, keys * step + np.searchsorted(dates, days, side="right"))

    lines = placed(theirs, since)
    order = np.argsort(lines, kind="stable")
    order = order[lines[order] >= 0]
    if not len(order):
        return _Lines(np.full(records.count, -1, dtype=np.int64), 0)
    wanted = placed(mine, moments)
    at = np.searchsorted(lines[order], wanted, side="right") - 1
    found = order[at.clip(0)]
    rows = np.where((wanted >= 0) & (at >= 0) & (theirs[found] == mine), found, -1)
    return _Lines(rows, len(order) - len(np.unique(lines[order])))


def _moments(column: Column, name: str) -> Index:
    """Microseconds since the earliest possible moment, dates as their midnight; −1 if blank."""
    if column.blank is not None and column.blank.all():
        return np.full(len(column), -1, dtype=np.int64)
    if column.kind not in DATED:
        raise DefinitionError(f'look-up: {name!r} holds no dates ({column.kind.value}), and "as_at" goes by dates')
    days = column.values.astype(np.int64)
    moments = days * DAY_MICROSECONDS if column.kind is Kind.DATE else days
    return np.where(column.blanks, -1, moments - FIRST_MOMENT)


def matched_keys(left: Sequence[Column], right: Sequence[Column]) -> tuple[np.ndarray, np.ndarray]:
    """A number for each record of two tables, equal where all their key columns are equal; −1 if one is blank."""
    mine = np.zeros(len(left[0]), dtype=np.int64)
    theirs = np.zeros(len(right[0]), dtype=np.int64)
    for a, b in zip(left, right, strict=True):
        mine, theirs = _paired(mine, theirs, *_alike(a, b))
    return mine, theirs


def _alike(left: Column, right: Column) -> tuple[Column, Column]:
    """Two columns as texts that are equal where their values are: 100 equals 100.00, and a date its midnight."""
    if {left.kind, right.kind} == {Kind.DATE, Kind.DATETIME}:
        return _moment_text(left), _moment_text(right)
    if left.kind in NUMERIC or right.kind in NUMERIC:
        return _by_word(left), _by_word(right)
    return as_text(left), as_text(right)


def _by_word(column: Column) -> Column:
    text = as_text(column)
    return replace(text, words=tuple(_plain_number(word) for word in text.words))


def _plain_number(word: str) -> str:
    """A number without insignificant zeros after its point; codes such as 007 and other texts unchanged."""
    return word.rstrip("0").rstrip(".") if _POINTED.fullmatch(word) else word


def _moment_text(column: Column) -> Column:
    text = as_text(column)
    midnight = " 00:00"
    return replace(text, words=tuple(w if " " in w else w + midnight for w in text.words))


def _paired(mine: np.ndarray, theirs: np.ndarray, left: Column, right: Column) -> tuple[np.ndarray, np.ndarray]:
    """Keys refined by one more pair of columns; −1 if a value is blank."""
    (left_codes, right_codes), words = merge_words([left, right])
    size = max(1, len(words))

    def coded(keys: np.ndarray, codes: np.ndarray, column: Column) -> np.ndarray:
        return np.where((keys < 0) | column.blanks, -1, keys * size + codes)

    both = np.concatenate([coded(mine, left_codes, left), coded(theirs, right_codes, right)])
    different, dense = np.unique(both, return_inverse=True)
    dense = dense - 1 if len(different) and different[0] < 0 else dense
    return dense[: len(mine)], dense[len(mine) :]
