"""Lays a sheet out on pages: the paper, the type size, which columns are on which pages, what is kept together."""

from collections.abc import Iterator, Sequence
from dataclasses import replace
from typing import Any

from kalendor.core.sheet.arrange import GRAND, HEADING, SUBTOTAL
from kalendor.core.values.columns import NUMERIC
from kalendor.core.values.notation import grouped
from kalendor.output.charting import Chart
from kalendor.output.handover import Handover
from kalendor.output.measuring import width
from kalendor.output.numbers import as_listed
from kalendor.output.paging.choices import paper_of
from kalendor.output.paging.needs import PADDING, STEP, inset_of, needs_of
from kalendor.output.paging.planner import (
    APART,
    CAPITAL,
    LEADING,
    PAPERS,
    Around,
    PagePlan,
    head_size,
    least_size,
    planned,
)
from kalendor.output.paging.spans import spans
from kalendor.output.shown import tone_of
from kalendor.output.told import tie_words, under_title
from kalendor.output.typeset import SetRow, Typeset, by_columns, typeset

Cell = str | dict[str, Any]
Row = tuple[int, str, list[Cell], float]
INCH = 72.0  # points
MOST_SPANNED = 200  # lines that one cell beside them may span
TALL = "\u0250"  # the first code point that may be higher than a line of the product's type
LONG = 4_000  # rows from which only the outermost groups have bookmarks
MOST_STACKED = 40_000  # cells of a document whose blocks may be placed under each other
BRACKET, DIGITS = (
    "\u2009\u00a0",
    frozenset("0123456789%"),
)  # as wide as a closing bracket; characters that may come before it
HERE = "\u200b"  # where a word may be broken


def document(given: Handover, drawn: Chart | None, place: int, most: int | None = None) -> dict[str, Any]:
    """The template's input for a sheet; `drawn` is its chart, if any, and `place` the number of its picture in the
    document. With `most`, of its first rows only."""
    set_ = typeset(given.sheet)
    if most is not None:
        set_ = replace(set_, rows=set_.rows[:most])
    texts = [set_.shown(column) for column in set_.columns]
    listed = [as_listed(column) for column in set_.listed.values()]
    around = around_of(given, set_, drawn)
    plan = planned(needs_of(set_, texts), paper_of(given.export), around)
    outline = list(_outline(set_, listed, plan, texts))
    return {
        "title": given.sheet.title, "source": given.sheet.tie_out.source, "under": under_title(given.sheet),
        "headline": list(given.headline), "short": given.short, "chart": -1 if drawn is None else place, "chart_height": around.chart_height(plan.body), "room": plan.room,
        "alternative": "" if drawn is None else drawn.alternative,
        "paper": PAPERS[given.export.paper][0], "across": plan.across, "size": plan.size, "head": head_size(plan.size), "least": least_size(plan.size), "pad": plan.pad,
        "stacked": plan.stacked and len(set_.rows) * len(set_.columns) <= MOST_STACKED,
        "labels": list(set_.label_heads), "label_widths": plan.labels,
        "listed": [column.kind in NUMERIC for column in set_.listed.values()], "listed_names": list(set_.listed),
        "listed_widths": plan.listed,
        "panels": [_panel(set_, plan, n, texts, outline) for n in range(len(plan.panels))],
        "begins": True, "ends": True, "tables": 0, "tie": tie_words(given.sheet), "footnotes": set_.footnotes,
        "notes": [*given.sheet.notes, *unprinted(set_, plan)],
        "foot": [given.edition] if given.edition else [], "organisation": given.organisation,
    }  # fmt: skip


def around_of(given: Handover, set_: Typeset, drawn: Chart | None) -> Around:
    """What surrounds a sheet."""
    under = [tie_words(given.sheet), *given.sheet.notes, *set_.footnotes]
    return Around(
        width(" ".join(given.headline), 1),
        0.0 if drawn is None else INCH * drawn.height,
        tuple(width(text, 1) for text in under),
    )


def unprinted(set_: Typeset, plan: PagePlan) -> list[str]:
    """A note on the columns that are not printed because they are entirely empty."""
    count = len(set_.columns) - len(plan.widths)
    return (
        [f"{grouped(count)} column{' is' if count == 1 else 's are'} empty throughout and not printed"] if count else []
    )


