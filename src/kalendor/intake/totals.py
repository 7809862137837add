"""Detects lines at the foot of a file that look like totals, to be left out, and checks them against the sums above."""

import re
from dataclasses import dataclass
from decimal import Decimal, InvalidOperation
from itertools import takewhile

import numpy as np

from kalendor.core.takes.whole_sums import exact_sums
from kalendor.core.values.columns import Kind
from kalendor.intake.loose import coded
from kalendor.intake.raw import RawTable
from kalendor.intake.values import decimal_mark, plain_number, read_numbers

MOST_FOOT = 3
SAID = re.compile(
    r"\b(totals?|subtotals?|sum|summe|zwischensumme|gesamt|gesamtsumme|summa|totalt|totaal|somme|totaux|totale|somma|suma)\b",
    re.IGNORECASE,
)


@dataclass(frozen=True)
class FootTotal:
    """A foot line: its line number, its text, and for each of its amounts the column, the amount, and the sum above.

    `said`: one of its texts says that it is a total.
    """

    line: int
    text: str
    amounts: tuple[tuple[str, str, str, bool], ...]
    said: bool = False

    @property
    def proven(self) -> bool:
        """It says that it is a total, and each of its amounts is the sum of those above."""
        return self.said and bool(self.amounts) and all(agrees for *_, agrees in self.amounts)


def foot_totals(raw: RawTable) -> tuple[FootTotal, ...]:
    """The last lines that say they are totals, or that have a column's sum while most other columns are blank."""
    count = len(raw.lines)
    if count < 2:
        return ()
    found: list[FootTotal] = []
    for back in range(1, min(MOST_FOOT, count - 1) + 1):
        row = count - back
        cells = [column.item(row) or "" for column in raw.columns]
        filled = [c for c in cells if c]
        said = any(SAID.search(c) and plain_number(c, ".") is None for c in filled)
        sparse = len(filled) * 2 <= len(cells)
        if not said and not sparse:
            break
        amounts = _amounts(raw, row, cells, back)
        if not said and not any(agrees for *_, agrees in amounts):
            break
        found.append(FootTotal(int(raw.lines[row]), " | ".join(filled), tuple(amounts), said))
    return tuple(reversed(found))


def proven_foot(foot: tuple[FootTotal, ...]) -> int:
    """The number of lines at the very end that are proven totals."""
    return len(list(takewhile(lambda line: line.proven, reversed(foot))))


def _amounts(raw: RawTable, row: int, cells: list[str], back: int) -> list[tuple[str, str, str, bool]]:
    amounts = []
    for heading, texts, cell in zip(raw.headings, raw.columns, cells, strict=True):
        if not cell:
            continue
        column = coded(texts)
        mark = decimal_mark(column.words)
        total = _number(cell, mark)
        if total is None:
            continue
        read = read_numbers(column.words, mark)
        if read.kind is Kind.APPROXIMATE:
            continue
        above = column.values[:row] if column.blank is None else column.values[:row][~column.blank[:row]]
        if not len(above) or read.failed[above].all():
            continue
        units = exact_sums(np.zeros(len(above), np.int64), np.where(read.failed, 0, read.values)[above], 1)[0]
        total_above = Decimal(int(units)).scaleb(-read.places)
        amounts.append((heading, f"{total:f}", f"{total_above:f}", total == total_above))
    return amounts


def _number(word: str, mark: str) -> Decimal | None:
    plain = plain_number(word, mark) if word else None
    try:
        return None if plain is None else Decimal(plain)
    except InvalidOperation:
        return None
