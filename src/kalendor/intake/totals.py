"""Lines at the foot of a file that look like totals: offered to be left out, and checked against the sums above."""

import re
from dataclasses import dataclass
from decimal import Decimal, InvalidOperation

import numpy as np

from kalendor.intake.raw import RawTable
from kalendor.intake.values import decimal_mark, plain_number

MOST_FOOT = 3
SAID = re.compile(r"\b(grand )?(total|totals|sum|subtotal)\b", re.IGNORECASE)


@dataclass(frozen=True)
class FootTotal:
    """A foot line: its line number, its text, and for each amount it bears the column, the amount, and the sum above."""

    line: int
    text: str
    amounts: tuple[tuple[str, str, str, bool], ...]


def foot_totals(raw: RawTable) -> tuple[FootTotal, ...]:
    """The last lines that say they are totals, or that bear a column's sum where most other columns are blank."""
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
        found.append(FootTotal(int(raw.lines[row]), " | ".join(filled), tuple(amounts)))
    return tuple(reversed(found))


def _amounts(raw: RawTable, row: int, cells: list[str], back: int) -> list[tuple[str, str, str, bool]]:
    amounts = []
    for heading, column, cell in zip(raw.headings, raw.columns, cells, strict=True):
        mark = decimal_mark(column.words)
        total = _number(cell, mark)
        if total is None:
            continue
        above = column.take(np.arange(row))
        numbers = [_number(word, mark) for word in above.words]
        if any(n is None and word for n, word in zip(numbers, above.words, strict=True)) and not any(numbers):
            continue
        counts = np.bincount(above.values[above.present], minlength=len(above.words)).tolist()
        total_above = sum(((n or Decimal(0)) * c for n, c in zip(numbers, counts, strict=True)), Decimal(0))
        amounts.append((heading, f"{total:f}", f"{total_above:f}", total == total_above))
    return amounts


def _number(word: str, mark: str) -> Decimal | None:
    plain = plain_number(word, mark) if word else None
    try:
        return None if plain is None else Decimal(plain)
    except InvalidOperation:
        return None
