"""A sheet as one self-contained page for a browser: groups that open and close, find, the chart, light and dark; nothing
is fetched."""

import base64
import hashlib
from collections.abc import Iterator
from functools import cache
from html import escape
from pathlib import Path

from kalendor.core.sheet.arrange import GRAND, HEADING, SUBTOTAL
from kalendor.core.values.columns import NUMERIC
from kalendor.output.charting import chart_of
from kalendor.output.handover import Handover
from kalendor.output.html.printed import paper_class, print_plan, printed, style
from kalendor.output.measuring import FONTS
from kalendor.output.numbers import as_listed
from kalendor.output.paging.planner import PagePlan
from kalendor.output.shown import MINUS, tone_of
from kalendor.output.told import tie_words, under_title
from kalendor.output.typeset import RECORD, SetRow, Typeset, by_columns, typeset
from kalendor.output.watching import so_far

HERE = Path(__file__).parent
WEB_FONTS = {
    ("Kalendor Sans", "400 700"): "sans-latin.woff2",
    ("Kalendor Serif", "400 700"): "serif-latin.woff2",
}
MOST_TWICE = 20_000  # cells of a table that is included twice: for the screen, and in blocks for paper
NAMES = {"": "num", "-": "num neg", "~": "num word"}  # suffix of a cell's class, by its tone
STEP = 26  # indentation of a level in pixels


def sheet_html(given: Handover) -> bytes:
    """The page. The same sheet gives the same bytes."""
    set_ = typeset(given.sheet)
    plan = print_plan(set_, given, charted=True)
    title = escape(given.sheet.title)
    parts = [
        f'<!doctype html>\n<html lang="en">\n<head>\n<meta charset="utf-8">\n<title>{title}</title>',
        f'<meta http-equiv="Content-Security-Policy" content="{_policy()}">',
        '<meta name="viewport" content="width=device-width, initial-scale=1">',
        f"<style>{_fonts()}{_text('page.css')}{style()}</style>\n</head>\n<body>",
        f'<main class="{paper_class(given, plan)}">',
        f'<h1>{title}</h1>\n<p class="under">{escape(under_title(given.sheet))}</p>',
        *([f'<p class="lead">{escape(" ".join(given.headline))}</p>'] if given.headline else []),
        *_chart(given),
        _bar(set_),
        f'<div class="scroll"><table>\n<caption hidden>{title}</caption>\n<thead>',
        *_heads(set_),
        "</thead>\n<tbody>",
        *_rows(set_),
        "</tbody>\n</table></div>",
        *(f'<p class="note">{escape(note)}</p>' for note in set_.footnotes),
        f'<p class="foot">{escape(tie_words(given.sheet))}</p>',
        *([f'<p class="under">{escape(given.edition)}</p>'] if given.edition else []),
        *(f'<p class="under">{escape(note)}</p>' for note in given.sheet.notes),
        "</main>",
        *_cut_for_print(set_, given, plan),
        f"<script>{_text('page.js')}</script>\n</body>\n</html>\n",
    ]
    return "\n".join(parts).encode("utf-8", "replace")


def _cut_for_print(set_: Typeset, given: Handover, plan: PagePlan) -> Iterator[str]:
    """What is printed instead of the table: its columns in blocks, each as wide as the planner says. It is included as
    inert data, so that it is not a second table; a long table of one block is printed itself."""
    if len(plan.panels) > 1 or len(set_.rows) * len(set_.columns) <= MOST_TWICE:
        blocks = base64.b64encode("".join(printed(set_, given, plan, noted=False)).encode("utf-8", "replace")).decode()
        yield f'<script type="text/plain" id="cut">{blocks}</script>'


@cache
def _text(name: str) -> str:
    return (HERE / name).read_text("utf-8")


@cache
def _fonts() -> str:
    found = []
    for (family, weights), file in WEB_FONTS.items():
        data = base64.b64encode((FONTS / "web" / file).read_bytes()).decode()
        found.append(
            f'@font-face{{font-family:"{family}";font-weight:{weights};src:url(data:font/woff2;base64,{data}) format("woff2")}}'
        )
    return "".join(found)


@cache
def _policy() -> str:
    """The page's content security policy: its own script and style, nothing from elsewhere."""
    script = base64.b64encode(hashlib.sha256(_text("page.js").encode()).digest()).decode()
    return f"default-src 'none'; style-src 'unsafe-inline'; font-src data:; script-src 'sha256-{script}'"


def _chart(given: Handover) -> Iterator[str]:
    drawn = chart_of(given)
    if drawn is not None:
        from kalendor.output.picture import picture  # imports Matplotlib

        svg = picture(drawn).decode()
        yield f'<div class="chart" role="img" aria-label="{escape(drawn.alternative)}">{svg[svg.index("<svg") :]}</div>'


