"""A sheet as a browser prints it: its columns in the page planner's blocks, with labels and headings repeated.

The page prints this instead of what is on the screen; so does the web page's file if its columns are cut.
"""

from collections.abc import Iterator, Sequence
from functools import cache
from html import escape
from pathlib import Path

from kalendor.core.sheet.arrange import HEADING, SUBTOTAL
from kalendor.core.values.columns import NUMERIC
from kalendor.output.charting import chart_of
from kalendor.output.handover import Handover
from kalendor.output.measuring import width
from kalendor.output.numbers import as_listed
from kalendor.output.paging.choices import paper_of
from kalendor.output.paging.needs import GAP, inset_of, needs_of
from kalendor.output.paging.planner import CAPITAL, PADS, Around, PagePlan, planned
from kalendor.output.paging.spans import spans
from kalendor.output.shown import tone_of
from kalendor.output.told import tie_words, under_title
from kalendor.output.typeset import RECORD, SetRow, Typeset, by_columns, typeset

TONES = {"": "", "-": " p-neg", "~": " p-word"}  # suffix of a cell's class, by its tone
PIXELS = 4 / 3  # pixels of a point
LINE = 1.2  # height of a line of text, relative to its size


def sheet_print(given: Handover) -> bytes:
    """A document that contains the sheet as printed, with its style."""
    set_ = typeset(given.sheet)
    title = escape(given.sheet.title)
    body = "\n".join(printed(set_, given, print_plan(set_, given)))
    return f'<!doctype html>\n<html lang="en"><head><meta charset="utf-8"><title>{title}</title><style>{style()}</style></head>\n<body>{body}</body></html>\n'.encode(
        "utf-8", "replace"
    )


def print_plan(set_: Typeset, given: Handover, charted: bool = False) -> PagePlan:
    """The page plan of a sheet printed by a browser; `charted`, with its chart if one is requested."""
    drawn = chart_of(given) if charted else None
    around = Around(
        width(" ".join(given.headline), 1),
        72 * drawn.height if drawn else 0.0,
        tuple(width(text, 1) for text in _notes(set_, given)),
    )
    return planned(needs_of(set_, [set_.shown(column) for column in set_.columns]), paper_of(given.export), around)


@cache
def style() -> str:
    """The style sheet of printed sheets: type sizes and spacing by the planner."""
    sizes = [
        f".printed.{type_class(size)} {{ font-size: {size}pt; }}\n"
        f".printed.{type_class(size)} td, .printed.{type_class(size)} th {{ padding-top: {pad:.2f}pt; padding-bottom: {pad:.2f}pt; }}\n"
        for size, pad in ((s, max(0.4, p - (LINE - CAPITAL) * s / 2)) for s, p in PADS.items())
    ]
    return (Path(__file__).parent / "print.css").read_text("utf-8") + "".join(sizes)


def type_class(size: float) -> str:
    """The class for a type size.

    >>> type_class(8.5)
    't85'
    """
    return f"t{round(size * 10)}"


def paper_class(given: Handover, plan: PagePlan) -> str:
    """The classes for paper and type as planned."""
    return f"{given.export.paper}-{'across' if plan.across else 'upright'} {type_class(plan.size)}"


def printed(set_: Typeset, given: Handover, plan: PagePlan, noted: bool = True) -> Iterator[str]:
    """The sheet as printed, in pieces; `noted`, with the notes under it."""
    yield f'<div class="printed {paper_class(given, plan)}{" p-stacked" if plan.stacked else ""}">'
    yield f'<h1>{escape(given.sheet.title)}</h1>\n<p class="p-under">{escape(under_title(given.sheet))}</p>'
    if given.headline:
        yield f'<p class="p-lead">{escape(" ".join(given.headline))}</p>'
    fields = [set_.shown(column) for column in set_.columns]
    listed = [as_listed(column) for column in set_.listed.values()]
    for panel in plan.panels:
        yield from _block(set_, plan, panel, fields, listed)
    if noted:
        yield from (f'<p class="p-note">{escape(note)}</p>' for note in _notes(set_, given))
    yield "</div>"


def _notes(set_: Typeset, given: Handover) -> list[str]:
    edition = [given.edition] if given.edition else []
    return [*set_.footnotes, tie_words(given.sheet), *edition, *given.sheet.notes]


