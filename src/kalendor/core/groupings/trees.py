"""Category trees over the values of a column: the place of each value, and the members of each level in order."""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from datetime import date

import numpy as np
from numpy.typing import NDArray

from kalendor.core.formulas.formulas import holds
from kalendor.core.formulas.scope import Scope
from kalendor.core.groupings.levels import (
    BLANK,
    BLANK_LABEL,
    LOOSE,
    NOT_PLACED,
    NOT_PLACED_LABEL,
    ORDINARY,
    Members,
    label_key,
    marked,
)
from kalendor.core.values.columns import text_column
from kalendor.definitions.tree import Node, Tree
from kalendor.errors import DefinitionError


@dataclass
class Place:
    """A category or a value at its place in the tree; `rank` is its place in the tree's order."""

    label: str
    code: str
    rank: tuple[object, ...]
    parent: "Place | None" = None
    special: int = ORDINARY
    sign: int = 1


@dataclass(frozen=True)
class Placing:
    """Where the values of a column are placed in a tree.

    `paths[v][k]` is the place of value v at level k of the tree. `caught` maps a value to the label of the category
    whose rule matched it; `loose` are the values placed by neither name nor rule. `signs[v]` is −1 if the amounts of
    value v count negative.
    """

    paths: list[list[Place]]
    caught: dict[str, str] = field(default_factory=dict)
    loose: list[str] = field(default_factory=list)
    signs: list[int] = field(default_factory=list)


@dataclass
class _Reading:
    named: dict[str, list[tuple[date | None, Place]]] = field(default_factory=dict)
    rules: list[tuple[str, Place]] = field(default_factory=list)


def _read(nodes: Sequence[Node], parent: Place | None, found: _Reading) -> None:
    for i, node in enumerate(nodes):
        rank = (*(parent.rank if parent else ()), (0, i))
        sign = (parent.sign if parent else 1) * (node.sign or 1)
        if node.value is not None:
            place = Place(node.label or node.value, node.code or node.value, rank, parent, sign=sign)
            found.named.setdefault(node.value, []).append((node.since, place))
            continue
        assert node.label is not None
        place = Place(node.label, node.code or node.label, rank, parent, sign=sign)
        if node.rule is not None:
            found.rules.append((node.rule, place))
        _read(node.under, place, found)


def _named_at(places: list[tuple[date | None, Place]], on: date | None) -> Place | None:
    """The placement in effect on a day: the latest that has begun; for None, the latest of all."""
    begun = [(since or date.min, place) for since, place in places if on is None or since is None or since <= on]
    return max(begun, key=lambda pair: pair[0])[1] if begun else None


class Placer:
    """A parsed tree, which places values as at any day.

    Raises DefinitionError for a rule that cannot be read.
    """

    def __init__(self, tree: Tree, values: Sequence[str]) -> None:
        self.depth, self.values = len(tree.levels), values
        self._found = _Reading()
        _read(tree.roots, None, self._found)
        self._caught = _caught(tree, self._found.rules, values)
        self._loose = Place(NOT_PLACED_LABEL, NOT_PLACED_LABEL, ((1, 0),), special=NOT_PLACED)

    @property
    def changes(self) -> list[date]:
        """The days on which the placement of some value changes, rising."""
        return sorted({since for places in self._found.named.values() for since, _ in places if since is not None})

    def placing(self, on: date | None) -> Placing:
        """The place of each of the values, by name, else by the first matching rule, as at the day `on` (None: now)."""
        placing = Placing([])
        for value in self.values:
            place = _named_at(self._found.named.get(value, []), on)
            if place is None and value in self._caught:
                home = self._caught[value]
                placing.caught[value] = home.label
                place = Place(value, value, (*home.rank, (1, label_key(value))), home, sign=home.sign)
            if place is None:
                placing.loose.append(value)
                place = Place(value, value, (*self._loose.rank, (1, label_key(value))), self._loose, special=LOOSE)
            placing.paths.append(_path(place, self.depth))
            placing.signs.append(place.sign)
        return placing


