"""A sheet as headings, rows and sized columns; every output in the sheet shape reads only this.

Cells are formatted one column at a time over all rows.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from kalendor.core.figures.bases import MARK_WORDS
from kalendor.core.groupings.levels import LOOSE, NOT_PLACED
from kalendor.core.sheet.arrange import GRAND, HEADING, LEAF, SUBTOTAL
from kalendor.core.sheet.sheet import Sheet, ShownFigure
from kalendor.core.values.columns import NUMERIC, Column
from kalendor.definitions.report import LevelLook
from kalendor.output.numbers import as_listed, texts
from kalendor.output.shown import shown_cells

RECORD = "record"
INDENT = "  "
RAISED = "⁰¹²³⁴⁵⁶⁷⁸⁹"
WIDEST = 60
NARROWEST = 4
Index = NDArray[np.int64]
Cell = TypeVar("Cell")


@dataclass(frozen=True)
class SetRow:
    """A row: `labels` are one, or one a level; `depth` counts levels from the outside (0: the grand total).

    `record` is the position of a listed record; `flagged`: a tree does not place the line's values; `space`, `page` and
    `bold` are its styling; `mark` are the marks of the notes on the line.
    """

    line: int
    role: str
    depth: int
    labels: tuple[str, ...]
    flagged: bool = False
    space: bool = False
    page: bool = False
    bold: bool = False
    record: int = -1
    mark: str = ""

    @property
    def marked(self) -> tuple[str, ...]:
        """The labels, the last of them followed by the marks of the notes on the line."""
        said = [k for k, label in enumerate(self.labels) if label]
        if not self.mark or not said:
            return self.labels
        return tuple(f"{label}{self.mark}" if k == said[-1] else label for k, label in enumerate(self.labels))

    @property
    def filled(self) -> bool:
        """Whether it bears figures."""
        return self.role in (LEAF, SUBTOTAL, GRAND)

    @property
    def total(self) -> bool:
        """Whether it is a subtotal or the grand total."""
        return self.role in (SUBTOTAL, GRAND)


@dataclass(frozen=True)
class SetColumn:
    """A column of one figure: its position on the sheet, its headings, outermost first, whether a group of columns
    starts with it, and its width in characters."""

    at: int
    figure: int
    labels: tuple[str, ...]
    role: str
    opens: bool
    width: int


@dataclass(frozen=True)
class SetHeading:
    """A heading over `columns` columns; `period` is True over periods, whose headings are styled differently."""

    label: str
    columns: int
    period: bool


@dataclass(frozen=True, eq=False)
class Typeset:
    """A sheet laid out for reading; `listed` are the columns of listed records, between labels and figures."""

    sheet: Sheet
    label_heads: tuple[str, ...]
    rows: tuple[SetRow, ...]
    columns: tuple[SetColumn, ...]
    headings: tuple[tuple[SetHeading, ...], ...]
    listed: dict[str, Column]

    @cached_property
    def filled(self) -> Index:
        """The rows that bear figures, by position."""
        return np.flatnonzero([row.filled for row in self.rows])

    @cached_property
    def lines(self) -> Index:
        """The line of each row that bears figures."""
        return np.array([self.rows[i].line for i in self.filled.tolist()], dtype=np.int64)

    def figure(self, column: SetColumn) -> ShownFigure:
        """The figure of a column."""
        return self.sheet.figures[column.figure]

    def places(self, column: SetColumn) -> Index:
        """The positions of a column's cells among its figure's, for each row that bears figures."""
        return self.lines * self.sheet.columns.count + column.at

    def shown(self, column: SetColumn) -> list[str]:
        """A column's formatted texts, one for each row; empty for rows that bear no figures."""
        found = _spread(shown_cells(self.figure(column), self.places(column)), "", self.filled, len(self.rows))
        for i, notes in self.noted(column).items():
            found[i] += marks_of(notes)
        return found

    def noted(self, column: SetColumn) -> dict[int, list[int]]:
        """The notes on numbers of a column: for each row that has any, their positions among the sheet's footnotes."""
        found: dict[int, list[int]] = {}
        for n, note in enumerate(self.sheet.footnotes):
            on_number = note.line is not None and (note.column is not None or note.figure is not None)
            here = note.column in (None, column.at) and note.figure in (None, self.figure(column).name)
            if on_number and here:
                for i in np.flatnonzero(self.lines == note.line).tolist():
                    found.setdefault(int(self.filled[i]), []).append(n)
        return found

    @property
    def footnotes(self) -> list[str]:
        """The notes under the sheet, each after its mark."""
        return [f"{marks_of([n])} {note.text}" for n, note in enumerate(self.sheet.footnotes)]

    def plain(self, column: SetColumn, as_shown: bool = False) -> tuple[list[str], list[bool]]:
        """A column's texts with all their digits, one for each row, and which of them are numbers; marks are written in
        words.

        `as_shown`: numbers rounded so that they add up are the rounded ones.
        """
        figure, at = self.figure(column), self.places(column)
        figure = figure.as_shown if as_shown else figure
        written, numeric = plain_cells(figure, at)
        rows = len(self.rows)
        return _spread(written, "", self.filled, rows), _spread(numeric, False, self.filled, rows)

    @cached_property
    def label_widths(self) -> list[int]:
        """The width of each column of labels, in characters."""
        own = self.sheet.layout.widths.get("")
        found = [len(head) for head in self.label_heads]
        for row in self.rows:
            inset = len(INDENT) * max(0, row.depth - 1) if len(found) == 1 else 0
            for k, label in enumerate(row.marked):
                found[k] = max(found[k], len(label) + inset)
        return [own or min(WIDEST, max(NARROWEST, n)) for n in found]

    @cached_property
    def listed_widths(self) -> list[int]:
        """The width of each column of listed records, in characters, by the first of them."""
        first = {name: column.take(np.arange(min(500, len(column)))) for name, column in self.listed.items()}
        wide = [max([len(name), *(len(t) for t in as_listed(column))]) for name, column in first.items()]
        return [min(WIDEST, max(NARROWEST, n)) for n in wide]


