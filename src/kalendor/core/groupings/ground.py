"""What levels are computed from: records, the groupings by name, the as-of day, and a cache."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from kalendor.core.groupings.calendars import Calendar, calendar
from kalendor.core.takes.condensed import Condensed
from kalendor.core.takes.order_statistics import value_order
from kalendor.core.takes.units import Coded, is_of_units, of_units
from kalendor.core.values.columns import Column, Records, column_days
from kalendor.core.values.keys import NO_KEY, Key, Keyed, Memo, forget, key
from kalendor.core.values.origin import Origin
from kalendor.definitions import kinds
from kalendor.definitions.axis import AgeEntry, BucketEntry
from kalendor.definitions.buckets import Buckets, Cut
from kalendor.definitions.calendar import Calendar as CalendarDocument
from kalendor.definitions.tree import Tree
from kalendor.errors import DefinitionError

V = TypeVar("V")
CIVIL = "Civil year"


@dataclass(frozen=True)
class Groupings:
    """The trees, calendars and bucket sets that a report may refer to."""

    trees: Mapping[str, Tree] = field(default_factory=dict)
    calendars: Mapping[str, CalendarDocument] = field(default_factory=dict)
    bucket_sets: Mapping[str, Buckets] = field(default_factory=dict)

    def tree(self, name: str) -> Tree:
        """The tree of that name; DefinitionError if there is none."""
        return _find(self.trees, name, "category tree")

    def calendar_document(self, name: str | None) -> CalendarDocument:
        """The calendar document of that name, the civil year by default; DefinitionError if it does not exist."""
        if name is None or (name == CIVIL and name not in self.calendars):
            return kinds.default_calendar()
        return _find(self.calendars, name, "calendar")

    def calendar(self, name: str | None) -> Calendar:
        """The calendar of that name, likewise."""
        return calendar(self.calendar_document(name))

    def cut(self, entry: BucketEntry | AgeEntry) -> tuple[Cut, list[str] | None]:
        """An entry's cuts and labels; DefinitionError for a bucket set that does not exist."""
        if entry.cut is not None:
            return entry.cut, None
        found = self.bucket_set(entry)
        assert found is not None
        return found.cut, found.labels

    def bucket_set(self, entry: BucketEntry | AgeEntry) -> Buckets | None:
        """The bucket set that an entry refers to; None if it has cuts of its own."""
        return None if entry.set is None else _find(self.bucket_sets, entry.set, "bucket set")


def _find(found: Mapping[str, V], name: str, what: str) -> V:
    if name not in found:
        known = ", ".join(found) or "none"
        raise DefinitionError(f"there is no {what} named {name!r} (known: {known})")
    return found[name]


def groupings(documents: Sequence[kinds.Grouping]) -> Groupings:
    """Groupings by name; of two with one name and kind, the later wins."""
    return Groupings(
        {d.name: d for d in documents if isinstance(d, Tree)},
        {d.name: d for d in documents if isinstance(d, CalendarDocument)},
        {d.name: d for d in documents if isinstance(d, Buckets)},
    )


@dataclass(frozen=True)
class Ground:
    """What levels are computed from.

    `stamp` is the key of the records and of everything their columns were made from; the keys of all derived values
    begin with it. `units` are those of the amount
    columns with several units, by name; `condensed` describes records whose rows represent several each. `unit_texts`
    are the units of each amount column that has any, as text (see `units_in`).
    """

    records: Records
    groupings: Groupings
    as_of: int
    memo: Memo = forget
    stamp: Key = NO_KEY
    origin: Origin | None = None
    units: Mapping[str, Coded] = field(default_factory=dict)
    condensed: Condensed | None = None
    unit_texts: Mapping[str, Column] = field(default_factory=dict)

    @property
    def times(self) -> NDArray[np.int64] | None:
        """Shape (n,): how many records each row represents; None where each is one."""
        return None if self.condensed is None else self.condensed.times

    def column(self, name: str) -> Column:
        """The column of that name; DefinitionError if there is none."""
        if name in self.records.columns:
            return self.records.columns[name]
        if not is_of_units(name):
            raise DefinitionError(
                f"there is no column {name!r} in the source; it has {', '.join(self.records.columns)}"
            )
        return of_units(name, self.units)

    def key(self, kind: str, *parts: Keyed) -> Key:
        """The key of a value of a kind that depends on these records and on `parts`."""
        return key(kind, self.stamp, *parts)

    def days(self, name: str) -> tuple[int, int] | None:
        """The first and last day of a date column, cached; None if it has no date."""
        return self.memo(self.key("days", name), lambda: column_days(self.column(name)))

    def value_order(self, name: str) -> NDArray[np.int64]:
        """The positions of a column's filled records by rising value, cached."""
        return self.memo(self.key("order", name), lambda: value_order(self.column(name)))
