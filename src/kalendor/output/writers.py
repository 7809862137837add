"""A sheet written in an open format; one writer a format and shape."""

import csv
import io
import json
from collections.abc import Callable
from typing import Any

from kalendor.core.sheet.sheet import Sheet
from kalendor.core.values.days import day_label
from kalendor.errors import DefinitionError
from kalendor.output.flat import FlatTable, flat
from kalendor.output.numbers import harmless
from kalendor.output.parquet import flat_parquet
from kalendor.output.seen import seen


def _delimited(headings: list[str], rows: list[list[str]]) -> bytes:
    file = io.StringIO()
    out = csv.writer(file, lineterminator="\n")
    out.writerow([harmless(h) for h in headings])
    out.writerows(rows)
    return file.getvalue().encode("utf-8")


def flat_csv(sheet: Sheet) -> bytes:
    """RFC 4180 with line feeds, UTF-8."""
    table = flat(sheet)
    guarded = [
        [cell if n else harmless(cell) for cell, n in zip(row, table.numeric, strict=True)] for row in table.rows
    ]
    return _delimited(table.headings, guarded)


def sheet_csv(sheet: Sheet) -> bytes:
    """As seen: headings over columns, labels indented by two spaces a level."""
    grid = seen(sheet)
    return _delimited(grid[0], [[harmless(row[0]) if row[0].strip() else "", *row[1:]] for row in grid[1:]])


def _number(text: str) -> Any:
    """A figure's text as a JSON number, all its digits kept; None for blank; other text stays text."""
    if text == "":
        return None
    try:
        float(text)
    except ValueError:
        return text
    return _Digits(text)


class _Digits(float):
    """A float that JSON writes with the digits it was given."""

    def __new__(cls, text: str) -> "_Digits":
        self = super().__new__(cls, text)
        self.text = text
        return self

    text: str

    def __repr__(self) -> str:
        return self.text


def _dumps(value: Any) -> bytes:
    return (_Encoder(ensure_ascii=False, indent=1).encode(value) + "\n").encode("utf-8")


class _Encoder(json.JSONEncoder):
    """Writes exact figures digit for digit."""

    def iterencode(self, o: Any, _one_shot: bool = False) -> Any:
        return json.encoder._make_iterencode(  # type: ignore[attr-defined]
            {},
            self.default,
            json.encoder.encode_basestring,
            self.indent,
            lambda f: repr(f),
            ": ",
            ",",
            False,
            False,
            False,
        )(o, 0)


def flat_json(sheet: Sheet) -> bytes:
    """One object a row; figures are numbers with all their digits, blanks null."""
    table: FlatTable = flat(sheet)
    rows = [
        {h: _number(cell) if n else cell for h, cell, n in zip(table.headings, row, table.numeric, strict=True)}
        for row in table.rows
    ]
    return _dumps({"title": sheet.title, "as_of": day_label(sheet.as_of), "rows": rows})


def sheet_json(sheet: Sheet) -> bytes:
    """As seen: headings, then a row for each line."""
    grid = seen(sheet)
    rows = [
        {
            "label": row[0].strip(),
            "depth": (len(row[0]) - len(row[0].lstrip())) // 2,
            "cells": [_number(c) for c in row[1:]],
        }
        for row in grid[1:]
    ]
    return _dumps({"title": sheet.title, "as_of": day_label(sheet.as_of), "headings": grid[0], "rows": rows})


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
