"""An axis entry becomes levels: a code for each record, members in order."""

import hashlib
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import date
from typing import Protocol, TypeVar

import numpy as np
from numpy.typing import NDArray

from kalendor.core.formulas import texts
from kalendor.core.groupings import buckets, trees
from kalendor.core.groupings.calendars import Calendar, calendar
from kalendor.core.groupings.levels import ORDINARY, Level, Members, label_key, reordered, with_blank
from kalendor.core.groupings.periods import CLOCK, COARSER, Grouper, period_level
from kalendor.core.takes.order_statistics import value_order
from kalendor.core.values.columns import DATED, Column, Kind, Mask, Records, day_number, day_of, days_of
from kalendor.core.values.origin import Origin
from kalendor.definitions import kinds
from kalendor.definitions.axis import (
    AgeEntry,
    AxisEntry,
    BucketEntry,
    ByList,
    CategoryEntry,
    DayRun,
    Entry,
    PeriodEntry,
    default_names,
)
from kalendor.definitions.buckets import Buckets, Cut
from kalendor.definitions.calendar import Calendar as CalendarDocument
from kalendor.definitions.tree import Tree
from kalendor.errors import DefinitionError

V = TypeVar("V")


class Memo(Protocol):
    """Something that keeps what was worked out, under a key that names all that it rests on."""

    def __call__(self, key: str, make: Callable[[], V], /) -> V:
        """The value kept under `key`, or the one made now."""
        ...


def forget(_: str, make: Callable[[], V]) -> V:
    """A memo that keeps nothing."""
    return make()


@dataclass(frozen=True)
class Groupings:
    """The trees, calendars and bucket sets that a report may name."""

    trees: Mapping[str, Tree] = field(default_factory=dict)
    calendars: Mapping[str, CalendarDocument] = field(default_factory=dict)
    bucket_sets: Mapping[str, Buckets] = field(default_factory=dict)

    def tree(self, name: str) -> Tree:
        return _find(self.trees, name, "category tree")

    def calendar(self, name: str | None) -> Calendar:
        if name is None or (name == "Civil year" and name not in self.calendars):
            return calendar(kinds.default_calendar())
        return calendar(_find(self.calendars, name, "calendar"))

    def cut(self, entry: BucketEntry | AgeEntry) -> tuple[Cut, list[str] | None]:
        if entry.cut is not None:
            return entry.cut, None
        assert entry.set is not None
        found = _find(self.bucket_sets, entry.set, "bucket set")
        return found.cut, found.labels


def _find(found: Mapping[str, V], name: str, what: str) -> V:
    if name not in found:
        known = ", ".join(found) or "none"
        raise DefinitionError(f"there is no {what} named {name!r} (known: {known})")
    return found[name]


def groupings(documents: Sequence[kinds.Grouping]) -> Groupings:
    """Groupings by name; of two with one name and kind, the later stands."""
    return Groupings(
        {d.name: d for d in documents if isinstance(d, Tree)},
        {d.name: d for d in documents if isinstance(d, CalendarDocument)},
        {d.name: d for d in documents if isinstance(d, Buckets)},
    )


@dataclass(frozen=True)
class Ground:
    """What levels are worked out from: the records, the groupings, the as-of day, and what is kept from before.

    `stamp` names the records' revision, so that nothing kept is taken for that of other records.
    """

    records: Records
    groupings: Groupings
    as_of: int
    memo: Memo = forget
    stamp: str = ""
    origin: Origin | None = None

    def column(self, name: str) -> Column:
        if name not in self.records.columns:
            raise DefinitionError(
                f"there is no column {name!r} in the source; it has {', '.join(self.records.columns)}"
            )
        return self.records.columns[name]

    def value_order(self, name: str) -> NDArray[np.int64]:
        """The positions of a column's filled records by rising value, kept for the next sheet."""
        return self.memo(f"order/{self.stamp}/{name}", lambda: value_order(self.column(name)))


def axis_levels(ground: Ground, entries: Sequence[AxisEntry], other: Sequence[AxisEntry]) -> list[Level]:
    """The levels of one axis; `other` are the entries of the axis across, for places in the year."""
    levels: list[Level] = []
    for position, entry in enumerate(entries):
        made = _entry_levels(ground, entry, other)
        levels.extend(replace(level, entry=position) for level in made)
    return levels


def axes_key(ground: Ground, down: Sequence[AxisEntry], across: Sequence[AxisEntry]) -> str:
    """What the levels of both axes rest on."""
    keys = [_key(ground, e, across) for e in down] + ["/"] + [_key(ground, e, down) for e in across]
    return hashlib.sha256("\x1f".join(keys).encode()).hexdigest()


def _entry_levels(ground: Ground, entry: AxisEntry, other: Sequence[AxisEntry]) -> list[Level]:
    key = _key(ground, entry, other)
    return ground.memo(key, lambda: _made(ground, entry, other))