def _block(
    set_: Typeset, plan: PagePlan, panel: Sequence[int], fields: list[list[str]], listed: list[list[str]]
) -> Iterator[str]:
    gaps = [set_.columns[k].opens and n > 0 for n, k in enumerate(panel)]
    tracks = [*plan.labels, *plan.listed]
    for k, gap in zip(panel, gaps, strict=True):
        tracks += [GAP, plan.widths[k]] if gap else [plan.widths[k]]
    whole = sum(tracks)
    table = f'<table width="{whole * PIXELS:.1f}"><colgroup>'
    table += "".join(f'<col width="{track * PIXELS:.1f}">' for track in tracks) + "</colgroup>\n<thead>"
    yield table
    yield from _heads(set_, panel, gaps)
    yield "</thead>\n<tbody>"
    numeric = [set_.figure(set_.columns[k]).cells.kind in NUMERIC for k in panel]
    room = [number and any(t.endswith(")") for t in fields[k]) for k, number in zip(panel, numeric, strict=True)]
    indented = not by_columns(set_.sheet)
    ends = _ends(set_.rows)
    for i, row in enumerate(set_.rows):
        if (
            row.role == HEADING
        ):  # in a table of its own, whose head a browser repeats on each page that the group continues on
            page = " p-page" if row.page else ""
            yield f'<tr class="p-group{page}"><td colspan="{len(tracks)}">{table}'
            yield f"<tr{_look(row)}>{_labels(row, indented)}</tr></thead>\n<tbody>"
            continue
        cells = []
        for k, gap, number, brackets in zip(panel, gaps, numeric, room, strict=True):
            cells.append(("<td></td>" if gap else "") + _cell(fields[k][i], number, brackets))
        own = [f"<td>{escape(column[row.record]) if row.record >= 0 else ''}</td>" for column in listed]
        yield f"<tr{_look(row)}>{_labels(row, indented)}{''.join(own)}{''.join(cells)}</tr>"
        yield "</tbody></table></td></tr>" * ends.get(i, 0)
    yield "</tbody></table>"


def _ends(rows: Sequence[SetRow]) -> dict[int, int]:
    """The number of groups that end with a row: those whose heading is over it, and not over the next."""
    found: dict[int, int] = {}
    open_: list[int] = []  # the depths of the headings over a row
    for i, row in enumerate(rows):
        if row.role == HEADING:
            open_.append(row.depth)
        following = rows[i + 1] if i + 1 < len(rows) else None
        while open_ and row.role != HEADING and not _goes_on(following, open_[-1]):
            open_.pop()
            found[i] = found.get(i, 0) + 1
    return found


def _goes_on(row: SetRow | None, depth: int) -> bool:
    """Whether a row belongs to the group of a heading of that depth: a line below it, or its total."""
    return row is not None and (row.depth > depth or (row.depth == depth and row.role == SUBTOTAL))


def _heads(set_: Typeset, panel: Sequence[int], gaps: Sequence[bool]) -> Iterator[str]:
    last = len(set_.headings) - 1
    for r, row in enumerate(set_.headings):
        cells = [
            f'<th scope="col">{escape(name) if r == last else ""}</th>' for name in (*set_.label_heads, *set_.listed)
        ]
        for span in spans(row, panel, gaps):
            named = "p-span" if r < last and span.head.label else "p-num"
            over = f' colspan="{span.columns}"' if span.columns > 1 else ""
            scope = "colgroup" if r < last else "col"
            look = f' class="{"p-period " if span.head.period else ""}{named}"'
            cells.append("<th></th>" if span.gap else "")
            cells.append(f'<th scope="{scope}"{over}{look}>{escape(span.head.label)}</th>')
        yield f"<tr>{''.join(cells)}</tr>"


def _look(row: SetRow) -> str:
    names = [row.role, *(name for name, on in (("space", row.space), ("page", row.page), ("bold", row.bold)) if on)]
    return f' class="{" ".join(f"p-{name}" for name in names)}"'


def _labels(row: SetRow, indented: bool) -> str:
    inset = inset_of(row) if indented else 0
    flagged = " p-flagged" if row.flagged else ""
    if row.role == HEADING:
        return f'<th scope="rowgroup" colspan="99" class="p-in{inset}{flagged}">{escape(row.marked[0])}</th>'
    scope = "" if row.role == RECORD else ' scope="row"'
    return "".join(f'<th{scope} class="p-in{inset}{flagged}">{escape(label)}</th>' for label in row.marked)


def _cell(text: str, number: bool, brackets: bool) -> str:
    if not number:
        return f"<td>{escape(text)}</td>"
    tone = tone_of(text)
    named = TONES[tone] or (" p-room" if brackets and text else "")
    return f'<td class="p-num{named}">{escape(text)}</td>'
