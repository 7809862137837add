"""Formats figures for people: thousands marks, parentheses, percent signs, and words if there is no number."""

from collections.abc import Callable
from decimal import ROUND_HALF_UP, Decimal
from typing import Any

import numpy as np

from kalendor.core.figures.bases import MARK_WORDS, MIXED
from kalendor.core.sheet.scales import UNITS, is_percent, places_of
from kalendor.core.sheet.sheet import Sheet, ShownFigure
from kalendor.core.sheet.tieout import Footing
from kalendor.core.values.columns import EXACT, Array, Column, Kind
from kalendor.core.values.notation import NOTATION, noted
from kalendor.output.numbers import writer

MINUS = "\u2212"


def shown_number(value: Decimal, figure: ShownFigure) -> str:
    """A number in its figure's format, rounded half away from zero; a change has a plus sign."""
    form = figure.format
    percent = is_percent(figure)
    scaled = value.scaleb(2) if percent else value.scaleb(-UNITS[form.unit])
    rounded = scaled.quantize(Decimal(1).scaleb(-places_of(figure)), rounding=ROUND_HALF_UP)
    if rounded == 0 and form.zero == "dash":
        return "–"
    digits = f"{abs(rounded):,f}" if form.thousands else f"{abs(rounded):f}"
    body = form.currency + noted(digits) + ("%" if percent else "")
    if rounded < 0:
        return f"({body})" if form.negative == "parentheses" else MINUS + body
    return "+" + body if figure.signed and rounded > 0 else body


def shown_units(units: int, places: int) -> str:
    """An exact amount in a figure's default format.

    >>> shown_units(-123456, 2)
    '(1,234.56)'
    """
    value = noted(f"{Decimal(abs(units)).scaleb(-places):,f}")
    return f"({value})" if units < 0 else value


def shown_cells(figure: ShownFigure, at: Array) -> list[str]:
    """The cells at the given positions as text; a blank is empty, or its mark in words."""
    figure = figure.as_shown
    cells = figure.cells
    picked = cells.take(at)
    blank = picked.blanks.tolist()
    raw = picked.values.tolist()
    marks = [0] * len(at) if figure.marks is None else figure.marks[at].tolist()
    if cells.kind not in EXACT and cells.kind is not Kind.APPROXIMATE:
        write = writer(cells)
        return ["" if none else write(value) for value, none in zip(raw, blank, strict=True)]
    known: dict[Any, str] = {}
    plain = _plain_units(figure)
    texts = []
    rounded = np.flatnonzero(picked.rounded).tolist()
    for value, none, mark in zip(raw, blank, marks, strict=True):
        if none:
            texts.append(MARK_WORDS[mark])
            continue
        if value not in known:
            known[value] = plain(value) if plain else shown_number(_decimal(cells, value), figure)
        texts.append(known[value])
    for i in rounded:
        if not blank[i]:
            texts[i] = shown_number(Decimal(repr(picked.item(i))), figure)
    return texts


def tone_of(text: str) -> str:
    """The styling of a figure's text: "-" for negative, "~" for words instead of a number, else empty.

    >>> [tone_of(text) for text in ("(5.25)", "−5.25", "new", "+6.4%", "")]
    ['-', '-', '~', '', '']
    """
    if text[:1] in ("(", MINUS):
        return "-"
    return "~" if text and not any(c.isdigit() for c in text) else ""


def _plain_units(figure: ShownFigure) -> Callable[[int], str] | None:
    """The text of units of an exact figure that needs no rounding, as most do not; None for others."""
    cells, form = figure.cells, figure.format
    if cells.kind not in EXACT or is_percent(figure) or form.unit != "one" or places_of(figure) != cells.places:
        return None
    size, places, group = 10**cells.places, cells.places, "," if form.thousands else ""
    notation = NOTATION.get()

    def shown(units: int) -> str:
        if units == 0 and form.zero == "dash":
            return "–"
        whole, rest = divmod(abs(units), size)
        body = form.currency + notation.of(f"{whole:{group}}" + (f".{rest:0{places}d}" if places else ""))
        if units < 0:
            return f"({body})" if form.negative == "parentheses" else MINUS + body
        return "+" + body if figure.signed and units > 0 else body

    return shown


def number_at(figure: ShownFigure, at: int) -> Decimal | None:
    """The number in a cell; None for a blank."""
    picked = figure.cells.take(np.array([at]))
    if picked.blanks[0]:
        return None
    return Decimal(repr(picked.item(0))) if picked.rounded[0] else _decimal(picked, picked.values[0])


def _decimal(cells: Column, value: Any) -> Decimal:
    return Decimal(int(value)).scaleb(-cells.places) if cells.kind in EXACT else Decimal(repr(float(value)))


def shown_total(sheet: Sheet, footing: Footing) -> str:
    """A footing's grand total in its figure's format, by unit if it has several; with thousands marks if the figure is
    not on the sheet."""
    figure = next((f for f in sheet.figures if f.name == footing.figure), None)
    if figure is None or (figure.marks is not None and figure.marks[0] == MIXED):
        return ", ".join(_with_thousands(part) for part in footing.total.split(", "))
    return shown_cells(figure, np.array([0]))[0]


def _with_thousands(total: str) -> str:
    """A total with thousands marks, and its unit.

    >>> _with_thousands("27220.00 SEK")
    '27,220.00 SEK'
    """
    number, blank, unit = total.partition(" ")
    if not number.lstrip("-").replace(".", "", 1).isdecimal():
        return total
    return f"{noted(f'{Decimal(number):,f}')}{blank}{unit}"
