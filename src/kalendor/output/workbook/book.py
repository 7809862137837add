"""A workbook (ISO/IEC 29500) of one sheet or several, written row by row; the same sheets give the same bytes."""

import io
from collections.abc import Sequence
from datetime import datetime

from xlsxwriter.workbook import Workbook

from kalendor.core.values.days import day_label
from kalendor.core.values.notation import written_in
from kalendor.output.handover import Cover, Handover
from kalendor.output.workbook.about import write_about, write_contents, write_moves
from kalendor.output.workbook.charts import write_chart
from kalendor.output.workbook.page import write_page
from kalendor.output.workbook.ranges import name_ranges
from kalendor.output.workbook.styles import Styles

FORBIDDEN = str.maketrans(dict.fromkeys("[]:*?/\\'", " "))
MOST_NAME = 31  # characters of a worksheet's name
OPTIONS = {
    "constant_memory": True,
    "strings_to_formulas": False,
    "strings_to_urls": False,
    "strings_to_numbers": False,
    "nan_inf_to_errors": True,
}


def sheet_workbook(given: Handover) -> bytes:
    """The sheet shape, a second sheet with what it is based on, and a chart if one is requested.

    Raises DefinitionError for a sheet with more rows or columns than a workbook can hold.
    """
    return workbook([given])


def workbook(given: Sequence[Handover], cover: Cover | None = None) -> bytes:
    """Sheets one after another; with a cover, a first sheet with a link to each.

    Raises DefinitionError as `sheet_workbook` does.
    """
    file = io.BytesIO()
    book = Workbook(file, OPTIONS)
    day = max(one.sheet.as_of for one in given)
    made = datetime.fromisoformat(day_label(day))
    book.set_properties(
        {"title": cover.title if cover else given[0].sheet.title, "author": "Kalendor", "created": made}
    )
    styles, names = Styles(book), _Names()
    first = names.free(cover.title) if cover else ""
    titles = [names.free(one.sheet.title) for one in given]
    if cover:
        write_contents(book.add_worksheet(first), styles, cover, list(zip(given, titles, strict=True)))
    if cover and cover.moves:
        write_moves(book.add_worksheet(names.free("What moved")), styles, cover)
    for one, title in zip(given, titles, strict=True):
        own = f" {title}" if cover else ""
        with written_in(one.notation):
            page = write_page(book.add_worksheet(title), styles, one)
            name_ranges(book, page)
            write_about(book.add_worksheet(names.free(f"About{own}")), styles, one)
            if one.export.chart:
                write_chart(book, styles, names.free(f"Chart{own}"), page, one)
    book.close()
    return file.getvalue()


class _Names:
    """Unique names of worksheets, without forbidden characters and regardless of case."""

    def __init__(self) -> None:
        self._taken: set[str] = {"history"}  # reserved

    def free(self, title: str) -> str:
        plain = "".join(c for c in title.translate(FORBIDDEN) if c >= " ").strip() or "Sheet"
        name, n = plain[:MOST_NAME].strip(), 1
        while name.casefold() in self._taken:
            n += 1
            tail = f" ({n})"
            name = plain[: MOST_NAME - len(tail)].strip() + tail
        self._taken.add(name.casefold())
        return name