def placing(tree: Tree, values: Sequence[str], on: date | None = None) -> Placing:
    """The place of each of `values` in a tree, as at the day `on` (None: now)."""
    return Placer(tree, values).placing(on)


def negative(nodes: Sequence[Node]) -> list[str]:
    """The labels of nodes that reverse the signs of the amounts under them."""
    return [
        label
        for node in nodes
        for label in [*([node.label or node.value or ""] if node.sign == -1 else []), *negative(node.under)]
    ]


def _caught(tree: Tree, rules: list[tuple[str, Place]], values: Sequence[str]) -> dict[str, Place]:
    """The category of the first rule, in the tree's order, that matches each value."""
    caught: dict[str, Place] = {}
    if not rules or not values:
        return caught
    column = text_column(list(values))
    scope = Scope({"value": column}, len(values))
    for rule, place in rules:
        try:
            meets = holds(rule, scope)
        except DefinitionError as error:
            raise DefinitionError(f"tree {tree.name}, rule of {place.label}: {error}") from None
        for value, met in zip(values, meets.tolist(), strict=True):
            if met:
                caught.setdefault(value, place)
    return caught


def _path(place: Place, depth: int) -> list[Place]:
    """The places from the top down, one a level: a value placed high is repeated below, one placed too deep is cut off."""
    chain: list[Place] = []
    at: Place | None = place
    while at is not None:
        chain.append(at)
        at = at.parent
    chain.reverse()
    return (chain + [chain[-1]] * depth)[:depth]


@dataclass(frozen=True, eq=False)
class TreeLevels:
    """A tree over values: for each wanted level the member of each value as at each of the days, shape (days, values),
    with one more for blanks, and the members; `signs`, of the same shape, is −1 for values that count negative."""

    levels: list[tuple[NDArray[np.int32], Members]]
    signs: NDArray[np.int8]


def tree_levels(
    tree: Tree, wanted: Sequence[str], values: Sequence[str], blank: bool, days: Sequence[date | None]
) -> TreeLevels:
    """The wanted levels of a tree over values, as at each of the days (None: as it is now)."""
    unknown = [name for name in wanted if name not in tree.levels]
    if unknown:
        raise DefinitionError(f"tree {tree.name} has no level {unknown[0]!r}; it has {', '.join(tree.levels)}")
    placer = Placer(tree, values)
    placings = [placer.placing(on) for on in days]
    signs = np.array([[*placed.signs, *([1] if blank else [])] for placed in placings], dtype=np.int8)
    return TreeLevels(_levels(tree, wanted, placings, blank), signs)


def _levels(
    tree: Tree, wanted: Sequence[str], placings: Sequence[Placing], blank: bool
) -> list[tuple[NDArray[np.int32], Members]]:
    result = []
    for name in wanted:
        k = tree.levels.index(name)
        upper = any(tree.levels.index(other) < k for other in wanted)
        seen = [p if upper else replace(p, paths=[_gathered(path) for path in p.paths]) for p in placings]
        found = {_identity(path[k]): path[k] for placed in seen for path in placed.paths}
        members = sorted(found.values(), key=_order)
        index = {_identity(place): i for i, place in enumerate(members)}
        codes = [[index[_identity(path[k])] for path in placed.paths] for placed in seen]
        labels, special = [p.label for p in members], [p.special for p in members]
        names = [p.code for p in members]
        if blank:
            codes = [[*row, len(labels)] for row in codes]
            labels, special, names = [*labels, BLANK_LABEL], [*special, BLANK], [*names, ""]
        result.append((np.array(codes, dtype=np.int32), marked(labels, special, codes=tuple(names))))
    return result


def _gathered(path: list[Place]) -> list[Place]:
    """A path on which a value that the tree does not place is under Not placed only, at every level."""
    return [path[0]] * len(path) if path[0].special == NOT_PLACED else path


def _identity(place: Place) -> tuple[object, ...]:
    return (place.rank, place.label)


def _order(place: Place) -> tuple[object, ...]:
    return place.rank
