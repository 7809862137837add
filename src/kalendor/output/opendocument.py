"""A sheet as an OpenDocument spreadsheet (ISO/IEC 26300), written as a stream.

Written directly with the standard library's zip and XML escaping: the usual library builds every cell as a tree of
objects, which takes over a minute and a gigabyte for 100,000 lines.
"""

import io
import zipfile
from collections.abc import Iterable, Iterator
from xml.sax.saxutils import escape, quoteattr

from kalendor.core.sheet.arrange import GRAND, HEADING, SUBTOTAL
from kalendor.core.sheet.scales import UNITS, is_percent, places_of
from kalendor.core.sheet.sheet import ShownFigure
from kalendor.core.values.columns import NUMERIC
from kalendor.output.handover import Handover
from kalendor.output.live_totals import live, spans
from kalendor.output.numbers import texts
from kalendor.output.shown import MINUS
from kalendor.output.told import tie_words, under_title
from kalendor.output.typeset import RECORD, SetRow, Typeset, by_columns, typeset
from kalendor.output.watching import so_far

MIME = "application/vnd.oasis.opendocument.spreadsheet"
SPACES = {
    "office": "urn:oasis:names:tc:opendocument:xmlns:office:1.0", "table": "urn:oasis:names:tc:opendocument:xmlns:table:1.0",
    "text": "urn:oasis:names:tc:opendocument:xmlns:text:1.0", "style": "urn:oasis:names:tc:opendocument:xmlns:style:1.0",
    "number": "urn:oasis:names:tc:opendocument:xmlns:datastyle:1.0",
    "fo": "urn:oasis:names:tc:opendocument:xmlns:xsl-fo-compatible:1.0", "of": "urn:oasis:names:tc:opendocument:xmlns:of:1.2",
}  # fmt: skip
INK, QUIET, MARIGOLD, OXBLOOD = "#1E2A2F", "#56615F", "#7A4C06", "#9A2A2A"
MANIFEST = (
    '<?xml version="1.0" encoding="UTF-8"?>\n<manifest:manifest xmlns:manifest="urn:oasis:names:tc:opendocument:xmlns:manifest:1.0"'
    f' manifest:version="1.2"><manifest:file-entry manifest:full-path="/" manifest:media-type="{MIME}"/>'
    '<manifest:file-entry manifest:full-path="content.xml" manifest:media-type="text/xml"/></manifest:manifest>\n'
)
WHEN = (1980, 1, 1, 0, 0, 0)
CHARACTER = 0.19  # centimetres


def sheet_ods(given: Handover) -> bytes:
    """The sheet shape, groups as groups of rows, numbers with all their digits. The same sheet gives the same bytes."""
    file = io.BytesIO()
    with zipfile.ZipFile(file, "w") as archive:
        archive.writestr(zipfile.ZipInfo("mimetype", WHEN), MIME)
        _put(archive, "META-INF/manifest.xml", [MANIFEST])
        _put(archive, "content.xml", _content(given))
    return file.getvalue()


def _put(archive: zipfile.ZipFile, name: str, parts: Iterable[str]) -> None:
    entry = zipfile.ZipInfo(name, WHEN)
    entry.compress_type = zipfile.ZIP_DEFLATED
    with archive.open(entry, "w", force_zip64=True) as out:
        for part in parts:
            out.write(part.encode("utf-8", "replace"))


def _content(given: Handover) -> Iterator[str]:
    set_ = typeset(given.sheet)
    names = " ".join(f'xmlns:{prefix}="{uri}"' for prefix, uri in SPACES.items())
    yield f'<?xml version="1.0" encoding="UTF-8"?>\n<office:document-content {names} office:version="1.2">'
    yield from _styles(set_)
    plain = "".join(c for c in given.sheet.title if c not in "[]*?:/\\'")[:31].strip() or "Sheet"
    yield f"<office:body><office:spreadsheet><table:table table:name={quoteattr(_clean(plain))}>"
    wide = [*set_.label_widths, *set_.listed_widths, *(column.width for column in set_.columns)]
    yield "".join(f'<table:table-column table:style-name="w{min(64, n + 2)}"/>' for n in wide)
    above = [
        (given.sheet.title, "title"),
        (under_title(given.sheet), "quiet"),
        *((s, "text") for s in given.headline),
        ("", "text"),
    ]
    yield "".join(_line([_text(text, style)]) for text, style in above)
    yield "<table:table-header-rows>"
    yield from _heads(set_)
    yield "</table:table-header-rows>"
    yield from _rows(set_, given, len(above) + len(set_.headings))
    below = [*set_.footnotes, tie_words(given.sheet), *given.sheet.notes, *([given.edition] if given.edition else [])]
    yield "".join(_line([_text(text, "quiet")]) for text in ["", *below])
    yield "</table:table></office:spreadsheet></office:body></office:document-content>\n"


