"""A native chart of a sheet on a worksheet of its own, over a small table that refers to the sheet's cells."""

import numpy as np
from xlsxwriter.workbook import Workbook

from kalendor.output.charting import Chart, chart_of
from kalendor.output.handover import Handover
from kalendor.output.workbook.page import SetPage
from kalendor.output.workbook.styles import QUIET, Styles, number_format, quoted

FULL, PALE = "#0D5A6A", "#B9CFD2"
SERIES = (FULL, PALE, "#6A4479", "#A4552A", "#C9811A", "#8E8672")
PAIR = (PALE, FULL)  # an earlier period and the latest


def write_chart(book: Workbook, styles: Styles, name: str, page: SetPage, given: Handover) -> None:
    """The chart of a page's sheet; nothing if there are fewer than two numbers to draw."""
    drawn = chart_of(given)
    if drawn is None:
        return
    sheet = book.add_worksheet(name)
    sheet.hide_gridlines(2)
    sheet.set_column(0, 0, 30)
    sheet.set_column(1, len(drawn.series), 16)
    title = f"{page.set.sheet.title}: {drawn.figure}"
    sheet.write_string(0, 0, title, styles.of(bold=True, font_size=14, **quoted(title)))
    for s, series in enumerate(drawn.series):
        head = series or drawn.figure
        sheet.write_string(2, 1 + s, head, styles.of(align="right", font_color=QUIET, bottom=1, **quoted(head)))
    where = _where(page, drawn)
    figure = next(f for f in page.set.sheet.figures if f.name == drawn.figure)
    form = styles.of(num_format=number_format(figure))
    for i, line in enumerate(drawn.lines):
        sheet.write_string(3 + i, 0, line, styles.of(**quoted(line)))
        for s in range(len(drawn.series)):
            value, cell = drawn.values[i, s], where.get(drawn.at[i * len(drawn.series) + s])
            if not np.isnan(value) and cell is not None:
                sheet.write_formula(3 + i, 1 + s, cell, form, float(value))
            elif not np.isnan(value):
                sheet.write_number(3 + i, 1 + s, float(value), form)
    sheet.insert_chart(4 + len(drawn.lines), 0, _native(book, name, drawn, title), {"object_position": 1})


def _where(page: SetPage, drawn: Chart) -> dict[tuple[int, int], str]:
    """The sheet's cell for each of the chart's numbers that has one, by line and column."""
    lines = {line for line, _ in drawn.at}
    rows = {row.line: i for i, row in enumerate(page.set.rows) if row.filled and row.line in lines}
    figure = next(i for i, f in enumerate(page.set.sheet.figures) if f.name == drawn.figure)
    columns = {c.at: k for k, c in enumerate(page.set.columns) if c.figure == figure}
    return {(a, b): page.cell(rows[a], columns[b]) for a, b in drawn.at if a in rows and b in columns}


def _native(book: Workbook, name: str, drawn: Chart, title: str):  # type: ignore[no-untyped-def]
    made = book.add_chart({"type": "column" if drawn.upright else "bar"})
    last = 2 + len(drawn.lines)
    colours = PAIR if drawn.aging and len(drawn.series) == len(PAIR) else SERIES
    for s, series in enumerate(drawn.series):
        made.add_series(
            {
                "name": series or drawn.figure,
                "categories": [name, 3, 0, last, 0],
                "values": [name, 3, 1 + s, last, 1 + s],
                "fill": {"color": colours[s % len(colours)]},
                "gap": 60,
            }
        )
    made.set_title({"name": title, "name_font": {"size": 12}})
    if not drawn.upright:
        made.set_y_axis({"reverse": True})
    made.set_legend({"none": True} if len(drawn.series) < 2 else {"position": "bottom"})
    made.set_size({"width": 900, "height": max(320, 60 + 26 * len(drawn.lines)) if not drawn.upright else 360})
    return made
