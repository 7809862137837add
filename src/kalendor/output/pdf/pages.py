"""A sheet laid out for pages: the paper, the size of type, which columns stand on which pages, what is kept together."""

from bisect import bisect_right
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import accumulate
from typing import Any

from kalendor.core.sheet.arrange import GRAND, HEADING, SUBTOTAL
from kalendor.core.values.columns import NUMERIC
from kalendor.core.values.days import short_day
from kalendor.output.handover import Handover
from kalendor.output.measuring import width
from kalendor.output.numbers import as_listed
from kalendor.output.told import tie_words, under_title
from kalendor.output.typeset import SetColumn, SetRow, Typeset, by_columns, typeset

Cell = str | dict[str, Any]
Row = tuple[int, str, list[Cell], float]
PAPERS = {"a4": ("a4", 595.28, 841.89), "letter": ("us-letter", 612.0, 792.0)}
MARGINS, GAP, PADDING, STEP = 84.0, 9.0, 8.0, 10.0
SIZES = (9.0, 8.0, 7.2)
WIDEST_LABELS = 0.45  # of the page
MOST_MORE = 26.0  # points that a column is given beyond its need
MOST_SPANNED = 200  # lines that one cell at their side spans
CAPITAL, LEADING = 0.698, 0.5  # of a size: the height of a line of the product's type, and what is between two
APART = 7.0  # points over a row that is set apart
TALL = "\u0250"  # the first letter that may stand higher than a line of the product's type
LONG = 4_000  # rows, from which bookmarks are of the outermost groups alone


@dataclass(frozen=True)
class Fit:
    """How a sheet fits on its paper: whether it lies across, the size of its type, the width that there is, in points, and
    its columns page by page."""

    across: bool
    size: float
    room: float
    panels: tuple[tuple[int, ...], ...]


def document(given: Handover, chart: int, alternative: str, most: int | None = None) -> dict[str, Any]:
    """All that the template sets of a sheet; `chart` is the place of its picture among the document's, −1 for none. With
    `most`, of its first rows alone."""
    set_ = typeset(given.sheet)
    if most is not None:
        set_ = replace(set_, rows=set_.rows[:most])
    texts = [set_.shown(column) for column in set_.columns]
    listed = [as_listed(column) for column in set_.listed.values()]
    fit = _fit(set_, given, texts, listed)
    paper, _, _ = PAPERS[given.export.paper]
    label_widths = _label_widths(set_, fit)
    outline = list(_outline(set_, listed, label_widths, fit.size))
    listed_widths = [_wide(_longest([name, *own]), fit.size) for name, own in zip(set_.listed, listed, strict=True)]
    lead = sum(label_widths) + sum(listed_widths)
    starts = [list(accumulate((head.columns for head in row), initial=0))[:-1] for row in set_.headings]
    return {
        "title": given.sheet.title, "source": given.sheet.tie_out.source, "under": under_title(given.sheet),
        "headline": list(given.headline), "chart": chart, "alternative": alternative,
        "paper": paper, "across": fit.across, "size": fit.size, "pad": 3.2 if fit.size > 8 else 2.5,
        "labels": list(set_.label_heads), "label_widths": label_widths,
        "listed": [column.kind in NUMERIC for column in set_.listed.values()], "listed_names": list(set_.listed),
        "listed_widths": listed_widths,
        "panels": [_panel(set_, fit, n, texts, lead, outline, starts) for n in range(len(fit.panels))],
        "begins": True, "ends": True, "tables": 0, "tie": tie_words(given.sheet), "footnotes": set_.footnotes, "notes": list(given.sheet.notes),
        "foot": [*([given.edition] if given.edition else []), f"as of {short_day(given.sheet.as_of)}", given.sheet.tie_out.source],
    }  # fmt: skip


def _longest(texts: Sequence[str], few: int = 24) -> list[str]:
    return sorted(texts, key=len, reverse=True)[:few]


def _wide(texts: Sequence[str], size: float) -> float:
    return max((width(text, size, bold=True) for text in texts), default=0.0) + PADDING


