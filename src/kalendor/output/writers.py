"""A sheet written in an open format; one writer a format and shape."""

import csv
import io
import json
from collections.abc import Callable, Iterable

from kalendor.core.sheet.sheet import Sheet
from kalendor.core.values.days import day_label
from kalendor.errors import DefinitionError
from kalendor.intake.guarding import harmless
from kalendor.output.flat import flat
from kalendor.output.parquet import flat_parquet
from kalendor.output.seen import INDENT, by_columns, seen, seen_headings


def delimited(headings: list[str], rows: Iterable[list[str]], guarded: bool = True) -> bytes:
    """RFC 4180 with line feeds, UTF-8; `guarded` headings are written so that no program runs them."""
    file = io.StringIO()
    out = csv.writer(file, lineterminator="\n")
    out.writerow([harmless(h) if guarded else h for h in headings])
    out.writerows(rows)
    return file.getvalue().encode("utf-8", "replace")


def flat_csv(sheet: Sheet) -> bytes:
    """The flat shape; text of records, in whatever figure, is written so that no program runs it."""
    table = flat(sheet)
    plain = [
        cells if number else [harmless(cell) for cell in cells]
        for cells, number in zip(table.fields, table.numeric, strict=True)
    ]
    return delimited(table.headings, (list(row) for row in zip(*plain, strict=True)))


def sheet_csv(sheet: Sheet) -> bytes:
    """As seen: headings over columns, labels indented by two spaces a level or in one column a level, records under them."""
    rows = []
    indent = "" if by_columns(sheet) else INDENT
    for row in seen(sheet):
        cells = [c if n else harmless(c) for c, n in zip(row.cells, row.numeric, strict=True)]
        labels = [indent * row.depth + harmless(label) if label.strip() else "" for label in row.labels]
        rows.append([*labels, *cells])
    return delimited(seen_headings(sheet), rows)


def _said(value: object) -> str:
    return json.dumps(value, ensure_ascii=False)


def _value(text: str, number: bool) -> str:
    """A cell as JSON: a number with all its digits, null for blank, other text in quotes."""
    return "null" if text == "" else text if number else _said(text)


def _document(sheet: Sheet, *parts: str) -> bytes:
    told = [f'"title": {_said(sheet.title)}', f'"as_of": {_said(day_label(sheet.as_of))}', *parts]
    return ("{\n" + ",\n".join(told) + "\n}\n").encode("utf-8", "replace")


def flat_json(sheet: Sheet) -> bytes:
    """One object a row; figures are numbers with all their digits, blanks null."""
    table = flat(sheet)
    names = [_said(heading) for heading in table.headings]
    figures = [figure is not None for figure in table.figures]
    written = [
        [_value(cell, number) if figure else _said(cell) for cell in cells]
        for cells, number, figure in zip(table.fields, table.numeric, figures, strict=True)
    ]
    rows = (
        "{" + ", ".join(f"{n}: {c}" for n, c in zip(names, row, strict=True)) + "}"
        for row in zip(*written, strict=True)
    )
    return _document(sheet, '"rows": [\n' + ",\n".join(rows) + "\n]")


def sheet_json(sheet: Sheet) -> bytes:
    """As seen: headings, then a row for each line."""
    rows = []
    for row in seen(sheet):
        cells = ", ".join(_value(c, n) for c, n in zip(row.cells, row.numeric, strict=True))
        label = f'"labels": {_said(row.labels)}' if by_columns(sheet) else f'"label": {_said(row.labels[0])}'
        rows.append(f'{{{label}, "depth": {row.depth}, "cells": [{cells}]}}')
    return _document(sheet, f'"headings": {_said(seen_headings(sheet))}', '"rows": [\n' + ",\n".join(rows) + "\n]")


WRITERS: dict[tuple[str, str], Callable[[Sheet], bytes]] = {
    ("csv", "flat"): flat_csv,
    ("csv", "sheet"): sheet_csv,
    ("json", "flat"): flat_json,
    ("json", "sheet"): sheet_json,
    ("parquet", "flat"): flat_parquet,
}
DEFAULT_SHAPE = {"csv": "flat", "json": "flat", "parquet": "flat", "xlsx": "sheet", "pdf": "sheet", "html": "sheet"}


def write(sheet: Sheet, form: str, shape: str | None) -> bytes:
    """The sheet in a format and shape (the format's own where none is given).

    Raises DefinitionError for a pair that cannot be written.
    """
    chosen = shape or DEFAULT_SHAPE.get(form, "flat")
    if (form, chosen) not in WRITERS:
        known = ", ".join(f"{f} ({s})" for f, s in WRITERS)
        raise DefinitionError(f"--format {form} --shape {chosen} cannot be written yet; there are {known}")
    return WRITERS[(form, chosen)](sheet)
