"""A sheet laid out for the screen."""

from collections.abc import Sequence

import numpy as np

from kalendor.api import models
from kalendor.core.groupings.levels import ORDINARY
from kalendor.core.placing.frame import Axis
from kalendor.core.sheet.sheet import Sheet
from kalendor.core.values.columns import NUMERIC
from kalendor.core.values.days import day_label
from kalendor.definitions.figure import Compare
from kalendor.definitions.report import Report
from kalendor.output.seen import column_paths
from kalendor.output.shown import shown_cells

FIRST_CELLS = 24_000


def sheet_view(key: str, sheet: Sheet, report: Report) -> models.SheetView:
    """The whole outline of a sheet, and the cells of its first lines."""
    lines = sheet.frame.lines
    shown = sheet.line_rows
    columns = column_paths(sheet)
    per_line = max(1, len(columns) * len(sheet.figures))
    first = list(dict.fromkeys(shown.lines.tolist()))[: max(60, FIRST_CELLS // per_line)]
    depths = lines.depth[shown.lines]
    return models.SheetView(
        key=key,
        title=sheet.title,
        as_of=day_label(sheet.as_of),
        notes=list(sheet.notes),
        down=_levels(lines),
        across=_levels(sheet.frame.columns),
        figures=[models.FigureView(name=f.name, numeric=f.cells.kind in NUMERIC) for f in sheet.figures],
        columns=[_head(sheet, column, path) for column, path in columns],
        rows=models.Rows(
            line=shown.lines.tolist(),
            depth=depths.tolist(),
            role=list(shown.roles),
            label=[sheet.line_heading(i) for i in shown.lines.tolist()],
            special=_special(lines, shown.lines).tolist(),
            value=_values(lines, shown.lines),
            entry=[lines.levels[d - 1].entry if d else -1 for d in depths.tolist()],
        ),
        cells=cells_of(sheet, report, first),
        tie_out=tie_out_view(sheet),
    )


def _levels(axis: Axis) -> list[models.LevelView]:
    return [models.LevelView(name=level.name, kind=level.kind) for level in axis.levels]


def _head(sheet: Sheet, column: int, path: list[str]) -> models.ColumnHead:
    depth = int(sheet.frame.columns.depth[column])
    deepest = len(sheet.frame.columns.levels)
    role = "leaf" if depth == deepest else "grand" if depth == 0 else "subtotal"
    return models.ColumnHead(id=column, labels=path, depth=depth, role=role)


def _special(axis: Axis, lines: np.ndarray) -> np.ndarray:
    result = np.zeros(len(lines), dtype=np.int64)
    for k, level in enumerate(axis.levels):
        at = np.flatnonzero(axis.depth[lines] == k + 1)
        result[at] = level.members.special[axis.path[lines[at], k]]
    return result


def _values(axis: Axis, lines: np.ndarray) -> list[str | None]:
    """The value of each line of a category's innermost level; None for all other lines."""
    values: list[str | None] = [None] * len(lines)
    for k, level in enumerate(axis.levels):
        inner = level.kind == "category" and (k + 1 == len(axis.levels) or axis.levels[k + 1].entry != level.entry)
        if not inner:
            continue
        names = level.members.codes or level.members.labels
        for at in np.flatnonzero(axis.depth[lines] == k + 1).tolist():
            code = int(axis.path[lines[at], k])
            if level.members.special[code] == ORDINARY:
                values[at] = names[code]
    return values


def cells_of(sheet: Sheet, report: Report, lines: Sequence[int]) -> dict[int, list[str]]:
    """The figures of the given lines as text: for each column in order, one text a figure."""
    columns = sheet.column_rows.filled()
    width = sheet.frame.columns.count
    index = (np.asarray(lines, dtype=np.int64)[:, None] * width + columns[None, :]).reshape(-1)
    signed = {f.name for f in report.figures if isinstance(f, Compare) and f.as_ in ("percent", "difference")}
    by_figure = [shown_cells(figure, figure.name in signed, index) for figure in sheet.figures]
    n = len(columns)
    result: dict[int, list[str]] = {}
    for i, line in enumerate(lines):
        result[line] = [texts[i * n + c] for c in range(n) for texts in by_figure]
    return result


def tie_out_view(sheet: Sheet) -> models.TieOutView:
    """The tie-out, its totals as people read them."""
    found = sheet.tie_out
    figures = {f.name: f for f in sheet.figures}
    footings = []
    for footing in found.footings:
        figure = figures.get(footing.figure)
        text = shown_cells(figure, False, np.array([0]))[0] if figure is not None else footing.total
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
