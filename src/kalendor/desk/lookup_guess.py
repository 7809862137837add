"""Guesses the columns by which records of one source match those of another: by their values, then by their names."""

from dataclasses import dataclass, field

import numpy as np

from kalendor.core.placing.lookups import matched_keys
from kalendor.core.values.columns import DATED, NUMERIC, Column, Kind, Records
from kalendor.desk.desk import Desk
from kalendor.desk.records import complete
from kalendor.intake.likeness import names_alike
from kalendor.intake.together import heading_key
from kalendor.store.keys import repeated
from kalendor.store.sources import Source

MOST_RECORDS, HALF = 20_000, 0.5


@dataclass(frozen=True)
class Match:
    """A look-up's `match` and `as_at`: columns of the other source, keyed by the own ones."""

    match: dict[str, str]
    as_at: dict[str, str] = field(default_factory=dict)


def guessed_match(desk: Desk, source: Source, other: Source) -> Match:
    """The columns of `source` by which to look up in `other`; empty if nothing is similar.

    Of the other source's unique columns, the one in which most of this source's values occur; of several, the one with
    the more similar name. If a column is unique only together with a date, as in a list of rates, the line is looked up
    as at the source's first date. Otherwise, columns of the same name.
    """
    ours, theirs = complete(desk, source).records, complete(desk, other).records
    found = _best(ours, theirs, [key for key in theirs.columns if _tells_apart(theirs, [key])])
    if found:
        return Match(found)
    day = next((name for name, column in ours.columns.items() if column.kind in DATED), None)
    for since in [name for name, column in theirs.columns.items() if column.kind in DATED and day is not None]:
        found = _best(
            ours, theirs, [key for key in theirs.columns if key != since and _tells_apart(theirs, [key, since])]
        )
        if found:
            return Match(found, {str(day): since})
    by_key = {heading_key(name): name for name in theirs.columns}
    return Match({name: by_key[heading_key(name)] for name in ours.columns if heading_key(name) in by_key})


def _best(ours: Records, theirs: Records, keys: list[str]) -> dict[str, str]:
    """The candidate with the highest similarity to one of `keys`, under that key; empty if none is similar."""
    first = np.arange(min(ours.count, MOST_RECORDS))
    found = [
        (share, names_alike(own, key), own, key)
        for key in keys
        for own, column in ours.columns.items()
        if _may_match(column, theirs.columns[key]) and (share := _share(column.take(first), theirs.columns[key])) > HALF
    ]
    if not found:
        return {}
    _, _, own, key = max(found, key=lambda one: (round(one[0], 2), one[1]))
    return {own: key}


def _tells_apart(records: Records, names: list[str]) -> bool:
    return all(records.columns[name].present.all() for name in names) and not repeated(records, names, 1)


def _may_match(own: Column, key: Column) -> bool:
    """Whether a column may match the key of another source; dates and times of day seldom do."""
    kinds = {own.kind, key.kind}
    return not kinds & {Kind.APPROXIMATE, Kind.YES_NO, Kind.TIME, *DATED} and (kinds <= NUMERIC or Kind.TEXT in kinds)


def _share(own: Column, key: Column) -> float:
    """The share of non-blank values that occur in the key; reduced where few values are distinct."""
    mine, theirs = matched_keys([own], [key])
    present = mine[mine >= 0]
    if not len(present):
        return 0.0
    return float(np.isin(present, theirs).mean()) if len(np.unique(present)) > 1 or len(theirs) == 1 else 0.0
