"""The sheet itself as a worksheet: headings, collapsible lines, numbers with their formats, live totals."""

import math
from collections.abc import Callable
from dataclasses import dataclass
from datetime import date, datetime, time
from typing import Any

from xlsxwriter.utility import xl_col_to_name
from xlsxwriter.worksheet import Worksheet

from kalendor.core.sheet.arrange import GRAND, HEADING, LEAF, SUBTOTAL
from kalendor.core.values.columns import EXACT, NUMERIC
from kalendor.core.values.notation import grouped
from kalendor.errors import DefinitionError
from kalendor.output.handover import Handover
from kalendor.output.live_totals import CLOSE, live, spans
from kalendor.output.told import tie_words, under_title
from kalendor.output.typeset import RECORD, SetColumn, SetRow, Typeset, by_columns, typeset
from kalendor.output.watching import so_far
from kalendor.output.workbook.print_setup import label_widths, set_up
from kalendor.output.workbook.styles import (
    DOUBLE,
    INK,
    MARIGOLD,
    OXBLOOD,
    PETROL,
    QUIET,
    THIN,
    Styles,
    column_format,
    number_format,
    quoted,
)  # fmt: skip
from kalendor.output.workbook.values import Value, cell_values

MOST_ROWS, MOST_COLUMNS, MOST_LEVELS = 1_048_576, 16_384, 7
SEEN, BESIDE = (
    12,
    5,
)  # columns visible when a workbook is opened; columns shown before the latest if that is further right
ROW = 15  # points, the height of a row
MOST_ADDED = 200  # most cells listed one by one in a formula


@dataclass(frozen=True, eq=False)
class SetPage:
    """Where a sheet is in its workbook: the worksheet's name, the first row of its lines, and its columns."""

    name: str
    set: Typeset
    top: int
    left: int

    def cell(self, row: int, column: int) -> str:
        """The address of a figure's cell, by the positions of its row and column, for formulas of other sheets."""
        quoted = self.name.replace("'", "''")
        return f"='{quoted}'!${xl_col_to_name(self.left + column)}${self.top + row + 1}"


def write_page(sheet: Worksheet, styles: Styles, given: Handover) -> SetPage:
    """Write a sheet in the sheet shape.

    Raises DefinitionError if it has more rows or columns than a workbook can hold.
    """
    set_ = typeset(given.sheet)
    labels = len(set_.label_heads)
    left = labels + len(set_.listed)
    wide = left + len(set_.columns)
    above: list[tuple[str, dict[str, Any]]] = [
        (given.sheet.title, {"font_size": 16, "bold": True}),
        (under_title(given.sheet), {"font_color": QUIET}),
    ]
    above += [(sentence, {"font_size": 11}) for sentence in given.headline]
    heads = len(above) + 1
    top = heads + len(set_.headings)
    _check(set_, top, wide)
    _lay_out(sheet, set_, given, heads, top, left)
    for row, (text, look) in enumerate(above):
        sheet.write_string(row, 0, text, styles.of(**look, **quoted(text)))
    _headings(sheet, styles, set_, heads, left)
    _Lines(sheet, styles, set_, given, top, left).write()
    end = top + len(set_.rows) + 1
    for text in (*set_.footnotes, tie_words(given.sheet), *given.sheet.notes):
        sheet.write_string(end, 0, text, styles.of(font_color=QUIET, font_size=9))
        end += 1
    sheet.print_area(0, 0, end - 1, wide - 1)
    return SetPage(sheet.get_name(), set_, top, left)


def _check(set_: Typeset, top: int, wide: int) -> None:
    rows = top + len(set_.rows) + 8 + len(set_.sheet.notes) + len(set_.footnotes)
    if rows > MOST_ROWS or wide > MOST_COLUMNS:
        raise DefinitionError(
            f"the sheet has {grouped(len(set_.rows))} lines and {grouped(wide)} columns; a workbook holds {grouped(MOST_ROWS)} and"
            f" {grouped(MOST_COLUMNS)}: keep fewer lines, or choose delimited text"
        )


def _lay_out(sheet: Worksheet, set_: Typeset, given: Handover, heads: int, top: int, left: int) -> None:
    for k, width in enumerate([*label_widths(set_), *(width + 2 for width in set_.listed_widths)]):
        sheet.set_column(k, k, width)
    for k, column in enumerate(set_.columns):
        sheet.set_column(left + k, left + k, column.width + 3)
    set_up(sheet, set_, given, heads, top, left)
    latest = latest_column(set_)
    sheet.freeze_panes(top, left, top, left + (latest - BESIDE if latest >= SEEN else 0))
    if set_.columns:
        sheet.set_selection(top, left + latest, top, left + latest)
    sheet.hide_gridlines(2)
    after = any(row.role == HEADING for row in set_.rows)
    sheet.outline_settings(True, after, False, False)