def _spread(found: list[Cell], empty: Cell, at: Index, rows: int) -> list[Cell]:
    """Values found for some of the rows, expanded to all of them."""
    if len(found) == rows:
        return found
    spread = [empty] * rows
    for place, value in zip(at.tolist(), found, strict=True):
        spread[place] = value
    return spread


def plain_cells(figure: ShownFigure, at: Index) -> tuple[list[str], list[bool]]:
    """A figure's cells with all their digits, and which are numbers; without a number, its mark in words."""
    cells = figure.cells.take(at)
    written = texts(cells)
    number = cells.kind in NUMERIC
    numeric = [number] * len(written)
    if figure.marks is not None:
        marks = figure.marks[at]
        for place in np.flatnonzero((marks != 0) & cells.blanks).tolist():
            written[place], numeric[place] = MARK_WORDS[int(marks[place])], False
    return written, numeric


def by_columns(sheet: Sheet) -> bool:
    """Whether the labels stand in one column a level."""
    return sheet.layout.lines == "columns" and bool(sheet.lines.levels)


def label_heads(sheet: Sheet) -> tuple[str, ...]:
    """The headings over the labels."""
    names = [level.name for level in sheet.lines.levels]
    return tuple(names) if by_columns(sheet) else (" · ".join(names) or sheet.title,)


def typeset(sheet: Sheet) -> Typeset:
    """A sheet laid out for reading, with its own layout."""
    listed = {} if sheet.listing is None else sheet.listing.columns
    return Typeset(sheet, label_heads(sheet), tuple(_rows(sheet)), _columns(sheet), _headings(sheet), listed)


def with_labels(sheet: Sheet, labels: str) -> Sheet:
    """The sheet with its labels in one column a level, `once` or on `each` line."""
    return replace(sheet, layout=sheet.layout.model_copy(update={"lines": "columns", "labels": labels}))


def marks_of(notes: Sequence[int]) -> str:
    """The marks of notes, by their positions from 0.

    >>> marks_of([0, 11])
    '¹ ¹²'
    """
    return " ".join("".join(RAISED[int(digit)] for digit in str(n + 1)) for n in notes)


def _line_marks(sheet: Sheet) -> dict[int, str]:
    """The marks of notes on whole lines."""
    found: dict[int, list[int]] = {}
    for n, note in enumerate(sheet.footnotes):
        if note.line is not None and note.column is None and note.figure is None:
            found.setdefault(note.line, []).append(n)
    return {line: marks_of(notes) for line, notes in found.items()}


