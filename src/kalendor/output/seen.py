"""The sheet shape: headings and indented labels as seen on screen, figures as plain numbers."""

from dataclasses import dataclass

from kalendor.core.figures.compare import MARK_WORDS
from kalendor.core.sheet.arrange import HEADING
from kalendor.core.sheet.sheet import Sheet, ShownFigure
from kalendor.core.values.columns import NUMERIC
from kalendor.output.numbers import texts

INDENT = "  "


@dataclass(frozen=True)
class SeenRow:
    """A row as seen: its label, how deep it stands (the outermost group is 0), and a text for each column and figure.

    `numeric` says which of the texts are numbers; a mark in words stands where there is no number.
    """

    label: str
    depth: int
    cells: list[str]
    numeric: list[bool]


def seen_headings(sheet: Sheet) -> list[str]:
    """The heading over the labels, then one for each column and figure."""
    names = " · ".join(level.name for level in sheet.lines.levels) or sheet.title
    columns = [" › ".join([*head.labels, figure.name]) for head in sheet.heads() for figure in sheet.figures]
    return [names, *columns]


def seen(sheet: Sheet) -> list[SeenRow]:
    """A row for each line as shown."""
    width, columns = sheet.columns.count, [head.at for head in sheet.heads()]
    written = [_written(figure) for figure in sheet.figures]
    numbers = [figure.cells.kind in NUMERIC for figure in sheet.figures]
    rows = []
    shown = zip(sheet.lines.shown.lines.tolist(), sheet.lines.shown.roles, sheet.lines.row_labels(), strict=True)
    for line, role, label in shown:
        at = [(line * width + column, i) for column in columns for i in range(len(written))]
        cells = ["" if role == HEADING else written[i][cell][0] for cell, i in at]
        numeric = [role != HEADING and numbers[i] and not written[i][cell][1] for cell, i in at]
        rows.append(SeenRow(label, max(0, int(sheet.lines.depth[line]) - 1), cells, numeric))
    return rows


def _written(figure: ShownFigure) -> list[tuple[str, bool]]:
    """Each cell's text, and whether it is a mark that stands for a number."""
    marks = [0] * len(figure.cells) if figure.marks is None else figure.marks.tolist()
    plain = zip(texts(figure.cells), marks, strict=True)
    return [(MARK_WORDS[mark], True) if not text and mark else (text, False) for text, mark in plain]
