"""The result of an axis entry: its levels, and related properties of its records."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Generic, TypeVar

from kalendor.core.groupings.ground import Ground
from kalendor.core.groupings.levels import Level
from kalendor.core.values.columns import Mask
from kalendor.core.values.keys import Keyed
from kalendor.definitions.axis import AxisEntry, Entry
from kalendor.errors import DefinitionError

E = TypeVar("E", bound=Entry)


@dataclass(frozen=True, eq=False)
class Built:
    """The result of an entry.

    `negative` are the labels of categories whose signs it reverses; `open_items`, shape (n,), is True for items open at
    the as-of date, None if the entry does not restrict to them.
    """

    levels: tuple[Level, ...]
    negative: tuple[str, ...] = ()
    open_items: Mask | None = None


class Builder(Generic[E]):
    """Makes the levels of one kind of entry; `other` are the entries of the axis across."""

    def rests_on(self, ground: Ground, entry: E, other: Sequence[AxisEntry]) -> tuple[Keyed, ...]:
        """Everything that the levels depend on beside the records and the entry itself."""
        raise NotImplementedError

    def built(self, ground: Ground, entry: E, other: Sequence[AxisEntry]) -> Built:
        """The levels; DefinitionError for columns and groupings that do not exist or do not fit."""
        raise NotImplementedError


def level_names(entry: Entry, count: int) -> Sequence[str]:
    """The names of an entry's levels; DefinitionError if their number differs from that of the levels."""
    names = entry.default_names() or []
    if len(names) != count:
        raise DefinitionError(f"{len(names)} level names are given for {count} levels: {', '.join(names)}")
    return names