def _styles(set_: Typeset) -> Iterator[str]:
    yield "<office:automatic-styles>"
    yield "".join(
        f'<style:style style:name="w{n}" style:family="table-column"><style:table-column-properties style:column-width="{n * CHARACTER:.2f}cm"/></style:style>'
        for n in range(2, 65)
    )
    yield from (_number_style(f"n{i}", figure) for i, figure in enumerate(set_.sheet.figures))
    for name, look, size in (("text", "", 10), ("title", "bold", 16), ("strong", "bold", 10)):
        yield _cell_style(name, weight=look, size=size)
    yield _cell_style("quiet", colour=QUIET) + _cell_style("flagged", colour=MARIGOLD, weight="bold")
    yield _cell_style("head", colour=QUIET, edge="border-bottom", align="end") + _cell_style(
        "span", weight="bold", align="center"
    )
    yield _cell_style("left", colour=QUIET, edge="border-bottom")
    for i in range(len(set_.sheet.figures)):
        yield _cell_style(f"leaf{i}", data=f"n{i}", align="end")
        yield _cell_style(f"subtotal{i}", data=f"n{i}", align="end", weight="bold", edge="border-top")
        yield _cell_style(f"grand{i}", data=f"n{i}", align="end", weight="bold", edge="border-top", double=True)
    yield "</office:automatic-styles>"


def _number_style(name: str, figure: ShownFigure) -> str:
    form = figure.format
    grouped = ' number:grouping="true"' if form.thousands else ""
    scale = 10 ** UNITS[form.unit]
    scaled = f' number:display-factor="{scale}"' if scale > 1 and not is_percent(figure) else ""
    number = (
        f'<number:number number:decimal-places="{places_of(figure)}" number:min-integer-digits="1"{grouped}{scaled}/>'
    )
    kind = "percentage-style" if is_percent(figure) else "number-style"
    body = f"{_words(form.currency)}{number}{_words('%' if is_percent(figure) else '')}"
    brackets = form.negative == "parentheses"
    room = _words(" ") if brackets else ""  # aligns digits with those in brackets
    below = f"{_words('(')}{body}{_words(')')}" if brackets else f"{_words(MINUS)}{body}"
    zero = f"{_words('–')}{room}" if form.zero == "dash" else f"{body}{room}"
    above = f"{_words('+' if figure.signed else '')}{body}{room}"
    # one style for positive numbers and one for zero; the last, with the conditions of both, is for negative ones
    return (
        f'<number:{kind} style:name="{name}P0" style:volatile="true">{above}</number:{kind}>'
        f'<number:{kind} style:name="{name}P1" style:volatile="true">{zero}</number:{kind}>'
        f'<number:{kind} style:name="{name}"><style:text-properties fo:color="{OXBLOOD}"/>{below}'
        f'<style:map style:condition="value()&gt;0" style:apply-style-name="{name}P0"/>'
        f'<style:map style:condition="value()=0" style:apply-style-name="{name}P1"/></number:{kind}>'
    )


def _words(text: str) -> str:
    return f"<number:text>{escape(text)}</number:text>" if text else ""


def _cell_style(
    name: str, colour: str = INK, weight: str = "", size: int = 10, edge: str = "", align: str = "", data: str = "",
    double: bool = False,
) -> str:  # fmt: skip
    bold = ' fo:font-weight="bold"' if weight else ""
    cell = f' fo:{edge}="0.5pt solid {INK}"' if edge else ""
    cell += f' fo:border-bottom="1.8pt double {INK}"' if double else ""
    row = f'<style:paragraph-properties fo:text-align="{align}"/>' if align else ""
    shown = f' style:data-style-name="{data}"' if data else ""
    return (
        f'<style:style style:name="{name}" style:family="table-cell"{shown}><style:table-cell-properties{cell}/>{row}'
        f'<style:text-properties fo:font-size="{size}pt" fo:color="{colour}"{bold}/></style:style>'
    )


