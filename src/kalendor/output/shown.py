"""Formats figures for people: thousands marks, parentheses, percent signs, and words if there is no number."""

from decimal import ROUND_HALF_UP, Decimal
from typing import Any

import numpy as np

from kalendor.core.figures.bases import MARK_WORDS, MIXED
from kalendor.core.sheet.scales import UNITS, exponent_of, is_percent, places_of
from kalendor.core.sheet.sheet import Sheet, ShownFigure
from kalendor.core.sheet.tieout import Footing
from kalendor.core.values.columns import EXACT, INT64_MOST, WIDE, Array, Column, Kind, Mask, magnitude
from kalendor.core.values.notation import NOTATION, noted
from kalendor.output.numbers import writer

MINUS = "\u2212"
EXACT_BELOW = 2.0**50  # numbers up to which float64 holds the half of a last place


def shown_number(value: Decimal, figure: ShownFigure) -> str:
    """A number in its figure's format, rounded half away from zero; a change has a plus sign."""
    form = figure.format
    percent = is_percent(figure)
    scaled = value.scaleb(2 if percent else -UNITS[form.unit], WIDE)
    rounded = scaled.quantize(Decimal(1).scaleb(-places_of(figure)), ROUND_HALF_UP, WIDE)
    if rounded == 0 and form.zero == "dash":
        return "–"
    digits = f"{rounded.copy_abs():,f}" if form.thousands else f"{rounded.copy_abs():f}"
    body = form.currency + noted(digits) + ("%" if percent else "")
    if rounded < 0:
        return f"({body})" if form.negative == "parentheses" else MINUS + body
    return "+" + body if figure.signed and rounded > 0 else body


def shown_units(units: int, places: int) -> str:
    """An exact amount in a figure's default format.

    >>> shown_units(-123456, 2)
    '(1,234.56)'
    """
    value = noted(f"{Decimal(abs(units)).scaleb(-places, WIDE):,f}")
    return f"({value})" if units < 0 else value


def shown_cells(figure: ShownFigure, at: Array) -> list[str]:
    """The cells at the given positions as text; a blank is empty, or its mark in words."""
    figure = figure.as_shown
    cells = figure.cells
    picked = cells.take(at)
    if cells.kind not in EXACT and cells.kind is not Kind.APPROXIMATE:
        write, raw = writer(cells), picked.values.tolist()
        return ["" if none else write(value) for value, none in zip(raw, picked.blanks.tolist(), strict=True)]
    units, doubtful = _units(figure, picked)
    texts = _written(units, figure)
    for i in np.flatnonzero(doubtful & ~picked.blanks).tolist():
        texts[i] = shown_number(Decimal(repr(picked.item(i))), figure)
    marks = [0] * len(at) if figure.marks is None else figure.marks[at].tolist()
    for i in np.flatnonzero(picked.blanks).tolist():
        texts[i] = MARK_WORDS[marks[i]]
    return texts


def _units(figure: ShownFigure, cells: Column) -> tuple[Array, Mask]:
    """Numbers in multiples of ten to the power of `exponent_of`, rounded half away from zero, shape (n,), and for which
    float64 does not say which way: those are left to their decimal digits."""
    exponent = exponent_of(figure)
    if cells.kind in EXACT:
        return _rescaled(cells.values, -exponent - cells.places), cells.rounded
    with np.errstate(over="ignore"):
        scaled = np.where(cells.blanks, 0.0, cells.values) * 10.0**-exponent
    size = np.abs(scaled)
    with np.errstate(invalid="ignore"):
        doubtful = ~(size < EXACT_BELOW) | (np.abs(size - np.floor(size) - 0.5) <= size * 2.0**-48)
    units: Array = np.where(doubtful, 0.0, np.copysign(np.floor(size + 0.5), scaled)).astype(np.int64)
    return units, doubtful


def _rescaled(units: Array, power: int) -> Array:
    """Whole numbers times ten to a power, rounded half away from zero."""
    if power >= 0:
        wide = units.dtype != object and magnitude(units) * 10**power > INT64_MOST
        found: Array = (units.astype(object) if wide else units) * 10**power
        return found
    size = 10**-power
    if units.dtype != object and (size > INT64_MOST // 2 or magnitude(units) > INT64_MOST - size):
        units = units.astype(object)
    whole = (np.abs(units) + size // 2) // size
    signed: Array = np.where(units < 0, -whole, whole)
    return signed


def _written(units: Array, figure: ShownFigure) -> list[str]:
    """Numbers in the figure's format, given in multiples of its last place shown."""
    form, places, notation = figure.format, places_of(figure), NOTATION.get()
    size, group = 10**places, "," if form.thousands else ""
    sizes = np.abs(units)
    if places:
        whole, rest = (sizes // size).tolist(), (sizes % size).tolist()
        texts = [f"{w:{group}}.{r:0{places}d}" for w, r in zip(whole, rest, strict=True)]
    else:
        texts = [f"{w:{group}}" for w in sizes.tolist()]
    if notation.marks:
        texts = [notation.of(text) for text in texts]
    if form.currency or is_percent(figure):
        texts = [f"{form.currency}{text}{'%' if is_percent(figure) else ''}" for text in texts]
    before, after = ("(", ")") if form.negative == "parentheses" else (MINUS, "")
    for i in np.flatnonzero(units < 0).tolist():
        texts[i] = f"{before}{texts[i]}{after}"
    for i in np.flatnonzero(units > 0).tolist() if figure.signed else ():
        texts[i] = "+" + texts[i]
    for i in np.flatnonzero(units == 0).tolist() if form.zero == "dash" else ():
        texts[i] = "–"
    return texts


def tone_of(text: str) -> str:
    """The styling of a figure's text: "-" for negative, "~" for words instead of a number, else empty.

    >>> [tone_of(text) for text in ("(5.25)", "−5.25", "new", "+6.4%", "")]
    ['-', '-', '~', '', '']
    """
    if text[:1] in ("(", MINUS):
        return "-"
    return "~" if text and not any(c.isdigit() for c in text) else ""


def number_at(figure: ShownFigure, at: int) -> Decimal | None:
    """The number in a cell; None for a blank."""
    picked = figure.cells.take(np.array([at]))
    if picked.blanks[0]:
        return None
    return Decimal(repr(picked.item(0))) if picked.rounded[0] else _decimal(picked, picked.values[0])


def _decimal(cells: Column, value: Any) -> Decimal:
    return Decimal(int(value)).scaleb(-cells.places, WIDE) if cells.kind in EXACT else Decimal(repr(float(value)))


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
