"""Plans a sheet's pages: paper direction, type size, and where columns are cut.

One pure function over the sheet's needs, for every output that has pages.
"""

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from kalendor.output.paging.needs import GAP, PADDING, Needs

PAPERS = {"a4": ("a4", 595.28, 841.89), "letter": ("us-letter", 612.0, 792.0)}
SIDES, ENDS = 84.0, 112.0  # points of margin: left and right together, above and below together
SIZES = {"plain": (9.0, 8.5, 8.0), "board": (11.0, 10.5, 10.0)}
PADS = {11.0: 4.2, 10.5: 4.0, 10.0: 3.7, 9.0: 3.2, 8.5: 2.9, 8.0: 2.5}  # points above and below a row, by size
CAPITAL, LEADING = 0.698, 0.5  # relative to the size: a line's height, and the space between two lines
APART, NAMED = 7.0, 3.5  # points above a spaced row, and above a group's name
CAPTION, BETWEEN = 11.6, 16.0  # points above a block, with its caption, and between two on a page
TITLE, MOST_CHART = 41.8, 0.4  # points of a title and the line under it; the largest share of a page for a chart
HEADLINE, NOTE = 11.0, 8.0  # type sizes of a headline and of notes
WIDEST_LABEL, WIDEST_LABELS = 1 / 3, 0.5  # shares of the page: for one column of labels, for all of them
MOST_MORE = 26.0  # extra points of a column's width
# Costs in pages: a step of smaller type and a cut within a period, each; a cut, and each further block.
SMALLER, CUT_INSIDE, CUT, BLOCK = 0.06, 0.6, 0.4, 0.1

Wide = Callable[[Sequence[int]], float]
Way = Literal["fits", "upright", "across"]
Type = Literal["plain", "board"]


@dataclass(frozen=True)
class Paper:
    """The paper, by its name in PAPERS, its direction (or automatic), and the type size."""

    name: str = "a4"
    way: Way = "fits"
    type: Type = "plain"


@dataclass(frozen=True)
class PagePlan:
    """The page plan of a sheet; lengths in points.

    `panels` are the positions of the columns, block by block; each block repeats the labels. `stacked`: blocks are
    placed under each other on a page while there is room, else each begins one. `widths` are by position of the columns
    that are printed. `pages` is the number of pages, and `used` the share of their area that is covered, both
    estimated.
    """

    across: bool
    size: float
    room: float
    body: float
    labels: tuple[float, ...]
    listed: tuple[float, ...]
    widths: dict[int, float]
    panels: tuple[tuple[int, ...], ...]
    stacked: bool
    pages: int
    used: float

    @property
    def pad(self) -> float:
        """Points above and below a row's text."""
        return PADS[self.size]


@dataclass(frozen=True)
class Around:
    """What surrounds a sheet: its title, a headline of that many em and a chart of that many points above it; notes
    under it, by their em."""

    headline: float = 0.0
    chart: float = 0.0
    under: tuple[float, ...] = ()

    def below(self, room: float) -> float:
        """Points of the notes under the sheet."""
        lines = [math.ceil(em * NOTE / room) for em in self.under]
        return sum(5.6 + (n - 1) * 9.6 + 4 for n in lines) + 8 if lines else 0.0

    def chart_height(self, body: float) -> float:
        """Points of the chart where a page has `body` points."""
        return min(self.chart, MOST_CHART * body)

    def height(self, room: float, body: float) -> float:
        """Points of what is above the sheet, with `room` points across a page and `body` down it."""
        lines = math.ceil(self.headline * HEADLINE / room)
        return (
            TITLE
            + (lines * 1.4 * HEADLINE + 4.3 if lines else 0.0)
            + (self.chart_height(body) + 12 if self.chart else 0.0)
        )


def head_size(size: float) -> float:
    """The size of headings over columns, a little smaller than the lines, but not below the minimum."""
    return max(least_size(size), 0.92 * size)


def least_size(size: float) -> float:
    """The smallest type beside lines of a size: for *board* the smallest size of its lines."""
    return next(min(sizes) for sizes in SIZES.values() if size in sizes)


def planned(needs: Needs, paper: Paper, around: Around = Around(), stacks: bool = True) -> PagePlan:
    """The plan with the fewest pages, weighed against smaller type and cut columns; `stacks` if blocks of columns can
    be placed under each other."""
    ways = {"upright": (False,), "across": (True,), "fits": (False, True)}[paper.way]
    sizes = SIZES[paper.type]
    found: list[tuple[float, PagePlan]] = []
    for step, size in enumerate(sizes):
        for across in ways:
            plan, inside = _plan(needs, paper.name, across, size, around, stacks)
            cost = plan.pages * (1 + SMALLER * step + CUT_INSIDE * inside) + CUT * (len(plan.panels) > 1)
            cost += BLOCK * (len(plan.panels) - 1)
            found.append((cost, plan))
    return min(found, key=lambda one: one[0])[1]


