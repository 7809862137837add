"""Cuts a long document into parts that are typeset separately and in parallel: the typesetter's memory grows with the
number of table cells."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from kalendor.output.measuring import width
from kalendor.output.paging.planner import CAPITAL, CAPTION, ENDS, NAMED, PAPERS, SIDES, Around

SPACE = 14.0  # points above a group's name
HEIGHTS = {name: (short, long) for name, short, long in PAPERS.values()}  # of a landscape page, and a portrait one
SLACK = 1.25  # share of a part's cells within which a good place to end is searched
FULL, OVERFULL = 0.8, 0.93  # share of a page that a part may leave empty
Document = dict[str, Any]
Item = dict[str, Any]


def share(report: Document, most: int, beside: int) -> int:
    """The number of cells of each part if `beside` of them are typeset at once: at most `most`, with parts of like
    size."""
    cells = sum(cells_of(items, panel) for panel in report["panels"] for items in panel["parts"])
    rounds = -(-cells // (most * beside))
    return most if cells <= most else -(-cells // (rounds * beside))


def cells_of(items: list[Item], panel: Document) -> int:
    """The number of cells of a panel's items."""
    return int(sum(len(item.get("rows", ())) for item in items) * panel["many"])


def parted(report: Document, most: int) -> list[Document]:
    """A report's document as consecutive documents of about `most` cells each. They are cut where a page begins anyway;
    else where one is nearly full, before a group rather than within it, and the groups that contain a cut are named
    again."""
    parts: list[list[_Stretch]] = [[]]
    weight = 0
    for stretch in _stretches(report, most):
        if weight >= most:
            parts.append([])
            weight = 0
        parts[-1].append(stretch)
        weight += stretch.cells
    before = 0
    found = []
    for n, part in enumerate(parts):
        panels = _panels(report, part)
        ends = n == len(parts) - 1
        found.append(
            {**report, "panels": panels, "begins": n == 0, "ends": ends, "tables": before, "again": part[0].again}
        )
        before += len(part)
    return found


@dataclass(frozen=True)
class _Stretch:
    """Items of one panel that are in one table; whether the panel begins with them, and how many of their bookmarks
    belong to groups that began before."""

    panel: int
    begins: bool
    items: list[Item]
    cells: int
    again: int


def _panels(report: Document, part: list[_Stretch]) -> list[Document]:
    found: list[Document] = []
    last = -1
    for one in part:
        if one.panel != last:
            panel = report["panels"][one.panel]
            found.append({**panel, "caption": panel["caption"] if one.begins else "", "parts": []})
            last = one.panel
        found[-1]["parts"].append(one.items)
    return found


def _stretches(report: Document, most: int) -> Iterator[_Stretch]:
    """The stretches between possible cuts, none much longer than `most`."""
    for p, panel in enumerate(report["panels"]):
        for n, items in enumerate(panel["parts"]):
            begins = n == 0
            left: list[Item] | None = items
            above = _told(report) if begins and p == 0 else CAPTION if begins else 0.0
            again: list[Item] = []
            while left is not None:
                page = _Page(report, panel, above)
                place = _place(left, page, most, panel["many"])
                here, rest = (left, []) if place is None else _split(left, *place)
                if again and p == 0:
                    here = _marked(here, again)
                yield _Stretch(p, begins, here, cells_of(here, panel), len(again) if p == 0 else 0)
                named = _named(here, rest) if rest else []
                again = [group["marked"] for group in named if group["marked"]]
                left, begins, above = [*named, *rest] if rest else None, False, 0.0


def _told(report: Document) -> float:
    """What is above a report's sheet, in points: its title, the line under it, its headline and its chart."""
    short, long = HEIGHTS[report["paper"]]
    around = Around(width(" ".join(report["headline"]), 1), report["chart_height"] if report["chart"] >= 0 else 0.0)
    body = (short if report["across"] else long) - ENDS
    return around.height((long if report["across"] else short) - SIDES, body)


def _split(items: list[Item], k: int, row: int) -> tuple[list[Item], list[Item]]:
    """The items before a row of an item, and the rest."""
    if not row:
        return items[:k], items[k:]
    cut = items[k]
    first = {**cut, "rows": cut["rows"][:row], "beyond": cut["beyond"][:row]}
    return [*items[:k], first], [
        {**cut, "rows": cut["rows"][row:], "beyond": cut["beyond"][row:], "marks": []},
        *items[k + 1 :],
    ]


def _named(here: list[Item], rest: list[Item]) -> list[Item]:
    """The groups that contain a cut."""
    named: list[Item] = []
    for item in here:
        if item["kind"] == "group":
            named = _within(named, item)
    return _within(named, rest[0])[:-1] if rest[0]["kind"] == "group" else named


def _marked(items: list[Item], again: list[Item]) -> list[Item]:
    """Items preceded by bookmarks of the groups that contain them, under which their own are nested."""
    k = next(k for k, item in enumerate(items) if "rows" in item)
    return [*items[:k], {**items[k], "marks": [*again, *items[k]["marks"]]}, *items[k + 1 :]]


def _within(named: list[Item], group: Item) -> list[Item]:
    """The named groups after a group's name is set."""
    return [*(one for one in named if one["depth"] < group["depth"]), group]


def _place(items: list[Item], page: "_Page", most: int, many: int) -> tuple[int, int] | None:
    """The item, and its row, before which a part ends: a group if the page is nearly full, else a line."""
    cells = 0
    fallback: tuple[int, int] | None = None
    for k, item in enumerate(items):
        first = items[k - 1]["kind"] != "group" if k else False
        if item["kind"] == "group":
            if cells >= most and first and page.filled >= FULL:
                return k, 0
            page.name(item)
            continue
        if item["kind"] == "kept":
            page.keep(item["beyond"])
        for row, beyond in enumerate(item["beyond"]):
            if cells >= most:
                if item["kind"] == "lines" and (row or first) and FULL <= page.filled <= OVERFULL:
                    fallback = k, row
                if fallback and cells >= most * SLACK:
                    return fallback
            page.set(beyond)
            cells += many
    return None


class _Page:
    """How far a page is filled, in estimated points: exact for single-line rows, approximate for others."""

    def __init__(self, report: Document, panel: Document, above: float) -> None:
        short, long = HEIGHTS[report["paper"]]
        self._room: float = (short if report["across"] else long) - ENDS
        self._pad: float = report["pad"]
        self._letters: float = report["size"] * CAPITAL
        self._headings = len(panel["headings"]) * (2 * self._pad + CAPITAL * report["head"])
        self._named: list[Item] = []
        self._used: float = self._headings + above

    @property
    def filled(self) -> float:
        return self._used / self._room

    def name(self, group: Item) -> None:
        """A group's name, which is repeated on each page until the group ends."""
        self._named = _within(self._named, group)
        self._used += self._name(group)

    def set(self, beyond: float) -> None:
        """A row, on the next page if it does not fit on this one."""
        high = self._high(beyond)
        if self._used + high > self._room:
            self._turn()
        self._used += high

    def keep(self, beyond: list[float]) -> None:
        """Rows that are kept on one page."""
        if self._used + sum(map(self._high, beyond)) > self._room:
            self._turn()

    def _turn(self) -> None:
        self._used = self._headings + sum(map(self._name, self._named))

    def _high(self, beyond: float) -> float:
        return 2 * self._pad + self._letters + beyond

    def _name(self, group: Item) -> float:
        return (SPACE if group["space"] else self._pad + NAMED) + self._letters + self._pad
