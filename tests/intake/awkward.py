"""Awkward files as bytes, each with a file name; binary ones are generated here."""

import gzip
import io
import json
import zipfile
from datetime import date, datetime
from typing import Any

import pyarrow as pa
import pyarrow.parquet as pq
import xlsxwriter


def workbook(rows: list[list[Any]], hidden: list[list[Any]] | None = None, merged: str | None = None) -> bytes:
    held = io.BytesIO()
    book = xlsxwriter.Workbook(held, {"in_memory": True})
    day = book.add_format({"num_format": "yyyy-mm-dd"})
    for name, cells in (("Secret", hidden), ("Data", rows)):
        if cells is None:
            continue
        sheet = book.add_worksheet(name)
        if name == "Data":
            sheet.activate()
            sheet.set_first_sheet()
        else:
            sheet.hide()
        for r, row in enumerate(cells):
            for c, cell in enumerate(row):
                if isinstance(cell, date):
                    sheet.write_datetime(r, c, datetime(cell.year, cell.month, cell.day), day)
                elif isinstance(cell, tuple):
                    sheet.write_formula(r, c, cell[0], None, cell[1])
                elif cell is not None:
                    sheet.write(r, c, cell)
        if name == "Data" and merged:
            sheet.merge_range(merged, rows[0][1])
    book.close()
    return held.getvalue()


MANIFEST = """<?xml version="1.0" encoding="UTF-8"?>
<manifest:manifest xmlns:manifest="urn:oasis:names:tc:opendocument:xmlns:manifest:1.0" manifest:version="1.2">
<manifest:file-entry manifest:full-path="/" manifest:media-type="application/vnd.oasis.opendocument.spreadsheet"/>
<manifest:file-entry manifest:full-path="content.xml" manifest:media-type="text/xml"/></manifest:manifest>"""
CONTENT = """<?xml version="1.0" encoding="UTF-8"?>
<office:document-content xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0"
 xmlns:table="urn:oasis:names:tc:opendocument:xmlns:table:1.0" xmlns:text="urn:oasis:names:tc:opendocument:xmlns:text:1.0">
<office:body><office:spreadsheet><table:table table:name="Data">%s</table:table></office:spreadsheet></office:body>
</office:document-content>"""


def open_document(rows: list[list[Any]]) -> bytes:
    def cell(value: Any) -> str:
        kind, attribute = "string", ""
        if isinstance(value, date):
            kind, attribute = "date", f' office:date-value="{value.isoformat()}"'
        elif isinstance(value, int | float):
            kind, attribute = "float", f' office:value="{value}"'
        return f'<table:table-cell office:value-type="{kind}"{attribute}><text:p>{value}</text:p></table:table-cell>'

    body = "".join(f"<table:table-row>{''.join(map(cell, row))}</table:table-row>" for row in rows)
    held = io.BytesIO()
    with zipfile.ZipFile(held, "w") as archive:
        archive.writestr("mimetype", "application/vnd.oasis.opendocument.spreadsheet")
        archive.writestr("META-INF/manifest.xml", MANIFEST)
        archive.writestr("content.xml", CONTENT % body)
    return held.getvalue()


def parquet(**columns: Any) -> bytes:
    held = io.BytesIO()
    pq.write_table(pa.table(columns), held)
    return held.getvalue()


LATE = "".join(f"0{1 + i % 9}/0{1 + i % 7}/2025,1.00\n" for i in range(899))