def latest_column(set_: Typeset) -> int:
    """The first column of the latest period that has a number; 0 if columns are not periods, or it is among the first."""
    side = set_.sheet.columns
    if not side.levels or side.levels[0].kind != "period":
        return 0
    leaves = [k for k, column in enumerate(set_.columns) if column.role == LEAF and any(set_.shown(column))]
    if not leaves:
        return 0
    place = set_.columns[leaves[-1]].at
    return next(k for k in leaves if set_.columns[k].at == place)


def _headings(sheet: Worksheet, styles: Styles, set_: Typeset, top: int, left: int) -> None:
    last = len(set_.headings) - 1
    for r, row in enumerate(set_.headings):
        under = {"bottom": THIN, "bottom_color": INK} if r == last else {}
        corner = [*set_.label_heads, *set_.listed] if r == last else [""] * left
        for k, text in enumerate(corner):
            numeric = (
                k >= len(set_.label_heads) and list(set_.listed.values())[k - len(set_.label_heads)].kind in NUMERIC
            )
            align = {"align": "right"} if numeric else {}
            sheet.write_string(
                top + r, k, text, styles.of(font_color=QUIET, text_wrap=True, **under, **align, **quoted(text))
            )
        at = left
        for head in row:
            if r < last and head.label:
                look = styles.of(
                    bold=True, align="center", font_color=PETROL if head.period else INK, bottom=THIN,
                    bottom_color=PETROL if head.period else INK, **quoted(head.label),
                )  # fmt: skip
                if head.columns > 1:
                    sheet.merge_range(top + r, at, top + r, at + head.columns - 1, "", look)
                sheet.write_string(top + r, at, head.label, look)
            elif head.label or under:
                colour = PETROL if head.period else QUIET
                look = styles.of(
                    align="right", font_color=colour, bold=head.period, text_wrap=True, **under, **quoted(head.label)
                )
                sheet.write_string(top + r, at, head.label, look)
            at += head.columns


