"""Look-ups: a column fetched from another source where the match columns agree."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from kalendor.core.formulas.texts import as_text
from kalendor.core.values.columns import NUMERIC, Column, Kind, Records, merge_words
from kalendor.definitions.report import Lookup
from kalendor.errors import DefinitionError

_POINTED = re.compile(r"-?[0-9]+\.[0-9]+")


@dataclass(frozen=True, eq=False)
class Found:
    """The fetched column, shape (n,); how many records found no match, and how many keys stand more than once."""

    column: Column
    unmatched: int
    repeated: int


def looked_up(records: Records, lookup: Lookup, sources: Mapping[str, Records]) -> Found:
    """The looked-up column: blank where no key matches; of repeated keys the first stands.

    Raises DefinitionError for a source or a column that is not there.
    """
    if lookup.source not in sources:
        raise DefinitionError(f"look-up: there is no source {lookup.source!r} (known: {', '.join(sources) or 'none'})")
    other = sources[lookup.source]
    for name in (*lookup.match.values(), lookup.take):
        if name not in other.columns:
            raise DefinitionError(f"look-up: {lookup.source} has no column {name!r}; it has {', '.join(other.columns)}")
    for name in lookup.match:
        if name not in records.columns:
            raise DefinitionError(
                f"look-up: there is no column {name!r} to match by; there are {', '.join(records.columns)}"
            )
    mine, theirs = matched_keys(
        [records.columns[name] for name in lookup.match], [other.columns[name] for name in lookup.match.values()]
    )
    keys, first = np.unique(theirs, return_index=True)
    valid = keys >= 0
    keys, first = keys[valid], first[valid]
    repeated = int((theirs >= 0).sum()) - len(keys)
    at = np.searchsorted(keys, mine).clip(0, max(0, len(keys) - 1))
    matched = (mine >= 0) & (keys[at] == mine) if len(keys) else np.zeros(records.count, dtype=bool)
    rows = first[at] if len(keys) else np.zeros(records.count, dtype=np.int64)
    taken = other.columns[lookup.take]
    if not other.count:
        return Found(
            Column(Kind.TEXT, np.zeros(records.count, np.int32), np.ones(records.count, dtype=bool), words=("",)),
            records.count,
            0,
        )
    fetched = taken.take(rows)
    column = Column(fetched.kind, fetched.values, fetched.blanks | ~matched, fetched.places, fetched.words)
    return Found(column, int((~matched).sum()), repeated)


def matched_keys(left: Sequence[Column], right: Sequence[Column]) -> tuple[np.ndarray, np.ndarray]:
    """A number for each record of two tables, equal where all their key columns are; −1 where one is blank."""
    mine = np.zeros(len(left[0]), dtype=np.int64)
    theirs = np.zeros(len(right[0]), dtype=np.int64)
    for a, b in zip(left, right, strict=True):
        mine, theirs = _paired(mine, theirs, *_alike(a, b))
    return mine, theirs


def _alike(left: Column, right: Column) -> tuple[Column, Column]:
    """Two columns as texts that are the same where their values are: 100 is 100.00, and a date its own midnight."""
    if {left.kind, right.kind} == {Kind.DATE, Kind.DATETIME}:
        return _moment_text(left), _moment_text(right)
    if left.kind in NUMERIC or right.kind in NUMERIC:
        return _by_word(left), _by_word(right)
    return as_text(left), as_text(right)


def _by_word(column: Column) -> Column:
    text = as_text(column)
    return replace(text, words=tuple(_plain_number(word) for word in text.words))


def _plain_number(word: str) -> str:
    """A number without the zeros behind its point that say nothing; a code such as 007 and other text as it is."""
    return word.rstrip("0").rstrip(".") if _POINTED.fullmatch(word) else word


def _moment_text(column: Column) -> Column:
    text = as_text(column)
    midnight = " 00:00"
    return replace(text, words=tuple(w if " " in w else w + midnight for w in text.words))


def _paired(mine: np.ndarray, theirs: np.ndarray, left: Column, right: Column) -> tuple[np.ndarray, np.ndarray]:
    """Keys narrowed by one more pair of columns; −1 where a value is blank."""
    (left_codes, right_codes), words = merge_words([left, right])
    size = max(1, len(words))

    def coded(keys: np.ndarray, codes: np.ndarray, column: Column) -> np.ndarray:
        return np.where((keys < 0) | column.blanks, -1, keys * size + codes)

    both = np.concatenate([coded(mine, left_codes, left), coded(theirs, right_codes, right)])
    different, dense = np.unique(both, return_inverse=True)
    dense = dense - 1 if len(different) and different[0] < 0 else dense
    return dense[: len(mine)], dense[len(mine) :]
