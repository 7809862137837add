"""What an axis entry makes: its levels, and what is to be known of its records."""

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
    """What an entry makes.

    `negative` are the labels of categories whose amounts it turns; `open_items`, shape (n,), is True for items that are
    open at the as-of date, None where the entry does not ask.
    """

    levels: tuple[Level, ...]
    negative: tuple[str, ...] = ()
    open_items: Mask | None = None


class Builder(Generic[E]):
    """Makes the levels of one kind of entry; `other` are the entries of the axis across."""

    def rests_on(self, ground: Ground, entry: E, other: Sequence[AxisEntry]) -> tuple[Keyed, ...]:
        """All that the levels rest on beside the records and the entry itself."""
        raise NotImplementedError

    def built(self, ground: Ground, entry: E, other: Sequence[AxisEntry]) -> Built:
        """The levels; DefinitionError for columns and groupings that are not there or do not fit."""
        raise NotImplementedError


def level_names(entry: Entry, count: int) -> Sequence[str]:
    """The names of an entry's levels; DefinitionError where there are not as many as levels."""
    names = entry.default_names() or []
    if len(names) != count:
        raise DefinitionError(f"{len(names)} level names are given for {count} levels: {', '.join(names)}")
    return names