def _plan(needs: Needs, name: str, across: bool, size: float, around: Around, stacks: bool) -> tuple[PagePlan, bool]:
    """The plan for a direction and a size, and whether a column is cut off within its outermost period."""
    _, short, long = PAPERS[name]
    wide, high = (long, short) if across else (short, long)
    room, body = wide - SIDES, high - ENDS
    above, below = around.height(room, body), around.below(room)
    labels = _label_widths(needs, size, room)
    listed = tuple(min(em * size + PADDING, room * WIDEST_LABEL) for em in needs.listed)
    left = max(room - sum(labels) - sum(listed), room * 0.3)
    printed = [k for k, column in enumerate(needs.columns) if not column.empty] or list(range(len(needs.columns)))
    own = {
        k: min(needs.columns[k].em * size + PADDING, room * WIDEST_LABEL if needs.columns[k].wraps else left)
        for k in printed
    }
    panels = _panels(needs, printed, own, left)
    widths = _given_more(needs, panels, own, left)
    heights = _heights(needs, labels, size)
    heads = [_head_height(needs, panel, widths, size) for panel in panels]
    blocks = [heights.sum() + head + CAPTION * (len(panels) > 1) for head in heads]
    whole = stacks and not bool(needs.begins[1:].any())
    stacked = whole and len(panels) > 1 and float(max(blocks)) <= (body - BETWEEN) / 2
    pages, covered = _pages(needs, heights, heads, blocks, body, (above, below), stacked)
    inside = any(
        needs.columns[a[-1]].path[0] == needs.columns[b[0]].path[0] and len(needs.columns[a[-1]].path) > 1
        for a, b in pairwise(panels)
        if a and b
    )
    plan = PagePlan(across, size, room, body, labels, listed, widths, panels, stacked, pages, covered / (pages * body))
    return plan, inside


def _label_widths(needs: Needs, size: float, room: float) -> tuple[float, ...]:
    """The width of each column of labels: its longest label in full, but at most a third of the page; longer ones wrap."""
    wants = [
        max(head * size, float((own[:, 0] * size + own[:, 1]).max(initial=0.0))) + PADDING + 2
        for head, own in zip(needs.label_heads, needs.labels, strict=True)
    ]
    most = room * WIDEST_LABEL
    while sum(min(want, most) for want in wants) > room * WIDEST_LABELS and most > 30:
        most -= 2
    return tuple(min(want, most) for want in wants)


def _panels(needs: Needs, printed: Sequence[int], widths: dict[int, float], left: float) -> tuple[tuple[int, ...], ...]:
    """The columns block by block: cut between outer periods if one fits on a page, else within it, in even parts."""

    def wide(columns: Sequence[int]) -> float:
        return sum(widths[k] + (GAP if needs.columns[k].opens and k != columns[0] else 0) for k in columns)

    found = list(_cut(needs, list(printed), wide, left, 0)) or [()]
    if len(found) > 1 and len(found[-1]) == 1 and wide((*found[-2], *found[-1])) <= left:
        found[-2:] = [(*found[-2], *found[-1])]  # a grand total stays with the columns before it
    return tuple(found)


def _cut(needs: Needs, columns: list[int], wide: Wide, left: float, depth: int) -> Iterator[tuple[int, ...]]:
    """Columns as blocks that are not wider than `room`: whole groups together if they fit, others separately."""
    if wide(columns) <= left:
        if columns:
            yield tuple(columns)
        return
    groups = _groups(needs, columns, depth)
    if len(groups) == 1 and depth + 1 >= max(len(needs.columns[k].path) for k in columns):
        yield from _even([(k,) for k in columns], wide, left)
        return
    together: list[tuple[int, ...]] = []
    for group in groups:
        if wide(group) <= left:
            together.append(tuple(group))
            continue
        yield from _even(together, wide, left)
        together = []
        yield from _cut(needs, group, wide, left, depth + 1)
    yield from _even(together, wide, left)


