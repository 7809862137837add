"""The sheet shape: headings and indented labels as seen on screen, figures as plain numbers."""

from kalendor.core.sheet.arrange import GRAND, HEADING
from kalendor.core.sheet.sheet import Sheet
from kalendor.output.numbers import texts

INDENT = "  "


def column_paths(sheet: Sheet) -> list[tuple[int, list[str]]]:
    """The columns that bear figures, in order, with the labels from the outermost member in; totals say so."""
    columns = sheet.frame.columns
    found = []
    for column in sheet.column_rows.filled().tolist():
        path: list[str] = []
        at = column
        while at >= 0 and columns.depth[at] > 0:
            path.insert(0, sheet.column_heading(at))
            at = int(columns.parent[at])
        if columns.depth[column] < len(columns.levels):
            path.append("Total")
        found.append((column, path))
    return found


def seen(sheet: Sheet) -> list[list[str]]:
    """Rows of text: the heading row, then a row for each line as shown."""
    lines, width = sheet.frame.lines, sheet.frame.columns.count
    columns = column_paths(sheet)
    names = " · ".join(level.name for level in lines.levels) or sheet.title
    heading = [names]
    for _, path in columns:
        heading.extend(" › ".join([*path, figure.name]) for figure in sheet.figures)
    rows = [heading]
    shown = sheet.line_rows
    written = [texts(figure.cells) for figure in sheet.figures]
    grand = f"All {lines.levels[0].name}" if lines.levels else "Total"
    for line, role in zip(shown.lines.tolist(), shown.roles, strict=True):
        label = grand if role == GRAND else sheet.line_heading(line)
        row = [INDENT * max(0, int(lines.depth[line]) - 1) + label]
        for column, _ in columns:
            at = line * width + column
            row.extend("" if role == HEADING else cells[at] for cells in written)
        rows.append(row)
    return rows