def _bar(set_: Typeset) -> str:
    levels = set_.sheet.lines.levels if any(row.role == HEADING for row in set_.rows) else ()
    deepest = len(levels)
    buttons = "".join(
        f'<button type="button" data-level="{d}" aria-pressed="{str(d == deepest).lower()}">{escape(level.name)}</button>'
        for d, level in enumerate(levels, 1)
    )
    depth = f"<span>Open to</span>{buttons}" if buttons else ""
    find = '<input id="find" type="search" placeholder="Find a line" aria-label="Find a line"><span id="found" role="status"></span>'
    ends = '<button type="button" id="shade">Light or dark</button><button type="button" id="print">Print</button>'
    return f'<div class="bar">{depth}<span class="grow"></span>{find}{ends}</div>'


def _heads(set_: Typeset) -> Iterator[str]:
    last = len(set_.headings) - 1
    numeric = [column.kind in NUMERIC for column in set_.listed.values()]
    for r, row in enumerate(set_.headings):
        cells = []
        for name in set_.label_heads:
            cells.append(f'<th scope="col">{escape(name) if r == last else ""}</th>')
        for name, number in zip(set_.listed, numeric, strict=True):
            cells.append(f'<th scope="col"{" class=num" if number else ""}>{escape(name) if r == last else ""}</th>')
        at = 0
        for head in row:
            inside = range(at, at + head.columns)
            gaps = [set_.columns[k].opens for k in inside]
            at += head.columns
            if gaps[0]:
                cells.append('<th class="gap"></th>')
            wide = head.columns + sum(gaps[1:])
            names = ["period"] if head.period else []
            names.append("span" if r < last and head.label else "num")
            span = f' colspan="{wide}"' if wide > 1 else ""
            scope = "colgroup" if r < last else "col"
            cells.append(f'<th scope="{scope}"{span} class="{" ".join(names)}">{escape(head.label)}</th>')
        yield f"<tr>{''.join(cells)}</tr>"


def _rows(set_: Typeset) -> Iterator[str]:
    fields = [_cells(set_.shown(column), set_.figure(column).cells.kind in NUMERIC) for column in set_.columns]
    gaps = [column.opens for column in set_.columns]
    listed = [[escape(text) for text in as_listed(column)] for column in set_.listed.values()]
    numeric = [column.kind in NUMERIC for column in set_.listed.values()]
    totals = {row.line: i for i, row in enumerate(set_.rows) if row.role == SUBTOTAL}
    for i, row in enumerate(set_.rows):
        so_far(i, len(set_.rows))
        at = totals.get(row.line, i) if row.role == HEADING else i
        cells = []
        for k, column in enumerate(fields):
            cells.append(('<td class="gap"></td>' if gaps[k] else "") + (column[at] or '<td class="num"></td>'))
        own = [
            f"<td{' class=num' if number else ''}>{column[row.record] if row.record >= 0 else ''}</td>"
            for column, number in zip(listed, numeric, strict=True)
        ]
        yield f"<tr{_look(row)}>{_labels(set_, row)}{''.join(own)}{''.join(cells)}</tr>"


def _look(row: SetRow) -> str:
    names = [row.role, f"d{row.depth}"]
    names += [name for name, on in (("space", row.space), ("page", row.page), ("bold", row.bold)) if on]
    return f' class="{" ".join(names)}" data-d="{row.depth}"'


def _labels(set_: Typeset, row: SetRow) -> str:
    inset = 0 if by_columns(set_.sheet) or row.role == GRAND else max(0, row.depth - 1) + (row.role == SUBTOTAL)
    found = []
    for label in row.marked:
        text = escape(label)
        if row.role == HEADING:
            text = f'<button type="button" class="toggle" aria-expanded="true">{text}</button>'
        style = f' style="padding-left:{12 + STEP * inset}px"' if inset else ""
        flagged = ' class="flagged"' if row.flagged else ""
        scope = "" if row.role == RECORD else ' scope="row"'
        found.append(f"<th{scope}{flagged}{style}>{text}</th>")
    return "".join(found)


def _cells(texts: list[str], number: bool) -> list[str]:
    """Each text as a cell, styled for negatives and words."""
    if not number:
        return [f"<td>{escape(text)}</td>" for text in texts]
    names = [NAMES[tone_of(text)] + (" minus" if text.startswith(MINUS) else "") for text in texts]
    return [f'<td class="{name}">{escape(text)}</td>' for name, text in zip(names, texts, strict=True)]