def _even(units: list[tuple[int, ...]], wide: Wide, left: float) -> Iterator[tuple[int, ...]]:
    """Units in the fewest blocks, as evenly as possible."""
    if not units:
        return
    fewest = len(_packed(units, wide, left))
    low, high = max(map(wide, units)), left
    for _ in range(12):
        middle = (low + high) / 2
        low, high = (low, middle) if len(_packed(units, wide, middle)) <= fewest else (middle, high)
    yield from _packed(units, wide, high)


def _groups(needs: Needs, columns: Sequence[int], depth: int) -> list[list[int]]:
    """Consecutive columns with the same headings down to a depth."""
    found: list[list[int]] = []
    last: tuple[str, ...] | None = None
    for k in columns:
        here = needs.columns[k].path[: depth + 1]
        if here != last:
            found.append([])
        found[-1].append(k)
        last = here
    return found


def _packed(units: Sequence[tuple[int, ...]], wide: Wide, left: float) -> tuple[tuple[int, ...], ...]:
    panels: list[tuple[int, ...]] = []
    for unit in units:
        if panels and wide((*panels[-1], *unit)) <= left:
            panels[-1] = (*panels[-1], *unit)
        else:
            panels.append(unit)
    return tuple(panels)


def _given_more(needs: Needs, panels: Sequence[Sequence[int]], own: dict[int, float], left: float) -> dict[int, float]:
    """The widths extended into the remaining space, the same in every block, so that blocks under each other align."""
    gaps = [GAP * sum(needs.columns[k].opens and k != panel[0] for k in panel) for panel in panels]
    base = own
    if len(panels) > 1:  # each column as wide as the corresponding ones of the other blocks
        at = {k: i for panel in panels for i, k in enumerate(panel)}
        widest = [max(own[k] for k in own if at[k] == i) for i in range(max(map(len, panels)))]
        alike = {k: widest[i] for k, i in at.items()}
        if all(sum(alike[k] for k in panel) + gap <= left for panel, gap in zip(panels, gaps, strict=True)):
            base = alike
    free = [
        (left - gap - sum(base[k] for k in panel)) / max(1, len(panel)) for panel, gap in zip(panels, gaps, strict=True)
    ]
    more = max(0.0, min([*free, MOST_MORE]))
    return {k: w + more for k, w in base.items()}


def _heights(needs: Needs, labels: Sequence[float], size: float) -> NDArray[np.float64]:
    """Each row's height, shape (rows,)."""
    lines = np.ones(needs.rows)
    for own, room in zip(needs.labels, labels, strict=True):
        lines = np.maximum(lines, np.ceil(own[:, 0] * size / np.maximum(size, room - PADDING - own[:, 1]) - 1e-6))
    lines = np.where(needs.names, 1, lines)  # a group's name spans all columns
    line = 2 * PADS[size] + CAPITAL * size
    found: NDArray[np.float64] = (
        line + (lines - 1) * (CAPITAL + LEADING) * size + APART * needs.spaced + NAMED * needs.names
    )
    return found


def _head_height(needs: Needs, panel: Sequence[int], widths: dict[int, float], size: float) -> float:
    small = head_size(size)
    lines = max(
        (math.ceil(needs.columns[k].head * small / max(small, widths[k] - PADDING) - 1e-6) for k in panel), default=1
    )
    high = needs.headings * (2 * PADS[size] + CAPITAL * small) + (max(1, lines) - 1) * (CAPITAL + LEADING) * small
    return float(high)


def _pages(
    needs: Needs, heights: NDArray[np.float64], heads: Sequence[float], blocks: Sequence[float], body: float,
    around: tuple[float, float], stacked: bool,
) -> tuple[int, float]:  # fmt: skip
    """The number of pages, and the points that are covered."""
    above, below = around
    pages, used = 1, above
    if stacked:
        for n, block in enumerate(blocks):
            need = block + (BETWEEN if n else 0)
            pages, used = (pages, used + need) if used + need <= body else (pages + 1, block)
        covered = above + sum(blocks) + BETWEEN * (len(blocks) - 1)
    else:
        starts = [0, *(np.flatnonzero(needs.begins[1:]) + 1).tolist(), needs.rows]
        covered, tall = above, float(heights.max(initial=0.0))
        for n, head in enumerate(heads):
            for part, (a, b) in enumerate(pairwise(starts)):
                if n or part:
                    pages, used = pages + 1, 0.0
                own, room = float(heights[a:b].sum()), max(1.0, body - head - tall / 2)
                more = max(0, math.ceil((own + used + head - body) / room))
                pages, used = pages + more, own + used + head * (1 + more) - more * body
                covered += own + head * (1 + more)
    if used + below > body:
        pages += 1
    return pages, covered + below