# name, bytes, column, its first values (dates and numbers as text), records, refused lines
READ: list[tuple[str, bytes, str, list[str], int, int]] = [
    ("quotes-over-line-ends.csv", b'note,n\n"two\nlines, one field",1\nplain,2\n', "note", ["two\nlines, one field", "plain"], 2, 0),
    ("ragged.csv", b"a,b\n1,2\n1,2,3\n4\n5,6\n", "a", ["1", "5"], 2, 2),
    ("two-headings-alike.csv", b"n,n\n1,2\n", "n (2)", ["2"], 1, 0),
    ("a-heading-alone.csv", b"a,b\n", "a", [], 0, 0),
    ("title-and-blank-lines.csv", b"Skerry Line\nJuly\n\n\nday,n\n2026-07-01,1\n", "day", ["2026-07-01"], 1, 0),
    ("two-hundred-columns.csv", (",".join(f"c{i}" for i in range(200)) + "\n" + ",".join("7" * 200) + "\n").encode(), "c199", ["7"], 1, 0),
    ("order-settled-on-line-900.csv", f"d,n\n{LATE}25/12/2025,1.00\n".encode(), "d", ["2025-01-01", "2025-02-02"], 900, 0),
    ("minus-nothing.csv", b"n,x\n-0.00,a\n1.50,b\n", "n", ["0.00", "1.50"], 2, 0),
    ("decimal-commas.csv", b"n;x\n1.234,56;a\n-7,00;b\n", "n", ["1234.56", "-7.00"], 2, 0),
    ("parentheses.csv", b"n,x\n(45.00),a\n1.00,b\n", "n", ["-45.00", "1.00"], 2, 0),
    ("trailing-minus.csv", b"n,x\n45.00-,a\n1.00,b\n", "n", ["-45.00", "1.00"], 2, 0),
    ("exponents.csv", b"n,x\n1.5E+03,a\n1E3,b\n", "n", ["1500", "1000"], 2, 0),
    ("pounds.csv", "n,x\n£1,200.50,a\n".replace("£1,200.50", '"£1,200.50"').encode("cp1252"), "n", ["1200.50"], 1, 0),
    ("leading-zero-codes.csv", b"code,n\n007,1\n012,2\n", "code", ["007", "012"], 2, 0),
    ("a-time-zone.csv", b"at,n\n2026-07-31T23:30:00+02:00,1\n", "at", ["2026-07-31T23:30:00"], 1, 0),
    ("29-february.csv", b"d,n\n29/02/2024,1\n28/02/2025,2\n", "d", ["2024-02-29", "2025-02-28"], 2, 0),
    ("29-february-that-is-none.csv", ("d,n\n" + "28/02/2025,1\n" * 20 + "29/02/2025,1\n").encode(), "d", ["2025-02-28"], 20, 1),
    ("two-digit-years.csv", b"d,n\n31/12/99,1\n01/01/26,2\n", "d", ["1999-12-31", "2026-01-01"], 2, 0),
    ("utf-16.csv", "a,b\nÖst,1\n".encode("utf-16"), "a", ["Öst"], 1, 0),
    ("marked-utf-8.csv", "\ufeffa,b\nÖst,1\n".encode(), "a", ["Öst"], 1, 0),
    ("old-line-ends.csv", b"a,b\r\n1,2\r\n3,4\r\n", "a", ["1", "3"], 2, 0),
    ("packed.csv.gz", gzip.compress(b"a\tb\n1\t2\n"), "a", ["1"], 1, 0),
    ("blanks-in-the-middle.csv", b"a,b\n1,x\n,,\n,y\n3,z\n".replace(b",,\n", b",\n"), "a", ["1", "", "3"], 3, 0),
    ("serial-dates.xlsx", workbook([["day", "n"], [date(2026, 7, 31), 1.25]]), "day", ["2026-07-31"], 1, 0),
    ("merged-headings.xlsx", workbook([["day", "Amount", None], ["2026-07-01", 1, 2], ["2026-07-02", 3, 4]], merged="B1:C1"), "Amount (2)", ["2", "4"], 2, 0),
    ("a-hidden-sheet.xlsx", workbook([["a"], [1]], hidden=[["secret", "b", "c"], [1, 2, 3], [4, 5, 6]]), "a", ["1"], 1, 0),
    ("a-formulas-cached-value.xlsx", workbook([["a", "b"], [2, ("=A2*3", 6)]]), "b", ["6"], 1, 0),
    ("an-error-cell.xlsx", workbook([["a", "b"], *[[i, i * 2] for i in range(20)], [99, ("=1/0", "#DIV/0!")]]), "b", ["0", "2"], 20, 1),
    ("open-document.ods", open_document([["day", "n"], [date(2026, 7, 31), 1.5]]), "n", ["1.5"], 1, 0),
    ("a-table.parquet", parquet(code=["007", "8"], n=pa.array([1, None]), day=pa.array([date(2026, 7, 31), None])), "code", ["007", "8"], 2, 0),
    ("lines.jsonl", b'{"a": 1.50, "b": "x"}\n\n{"a": null}\nnot json\n{"a": {"deep": 1}}\n', "a", ["1.50", ""], 2, 2),
    ("an-array.json", json.dumps([{"a": 1, "ok": True}, {"a": 2, "ok": False}]).encode(), "ok", ["yes", "no"], 2, 0),
]  # fmt: skip

# name, bytes, words of the refusal
REFUSED: list[tuple[str, bytes, str]] = [
    ("letter.pdf", b"%PDF-1.7\n1 0 obj", "it is a PDF; save it as delimited text"),
    ("old.xls", b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1" + bytes(600), "an old binary kind"),
    ("scan.png", b"\x89PNG\r\n\x1a\n" + bytes(60), "it is a picture"),
    ("letter.rtf", b"{\\rtf1 text}", "it is a text document"),
    ("empty.csv", b"", "the file is empty"),
    ("blank.csv", b" \n\n", "the file is empty"),
    ("a-nul-byte.csv", b"a,b\n1,2\n3,\x004\n", "line 3 holds a NUL byte"),
    ("a-quote-never-closed.csv", b'a,b\n1,"x\n2,y\n', "a quote is opened and never closed"),
    ("cut-off.csv.gz", gzip.compress(b"a,b\n1,2\n" * 500)[:40], "cannot be unpacked"),
    ("broken.xlsx", b"PK\x03\x04 nothing of use", "a workbook that cannot be opened"),
    ("empty.xlsx", workbook([]), "there is nothing in it"),
    ("broken.parquet", b"PAR1 nothing of use", "a Parquet file that cannot be read"),
    ("lists.parquet", parquet(a=pa.array([[1, 2]])), "not single values"),
    ("broken.json", b'[{"a": 1},\n {"a": }]', "not valid JSON at line 2"),
]