def _column_width(set_: Typeset, column: SetColumn, texts: list[str], size: float) -> float:
    """A column's width: its longest numbers whole, its own heading whole where that is short."""
    head = set_.figure(column).name if len(set_.sheet.figures) > 1 or not column.labels else column.labels[-1]
    words = max((width(word, size) for word in head.split()), default=0.0) + PADDING
    own = set_.sheet.layout.widths.get(set_.figure(column).name, 0)
    return max(_wide(_longest(texts), size), words, min(width(head, size) + PADDING, 9 * size), own * size * 0.6)


def _fit(set_: Typeset, given: Handover, texts: list[list[str]], listed: list[list[str]]) -> Fit:
    _, short, long = PAPERS[given.export.paper]
    ways = {"upright": (False,), "across": (True,), "fits": (False, True)}[given.export.way]
    for size in SIZES:
        for across in ways:
            room = (long if across else short) - MARGINS
            panels = _panels(set_, texts, listed, size, room)
            if len(panels) == 1:
                return Fit(across, size, room, panels)
        if size == SIZES[0] and len(set_.columns) > 40:
            break
    across = ways[-1]
    room = (long if across else short) - MARGINS
    return Fit(across, SIZES[1], room, _panels(set_, texts, listed, SIZES[1], room))


def _panels(
    set_: Typeset, texts: list[list[str]], listed: list[list[str]], size: float, room: float
) -> tuple[tuple[int, ...], ...]:
    """The columns page by page, cut between groups of columns where a group fits on a page."""
    lead = min(room * WIDEST_LABELS, sum(_label_needs(set_, size)))
    lead += sum(_wide(_longest([n, *f]), size) for n, f in zip(set_.listed, listed, strict=True))
    left = max(room - lead, room * 0.3)
    widths = [_column_width(set_, c, texts[k], size) + (GAP if c.opens else 0) for k, c in enumerate(set_.columns)]
    panels: list[tuple[int, ...]] = []
    here: list[int] = []
    used = 0.0
    for group in _groups(set_.columns):
        own = sum(widths[k] for k in group)
        if here and used + own > left:
            panels.append(tuple(here))
            here, used = [], 0.0
        for k in group:
            if here and used + widths[k] > left:
                panels.append(tuple(here))
                here, used = [], 0.0
            here.append(k)
            used += widths[k]
    return (*panels, tuple(here)) if here or not panels else tuple(panels)


def _groups(columns: Sequence[SetColumn]) -> Iterator[list[int]]:
    group: list[int] = []
    for k, column in enumerate(columns):
        if column.opens and group:
            yield group
            group = []
        group.append(k)
    if group:
        yield group


def _label_needs(set_: Typeset, size: float) -> list[float]:
    indented = not by_columns(set_.sheet)
    found = []
    for k, head in enumerate(set_.label_heads):
        longest = sorted(set_.rows, key=lambda row: len(row.marked[k]), reverse=True)[:24]
        needs = [width(r.marked[k], size, bold=True) + (STEP * _inset(r) if indented else 0) for r in longest]
        found.append(max([width(head, size), *needs]) + PADDING + 2)
    return found


def _label_widths(set_: Typeset, fit: Fit) -> list[float]:
    """The room of each column of labels: what it needs, no more than a share of the page; longer labels are broken."""
    room = fit.room * WIDEST_LABELS
    needs = _label_needs(set_, fit.size)
    whole = sum(needs)
    return [need if whole <= room else max(30.0, need * room / whole) for need in needs]


def _inset(row: SetRow) -> int:
    return max(0, row.depth - 1) + (1 if row.role == "subtotal" else 0)


