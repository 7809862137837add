"""Notes on lines, numbers or the whole sheet, as footnotes: marked at their place, or with their place in words."""

from collections.abc import Sequence
from dataclasses import dataclass

from kalendor.core.sheet.side import Side
from kalendor.core.values.columns import day_number
from kalendor.definitions.recurring import Note


@dataclass(frozen=True)
class Footnote:
    """A note under the sheet; its mark is at a line, at a column, or with both at a cell of a figure.

    `line` and `column` are positions on the sheet, None if the note is not on one; `figure` is None if it is not on one
    figure alone. `gone`: its place is not on the sheet.
    """

    text: str
    line: int | None = None
    column: int | None = None
    figure: str | None = None
    gone: bool = False


def footnotes(
    notes: Sequence[Note], as_of: int, lines: Side, columns: Side, figures: Sequence[str]
) -> tuple[Footnote, ...]:
    """The notes of a sheet computed for the day `as_of`, in order.

    A note whose place is no longer on the sheet says so, and is still shown.
    """
    return tuple(
        _placed(note, lines, columns, figures)
        for note in notes
        if note.as_of is None or day_number(note.as_of) == as_of
    )


def _placed(note: Note, lines: Side, columns: Side, figures: Sequence[str]) -> Footnote:
    line = None if note.line is None else lines.find(note.line)
    column = None if note.column is None else columns.find(note.column)
    figure = note.figure if note.figure in figures else None
    gone = line == -1 or column == -1 or (note.figure is not None and figure is None)
    if gone:
        place = " › ".join([*(note.line or []), *(note.column or []), *([note.figure] if note.figure else [])])
        return Footnote(f"{place}: {note.text}" if place else note.text, gone=True)
    return Footnote(note.text, line, column, figure)
