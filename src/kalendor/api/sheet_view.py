"""Builds the response model of a sheet: the whole outline, and the cells that are in view."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kalendor.api import sheet_models as models
from kalendor.core.figures.bases import MARK_WORDS
from kalendor.core.sheet.arrange import HEADING
from kalendor.core.sheet.sheet import ColumnHead, Sheet, ShownFigure, Side
from kalendor.core.sheet.tieout import TieOut
from kalendor.core.values.columns import EXACT, NUMERIC, WIDE, Column
from kalendor.core.values.days import day_label
from kalendor.definitions.report import Report
from kalendor.output.charting import latest_pairs
from kalendor.output.numbers import as_listed, texts
from kalendor.output.shown import shown_cells, shown_number, shown_total
from kalendor.output.told import scale_of

FEW_CELLS = 6_000
ROWS_ABOVE, ROWS_BELOW = 10, 55
MOST_COPIED = 50_000
WIDEST = 40

Index = NDArray[np.int64]


@dataclass(frozen=True)
class InView:
    """The part of a sheet in view: the row at the top, how far it is opened, and the columns from `first` on (0: all)."""

    at: int = 0
    open: int = 99
    first: int = 0
    columns: int = 0


def sheet_view(key: str, sheet: Sheet, view: InView, warnings: Sequence[str] = ()) -> models.SheetView:
    """The whole outline of a sheet, and the cells in view; for a small one all."""
    lines, shown = sheet.lines, sheet.lines.shown
    heads = sheet.heads()
    first, last = _columns(view.first, view.columns, len(heads))
    filled = [line for line, role in zip(shown.lines.tolist(), shown.roles, strict=True) if role != HEADING]
    wanted = list(dict.fromkeys([*filled, *shown.lines.tolist()]))
    if len(wanted) * len(heads) * len(sheet.figures) > FEW_CELLS:
        wanted = _near(sheet, view)
    else:
        first, last = 0, len(heads)
    return models.SheetView.model_construct(  # its values are ours: validating thousands of texts would cost as much as these
        key=key,
        title=sheet.title,
        as_of=day_label(sheet.as_of),
        notes=list(sheet.notes),
        warnings=list(warnings),
        down=[models.LevelView(name=level.name, kind=level.kind) for level in lines.levels],
        across=[models.LevelView(name=level.name, kind=level.kind) for level in sheet.columns.levels],
        figures=[
            models.FigureView(name=f.name, numeric=f.cells.kind in NUMERIC, approximate=f.approximate)
            for f in sheet.figures
        ],
        columns=[_head(sheet.columns, h) for h in heads],
        headings=[list(row) for row in sheet.heading_rows()],
        widths=widths(sheet),
        scale=scale_of(sheet),
        rows=_rows(lines),
        first=first,
        shown=last - first,
        cells=cells_of(sheet, wanted, first, last),
        cut=cut_cells(sheet, wanted, first, last),
        listed=_listed(sheet),
        tie_out=tie_out_view(sheet),
        footnotes=[
            models.FootnoteView(text=n.text, line=n.line, column=n.column, figure=n.figure) for n in sheet.footnotes
        ],
    )


def _rows(lines: Side) -> models.Rows:
    """The lines in display order, as one list for each property."""
    at, roles = lines.shown.lines, lines.shown.roles
    depths = lines.depth[at].tolist()
    return models.Rows.model_construct(
        line=at.tolist(),
        depth=depths,
        role=list(roles),
        label=lines.row_labels(),
        special=lines.special[at].tolist(),
        value=lines.values[at].tolist(),
        entry=[lines.levels[d - 1].entry if d else -1 for d in depths],
        name=lines.names[at].tolist(),
    )


def _head(side: Side, head: ColumnHead) -> models.ColumnHead:
    path: list[int] = []
    at = head.at
    while side.depth[at] > 0:
        path.insert(0, at)
        at = int(side.parent[at])
    return models.ColumnHead(
        id=head.at,
        labels=list(head.labels),
        names=side.names[path].tolist(),
        value=side.values[head.at],
        entry=side.levels[head.depth - 1].entry if head.depth else -1,
        depth=head.depth,
        role=head.role,
        special=int(side.special[head.at]),
    )


def lines_view(sheet: Sheet, asked: models.LinesAsked) -> models.LinesView:
    """The cells of some lines."""
    first, last = _columns(asked.first, asked.columns, len(sheet.columns.shown.filled()))
    lines = [line for line in asked.lines if 0 <= line < sheet.lines.count]
    return models.LinesView(
        first=first,
        shown=last - first,
        cells=cells_of(sheet, lines, first, last),
        cut=cut_cells(sheet, lines, first, last),
    )


def _columns(first: int, columns: int, count: int) -> tuple[int, int]:
    if not columns:
        return 0, count
    first = min(first, count)
    return first, min(count, first + columns)


def _near(sheet: Sheet, view: InView) -> list[int]:
    """The lines in view, given how far the sheet is opened, and some above and below."""
    depth = sheet.lines.depth[sheet.lines.shown.lines]
    there = np.flatnonzero(depth <= view.open)
    at = int(np.searchsorted(there, view.at))
    near = there[max(0, at - ROWS_ABOVE) : at + ROWS_BELOW]
    return list(dict.fromkeys(sheet.lines.shown.lines[near].tolist()))


def _places(sheet: Sheet, lines: Sequence[int], first: int, last: int) -> Index:
    columns = sheet.columns.shown.filled()[first:last]
    return (np.asarray(lines, dtype=np.int64)[:, None] * sheet.columns.count + columns[None, :]).reshape(-1)


def cells_of(sheet: Sheet, lines: Sequence[int], first: int, last: int) -> dict[int, list[str]]:
    """The figures of the given lines as text: for each column from `first` to before `last`, one text a figure."""
    at, n, width = _places(sheet, lines, first, last), last - first, len(sheet.figures)
    block = np.empty((len(lines), n, width), dtype=object)
    for f, figure in enumerate(sheet.figures):
        block[:, :, f] = np.array(shown_cells(figure, at), dtype=object).reshape(len(lines), n)
    found: list[list[str]] = block.reshape(len(lines), n * width).tolist()
    return dict(zip(lines, found, strict=True))


def cut_cells(sheet: Sheet, lines: Sequence[int], first: int, last: int) -> dict[int, list[int]]:
    """Which texts of `cells_of` compare only a part of what their line and column show; lines without any are left out."""
    at, n, width = _places(sheet, lines, first, last), last - first, len(sheet.figures)
    found: dict[int, list[int]] = {}
    for f, figure in enumerate(sheet.figures):
        if figure.cut is not None:
            for place in np.flatnonzero(figure.cut[at] & figure.cells.present[at]).tolist():
                found.setdefault(lines[place // n], []).append(place % n * width + f)
    return found


def widths(sheet: Sheet) -> list[int]:
    """The width of each column's figures in characters, from its least and greatest number."""
    lines, columns = sheet.lines.shown.filled(), sheet.columns.shown.filled()
    by_figure = [_widths(figure, sheet.columns.count, lines, columns) for figure in sheet.figures]
    return [found[c] for c in range(len(columns)) for found in by_figure]


