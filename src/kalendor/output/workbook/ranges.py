"""Named ranges for the figures of a workbook, so that other formulas can refer to them."""

import re

from xlsxwriter.utility import xl_col_to_name
from xlsxwriter.workbook import Workbook

from kalendor.output.workbook.page import SetPage

MOST_NAME, MOST_REFERENCE = 200, 8_000  # letters of a name, and of its reference
ADDRESS = re.compile(r"[A-Za-z]{1,3}\d+|[RrCc]\d*")


def name_ranges(book: Workbook, page: SetPage) -> None:
    """Name each figure's cells after the figure on its worksheet."""
    taken: set[str] = set()
    for f, figure in enumerate(page.set.sheet.figures):
        columns = [k for k, column in enumerate(page.set.columns) if column.figure == f]
        name, reference = range_name(figure.name), _reference(page, columns)
        if columns and page.set.rows and name.casefold() not in taken and len(reference) <= MOST_REFERENCE:
            taken.add(name.casefold())
            book.define_name(f"'{_quoted(page.name)}'!{name}", f"={reference}")


def range_name(figure: str) -> str:
    """A figure's name as a valid range name.

    >>> range_name("Net fare"), range_name("2026 plan %"), range_name("Q1")
    ('Net_fare', '_2026_plan', 'Q1_')
    """
    name = re.sub(r"\W+", "_", figure).strip("_")[:MOST_NAME] or "Figure"
    if name[0].isdigit():
        name = f"_{name}"
    return f"{name}_" if ADDRESS.fullmatch(name) else name


def _reference(page: SetPage, columns: list[int]) -> str:
    """The cells of some columns, adjacent ones as one range."""
    first, last = page.top + 1, page.top + len(page.set.rows)
    runs: list[tuple[int, int]] = []
    for k in columns:
        runs = [*runs[:-1], (runs[-1][0], k)] if runs and runs[-1][1] == k - 1 else [*runs, (k, k)]
    names = [(xl_col_to_name(page.left + a), xl_col_to_name(page.left + b)) for a, b in runs]
    return ",".join(f"'{_quoted(page.name)}'!${a}${first}:${b}${last}" for a, b in names)


def _quoted(name: str) -> str:
    return name.replace("'", "''")
