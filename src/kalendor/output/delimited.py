"""Delimited text (RFC 4180 with line feeds): the flat shape and the sheet shape, with a choice of separator and
encoding."""

import csv
import io
from collections.abc import Iterable, Sequence

import pyarrow as pa
import pyarrow.csv as pc

from kalendor.core.values.columns import NUMERIC
from kalendor.definitions.export import Encoding, Export
from kalendor.errors import DefinitionError
from kalendor.intake.guarding import harmless
from kalendor.output.arrays import as_text, labels
from kalendor.output.flat import FlatTable, flat
from kalendor.output.handover import Handover
from kalendor.output.numbers import texts
from kalendor.output.typeset import INDENT, Typeset, by_columns, typeset, with_labels

CODECS: dict[Encoding, tuple[str, bytes]] = {
    "utf-8": ("utf-8", b""),
    "utf-8-bom": ("utf-8", b"\xef\xbb\xbf"),
    "utf-16": ("utf-16-le", b"\xff\xfe"),
    "windows-1252": ("cp1252", b""),
}
PLAIN = Export()


def delimited(headings: Sequence[str], rows: Iterable[Sequence[str]], guarded: bool = True) -> bytes:
    """Rows of texts unchanged, with commas and in UTF-8; `guarded` headings are guarded against execution as formulas."""
    return _encoded(_joined([_safe(headings) if guarded else headings], ",") + _joined(rows, ","), "utf-8")


def flat_delimited(given: Handover) -> bytes:
    """The flat shape; text from records, in any figure, is guarded against execution as a formula, unless `raw`."""
    return table_delimited(flat(given.sheet), given.export)


def table_delimited(table: FlatTable, export: Export = PLAIN) -> bytes:
    """A flat table, written from its arrays if no text needs quotes."""
    head = _joined([table.headings if export.raw else _safe(table.headings)], export.separator)
    try:
        body = _from_arrays(table, export)
    except (pa.ArrowInvalid, UnicodeError):
        pairs = zip(table.fields, table.numeric, strict=True)
        fields = [cells if number or export.raw else _safe(cells) for cells, number in pairs]
        return _encoded(head + _joined(zip(*fields, strict=True), export.separator), export.encoding)
    return _encoded(head, export.encoding) + (
        body if export.encoding in ("utf-8", "utf-8-bom") else _again(body, export)
    )


def _from_arrays(table: FlatTable, export: Export) -> bytes:
    """The rows in UTF-8. Raises ArrowInvalid if a text needs quotes."""
    if len(table.headings) < 2:
        raise pa.ArrowInvalid("a blank line would be taken for none")
    columns = []
    for own, figure, number in zip(table.labels, table.figures, table.numeric, strict=True):
        if number and figure is not None:
            columns.append(as_text(figure))
        else:
            found = own if own is not None else texts(figure) if figure is not None else []
            if any("\r" in text for text in set(found)):
                raise pa.ArrowInvalid("a carriage return, which Arrow would leave bare")
            columns.append(labels(found if export.raw else _safe(found)))
    file = io.BytesIO()
    options = pc.WriteOptions(include_header=False, delimiter=export.separator, quoting_style="none")
    pc.write_csv(pa.Table.from_arrays(columns, [str(i) for i in range(len(columns))]), file, options)
    return file.getvalue()


def sheet_delimited(given: Handover) -> bytes:
    """The sheet shape: headings over columns, labels indented by two spaces a level or in one column a level, records
    under them."""
    export = given.export
    sheet = given.sheet if export.labels == "sheet" else with_labels(given.sheet, export.labels)
    headings, fields = seen(typeset(sheet), export.raw)
    return _encoded(_joined([headings, *zip(*fields, strict=True)], export.separator), export.encoding)


def seen_headings(set_: Typeset) -> list[str]:
    """The headings over the labels, then one for each of the records' columns, and one for each column and figure."""
    figures = [" › ".join([*column.labels, set_.figure(column).name]) for column in set_.columns]
    return [*set_.label_heads, *set_.listed, *figures]


def seen(set_: Typeset, raw: bool = False) -> tuple[list[str], list[list[str]]]:
    """The headings and the text columns of a sheet in the sheet shape, numbers with all their digits; `raw` texts are
    unchanged."""
    guarded = (lambda found: found) if raw else _safe
    indent = "" if by_columns(set_.sheet) else INDENT
    fields = []
    for k in range(len(set_.label_heads)):
        own = guarded([row.labels[k] for row in set_.rows])
        inset = [
            indent * max(0, row.depth - 1) if label.strip() else "" for row, label in zip(set_.rows, own, strict=True)
        ]
        fields.append([space + label for space, label in zip(inset, own, strict=True)])
    for listed in set_.listed.values():
        written = texts(listed)
        safe = written if listed.kind in NUMERIC else guarded(written)
        fields.append([safe[row.record] if row.record >= 0 else "" for row in set_.rows])
    for column in set_.columns:
        found, numeric = set_.plain(column)
        safe = guarded(found)
        fields.append([text if number else own for text, own, number in zip(found, safe, numeric, strict=True)])
    return (seen_headings(set_) if raw else _safe(seen_headings(set_))), fields


def _safe(found: Sequence[str]) -> list[str]:
    safe = {text: text if text[:1].isalnum() else harmless(text) for text in set(found)}
    return [safe[text] for text in found]


def _joined(rows: Iterable[Sequence[str]], separator: str) -> str:
    file = io.StringIO()
    plain = csv.writer(file, delimiter=separator, lineterminator="\n")
    quoted = csv.writer(file, delimiter=separator, lineterminator="\n", quoting=csv.QUOTE_ALL)
    for row in rows:  # a carriage return needs quotes, which the library adds only if it is the line end
        (quoted if any("\r" in text for text in row) else plain).writerow(row)
    return file.getvalue()


def _again(body: bytes, export: Export) -> bytes:
    return _encoded(body.decode(), export.encoding, begun=True)


def _encoded(text: str, encoding: Encoding, begun: bool = False) -> bytes:
    codec, mark = CODECS[encoding]
    try:
        found = text.encode(codec, "strict" if codec == "cp1252" else "replace")
    except UnicodeEncodeError as error:
        wrong = text[error.start]
        raise DefinitionError(
            f"{wrong!r} (U+{ord(wrong):04X}) cannot be written in Windows-1252; choose UTF-8 as the encoding"
        ) from None
    return found if begun else mark + found