def _rows(sheet: Sheet) -> Iterator[SetRow]:
    lines, marks = sheet.lines, _line_marks(sheet)
    looks = [sheet.layout.levels.get(level.name, LevelLook()) for level in lines.levels]
    labels, columnar, deepest = _Labels(sheet), by_columns(sheet), len(lines.levels)
    depths, special = lines.depth.tolist(), lines.special.tolist()
    begun: set[int] = set()
    first = True
    for line, role, label in zip(lines.shown.lines.tolist(), lines.shown.roles, lines.row_labels(), strict=True):
        depth = depths[line]
        look = looks[depth - 1] if depth else LevelLook()
        opens = line not in begun
        begun.add(line)
        if role != HEADING or not columnar:
            yield SetRow(
                line, role, depth, labels.of(line, role, label), special[line] in (NOT_PLACED, LOOSE),
                look.space and opens and not first, look.page_break and opens and not first, look.bold,
                mark=marks.get(line, "") if opens else "",
            )  # fmt: skip
            first = False
        if sheet.listing is not None and depth == deepest and opens:
            for record in sheet.listing.of(line):
                yield SetRow(line, RECORD, depth + 1, labels.of(line, RECORD, ""), record=record)


def _columns(sheet: Sheet) -> tuple[SetColumn, ...]:
    found: list[SetColumn] = []
    before: tuple[str, ...] | None = None
    for head in sheet.heads():
        path = tuple(sheet.columns.path(head.at)[:-1]) if head.depth > 1 else head.labels[:1]
        for f, figure in enumerate(sheet.figures):
            opens = bool(sheet.columns.levels) and f == 0 and _opens(sheet, head.depth, path, before)
            width = sheet.layout.widths.get(figure.name, 0) or _width(sheet, head.at, figure, head.labels)
            found.append(SetColumn(head.at, f, head.labels, head.role, opens, width))
        before = path
    return tuple(found)


def _opens(sheet: Sheet, depth: int, path: tuple[str, ...], before: tuple[str, ...] | None) -> bool:
    """Whether there is a gap before a column: between groups of columns, or between columns of several figures."""
    if before is None:
        return False
    return len(sheet.figures) > 1 or (len(sheet.columns.levels) > 1 and path[:1] != before[:1]) or depth == 0


def _width(sheet: Sheet, at: int, figure: ShownFigure, labels: tuple[str, ...]) -> int:
    """The width of a column in characters: by its longest heading's last word-like part, its extremes and its marks."""
    places = sheet.lines.shown.filled() * sheet.columns.count + at
    cells = figure.cells.take(places)
    head = figure.name if len(sheet.figures) > 1 or not labels else labels[-1]
    longest = [len(head)]
    if cells.kind in NUMERIC:
        present = np.flatnonzero(cells.present)
        if len(present):
            values = cells.values[present]
            ends = places[present[[int(np.argmin(values)), int(np.argmax(values))]]]
            longest += [len(text) for text in shown_cells(figure, ends)]
        if figure.marks is not None:
            longest += [len(MARK_WORDS[m]) for m in set(figure.marks[places].tolist())]
    else:
        longest += [len(text) for text in texts(cells)]
    return min(WIDEST, max(NARROWEST, *longest))


def _headings(sheet: Sheet) -> tuple[tuple[SetHeading, ...], ...]:
    many = len(sheet.figures)
    rows = [
        tuple(SetHeading(span.label, span.columns * many, level.kind == "period") for span in row)
        for row, level in zip(sheet.heading_rows(), sheet.columns.levels, strict=True)
    ]
    if many > 1 or not rows:
        heads = sheet.heads()
        rows.append(tuple(SetHeading(figure.name, 1, False) for _ in heads for figure in sheet.figures))
    return tuple(rows)


class _Labels:
    """The labels of consecutive rows: one, or one a level, where repeated labels may be left out."""

    def __init__(self, sheet: Sheet) -> None:
        self.sheet, self.before = sheet, [""] * len(sheet.lines.levels)
        self.columnar = by_columns(sheet)

    def of(self, line: int, role: str, label: str) -> tuple[str, ...]:
        if not self.columnar:
            return (label,)
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
        return tuple(shown)
