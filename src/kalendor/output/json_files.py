"""A sheet as JSON: figures as numbers with all their digits, blanks null."""

import json
from collections.abc import Iterable, Sequence

from kalendor.core.sheet.sheet import Sheet
from kalendor.core.values.columns import NUMERIC
from kalendor.core.values.days import day_label
from kalendor.output.delimited import seen_headings
from kalendor.output.flat import flat
from kalendor.output.handover import Handover
from kalendor.output.numbers import texts
from kalendor.output.typeset import Typeset, by_columns, typeset


def flat_json(given: Handover) -> bytes:
    """One object a row, labels and starts as texts."""
    table = flat(given.sheet)
    names = [_said(heading) for heading in table.headings]
    written = [
        [_value(cell, number) for cell in cells] if figure is not None else [_said(cell) for cell in cells]
        for cells, number, figure in zip(table.fields, table.numeric, table.figures, strict=True)
    ]
    rows = (
        "{" + ", ".join(f"{n}: {c}" for n, c in zip(names, row, strict=True)) + "}"
        for row in zip(*written, strict=True)
    )
    return _document(given.sheet, '"rows": [\n' + ",\n".join(rows) + "\n]")


def sheet_json(given: Handover) -> bytes:
    """The sheet shape: headings, then a row for each line with its label (or one a level), its depth and its cells."""
    set_ = typeset(given.sheet)
    cells = [*_listed(set_), *_figures(set_)]
    rows = []
    for i, row in enumerate(set_.rows):
        own = [column[i] for column in cells]
        label = f'"labels": {_said(row.labels)}' if by_columns(given.sheet) else f'"label": {_said(row.labels[0])}'
        rows.append(f'{{{label}, "depth": {max(0, row.depth - 1)}, "cells": [{", ".join(own)}]}}')
    told = [f'"footnotes": {_said(set_.footnotes)}'] if set_.footnotes else []
    lines = '"rows": [\n' + ",\n".join(rows) + "\n]"
    return _document(given.sheet, *told, f'"headings": {_said(seen_headings(set_))}', lines)


def _listed(set_: Typeset) -> Iterable[list[str]]:
    for column in set_.listed.values():
        number = column.kind in NUMERIC
        written = [_value(text, number) for text in texts(column)]
        yield [written[row.record] if row.record >= 0 else "null" for row in set_.rows]


def _figures(set_: Typeset) -> Iterable[list[str]]:
    for column in set_.columns:
        yield [_value(text, number) for text, number in zip(*set_.plain(column), strict=True)]


def _said(value: object) -> str:
    return json.dumps(value, ensure_ascii=False)


def _value(text: str, number: bool) -> str:
    return "null" if text == "" else text if number else _said(text)


def _document(sheet: Sheet, *parts: str) -> bytes:
    told: Sequence[str] = [f'"title": {_said(sheet.title)}', f'"as_of": {_said(day_label(sheet.as_of))}', *parts]
    return ("{\n" + ",\n".join(told) + "\n}\n").encode("utf-8", "replace")