def _key(ground: Ground, entry: AxisEntry, other: Sequence[AxisEntry]) -> str:
    rests_on: list[str] = [ground.stamp, entry.model_dump_json(by_alias=True)]
    if isinstance(entry, CategoryEntry) and entry.tree:
        rests_on += [ground.groupings.tree(entry.tree).model_dump_json(), str(ground.as_of) if entry.placed else ""]
    if isinstance(entry, PeriodEntry):
        named = ground.groupings.calendars.get(entry.calendar or "")
        rests_on += [named.model_dump_json() if named else "", *(str(_within(entry, g, other)) for g in entry.grains)]
    if isinstance(entry, BucketEntry | AgeEntry):
        rests_on += [str(ground.groupings.cut(entry)), str(ground.as_of) if isinstance(entry, AgeEntry) else ""]
    return hashlib.sha256("\x1f".join(rests_on).encode()).hexdigest()


def _made(ground: Ground, entry: AxisEntry, other: Sequence[AxisEntry]) -> list[Level]:
    if isinstance(entry, PeriodEntry):
        levels = _period_levels(ground, entry, other)
    elif isinstance(entry, CategoryEntry):
        levels = _category_levels(ground, entry)
    else:
        levels = _range_levels(ground, entry)
    return [level if level.period is not None else _in_order(level, entry) for level in levels]


def _names(entry: Entry, count: int, made: Sequence[str]) -> Sequence[str]:
    names = default_names(entry) or list(made)
    if len(names) != count:
        raise DefinitionError(f"{len(names)} level names are given for {count} levels: {', '.join(names)}")
    return names


def _category_levels(ground: Ground, entry: CategoryEntry) -> list[Level]:
    column = ground.column(entry.category)
    if entry.tree is None:
        codes, members = _values(column)
        return _signed(entry, [Level(_names(entry, 1, [])[0], "category", 0, codes, members)], None)
    tree = ground.groupings.tree(entry.tree)
    text = texts.as_text(column)
    days, at = _placed_at(ground, entry, tree, text.words)
    wanted = entry.levels or tree.levels
    found = trees.tree_levels(tree, wanted, text.words, text.blank is not None, days)
    levels = []
    of_value = text.values if text.blank is None else np.where(text.blank, len(text.words), text.values)
    for name, (table, members) in zip(wanted, found.levels, strict=True):
        of_record = table[at, of_value] if table.size else np.zeros(len(text), np.int32)
        levels.append(Level(name, "category", 0, of_record.astype(np.int32), members))
    if len(levels) == 1 and entry.name:
        levels = [replace(levels[0], name=entry.name)]
    return _signed(entry, levels, found.signs[at, of_value] if (found.signs < 0).any() else None)


def _signed(entry: CategoryEntry, levels: list[Level], signs: NDArray[np.int8] | None) -> list[Level]:
    """The levels, the first of them with the sign of each record: the tree's, turned by the entry's own."""
    for label, sign in entry.signs.items():
        holds_label = [np.array([name == label for name in x.members.labels])[x.codes] for x in levels]
        if not any(found.any() for found in holds_label) or sign > 0:
            continue
        turned = np.where(np.logical_or.reduce(holds_label), np.int8(-1), np.int8(1))
        signs = turned if signs is None else signs * turned
    return [replace(levels[0], signs=signs), *levels[1:]]


def counted_negative(ground: Ground, entries: Sequence[AxisEntry]) -> list[str]:
    """The labels of categories whose amounts are turned, by entries or by their trees."""
    found: list[str] = []
    for entry in entries:
        if isinstance(entry, CategoryEntry):
            found += [label for label, sign in entry.signs.items() if sign < 0]
            found += trees.negative(ground.groupings.tree(entry.tree).roots) if entry.tree else []
    return list(dict.fromkeys(found))


def signed_by(levels: Sequence[Level]) -> NDArray[np.int8] | None:
    """Shape (n,): −1 for records that count negative by the levels of a sheet; None where none does."""
    found = [level.signs for level in levels if level.signs is not None]
    if not found:
        return None
    product: NDArray[np.int8] = np.multiply.reduce(found)
    return product


def _placed_at(
    ground: Ground, entry: CategoryEntry, tree: Tree, values: Sequence[str]
) -> tuple[list[date | None], NDArray[np.int64] | int]:
    """The days as at which values are placed, and which of them holds for each record; None is as it is now."""
    if entry.placed != "was":
        return [entry.placed if isinstance(entry.placed, date) else None], 0
    changes = trees.Placer(tree, ()).changes
    when = ground.column(entry.placed_by or _only_date(ground))
    if when.kind not in DATED:
        raise DefinitionError(f"{entry.placed_by!r} is {when.kind.value}, not a date; values are placed as at a date")
    at = np.searchsorted([day_number(day) for day in changes], days_of(when), side="right")
    return [date.min, *changes, None], np.where(when.blanks, len(changes) + 1, at)


def _only_date(ground: Ground) -> str:
    names = [name for name, column in ground.records.columns.items() if column.kind in DATED]
    if len(names) != 1:
        raise DefinitionError(
            '"placed": "was" needs "placed_by", the date column that says when each record was'
            + (f"; there are {', '.join(names)}" if names else "")
        )
    return names[0]


