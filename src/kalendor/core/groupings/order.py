"""The order of a level's members, if an entry asks for one that depends on the members alone."""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from kalendor.core.groupings.levels import ORDINARY, Level, Members, label_key, reordered
from kalendor.definitions.axis import ByList, Entry


def in_order(level: Level, entry: Entry) -> Level:
    """The level with its members in the entry's order; orders that depend on the sheet are applied later."""
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
        quoted = [
            f'"{label}"' for label in members.labels
        ]  # a value that reads as a special label is shown in quotation marks
        ordinary.sort(key=lambda i: place.get(members.labels[i], place.get(quoted[i], len(place))))
    else:
        return None
    return np.array([*ordinary, *special], dtype=np.int64)
