"""A sheet laid out for the screen."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from kalendor.api import models
from kalendor.core.sheet.sheet import Sheet
from kalendor.core.values.columns import NUMERIC
from kalendor.core.values.days import day_label
from kalendor.output.shown import shown_cells

FIRST_CELLS = 24_000


def sheet_view(key: str, sheet: Sheet) -> models.SheetView:
    """The whole outline of a sheet, and the cells of its first lines."""
    lines, shown = sheet.lines, sheet.lines.shown
    heads = sheet.heads()
    per_line = max(1, len(heads) * len(sheet.figures))
    first = list(dict.fromkeys(shown.lines.tolist()))[: max(60, FIRST_CELLS // per_line)]
    depths = lines.depth[shown.lines].tolist()
    return models.SheetView(
        key=key,
        title=sheet.title,
        as_of=day_label(sheet.as_of),
        notes=list(sheet.notes),
        down=[models.LevelView(name=level.name, kind=level.kind) for level in lines.levels],
        across=[models.LevelView(name=level.name, kind=level.kind) for level in sheet.columns.levels],
        figures=[
            models.FigureView(name=f.name, numeric=f.cells.kind in NUMERIC, approximate=f.approximate)
            for f in sheet.figures
        ],
        columns=[models.ColumnHead(id=h.at, labels=list(h.labels), depth=h.depth, role=h.role) for h in heads],
        headings=[[models.SpanView(label=s.label, columns=s.columns) for s in row] for row in sheet.heading_rows()],
        rows=models.Rows(
            line=shown.lines.tolist(),
            depth=depths,
            role=list(shown.roles),
            label=lines.row_labels(),
            special=lines.special[shown.lines].tolist(),
            value=lines.values[shown.lines].tolist(),
            entry=[lines.levels[d - 1].entry if d else -1 for d in depths],
        ),
        cells=cells_of(sheet, first),
        cut=cut_cells(sheet, first),
        tie_out=tie_out_view(sheet),
    )


def _places(sheet: Sheet, lines: Sequence[int]) -> NDArray[np.int64]:
    columns = sheet.columns.shown.filled()
    return (np.asarray(lines, dtype=np.int64)[:, None] * sheet.columns.count + columns[None, :]).reshape(-1)


def cells_of(sheet: Sheet, lines: Sequence[int]) -> dict[int, list[str]]:
    """The figures of the given lines as text: for each column in order, one text a figure."""
    at, n = _places(sheet, lines), len(sheet.columns.shown.filled())
    by_figure = [shown_cells(figure, at) for figure in sheet.figures]
    return {line: [texts[i * n + c] for c in range(n) for texts in by_figure] for i, line in enumerate(lines)}


def cut_cells(sheet: Sheet, lines: Sequence[int]) -> dict[int, list[int]]:
    """Which texts of `cells_of` compare only a part of what their line and column show; lines without any are left out."""
    at, n, width = _places(sheet, lines), len(sheet.columns.shown.filled()), len(sheet.figures)
    found: dict[int, list[int]] = {}
    for f, figure in enumerate(sheet.figures):
        if figure.cut is not None:
            for place in np.flatnonzero(figure.cut[at] & figure.cells.present[at]).tolist():
                found.setdefault(lines[place // n], []).append(place % n * width + f)
    return found


def tie_out_view(sheet: Sheet) -> models.TieOutView:
    """The tie-out, its totals as people read them."""
    found = sheet.tie_out
    figures = {f.name: f for f in sheet.figures}
    footings = []
    for footing in found.footings:
        figure = figures.get(footing.figure)
        text = shown_cells(figure, np.array([0]))[0] if figure is not None else footing.total
        footings.append(models.FootingView(figure=footing.figure, total=text))
    return models.TieOutView(
        source=found.source,
        read=found.read,
        refused=found.refused,
        mended=found.mended,
        steps=[models.StepView(why=s.why, kind=s.kind, records=s.records) for s in found.steps],
        on_sheet=found.on_sheet,
        not_placed=found.not_placed,
        blank=found.blank,
        footings=footings,
        controls=[models.ControlView(**vars(control)) for control in found.controls],
        hidden_lines=found.hidden_lines,
    )