def _heads(set_: Typeset) -> Iterator[str]:
    last = len(set_.headings) - 1
    for r, row in enumerate(set_.headings):
        cells = [_text(name if r == last else "", "left") for name in (*set_.label_heads, *set_.listed)]
        for head in row:
            style = "head" if r == last else "span"
            over = (
                f' table:number-columns-spanned="{head.columns}" table:number-rows-spanned="1"'
                if head.columns > 1
                else ""
            )
            cells.append(_text(head.label, style, over) + "<table:covered-table-cell/>" * (head.columns - 1))
        yield _line(cells)


def _rows(set_: Typeset, given: Handover, top: int) -> Iterator[str]:
    """The rows, with those of a group within group elements."""
    columns = [_figures(set_, k, given, top) for k in range(len(set_.columns))]
    listed = [texts(column) for column in set_.listed.values()]
    numeric = [column.kind in NUMERIC for column in set_.listed.values()]
    inside = 0
    for i, row in enumerate(set_.rows):
        so_far(i, len(set_.rows))
        level = row.depth if row.role == HEADING else max(0, row.depth - 1)
        if level > inside:
            yield "<table:table-row-group>" * (level - inside)
        elif level < inside:
            yield "</table:table-row-group>" * (inside - level)
        inside = level
        cells = [_label(set_, row, label) for label in row.marked]
        for column, number in zip(listed, numeric, strict=True):
            text = column[row.record] if row.role == RECORD else ""
            cells.append(_number(text, "text", "") if number and text else _text(text, "quiet"))
        cells += [column[i] for column in columns]
        yield _line(cells)
    yield "</table:table-row-group>" * inside


def _label(set_: Typeset, row: SetRow, label: str) -> str:
    style = "flagged" if row.flagged else "strong" if row.total or row.bold or row.role == HEADING else "text"
    inset = 0 if by_columns(set_.sheet) else max(0, row.depth - 1) + (row.role == SUBTOTAL)
    return _text(label, style, inset=inset)


def _figures(set_: Typeset, k: int, given: Handover, top: int) -> list[str]:
    """A column's cells, one a row: numbers with all their digits, live totals with formulas over the cells under them."""
    column = set_.columns[k]
    figure = set_.figure(column)
    plain, numeric = set_.plain(column, as_shown=True)
    shown = set_.shown(column)
    over = spans(set_)
    alive = live(set_, over, column) if given.export.subtotals == "live" else None
    name = _letters(len(set_.label_heads) + len(set_.listed) + k)
    kind = "percentage" if is_percent(figure) else "float"
    found = []
    for i, row in enumerate(set_.rows):
        if not row.filled:
            found.append("<table:table-cell/>")
            continue
        style = f"{row.role if row.role in (SUBTOTAL, GRAND) else 'leaf'}{column.figure}"
        if numeric[i] and plain[i]:
            formula = ""
            if alive is not None and alive[i]:
                first, last = top + int(over.first[i]) + 1, top + int(over.last[i]) + 1
                formula = f' table:formula="of:=SUBTOTAL(9;[.{name}{first}:.{name}{last}])"'
            found.append(_number(plain[i], style, formula, kind, shown[i]))
        else:
            found.append(_text(plain[i], style))
    return found


def _letters(column: int) -> str:
    """A column's name: A, B, … Z, AA.

    >>> _letters(0), _letters(27)
    ('A', 'AB')
    """
    found = ""
    column += 1
    while column:
        column, rest = divmod(column - 1, 26)
        found = chr(65 + rest) + found
    return found


def _line(cells: Iterable[str]) -> str:
    return f"<table:table-row>{''.join(cells)}</table:table-row>"


def _number(value: str, style: str, formula: str, kind: str = "float", shown: str = "") -> str:
    return (
        f'<table:table-cell table:style-name="{style}" office:value-type="{kind}" office:value="{value}"{formula}>'
        f"<text:p>{escape(shown or value)}</text:p></table:table-cell>"
    )


def _text(text: str, style: str, more: str = "", inset: int = 0) -> str:
    if not text:
        return f'<table:table-cell table:style-name="{style}"{more}/>'
    lead = f'<text:s text:c="{2 * inset}"/>' if inset else ""
    return (
        f'<table:table-cell table:style-name="{style}" office:value-type="string" office:string-value={quoteattr(_clean(text))}{more}>'
        f"<text:p>{lead}{escape(_clean(text))}</text:p></table:table-cell>"
    )


def _clean(text: str) -> str:
    """A text without the control characters that XML does not allow, each replaced by its symbol."""
    return "".join(chr(0x2400 + ord(c)) if c < " " and c not in "\t\n" else c for c in text)
