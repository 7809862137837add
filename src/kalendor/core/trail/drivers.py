"""What drove a change: each member's part of the difference, by another column or tree; they add up to it exactly."""

from collections.abc import Container, Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kalendor.core.figures.operand import Operand
from kalendor.core.groupings.entries import grouped
from kalendor.core.groupings.ground import Ground
from kalendor.core.groupings.levels import Level
from kalendor.core.takes.groups import Groups
from kalendor.core.takes.sums import sums
from kalendor.core.values.columns import DATED, Array, Column, Kind
from kalendor.definitions.axis import AxisEntry, CategoryEntry, PeriodEntry
from kalendor.definitions.report import Report
from kalendor.errors import DefinitionError

MOST_MEMBERS = 5_000
EXPLAINS = 0.8


@dataclass(frozen=True, eq=False)
class Drivers:
    """The parts of a difference by one level, largest first; each array has shape (members,), in units of 10**-places.

    `name` is the level's display name, with its tree or column, `level` its own, `column` and `tree` what it is of.
    `explained` is how many of the members, from the first, make up most of all movements; float64 if the amounts are
    approximate.
    """

    name: str
    level: str
    column: str
    tree: str | None
    labels: tuple[str, ...]
    value: Array
    base: Array
    difference: Array
    places: int
    exact: bool
    explained: int


def drivers(operand: Operand, ground: Ground, years: bool, columns: Container[str] | None = None) -> list[Drivers]:
    """The breakdowns of a compared cell's difference, those in which fewest members explain most of it first.

    `years`: the base lies whole years back, so that months of the year are a breakdown as well. Empty if the figure
    does not add up. Given `columns`, by categories of these alone.
    """
    sides = _sides(operand)
    if sides is None:
        return []
    found = [made for entry in _entries(ground, years, columns) for made in _by(entry, sides, ground)]
    return sorted(found, key=lambda one: (one.explained, len(one.labels), one.name))


def category_columns(report: Report) -> set[str]:
    """The columns whose values are categories of a report's lines or columns."""
    return {entry.category for entry in report.entries_of(CategoryEntry)}


def _sides(operand: Operand) -> tuple[Operand, Operand] | None:
    if operand.kind != "compare":
        return None
    value, base = operand.of
    if value.kind != "records" or base.kind != "records" or value.amounts is None or base.amounts is None:
        return None
    return value, base


def _entries(ground: Ground, years: bool, columns: Container[str] | None) -> Iterator[AxisEntry]:
    """The possible breakdowns of the records: columns with few values, trees over them, weekdays and months."""
    for name, column in ground.records.columns.items():
        if columns is not None and (name not in columns or column.kind in DATED):
            continue
        if column.kind in DATED:
            yield PeriodEntry(period=name, grains=["month_of_year", "day_of_week"] if years else ["day_of_week"])
        elif _is_category(column):
            yield CategoryEntry(category=name)
            for tree in ground.groupings.trees:
                yield CategoryEntry(category=name, tree=tree)


def _is_category(column: Column) -> bool:
    if column.kind is Kind.TEXT:
        return len(column.words) <= MOST_MEMBERS
    if column.kind is Kind.WHOLE and len(column) and column.values.dtype == np.int64:
        return int(column.values.max()) - int(column.values.min()) <= 1_000
    return column.kind is Kind.YES_NO


def _by(entry: AxisEntry, sides: tuple[Operand, Operand], ground: Ground) -> Iterator[Drivers]:
    try:
        levels = grouped(ground, [entry], []).down
    except DefinitionError:
        return
    tree = entry.tree if isinstance(entry, CategoryEntry) else None
    for level in levels[:-1] if tree else levels:
        made = _of_level(level, entry.column, tree, sides)
        if made is not None:
            yield made


def _of_level(level: Level, column: str, tree: str | None, sides: tuple[Operand, Operand]) -> Drivers | None:
    """The parts by a level, of the members that changed; None if all records are of one member, or a tree places
    none."""
    places = max(side.amounts.places for side in sides if side.amounts is not None)
    value, base = (_by_member(level, side, places) for side in sides)
    counts = [np.bincount(level.codes[side.rows], minlength=level.size) for side in sides]
    there = np.flatnonzero(counts[0] + counts[1])
    ordinary = int((level.members.special[there] == 0).sum())
    if len(there) < 2 or (tree is not None and ordinary == 0):
        return None
    difference = value - base
    if difference.dtype == np.float64 and not np.isfinite(np.abs(difference).sum()):
        return None  # sums are beyond float64
    moving = there[difference[there] != 0]
    if not len(moving):
        return None
    order = moving[np.argsort(-np.abs(difference[moving].astype(np.float64)), kind="stable")]
    moved = np.abs(difference[order].astype(np.float64))
    explained = int(np.searchsorted(np.cumsum(moved), EXPLAINS * moved.sum())) + 1
    exact = all(side.amounts is not None and side.amounts.kind is not Kind.APPROXIMATE for side in sides)
    name = level.name.replace("_", " ") if level.kind == "period" else level.name
    return Drivers(
        name if tree is None and level.kind != "period" else f"{name} ({tree or column})",
        level.name, column, tree, tuple(level.members.labels[i] for i in order.tolist()),
        value[order], base[order], difference[order], places, exact, explained,
    )  # fmt: skip


def _by_member(level: Level, side: Operand, places: int) -> Array:
    """The contribution of a side's records, by member, in units of 10**-places."""
    assert side.amounts is not None
    assert side.rows is not None
    there = np.flatnonzero(side.amounts.present)
    ids: NDArray[np.int64] = level.codes[side.rows[there]].astype(np.int64)
    total = sums(Groups(ids, level.size, None), side.amounts.take(there))
    if side.amounts.kind is Kind.APPROXIMATE or side.amounts.places == places:
        return total
    wide = total.astype(object) if total.dtype != object else total
    return wide * 10 ** (places - side.amounts.places)
