"""The order of a level's members, where an entry asks for one that rests on the members alone."""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from kalendor.core.groupings.levels import ORDINARY, Level, Members, label_key, reordered
from kalendor.definitions.axis import ByList, Entry


def in_order(level: Level, entry: Entry) -> Level:
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
        quoted = [f'"{label}"' for label in members.labels]  # as a value is shown that reads as a special label
        ordinary.sort(key=lambda i: place.get(members.labels[i], place.get(quoted[i], len(place))))
    else:
        return None
    return np.array([*ordinary, *special], dtype=np.int64)
