"""What a sheet needs of a page: the widths of its labels and columns, the heights of its rows.

Widths are in em (relative to the type size) and points: em × size + points.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kalendor.core.groupings.levels import NO_START
from kalendor.core.sheet.arrange import HEADING, SUBTOTAL
from kalendor.core.values.columns import NUMERIC
from kalendor.output.measuring import width
from kalendor.output.numbers import as_listed
from kalendor.output.typeset import SetColumn, SetRow, Typeset, by_columns

Points = NDArray[np.float64]
PADDING, STEP, GAP = 8.0, 10.0, 9.0  # points beside a text, of a level's indentation, and between groups of columns
WIDEST_HEAD = 9.0  # em: wider headings wrap at blanks
FEW = 24  # longest texts that are measured


@dataclass(frozen=True)
class ColumnNeed:
    """A column of figures: `em`, the width of its numbers and headings; `head`, its own heading on one line; `path`,
    its headings, outermost first; `opens`, whether there is a gap before it; `empty`, whether it is empty in all rows;
    `wraps`, whether it contains texts."""

    em: float
    head: float
    path: tuple[str, ...]
    opens: bool = False
    empty: bool = False
    wraps: bool = False


@dataclass(frozen=True, eq=False)
class Needs:
    """A sheet's needs. For each column of labels, `labels` has each row's em and points, shape (rows, 2), `label_heads`
    the em of its heading; `listed` the em of each column of listed records. `names` is True for rows that name a group,
    `spaced` for those with space above, `begins` for those that begin a page, each shape (rows,). `headings` is the
    number of rows of headings."""

    labels: tuple[Points, ...]
    label_heads: tuple[float, ...]
    listed: tuple[float, ...]
    columns: tuple[ColumnNeed, ...]
    names: NDArray[np.bool_]
    spaced: NDArray[np.bool_]
    begins: NDArray[np.bool_]
    headings: int

    @property
    def rows(self) -> int:
        """How many rows there are."""
        return len(self.names)


def needs_of(set_: Typeset, texts: Sequence[Sequence[str]]) -> Needs:
    """The needs of a laid-out sheet; `texts` has each column's, one for each row."""
    indented = not by_columns(set_.sheet)
    insets = np.array([STEP * inset_of(row) if indented else 0.0 for row in set_.rows])
    labels = []
    for k in range(len(set_.label_heads)):
        em = [width(row.marked[k], 1, bold=True) for row in set_.rows]
        labels.append(np.stack([np.array(em, dtype=np.float64), insets], axis=1))
    years = _years(set_)
    listed = [
        max(width(text, 1, bold=True) for text in [name, *longest(as_listed(column))])
        for name, column in set_.listed.items()
    ]
    return Needs(
        tuple(labels),
        tuple(width(head, 1) for head in set_.label_heads),
        tuple(listed),
        tuple(_column(set_, column, texts[k], years) for k, column in enumerate(set_.columns)),
        np.array([row.role == HEADING for row in set_.rows], dtype=bool),
        np.array([row.space for row in set_.rows], dtype=bool),
        np.array([row.page for row in set_.rows], dtype=bool),
        len(set_.headings),
    )


def _years(set_: Typeset) -> dict[int, str]:
    """The year, counted from the first column, of columns that are months or quarters without a year over them."""
    side = set_.sheet.columns
    starts = sorted({int(side.starts[c.at]) for c in set_.columns if side.depth[c.at] == 1} - {NO_START})
    if not side.levels or side.levels[0].kind != "period" or side.levels[0].clock or len(starts) < 2:
        return {}
    apart = int(np.median(np.diff(starts)))
    each = 12 if 28 <= apart <= 35 else 4 if 84 <= apart <= 98 else 0
    place = {start: f"year {i // each}" for i, start in enumerate(starts)} if each else {}
    return {c.at: place[int(side.starts[c.at])] for c in set_.columns if int(side.starts[c.at]) in place}


def _column(set_: Typeset, column: SetColumn, texts: Sequence[str], years: Mapping[int, str]) -> ColumnNeed:
    """The needs of a column: its longest numbers in full, its own heading in full if short."""
    name = set_.figure(column).name
    head = name if len(set_.sheet.figures) > 1 or not column.labels else column.labels[-1]
    own = set_.sheet.layout.widths.get(name, 0)
    whole = width(head, 1)
    words = max((width(word, 1) for word in head.split()), default=0.0)
    numbers = max((width(text, 1, bold=True) for text in longest(texts)), default=0.0)
    em = max(numbers, min(words, 1.5 * WIDEST_HEAD), min(whole, WIDEST_HEAD), own * 0.6)
    wraps = set_.figure(column).cells.kind not in NUMERIC
    above = (years.get(column.at, ""),) if years else ()
    return ColumnNeed(em, whole, (*above, *column.labels, name), column.opens, not any(texts), wraps)


def longest(texts: Sequence[str]) -> list[str]:
    """The longest texts, by number of letters."""
    return sorted(texts, key=len, reverse=True)[:FEW]


def inset_of(row: SetRow) -> int:
    """The number of levels by which a row is indented."""
    return max(0, row.depth - 1) + (1 if row.role == SUBTOTAL else 0)