def _widths(figure: ShownFigure, count: int, lines: Index, columns: Index) -> list[int]:
    figure = figure.as_shown
    cells = figure.cells
    marked = max((len(word) for word in MARK_WORDS), default=0) if figure.marks is not None else 0
    if not len(lines):
        return [0] * len(columns)
    at = lines[:, None] * count + columns[None, :]
    if cells.kind not in NUMERIC:
        longest = [max((len(t) for t in texts(cells.take(at[:, c]))), default=0) for c in range(len(columns))]
        return [min(WIDEST, n) for n in longest]
    values = cells.values[at] if cells.blank is None else np.where(cells.blank[at], 0, cells.values[at])
    found = []
    for extreme in (values.min(axis=0), values.max(axis=0)):
        column = Column(cells.kind, extreme, None, cells.places)
        found.append([len(shown_number(_decimal(column, i), figure)) for i in range(len(columns))])
    return [max(low, high, marked) for low, high in zip(*found, strict=True)]


def _decimal(column: Column, i: int) -> Decimal:
    value: Any = column.values[i]
    return Decimal(int(value)).scaleb(-column.places, WIDE) if column.kind in EXACT else Decimal(repr(float(value)))


def _listed(sheet: Sheet) -> models.ListedView | None:
    listing = sheet.listing
    if listing is None:
        return None
    deepest, seen, counts = len(sheet.lines.levels), set(), []
    for line in sheet.lines.shown.lines.tolist():
        heads = int(sheet.lines.depth[line]) == deepest and line not in seen
        seen.add(line)
        counts.append(len(listing.of(line)) if heads else 0)
    columns = listing.columns
    first = np.arange(min(200, int(listing.starts[-1])))
    wide = [max([len(name), *(len(t) for t in as_listed(c.take(first)))]) for name, c in columns.items()]
    return models.ListedView(
        columns=list(columns),
        numeric=[c.kind in NUMERIC for c in columns.values()],
        widths=[min(WIDEST, n) for n in wide],
        records=counts,
    )


