"""Figures of a report that depend on other members than a part's own, and are therefore left out of a member's part."""

from kalendor.core.figures.family import kind_of
from kalendor.core.sheet.sheet import Sheet
from kalendor.definitions.report import Report
from kalendor.errors import DefinitionError


def resting_on_others(report: Report) -> list[str]:
    """The names of the figures that depend on records of other members, directly or through another figure."""
    found = {figure.name for figure in report.figures if kind_of(figure).rests_on_others(figure)}
    before = -1
    while before != len(found):
        before = len(found)
        found |= {figure.name for figure in report.figures if found.intersection(kind_of(figure).needs(figure))}
    return [figure.name for figure in report.figures if figure.name in found]


def blank_at_the_top(report: Report) -> list[str]:
    """The names of the figures that depend on others only on a member's own line, and not beneath it."""
    return [figure.name for figure in report.figures if kind_of(figure).blank_at_the_top(figure)]


def check_parts(sheet: Sheet) -> None:
    """Raises DefinitionError if lines or columns themselves depend on all records, so that no part can be taken alone."""
    for level in (*sheet.lines.levels, *sheet.columns.levels):
        if level.of_all:
            raise DefinitionError(
                f"a member's part cannot have equal-count groups, as {level.name!r} has: they are cut by the records of all; "
                "give the ranges cuts"
            )
