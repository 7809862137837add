"""Turns the entries of both axes into levels: one builder for each kind of entry."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import partial

import numpy as np
from numpy.typing import NDArray

from kalendor.core.groupings.built import Builder, Built
from kalendor.core.groupings.categories import Categories
from kalendor.core.groupings.dates import Periods
from kalendor.core.groupings.ground import Ground
from kalendor.core.groupings.levels import Level
from kalendor.core.groupings.ranges import Ages, Ranges
from kalendor.core.values.columns import Mask
from kalendor.core.values.keys import Key
from kalendor.definitions.axis import AgeEntry, AxisEntry, BucketEntry, CategoryEntry, Entry, PeriodEntry

BUILDERS: dict[type[Entry], Builder] = {
    CategoryEntry: Categories(),
    PeriodEntry: Periods(),
    BucketEntry: Ranges(),
    AgeEntry: Ages(),
}


@dataclass(frozen=True, eq=False)
class Grouped:
    """The levels of both axes, and related properties of the entries that made them.

    `key` names everything that they depend on; `negative` are the labels of categories whose signs are reversed;
    `signs`, shape (n,), is −1 for records that count negative, None if none does; `open_items` are the masks of age
    entries.
    """

    down: tuple[Level, ...]
    across: tuple[Level, ...]
    key: Key
    negative: tuple[str, ...]
    open_items: tuple[Mask, ...]
    signs: NDArray[np.int8] | None


def grouped(ground: Ground, down: Sequence[AxisEntry], across: Sequence[AxisEntry]) -> Grouped:
    """The levels of a report's entries, cached entry by entry.

    Raises DefinitionError for columns and groupings that do not exist or do not fit.
    """
    keys = [_key(ground, e, across) for e in down], [_key(ground, e, down) for e in across]
    sides = _side(ground, down, across, keys[0]), _side(ground, across, down, keys[1])
    parts = [*sides[0], *sides[1]]
    signs = [level.signs for built in parts for level in built.levels if level.signs is not None]
    return Grouped(
        _levels(sides[0]),
        _levels(sides[1]),
        key=ground.key("levels", *keys),
        negative=tuple(dict.fromkeys(label for built in parts for label in built.negative)),
        open_items=tuple(built.open_items for built in parts if built.open_items is not None),
        signs=np.multiply.reduce(signs) if signs else None,
    )


def _levels(side: Sequence[Built]) -> tuple[Level, ...]:
    return tuple(replace(level, entry=i) for i, built in enumerate(side) for level in built.levels)


def _side(ground: Ground, entries: Sequence[AxisEntry], other: Sequence[AxisEntry], keys: Sequence[Key]) -> list[Built]:
    made = [partial(BUILDERS[type(entry)].built, ground, entry, other) for entry in entries]
    return [ground.memo(k, built) for k, built in zip(keys, made, strict=True)]


def _key(ground: Ground, entry: AxisEntry, other: Sequence[AxisEntry]) -> Key:
    return ground.key("entry", entry, *BUILDERS[type(entry)].rests_on(ground, entry, other))
