"""A sheet as an aligned table for a terminal."""

import unicodedata

from kalendor.output.handover import Handover
from kalendor.output.typeset import by_columns, typeset


def aligned(given: Handover) -> str:
    """The sheet's lines with labels to the left and numbers to the right, a rule under the headings and over each total."""
    set_ = typeset(given.sheet)
    indent = "" if by_columns(given.sheet) else "  "
    heads = [list(set_.label_heads)]
    labels = [[indent * max(0, row.depth - 1) + row.labels[0], *row.labels[1:]] for row in set_.rows]
    groups = [[*column.labels[:-1]] for column in set_.columns]
    for depth in range(max((len(column.labels) for column in set_.columns), default=0)):
        above = [column.labels[depth] if depth < len(column.labels) else "" for column in set_.columns]
        before = [""] + [f"{g[:depth]}{a}" for g, a in zip(groups, above, strict=True)]
        shown = [a if f"{g[:depth]}{a}" != b else "" for g, a, b in zip(groups, above, before, strict=False)]
        heads.insert(-1, [""] * len(set_.label_heads) + shown)
    heads[-1] = [*set_.label_heads, *(set_.figure(column).name for column in set_.columns)]
    cells = [set_.shown(column) for column in set_.columns]
    rows = [[*own, *(column[i] for column in cells)] for i, own in enumerate(labels)]
    widths = [max(map(_wide, column)) for column in zip(*heads, *rows, strict=True)]
    left = len(set_.label_heads)
    rule = "─" * (sum(widths) + 2 * (len(widths) - 1))
    lines = [_line(head, widths, left) for head in heads] + [rule]
    for row, place in zip(rows, set_.rows, strict=True):
        if place.role == "grand":
            lines.append(rule)
        lines.append(_line(row, widths, left))
    return "\n".join(line.rstrip() for line in lines)


def _line(texts: list[str], widths: list[int], left: int) -> str:
    fields = []
    for n, (text, width) in enumerate(zip(texts, widths, strict=True)):
        space = " " * (width - _wide(text))
        fields.append(text + space if n < left else space + text)
    return "  ".join(fields)


def _wide(text: str) -> int:
    """The number of terminal columns that a text takes: two for wide letters, none for combining marks."""
    return sum(0 if unicodedata.combining(c) else 2 if unicodedata.east_asian_width(c) in "WF" else 1 for c in text)
