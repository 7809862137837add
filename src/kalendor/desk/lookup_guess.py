"""By which columns records of one source most likely match those of another: by their values, then by their names."""

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


def guessed_match(desk: Desk, source: Source, other: Source) -> dict[str, str]:
    """The columns of `source` under which to look up in `other`, each with the column there; empty where nothing is alike.

    Of the other's columns that tell its records apart, the one in which most of the source's values stand; of several the
    one whose name is more alike. Where there is none, the columns of one name.
    """
    ours, theirs = complete(desk, source).records, complete(desk, other).records
    first = np.arange(min(ours.count, MOST_RECORDS))
    found = [
        (share, names_alike(own, key), own, key)
        for key in theirs.columns
        if _tells_apart(theirs, key)
        for own, column in ours.columns.items()
        if _may_match(column, theirs.columns[key]) and (share := _share(column.take(first), theirs.columns[key])) > HALF
    ]
    if found:
        _, _, own, key = max(found, key=lambda one: (round(one[0], 2), one[1]))
        return {own: key}
    by_key = {heading_key(name): name for name in theirs.columns}
    return {name: by_key[heading_key(name)] for name in ours.columns if heading_key(name) in by_key}


def _tells_apart(records: Records, name: str) -> bool:
    column = records.columns[name]
    return bool(column.present.all()) and not repeated(records, [name], 1)


def _may_match(own: Column, key: Column) -> bool:
    """Whether a column may be the key of another source; dates and times of day are seldom meant."""
    kinds = {own.kind, key.kind}
    return not kinds & {Kind.APPROXIMATE, Kind.YES_NO, Kind.TIME, *DATED} and (kinds <= NUMERIC or Kind.TEXT in kinds)


def _share(own: Column, key: Column) -> float:
    """How many of the values that are not blank stand in the key; few different ones tell less than many."""
    mine, theirs = matched_keys([own], [key])
    present = mine[mine >= 0]
    if not len(present):
        return 0.0
    return float(np.isin(present, theirs).mean()) if len(np.unique(present)) > 1 or len(theirs) == 1 else 0.0
