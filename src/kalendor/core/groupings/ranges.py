"""Bucket and age entries: a number column in ranges, a date column in ages at the as-of date."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from kalendor.core.groupings import buckets
from kalendor.core.groupings.built import Builder, Built, level_names
from kalendor.core.groupings.ground import Ground
from kalendor.core.groupings.levels import Level, Members
from kalendor.core.groupings.order import in_order
from kalendor.core.values.columns import DATED, Kind, Mask, as_kind, days_of
from kalendor.core.values.keys import Keyed
from kalendor.definitions.axis import AgeEntry, AxisEntry, BucketEntry
from kalendor.definitions.buckets import Cut, Quantiles
from kalendor.errors import DefinitionError


class Ranges(Builder[BucketEntry]):
    def rests_on(self, ground: Ground, entry: BucketEntry, other: Sequence[AxisEntry]) -> tuple[Keyed, ...]:
        return (ground.groupings.bucket_set(entry),)

    def built(self, ground: Ground, entry: BucketEntry, other: Sequence[AxisEntry]) -> Built:
        cut, labels = ground.groupings.cut(entry)
        codes, members = buckets.ranges(ground.column(entry.bucket), entry.bucket, cut, labels, ground.times)
        return Built((_level(entry, "bucket", codes, members, cut),))


class Ages(Builder[AgeEntry]):
    def rests_on(self, ground: Ground, entry: AgeEntry, other: Sequence[AxisEntry]) -> tuple[Keyed, ...]:
        return ground.groupings.bucket_set(entry), ground.as_of

    def built(self, ground: Ground, entry: AgeEntry, other: Sequence[AxisEntry]) -> Built:
        cut, labels = ground.groupings.cut(entry)
        codes, members = buckets.ages(ground.column(entry.age), entry.age, cut, labels, ground.as_of, ground.times)
        return Built((_level(entry, "age", codes, members, cut),), open_items=_open_items(ground, entry))


def _level(entry: BucketEntry | AgeEntry, kind: str, codes: NDArray[np.int32], members: Members, cut: Cut) -> Level:
    if entry.empty == "hide":
        members = replace(members, always=None)
    of_all = isinstance(cut, Quantiles)
    return in_order(Level(level_names(entry, 1)[0], kind, 0, codes, members, of_all=of_all), entry)


def _open_items(ground: Ground, entry: AgeEntry) -> Mask | None:
    """Shape (n,): True for items opened on or before the as-of day and not closed by then; None if not restricted to
    them."""
    if entry.opened is None or entry.closed is None:
        return None
    opened, closed = (as_kind(ground.column(name), Kind.DATE, *DATED) for name in (entry.opened, entry.closed))
    for name, column in ((entry.opened, opened), (entry.closed, closed)):
        if column.kind not in DATED:
            raise DefinitionError(
                f"{name!r} is {column.kind.value}, not a date; open items need the dates that open and close them"
            )
    begun = opened.present & (days_of(opened) <= ground.as_of)
    ended = closed.present & (days_of(closed) <= ground.as_of)
    return begun & ~ended
