"""Workbooks, Office Open XML and OpenDocument: one sheet, or an area of it, as texts."""

import io
import re
import zipfile
import zlib
from datetime import date, datetime, time, timedelta
from typing import IO, Any

from python_calamine import CalamineError, CalamineSheet, CalamineWorkbook, SheetVisibleEnum

from kalendor.core.values.notation import grouped
from kalendor.errors import IntakeError
from kalendor.intake.error_cells import column_number, error_cells
from kalendor.intake.raw import RawTable, table_of_rows

_AREA = re.compile(r"([A-Z]{1,3})([1-9][0-9]*):([A-Z]{1,3})([1-9][0-9]*)")
MOST_CELLS, MOST_UNPACKED, PART = 60_000_000, 4 << 30, 1 << 22
_CELL = re.compile(rb"<(?:\w+:)?c [^>]*?\br=\"([A-Z]{1,3})([0-9]{1,7})\"")


def read_workbook(data: bytes, name: str, sheet: str | None, area: str | None, heading_line: int | None) -> RawTable:
    """The records of a workbook's sheet (the fullest that is not hidden, unless one is named), or of an area as B3:H400.

    Formulas count with the value that the file has for them. Raises IntakeError where it cannot be read.
    """
    _check_reach(data, name)
    try:
        book = CalamineWorkbook.from_filelike(io.BytesIO(data))
        visible = [m.name for m in book.sheets_metadata if m.visible == SheetVisibleEnum.Visible] or book.sheet_names
        chosen = _chosen(book, name, sheet, visible)
    except (CalamineError, OSError, ValueError) as error:
        raise IntakeError(
            f"{name}: a workbook that cannot be opened ({error}); save it again and bring it in"
        ) from None
    left, top, right, bottom = _corners(area, name)
    if chosen.total_height * chosen.total_width > MOST_CELLS:
        raise IntakeError(
            f"{name}: the sheet {chosen.name!r} has more than {grouped(MOST_CELLS)} cells; save it as CSV"
        )
    rows = []
    errors = error_cells(data, chosen.name)
    values = chosen.to_python(skip_empty_area=False)
    for (row, column), text in errors.items():
        if row <= len(values) and column <= len(values[row - 1]):
            values[row - 1][column - 1] = text
    for i, cells in enumerate(values, start=1):
        if top <= i <= bottom:
            rows.append((i, [as_text(cell) for cell in cells[left - 1 : right]]))
    _spread_merged(chosen, rows, left)
    others = tuple(n for n in visible if n != chosen.name)
    return table_of_rows(rows, name, heading_line, (chosen.name, *others))


def _check_reach(data: bytes, name: str) -> None:
    """Raises IntakeError for an Office Open XML sheet with a value so far out that its cells could not be held."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            for part in archive.namelist():
                if part.startswith("xl/worksheets/") and part.endswith(".xml"):
                    with archive.open(part) as file:
                        _check_sheet(file, name)
    except (zipfile.BadZipFile, OSError, EOFError, zlib.error, NotImplementedError, RuntimeError):
        return


def _check_sheet(file: IO[bytes], name: str) -> None:
    rows = columns = size = 0
    rest = b""
    while part := file.read(PART):
        size += len(part)
        if size > MOST_UNPACKED:
            raise IntakeError(f"{name}: a sheet unpacks to more than {MOST_UNPACKED >> 30} GiB; save it as CSV")
        text = rest + part
        for found in _CELL.finditer(text):
            rows, columns = max(rows, int(found[2])), max(columns, column_number(found[1].decode()))
        rest = text[-64:]
        if rows * columns > MOST_CELLS:
            raise IntakeError(
                f"{name}: a sheet reaches to row {grouped(rows)} and column {grouped(columns)}, more than {grouped(MOST_CELLS)} cells; delete what"
                " stands far out, or save it as CSV"
            )


def _chosen(book: CalamineWorkbook, name: str, sheet: str | None, visible: list[str]) -> CalamineSheet:
    if sheet is not None:
        if sheet not in book.sheet_names:
            raise IntakeError(f"{name}: there is no sheet {sheet!r}; it has {', '.join(book.sheet_names)}")
        return book.get_sheet_by_name(sheet)
    sheets = [book.get_sheet_by_name(n) for n in visible]
    return max(sheets, key=lambda s: s.total_height * s.total_width)


def _spread_merged(sheet: CalamineSheet, rows: list[tuple[int, list[str]]], left: int) -> None:
    """A merged cell's text stands in each of its columns of the first row, so that merged headings name them all."""
    by_line = dict(rows)
    for (top, first), (_, last) in sheet.merged_cell_ranges or []:
        cells = by_line.get(top + 1)
        at = first - (left - 1)
        if cells is None or last == first or not 0 <= at < len(cells):
            continue
        for k in range(at + 1, min(last - (left - 1), len(cells) - 1) + 1):
            cells[k] = cells[k] or cells[at]


def _corners(area: str | None, name: str) -> tuple[int, int, int, int]:
    if area is None:
        return 1, 1, 1 << 20, 1 << 30
    found = _AREA.fullmatch(area.strip().upper())
    if found is None:
        raise IntakeError(f"{name}: the area {area!r} cannot be read; write it as B3:H400")
    left, top, right, bottom = found.groups()
    return column_number(left), int(top), column_number(right), int(bottom)


def as_text(cell: Any) -> str:
    """A cell's value as text: numbers to 15 significant digits, as a workbook keeps them, dates as ISO 8601."""
    match cell:
        case bool():
            return "yes" if cell else "no"
        case float():
            return str(int(cell)) if cell.is_integer() and abs(cell) < 1e15 else f"{cell:.15g}"
        case datetime():
            return cell.isoformat(sep=" ")
        case date() | time():
            return cell.isoformat()
        case timedelta():
            seconds = int(cell.total_seconds())
            return f"{seconds // 3600:02d}:{seconds // 60 % 60:02d}:{seconds % 60:02d}"
        case _:
            return str(cell)
