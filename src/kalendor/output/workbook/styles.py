"""The formats of a workbook's cells: each once, by its properties."""

from typing import Any

from xlsxwriter.format import Format
from xlsxwriter.workbook import Workbook

from kalendor.core.sheet.scales import UNITS, is_percent, places_of
from kalendor.core.sheet.sheet import ShownFigure
from kalendor.core.values.columns import NUMERIC, Column, Kind
from kalendor.intake.guarding import harmless

INK, PETROL, OXBLOOD, MARIGOLD, QUIET = "#1E2A2F", "#0D5A6A", "#9A2A2A", "#7A4C06", "#56615F"
THIN, DOUBLE = 1, 6
SANS = "Calibri"
DATES = {Kind.DATE: "yyyy-mm-dd", Kind.DATETIME: "yyyy-mm-dd hh:mm:ss", Kind.TIME: "hh:mm:ss"}


class Styles:
    """The formats of a workbook by their properties."""

    def __init__(self, book: Workbook) -> None:
        self._book = book
        self._known: dict[tuple[tuple[str, Any], ...], Format] = {}

    def of(self, **properties: Any) -> Format:
        """The format with the given properties, in the product's text colour."""
        key = tuple(sorted(properties.items()))
        if key not in self._known:
            plain = {"font_name": SANS, "font_size": 10, "font_color": INK, "valign": "vcenter"}
            self._known[key] = self._book.add_format({**plain, **properties})
        return self._known[key]

    def bare(self, **properties: Any) -> Format:
        """A format that changes only the given properties, for cells that have a format of their own."""
        return self._book.add_format(properties)


def quoted(text: str) -> dict[str, Any]:
    """The property that keeps a text which begins like a formula a text, also when it is edited."""
    return {"quote_prefix": True} if harmless(text) != text else {}


def number_format(figure: ShownFigure) -> str:
    """A figure's number format, in the code of ISO/IEC 29500-1, 18.8.31: positive, negative, and zero."""
    if figure.cells.kind not in NUMERIC:
        return DATES.get(figure.cells.kind, "General")
    form, places = figure.format, places_of(figure)
    digits = ("#,##0" if form.thousands else "0") + ("." + "0" * places if places else "")
    scaled = "" if is_percent(figure) else "," * (UNITS[form.unit] // 3)
    body = _literal(form.currency) + digits + scaled + ("%" if is_percent(figure) else "")
    below = f"({body})" if form.negative == "parentheses" else _literal("−") + body
    zero = _literal("–") if form.zero == "dash" else body
    room = "_)" if form.negative == "parentheses" else ""  # room for the closing bracket, so that digits align
    return f"{'+' if figure.signed else ''}{body}{room};{below};{zero}{room}"


def _literal(text: str) -> str:
    return "".join(
        f'"{part}"' if part != '"' else '\\"' for part in ([text] if '"' not in text else list(text)) if part
    )


def column_format(column: Column) -> str:
    """The format of a listed record's column."""
    if column.kind is Kind.DECIMAL:
        return "#,##0." + "0" * column.places if column.places else "#,##0"
    return "#,##0" if column.kind is Kind.WHOLE else DATES.get(column.kind, "General")