def _panel(
    set_: Typeset, plan: PagePlan, n: int, texts: list[list[str]], outline: list[list[dict[str, Any]]]
) -> dict[str, Any]:  # fmt: skip
    columns = plan.panels[n]
    first = columns[0] if columns else -1
    tracks = [
        {
            "gap": set_.columns[k].opens and k != first, "numeric": set_.figure(set_.columns[k]).cells.kind in NUMERIC,
            "width": plan.widths[k],
        }
        for k in columns
    ]  # fmt: skip
    lead_columns = len(set_.label_heads) + len(set_.listed)
    bare, at = list(range(len(set_.label_heads), lead_columns)), lead_columns
    fields: list[list[Cell]] = []
    for k, track in zip(columns, tracks, strict=True):
        if track["gap"]:
            fields.append([""] * len(set_.rows))
            bare.append(at)
            at += 1
        fields.append(
            _toned(texts[k]) if track["numeric"] else [broken(t, plan.widths[k], plan.size) for t in texts[k]]
        )
        at += 1
    parts = [[_filled(item, fields, n) for item in part] for part in outline]
    caption = f"Columns, part {n + 1} of {len(plan.panels)}" if len(plan.panels) > 1 else ""
    return {
        "columns": tracks, "headings": _headings(set_, columns, tracks, plan.size), "parts": parts, "caption": caption,
        "bare": bare, "many": at,
    }  # fmt: skip


def broken(text: str, track: float, size: float) -> str:
    """A text with break opportunities in words that are wider than their room."""
    room = track - PADDING
    if width(text, size, bold=True) <= room:
        return text
    return " ".join(_pieces(word, room, size) for word in text.split(" "))


def _pieces(word: str, room: float, size: float) -> str:
    """A word with a break opportunity before each letter that would exceed the room."""
    if width(word, size, bold=True) <= room:
        return word
    made, used = "", 0.0
    for letter in word:
        own = width(letter, size, bold=True)
        if used and used + own > room:
            made, used = made + HERE, 0.0
        made, used = made + letter, used + own
    return made


def _toned(texts: list[str]) -> list[Cell]:
    """A figure's texts with their styles; beside numbers in brackets the others leave room for the closing one, so that
    digits align."""
    if any(text.endswith(")") for text in texts):
        texts = [text + BRACKET if text and text[-1] in DIGITS else text for text in texts]
    return [_told(text, tone_of(text)) for text in texts]


def _told(text: str, tone: str, inset: int = 0, above: float = 0.0) -> Cell:
    return {"text": text, "tone": tone, "inset": inset, "above": above} if tone or inset or above else text


def _filled(item: dict[str, Any], fields: list[list[Cell]], panel: int) -> dict[str, Any]:
    """An item of the outline with the numbers of a panel's columns."""
    if item["kind"] == "group":
        return item
    marks, beyond = item["marks"] if panel == 0 else [], item["beyond"]
    rows = [[*lead, *(column[at] for column in fields)] for at, _, lead, _ in item["rows"]]
    if item["kind"] == "lines":
        return {"kind": "lines", "rows": rows, "beyond": beyond, "marks": marks}
    roles = [role if role in ("subtotal", "grand") else "line" for _, role, _, _ in item["rows"]]
    kept = [{"role": r, "cells": c} for r, c in zip(roles, rows, strict=True)]
    return {"kind": "kept", "rows": kept, "beyond": beyond, "marks": marks}


def _headings(
    set_: Typeset, columns: Sequence[int], tracks: list[dict[str, Any]], size: float
) -> list[list[dict[str, Any]]]:
    """The rows of headings over some columns."""
    gaps = [track["gap"] for track in tracks]
    return [
        [
            {
                "label": broken(span.head.label, tracks[span.first]["width"], head_size(size)) if span.columns == 1 else span.head.label,
                "period": span.head.period, "columns": span.columns, "gap": span.gap,
            }
            for span in spans(row, columns, gaps)
        ]
        for row in set_.headings
    ]  # fmt: skip


