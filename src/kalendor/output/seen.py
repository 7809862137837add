"""The sheet shape: headings and indented labels as seen on screen, figures as plain numbers."""

from dataclasses import dataclass

import numpy as np

from kalendor.core.figures.compare import MARK_WORDS
from kalendor.core.sheet.arrange import GRAND, HEADING, SUBTOTAL
from kalendor.core.sheet.listing import Listing
from kalendor.core.sheet.sheet import Sheet, ShownFigure
from kalendor.core.values.columns import NUMERIC
from kalendor.output.numbers import texts

INDENT, RECORD = "  ", "record"


@dataclass(frozen=True)
class SeenRow:
    """A row as seen: its labels (one, or one a level), how deep it stands (the outermost group is 0), and a text for each
    of the listed records' columns, then for each column and figure.

    `numeric` says which of the texts are numbers; a mark in words stands where there is no number.
    """

    labels: list[str]
    depth: int
    cells: list[str]
    numeric: list[bool]


def seen_headings(sheet: Sheet) -> list[str]:
    """The headings over the labels, then one for each of the records' columns, and one for each column and figure."""
    names = [level.name for level in sheet.lines.levels]
    over = names if by_columns(sheet) else [" · ".join(names) or sheet.title]
    listed = [] if sheet.listing is None else list(sheet.listing.columns)
    return [*over, *listed, *(" › ".join([*h.labels, f.name]) for h in sheet.heads() for f in sheet.figures)]


def by_columns(sheet: Sheet) -> bool:
    """Whether the labels stand in one column a level."""
    return sheet.layout.lines == "columns" and bool(sheet.lines.levels)


def seen(sheet: Sheet) -> list[SeenRow]:
    """A row for each line as shown, and for each record listed under it."""
    width, columns = sheet.columns.count, [head.at for head in sheet.heads()]
    written = [_written(figure) for figure in sheet.figures]
    numbers = [figure.cells.kind in NUMERIC for figure in sheet.figures]
    records = _Records(sheet.listing)
    rows: list[SeenRow] = []
    labels = _Labels(sheet)
    shown = zip(sheet.lines.shown.lines.tolist(), sheet.lines.shown.roles, sheet.lines.row_labels(), strict=True)
    deepest, listed = len(sheet.lines.levels), set()
    for line, role, label in shown:
        depth = int(sheet.lines.depth[line])
        if role != HEADING or not by_columns(sheet):
            at = [(line * width + column, i) for column in columns for i in range(len(written))]
            cells = ["" if role == HEADING else written[i][cell][0] for cell, i in at]
            numeric = [role != HEADING and numbers[i] and not written[i][cell][1] for cell, i in at]
            named = labels.of(line, role, label)
            rows.append(SeenRow(named, max(0, depth - 1), records.blank + cells, records.not_numbers + numeric))
        if depth == deepest and line not in listed:
            listed.add(line)
            empty = [""] * (len(columns) * len(written))
            for cells in records.under(line):
                named = labels.of(line, RECORD, "")
                rows.append(SeenRow(named, depth, cells + empty, records.numbers + [False] * len(empty)))
    return rows


class _Labels:
    """The labels of rows, one after another: one, or one a level, where a label that was said may be left out."""

    def __init__(self, sheet: Sheet) -> None:
        self.sheet, self.before = sheet, [""] * len(sheet.lines.levels)

    def of(self, line: int, role: str, label: str) -> list[str]:
        if not by_columns(self.sheet):
            return [label]
        lines = self.sheet.lines
        path = lines.path(line)
        here = [*path, *[""] * (len(lines.levels) - len(path))]
        if role in (GRAND, SUBTOTAL):
            here[max(0, len(path) - 1)] = label
            if role == GRAND:
                here = [label, *[""] * (len(lines.levels) - 1)]
        shown = here
        if self.sheet.layout.labels == "once":
            same = 0
            while same < len(path) and self.before[same] == here[same]:
                same += 1
            shown = ["" if k < same else name for k, name in enumerate(here)]
        self.before = here
        return shown


class _Records:
    """The records listed under lines, as texts."""

    def __init__(self, listing: Listing | None) -> None:
        self.listing = listing
        columns = [] if listing is None else list(listing.columns.values())
        self.numbers = [column.kind in NUMERIC for column in columns]
        self.not_numbers = [False] * len(columns)
        self.blank = [""] * len(columns)

    def under(self, line: int) -> list[list[str]]:
        if self.listing is None:
            return []
        here = self.listing.of(line)
        at = np.arange(here.start, here.stop)
        return [list(row) for row in zip(*(texts(c.take(at)) for c in self.listing.columns.values()), strict=True)]


def _written(figure: ShownFigure) -> list[tuple[str, bool]]:
    """Each cell's text, and whether it is a mark that stands for a number."""
    marks = [0] * len(figure.cells) if figure.marks is None else figure.marks.tolist()
    plain = zip(texts(figure.cells), marks, strict=True)
    return [(MARK_WORDS[mark], True) if not text and mark else (text, False) for text, mark in plain]