def _values(column: Column) -> tuple[np.ndarray, Members]:
    """Each different value is a member: text by label, everything else by value."""
    if column.kind is Kind.TEXT:
        order = sorted(range(len(column.words)), key=lambda i: label_key(column.words[i]))
        rank = np.empty(max(1, len(order)), dtype=np.int32)
        rank[order] = np.arange(len(order), dtype=np.int32)
        labels = [column.words[i] for i in order]
        return with_blank(labels, rank[column.values], column.blank)
    values = column.values if column.blank is None else column.values[column.present]
    different = np.unique(values)
    plain = Column(column.kind, different, None, column.places)
    labels = [texts.written(plain.item(i)) for i in range(len(different))]
    codes = np.searchsorted(different, column.values).clip(0, max(0, len(different) - 1))
    return with_blank(labels, codes, column.blank)


def _range_levels(ground: Ground, entry: BucketEntry | AgeEntry) -> list[Level]:
    cut, labels = ground.groupings.cut(entry)
    (name,) = _names(entry, 1, [])
    if isinstance(entry, BucketEntry):
        codes, members = buckets.ranges(ground.column(entry.bucket), entry.bucket, cut, labels)
        kind = "bucket"
    else:
        codes, members = buckets.ages(ground.column(entry.age), entry.age, cut, labels, ground.as_of)
        kind = "age"
    if entry.empty == "hide":
        members = replace(members, always=None)
    return [Level(name, kind, 0, codes, members)]


def _within(entry: PeriodEntry, grain: object, other: Sequence[AxisEntry]) -> str | None:
    """The finest coarser grain of the same column and calendar on the other axis, if any."""
    if not isinstance(grain, str) or grain not in COARSER:
        return None
    found = [
        g
        for o in other
        if isinstance(o, PeriodEntry) and o.period == entry.period and o.calendar == entry.calendar
        for g in o.grains
        if isinstance(g, str) and g in COARSER and COARSER[g] < COARSER[grain] and (g == "day" or grain not in CLOCK)
    ]
    return max(found, key=COARSER.__getitem__, default=None)


def _period_levels(ground: Ground, entry: PeriodEntry, other: Sequence[AxisEntry]) -> list[Level]:
    column = ground.column(entry.period)
    names = _names(entry, len(entry.grains), [])
    grains = [g for g in entry.grains if isinstance(g, str) and g in COARSER]
    if grains != sorted(grains, key=COARSER.__getitem__) or len(set(map(str, entry.grains))) != len(entry.grains):
        raise DefinitionError(f"the grains of {entry.period!r} must go from coarser to finer, each once")
    which = ground.groupings.calendar(entry.calendar)
    levels = []
    for name, grain in zip(names, entry.grains, strict=True):
        run = grain if isinstance(grain, DayRun) else None
        grouper = Grouper(entry.period, which, "run" if run else str(grain), run, _within(entry, grain, other))
        period, codes, members = period_level(grouper, column)
        if entry.empty == "show":
            members = replace(members, always=members.special == ORDINARY)
        levels.append(Level(name, "period", 0, codes, members, period))
    return levels


def _in_order(level: Level, entry: Entry) -> Level:
    """The level with its members in the order that the entry asks for; orders that rest on the sheet are left to it."""
    picked = member_order(level.members, entry.order)
    if picked is None:
        return level
    codes, members = reordered(level.codes, level.members, picked)
    return replace(level, codes=codes, members=members)


def member_order(members: Members, order: object) -> NDArray[np.int64] | None:
    """Positions of the members in an order by label, date or list, special ones last; None for any other order."""
    ordinary = np.flatnonzero(members.special == ORDINARY).tolist()
    special = np.flatnonzero(members.special != ORDINARY).tolist()
    if order in ("label", "label_desc"):
        ordinary.sort(key=lambda i: label_key(members.labels[i]), reverse=order == "label_desc")
    elif order == "date_desc":
        ordinary.reverse()
    elif isinstance(order, ByList):
        place = {label: i for i, label in enumerate(order.list)}
        ordinary.sort(key=lambda i: place.get(members.labels[i], len(place)))
    else:
        return None
    return np.array([*ordinary, *special], dtype=np.int64)


def open_items(ground: Ground, entry: AgeEntry) -> Mask | None:
    """Shape (n,): True for items opened on or before the as-of day and not closed by then; None where not asked."""
    if entry.opened is None or entry.closed is None:
        return None
    opened, closed = ground.column(entry.opened), ground.column(entry.closed)
    for name, column in ((entry.opened, opened), (entry.closed, closed)):
        if column.kind not in (Kind.DATE, Kind.DATETIME):
            raise DefinitionError(
                f"{name!r} is {column.kind.value}, not a date; open items need the dates that open and close them"
            )
    begun = opened.present & (days_of(opened) <= ground.as_of)
    ended = closed.present & (days_of(closed) <= ground.as_of)
    return begun & ~ended


def as_of_words(as_of: int) -> str:
    """The as-of date as a person writes it."""
    d = day_of(as_of)
    return f"{d.day} {d:%b %Y}"