def _outline(
    set_: Typeset, listed: list[list[str]], plan: PagePlan, texts: list[list[str]]
) -> Iterator[list[dict[str, Any]]]:
    """The rows in parts (each begins a page): names of groups, and rows, a total with the line before it."""
    indented = not by_columns(set_.sheet)
    part: list[dict[str, Any]] = []
    worded = [
        (texts[k], plan.widths[k])
        for k, c in enumerate(set_.columns)
        if k in plan.widths and set_.figure(c).cells.kind not in NUMERIC
    ]
    lines: list[Row] = []
    marks: list[dict[str, Any]] = []
    for at, row in enumerate(set_.rows):
        after = set_.rows[at + 1] if at + 1 < len(set_.rows) else None
        if row.page and part:
            yield part
            part = []
        if row.role == HEADING:
            marked = {"depth": row.depth, "label": row.labels[0]} if row.depth == 1 or len(set_.rows) < LONG else None
            if marked:
                marks.append(marked)
            head = {
                "depth": row.depth,
                "label": row.marked[0],
                "space": row.space,
                "flagged": row.flagged,
                "marked": marked,
            }
            part.append({"kind": "group", **head})
            continue
        tall = max((_lines(own[at], w - PADDING, plan.size) for own, w in worded), default=1)
        beyond = _beyond(row, indented, listed, plan, tall)
        lines.append((at, row.role, _lead(row, indented, listed, plan), beyond))
        if after is None or after.role == HEADING or after.page or (row.total and not after.total):
            part += _kept(lines, marks)
            lines, marks = [], []
    yield part


def _kept(lines: list[Row], marks: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """Consecutive lines: the totals at their end are kept with the line before them. The first item has the bookmarks
    of the groups that begin there."""
    first = len(lines)
    while first and lines[first - 1][1] in (SUBTOTAL, GRAND):
        first -= 1
    cut = max(0, first - 1) if first < len(lines) else first
    plain = [lines[start : min(cut, start + MOST_SPANNED)] for start in range(0, cut, MOST_SPANNED)]
    kept = [lines[cut:]] if cut < len(lines) else []
    made = [*({"kind": "lines", "rows": rows} for rows in plain), *({"kind": "kept", "rows": rows} for rows in kept)]
    return [
        {**one, "beyond": [row[3] for row in one["rows"]], "marks": marks if i == 0 else []}
        for i, one in enumerate(made)
    ]


def _beyond(row: SetRow, indented: bool, listed: list[list[str]], plan: PagePlan, tall: int) -> float:
    """The points by which a row is higher than a line of the product's type: its labels may wrap, it may have space
    above, or contain letters of another height, for which a guess is given. 0 if its height is known. `tall` is the
    number of lines of its figures."""
    size, inset = plan.size, STEP * inset_of(row) if indented else 0
    texts = list(zip(row.marked, (w - inset for w in plan.labels), strict=True))
    if row.record >= 0:
        texts += [(own[row.record], w) for own, w in zip(listed, plan.listed, strict=True)]
    lines = max([tall, *(_lines(text, w - PADDING, size) for text, w in texts)])
    plain = all(_of_line_height(text) for text, _ in texts)
    return (lines - 1) * (CAPITAL + LEADING) * size + (APART if row.space else 0.0) + (0.0 if plain else 0.3 * size)


def _lines(text: str, room: float, size: float) -> int:
    """The lines into which a text wraps."""
    if width(text, size, bold=True) <= room:
        return 1
    lines, used = 1, 0.0
    for word in text.split(" "):
        own = width(word, size, bold=True)
        blank = width(" ", size) if used else 0.0
        if used and used + blank + own > room:
            lines, used, blank = lines + 1, 0.0, 0.0
        lines += int(own // room) if own > room else 0
        used += blank + own
    return lines


def _of_line_height(text: str) -> bool:
    return text.isascii() or all(c < TALL or "\u2010" <= c <= "\u203a" for c in text)


def _lead(row: SetRow, indented: bool, listed: list[list[str]], plan: PagePlan) -> list[Cell]:
    """What comes before a row's figures: its labels, and a record's own columns."""
    tone = "!" if row.flagged else ""
    inset, above = (inset_of(row) if indented else 0), (APART if row.space else 0.0)
    own = [broken(t, w - STEP * inset, plan.size) for t, w in zip(row.marked, plan.labels, strict=True)]
    labels = [_told(label, tone, inset, above) for label in own]
    if row.bold and not row.total:
        labels = [{"text": label, "tone": tone or "b", "inset": inset, "above": above} for label in own]
    if row.record < 0:
        return [*labels, *("" for _ in listed)]
    return [*labels, *(broken(c[row.record], w, plan.size) for c, w in zip(listed, plan.listed, strict=True))]
