"""A level of an axis: its members in order, and the member of each record."""

import re
import unicodedata
from collections.abc import Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kalendor.core.values.columns import Array, Mask

ORDINARY, OTHER, NOT_PLACED, BLANK, WORKED, LOOSE = 0, 1, 2, 3, 4, 5
BLANK_LABEL = "(blank)"
NOT_PLACED_LABEL = "Not placed"
NO_DATE_LABEL, TOTAL_LABEL = "(no date)", "Total"
OF_A_REST = re.compile(r"(.*) \([0-9][0-9,]*\)", re.DOTALL)
NO_START = np.iinfo(np.int64).min
DIGITS = re.compile("([0-9]+)")
MANY_DIGITS = 1000  # Python converts no int of more than some thousand digits; a Decimal compares just as exactly


@dataclass(frozen=True, eq=False)
class Members:
    """The members of a level, in order; each array has shape (m,).

    `special` is ORDINARY, OTHER, NOT_PLACED, BLANK, WORKED (a line made from others) or LOOSE (a value under Not
    placed, which neither competes nor ranks). `starts` (periods only) is the first day, or the first microsecond for
    hours and minutes; NO_START if there is none. `always` is True for members that are shown even without records.
    `codes` are the values that members with a different label represent, or category codes; None for a member that
    represents several values.
    """

    labels: tuple[str, ...]
    special: NDArray[np.int8]
    starts: NDArray[np.int64] | None = None
    always: Mask | None = None
    codes: tuple[str | None, ...] | None = None

    def __len__(self) -> int:
        return len(self.labels)


@dataclass(frozen=True, eq=False)
class Level:
    """A level: `codes`, shape (n,), is the position in `members` of each record; −1 if it has none.

    `entry` is the position of its entry on the axis; `period` is set for levels of a period entry. `signs`, shape (n,),
    is −1 for records whose amounts count negative in their category. `of_all` is True if the members depend on all
    records of the source, as ranges of about equal counts do.
    """

    name: str
    kind: str
    entry: int
    codes: NDArray[np.int32]
    members: Members
    period: Any = None
    signs: NDArray[np.int8] | None = None
    of_all: bool = False

    @property
    def size(self) -> int:
        """How many members there are."""
        return len(self.members)


@lru_cache(maxsize=200_000)
def label_key(label: str) -> tuple[tuple[Any, ...], str]:
    """The sort key of label order: letters without accents and case first, digits by their value, then code points.

    >>> sorted(["b10", "B9", "a", "É"], key=label_key)
    ['a', 'B9', 'b10', 'É']
    """
    if label.isascii():
        plain = label.lower()
    else:
        plain = "".join(c for c in unicodedata.normalize("NFKD", label) if not unicodedata.combining(c)).casefold()
    parts: list[Any] = DIGITS.split(plain)
    parts[1::2] = [int(part) if len(part) < MANY_DIGITS else Decimal(part) for part in parts[1::2]]
    return tuple(parts), label


def reads_as_special(label: str, rest: str = "Other") -> bool:
    """Whether a value's label could be taken for that of a special line; this includes special labels in quotation
    marks.

    >>> reads_as_special("Other (3)"), reads_as_special('"Total"'), reads_as_special("Other")
    (True, True, False)
    """
    while len(label) > 1 and label[0] == label[-1] == '"':
        label = label[1:-1]
    counted = OF_A_REST.fullmatch(label)
    return label in (BLANK_LABEL, NOT_PLACED_LABEL, NO_DATE_LABEL, TOTAL_LABEL) or (
        counted is not None and counted.group(1) in ("Other", rest)
    )


def told_apart(members: Members, rest: str | None) -> Members:
    """The members, with quotation marks around values that read as a special label, so that no two lines share a label."""
    labels = list(members.labels)
    values = list(members.codes) if members.codes is not None else [""] * len(labels)
    doubtful = [i for i, label in enumerate(labels) if label.endswith((")", '"', TOTAL_LABEL, NOT_PLACED_LABEL))]
    for i in doubtful:
        label = labels[i]
        if members.special[i] in (ORDINARY, LOOSE) and reads_as_special(label, rest or "Other"):
            labels[i], values[i] = f'"{label}"', values[i] or label
    if labels == list(members.labels):
        return members
    own = tuple(value or label for value, label in zip(values, members.labels, strict=True))
    return replace(members, labels=tuple(labels), codes=(members.codes and tuple(values)) or own)


def marked(labels: Sequence[str], special: Sequence[int], **more: Any) -> Members:
    """Members from plain sequences."""
    return Members(tuple(labels), np.array(special, dtype=np.int8), **more)


def reordered(level_codes: NDArray[np.int32], members: Members, order: Array) -> tuple[NDArray[np.int32], Members]:
    """A level's codes and members after putting `members` in another order (positions, special ones last)."""
    back = np.empty(len(order) + 1, dtype=np.int32)
    back[order] = np.arange(len(order), dtype=np.int32)
    back[-1] = -1
    pick = order.tolist()
    return back[level_codes], Members(
        tuple(members.labels[i] for i in pick),
        members.special[order],
        None if members.starts is None else members.starts[order],
        None if members.always is None else members.always[order],
        None if members.codes is None else tuple(members.codes[i] for i in pick),
    )


def with_blank(
    labels: list[str], codes: Array, blank: Mask | None, label: str = BLANK_LABEL
) -> tuple[NDArray[np.int32], Members]:
    """Codes and members with a blank member at the end, if there are blanks."""
    codes = codes.astype(np.int32, copy=False)
    special = [ORDINARY] * len(labels)
    if blank is not None:
        codes = np.where(blank, np.int32(len(labels)), codes)
        labels, special = [*labels, label], [*special, BLANK]
    return codes, marked(labels, special)