def listed_records(sheet: Sheet, asked: models.ListedAsked) -> list[list[str]]:
    """A range of the records listed under a line, a text for each column."""
    listing = sheet.listing
    if listing is None or not 0 <= asked.line < sheet.lines.count:
        return []
    here = listing.of(asked.line)[asked.start : asked.start + asked.count]
    at = np.arange(here.start, here.stop)
    return [list(row) for row in zip(*(as_listed(c.take(at)) for c in listing.columns.values()), strict=True)]


def chosen_view(sheet: Sheet, asked: models.ChosenAsked) -> models.ChosenView:
    """A block of cells with its sum, and as text."""
    width = len(sheet.figures)
    columns = sheet.columns.shown.filled()
    last = min(asked.last, len(columns) * width)
    wanted = [(int(columns[place // width]), place % width) for place in range(min(asked.first, last), last)]
    lines = np.array([line for line in asked.lines if 0 <= line < sheet.lines.count], dtype=np.int64)
    cells = [(sheet.figures[f], lines * sheet.columns.count + column) for column, f in wanted]
    named = [(" › ".join(h.labels), f.name) for h in sheet.heads() for f in sheet.figures]
    headings = [" › ".join(part for part in named[p] if part) for p in range(min(asked.first, last), last)]
    copied = asked.texts and len(lines) * len(cells) <= MOST_COPIED
    once = np.array(_without_totals(sheet.lines, lines.tolist()), dtype=np.int64)
    within = set(_without_totals(sheet.columns, [column for column, _ in wanted]))
    counted = [(sheet.figures[f], once * sheet.columns.count + column) for column, f in wanted if column in within]
    return models.ChosenView(
        **_reckoned(counted),
        without_totals=len(once) * len(counted) < len(lines) * len(cells),
        headings=headings if copied else [],
        plain=_by_row([texts(figure.cells.take(at)) for figure, at in cells]) if copied else [],
        shown=_by_row([shown_cells(figure, at) for figure, at in cells]) if copied else [],
    )


def like_view(report: Report, sheet: Sheet, asked: models.LikeAsked) -> models.LikeView:
    """Numbers of the latest period beside what they are compared with."""
    lines = np.array([line for line in asked.lines if 0 <= line < sheet.lines.count], dtype=np.int64)
    figure = next((f for f in sheet.figures if f.name == asked.figure and f.cells.kind in NUMERIC), None)
    pairs = None if figure is None or not len(lines) else latest_pairs(sheet, report, figure, lines)
    if pairs is None:
        return models.LikeView(series=[], values=[], texts=[])
    values = [[None if np.isnan(n) else n for n in row] for row in pairs.values.tolist()]
    return models.LikeView(series=list(pairs.series), values=values, texts=[list(row) for row in pairs.texts])


def _without_totals(side: Side, chosen: Sequence[int]) -> list[int]:
    """The selected lines (or columns), each once, without those above another selected one, which would count it twice."""
    above: set[int] = set()
    for at in chosen:
        over = int(side.parent[at])
        while over >= 0 and over not in above:
            above.add(over)
            over = int(side.parent[over])
    return [at for at in dict.fromkeys(chosen) if at not in above]


def _by_row(fields: list[list[str]]) -> list[list[str]]:
    return [list(row) for row in zip(*fields, strict=True)]


def _reckoned(cells: list[tuple[ShownFigure, Index]]) -> dict[str, Any]:
    numbers = [
        (figure, figure.cells.take(at[figure.cells.present[at]]))
        for figure, at in cells
        if figure.cells.kind in NUMERIC
    ]
    count = sum(len(found) for _, found in numbers)
    nothing = {"count": count, "sum": "", "average": "", "minimum": "", "maximum": ""}
    if not count or len({figure.name for figure, _ in numbers}) != 1 or len(_units(cells)) > 1:
        return nothing
    figure = replace(numbers[0][0], marks=None, cut=None, units=None)
    values = [Decimal(str(v)) for _, found in numbers for v in map(found.item, range(len(found)))]
    total = sum(values, Decimal(0))
    said = {"sum": total, "average": total / len(values), "minimum": min(values), "maximum": max(values)}
    return {"count": count, **{name: shown_number(value, figure) for name, value in said.items()}}


def _units(cells: list[tuple[ShownFigure, Index]]) -> set[int]:
    """The units of cells that contain a number."""
    found = [f.units[at[f.cells.present[at]]] for f, at in cells if f.units is not None]
    return {unit for units in found for unit in units.tolist() if unit >= 0}


def tie_out_view(sheet: Sheet) -> TieOut:
    """The tie-out with formatted totals."""
    footings = (replace(footing, total=shown_total(sheet, footing)) for footing in sheet.tie_out.footings)
    return replace(sheet.tie_out, footings=tuple(footings))