def _panel(
    set_: Typeset,
    fit: Fit,
    n: int,
    texts: list[list[str]],
    lead: float,
    outline: list[list[dict[str, Any]]],
    starts: list[list[int]],
) -> dict[str, Any]:
    columns = fit.panels[n]
    first = columns[0] if columns else -1
    widths = {k: _column_width(set_, set_.columns[k], texts[k], fit.size) for k in columns}
    free = fit.room - lead - sum(widths.values()) - GAP * sum(set_.columns[k].opens and k != first for k in columns)
    more = max(0.0, min(free / max(1, len(columns)), MOST_MORE))
    tracks = [
        {
            "gap": set_.columns[k].opens and k != first, "numeric": set_.figure(set_.columns[k]).cells.kind in NUMERIC,
            "width": widths[k] + more,
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
        fields.append(_toned(texts[k]) if track["numeric"] else list(texts[k]))
        at += 1
    parts = [[_filled(item, fields, n) for item in part] for part in outline]
    caption = f"Columns {n + 1} of {len(fit.panels)}" if len(fit.panels) > 1 else ""
    return {
        "columns": tracks, "headings": _headings(set_, starts, columns, tracks), "parts": parts, "caption": caption,
        "bare": bare, "many": at,
    }  # fmt: skip


def _toned(texts: list[str]) -> list[Cell]:
    """A figure's texts, those below zero and those that are words told apart."""
    return [
        text if not text or text[0].isdigit() or text[0] == "+"
        else _told(text, "-" if text[0] in "(−" else "" if any(c.isdigit() for c in text) else "~")
        for text in texts
    ]  # fmt: skip


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
    set_: Typeset, starts: list[list[int]], columns: Sequence[int], tracks: list[dict[str, Any]]
) -> list[list[dict[str, Any]]]:
    """The rows of headings over some columns that follow each other; a gap within a heading's reach belongs to it. `starts` has
    the column that each heading begins with, row by row."""
    found = []
    for row, begins in zip(set_.headings, starts, strict=True):
        spans: list[dict[str, Any]] = []
        at = bisect_right(begins, columns[0]) - 1 if columns else len(row)
        while at < len(row) and begins[at] <= columns[-1]:
            head = row[at]
            inside = range(max(begins[at], columns[0]), min(begins[at] + head.columns, columns[-1] + 1))
            own = tracks[inside.start - columns[0] : inside.stop - columns[0]]
            if own:
                spans.append(
                    {
                        "label": head.label, "period": head.period, "columns": len(own) + sum(t["gap"] for t in own[1:]),
                        "gap": own[0]["gap"],
                    }
                )  # fmt: skip
            at += 1
        found.append(spans)
    return found


def _outline(
    set_: Typeset, listed: list[list[str]], label_widths: list[float], size: float
) -> Iterator[list[dict[str, Any]]]:
    """The rows part by part (each begins a page): names of groups, and rows, a total with the line before it."""
    indented = not by_columns(set_.sheet)
    part: list[dict[str, Any]] = []
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
        beyond = _beyond(row, indented, listed, label_widths, size)
        lines.append((at, row.role, _lead(row, indented, listed), beyond))
        if after is None or after.role == HEADING or after.page or (row.total and not after.total):
            part += _kept(lines, marks)
            lines, marks = [], []
    yield part


def _kept(lines: list[Row], marks: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """Lines one after another: the totals at their end are kept with the line before them. The first of what is made of
    them bears the bookmarks of the groups that begin there."""
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


def _beyond(row: SetRow, indented: bool, listed: list[list[str]], label_widths: list[float], size: float) -> float:
    """The points by which a row is higher than a line of the product's type: its labels may be broken, it may be set apart from
    the row above, or bear letters of another height, for which a guess is given. None where its height is known."""
    inset = STEP * _inset(row) if indented else 0
    lines = max(
        (_lines(t, w - PADDING - inset, size) for t, w in zip(row.marked, label_widths, strict=True)),
        default=1,
    )
    plain = all(_of_line_height(text) for text in row.marked)
    plain = plain and (row.record < 0 or all(_of_line_height(own[row.record]) for own in listed))
    return (lines - 1) * (CAPITAL + LEADING) * size + (APART if row.space else 0.0) + (0.0 if plain else 0.3 * size)


def _lines(text: str, room: float, size: float) -> int:
    """The lines that a text is broken to."""
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


def _lead(row: SetRow, indented: bool, listed: list[list[str]]) -> list[Cell]:
    """What stands before a row's figures: its labels, and a record's own columns."""
    tone = "!" if row.flagged else ""
    inset, above = (_inset(row) if indented else 0), (APART if row.space else 0.0)
    labels = [_told(label, tone, inset, above) for label in row.marked]
    if row.bold and not row.total:
        labels = [{"text": label, "tone": tone or "b", "inset": inset, "above": above} for label in row.marked]
    return [*labels, *(column[row.record] if row.record >= 0 else "" for column in listed)]