class _Lines:
    """The rows of a sheet, written one after another."""

    def __init__(self, sheet: Worksheet, styles: Styles, set_: Typeset, given: Handover, top: int, left: int) -> None:
        self.sheet, self.styles, self.set, self.top, self.left = sheet, styles, set_, top, left
        self.label_widths = label_widths(set_)
        self.headed = any(row.role == HEADING for row in set_.rows)
        self.columnar = by_columns(set_.sheet)
        self.formats = [number_format(set_.figure(column)) for column in set_.columns]
        self.values = [self._values(column) for column in set_.columns]
        self.listed = [cell_values(column) for column in set_.listed.values()]
        self.listed_formats = [column_format(column) for column in set_.listed.values()]
        self.over = spans(set_)
        as_formulas = given.export.subtotals == "live"
        self.live = [live(set_, self.over, column) if as_formulas else None for column in set_.columns]
        self.noted = [set_.noted(column) for column in set_.columns]
        self.parts = _parts(set_.columns) if as_formulas else [[] for _ in set_.columns]

    def _values(self, column: SetColumn) -> list[Value]:
        cells = cell_values(self.set.figure(column).as_shown.cells.take(self.set.places(column)))
        shown, _ = self.set.plain(column)
        found: list[Value] = [None] * len(self.set.rows)
        for place, value in zip(self.set.filled.tolist(), cells, strict=True):
            found[place] = value if value is not None else shown[place] or None
        return found

    def write(self) -> None:
        for i, row in enumerate(self.set.rows):
            so_far(i, len(self.set.rows))
            self._row(i, row)
        n = len(self.set.rows)
        if n and self.set.columns:
            first, last = self.left, self.left + len(self.set.columns) - 1
            below_zero = {"type": "cell", "criteria": "<", "value": 0, "format": self.styles.bare(font_color=OXBLOOD)}
            self.sheet.conditional_format(self.top, first, self.top + n - 1, last, below_zero)

    def _row(self, i: int, row: SetRow) -> None:
        at = self.top + i
        level = min(MOST_LEVELS, max(0, row.depth if row.role == HEADING else row.depth - 1))
        inset = 0 if self.columnar else max(0, row.depth - 1) + (1 if row.role == SUBTOTAL and self.headed else 0)
        lines = 1 if row.role == HEADING else max(map(self._lines(inset), row.marked, self.label_widths), default=1)
        height = (22 if row.space else ROW) + ROW * (lines - 1) if row.space or lines > 1 else None
        options = {"level": level} if level else {}
        self.sheet.set_row(at, height, None, options)
        strong = {"bold": True} if row.bold or row.role == HEADING or row.total else {}
        rule = self._rule(row)
        for k, label in enumerate(row.marked):
            look: dict[str, Any] = {**strong, **({"top": THIN} if row.role == GRAND else {})}
            if inset:
                look["indent"] = min(15, inset)
            if row.flagged:
                look["font_color"] = MARIGOLD
            if lines > 1:
                look["text_wrap"] = True
            self._text(at, k, label, look)
        if row.role == RECORD:
            for k, values in enumerate(self.listed):
                self._value(at, len(row.labels) + k, values[row.record], self.listed_formats[k], {"font_color": QUIET})
        if row.filled:
            for k, column in enumerate(self.set.columns):
                self._figure(i, row, k, column, {**strong, **rule})

    @staticmethod
    def _lines(inset: int) -> Callable[[str, int], int]:
        """The number of lines of a label in a column of that many characters."""
        return lambda label, width: math.ceil((len(label) + 2 * inset) / max(4, width - 1)) or 1

    @staticmethod
    def _rule(row: SetRow) -> dict[str, Any]:
        if row.role == GRAND:
            return {"top": THIN, "bottom": DOUBLE}
        return {"top": THIN} if row.role == SUBTOTAL else {}

    def _figure(self, i: int, row: SetRow, k: int, column: SetColumn, look: dict[str, Any]) -> None:
        value, at, place = self.values[k][i], self.top + i, self.left + k
        if i in self.noted[k]:
            words = "\n".join(self.set.footnotes[n] for n in self.noted[k][i])
            self.sheet.write_comment(at, place, words, {"author": "", "font_size": 9})
        formula = self._formula(i, row, k)
        if formula and isinstance(value, (int, float)):
            form = self.styles.of(num_format=self.formats[k], **look)
            self.sheet.write_formula(at, place, formula, form, value)
        else:
            self._value(at, place, value, self.formats[k], look)

    def _formula(self, i: int, row: SetRow, k: int) -> str:
        own = self.live[k]
        name = xl_col_to_name(self.left + k)
        if own is not None and own[i]:
            first, last = self.top + int(self.over.first[i]) + 1, self.top + int(self.over.last[i]) + 1
            return f"=SUBTOTAL(9,{name}{first}:{name}{last})"
        parts = self.parts[k]
        if row.role == LEAF and parts and self._adds_up(i, k, parts):
            return f"=SUM({_named(self.left, self.top + i + 1, parts)})"
        return ""

    def _adds_up(self, i: int, k: int, parts: list[int]) -> bool:
        """Whether a total column's number on a line is exactly the sum of the columns under it."""
        figure = self.set.figure(self.set.columns[k]).as_shown
        if figure.name not in {footing.figure for footing in self.set.sheet.tie_out.footings}:
            return False
        own, under = self.values[k][i], [self.values[part][i] for part in parts]
        if not isinstance(own, (int, float)) or any(isinstance(value, str) for value in under):
            return False
        added = sum(value for value in under if isinstance(value, (int, float)))
        if figure.cells.kind not in EXACT:
            return abs(added - own) <= CLOSE * max(1.0, abs(own))
        scale = 10**figure.cells.places
        return bool(round(added * scale) == round(own * scale))

    def _value(self, row: int, column: int, value: Value, num_format: str, look: dict[str, Any]) -> None:
        form = self.styles.of(num_format=num_format, **look)
        match value:
            case None:
                self.sheet.write_blank(row, column, None, form)
            case bool():
                self.sheet.write_boolean(row, column, value, form)
            case int() | float():
                self.sheet.write_number(row, column, value, form)
            case datetime() | date() | time():
                self.sheet.write_datetime(
                    row, column, value, self.styles.of(num_format=num_format, align="right", **look)
                )
            case str():
                self._text(row, column, value, {"align": "right", **look})

    def _text(self, row: int, column: int, text: str, look: dict[str, Any]) -> None:
        if text or look:
            self.sheet.write_string(row, column, text, self.styles.of(**look, **quoted(text)))


def _named(left: int, row: int, parts: list[int]) -> str:
    """The cells of some columns in a row: a range if they are adjacent, else one by one."""
    names = [f"{xl_col_to_name(left + part)}{row}" for part in parts]
    return f"{names[0]}:{names[-1]}" if parts[-1] - parts[0] == len(parts) - 1 else ",".join(names)


def _parts(columns: tuple[SetColumn, ...]) -> list[list[int]]:
    """For each total column, the innermost columns of its figure under it; none for others, or if they are too many."""
    found: list[list[int]] = []
    for column in columns:
        if column.role not in (SUBTOTAL, GRAND):
            found.append([])
            continue
        path = column.labels[:-1]
        under = [
            i for i, other in enumerate(columns)
            if other.role == LEAF and other.figure == column.figure and other.labels[: len(path)] == path
        ]  # fmt: skip
        found.append(under if len(under) <= MOST_ADDED else [])
    return found
