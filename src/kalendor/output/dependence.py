"""Which figures of a report rest on other members than one's own, so that no member's part may hold them."""

from collections.abc import Iterator

from kalendor.core.formulas.expressions import names_in
from kalendor.core.sheet.sheet import Sheet
from kalendor.definitions.figure import (
    Compare,
    Figure,
    FormulaFigure,
    Moving,
    Rank,
    Running,
    Share,
    Taken,
    WithFigure,
    WithMember,
)
from kalendor.definitions.report import Report
from kalendor.errors import DefinitionError


def resting_on_others(report: Report) -> list[str]:
    """The names of the figures that rest on records of other members, themselves or through another figure."""
    found = {figure.name for figure in report.figures if _rests_itself(figure)}
    before = -1
    while before != len(found):
        before = len(found)
        found |= {figure.name for figure in report.figures if found.intersection(_rests_on(figure))}
    return [figure.name for figure in report.figures if figure.name in found]


def blank_at_the_top(report: Report) -> list[str]:
    """The names of the figures that rest on others at a member's own line alone, and not beneath it."""
    return [
        figure.name
        for figure in report.figures
        if (isinstance(figure, Share) and figure.of_total == "parent")
        or (isinstance(figure, Rank) and figure.within == "parent")
    ]


def check_parts(sheet: Sheet) -> None:
    """Raises DefinitionError where lines or columns themselves rest on all records, so that no part can be told alone."""
    for level in (*sheet.lines.levels, *sheet.columns.levels):
        if level.of_all:
            raise DefinitionError(
                f"a member's part cannot have equal-count groups, as {level.name!r} has: they are cut by the records of all; "
                "give the ranges cuts"
            )


def _rests_itself(figure: Figure) -> bool:
    match figure:
        case Share():
            return figure.of_total in ("all", "column")
        case Rank():
            return figure.within == "all"
        case Running():
            return figure.along == "lines"
        case Compare():
            return isinstance(figure.with_, WithMember)
        case Taken():
            return figure.take == "balance"  # a key counts where its last record stands, be that at another member
    return False


def _rests_on(figure: Figure) -> Iterator[str]:
    match figure:
        case Share():
            yield figure.share
        case Rank():
            yield figure.rank
        case Running():
            yield figure.running
        case Moving():
            yield figure.moving
        case Compare():
            yield figure.compare
            if isinstance(figure.with_, WithFigure):
                yield figure.with_.figure
        case FormulaFigure():
            yield from names_in(figure.formula)
