"""What a report distinguishes records by: numbers that are equal for records which it never distinguishes."""

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from kalendor.core.figures.family import kind_of
from kalendor.core.figures.takings import Takings, naming_in_errors
from kalendor.core.formulas.expressions import blank_names
from kalendor.core.formulas.formulas import holds
from kalendor.core.formulas.scope import Scope
from kalendor.core.groupings.entries import Grouped
from kalendor.core.groupings.ground import Ground
from kalendor.core.groupings.periods import CLOCK
from kalendor.core.takes.takes import TAKES
from kalendor.core.trail.drivers import category_columns
from kalendor.core.values.columns import DATED, DAY_MICROSECONDS, Array, Column, Kind, as_kind, days_of
from kalendor.definitions.axis import PeriodEntry
from kalendor.definitions.figure import Taken
from kalendor.definitions.report import Report

Index = NDArray[np.int64]


def told_apart(
    report: Report, ground: Ground, sides: Grouped, takings: Takings, worded: bool = False
) -> Iterator[Array]:
    """Numbers, of shape (records,) each: records that are equal in all of them count in the same cells of every figure.
    `worded`: and in the sentences about figures, which name values of categories."""
    for levels, entries in ((sides.down, report.down), (sides.across, report.across)):
        for level in levels:  # the values themselves if the members depend on which values occur
            of_values = level.of_all or None in (level.members.codes or ())
            yield numbered(ground.column(entries[level.entry].column)) if of_values else level.codes
    yield from sides.open_items
    if sides.signs is not None:
        yield sides.signs
    if ground.origin is not None:
        yield ground.origin.of
    if report.records is not None:
        yield np.arange(ground.records.count)
    yield from _of_conditions(report, ground)
    yield from _of_days(report, ground)
    if worded:
        yield from (numbered(ground.column(name)) for name in sorted(category_columns(report)))
    for figure in report.figures:
        if isinstance(figure, Taken):
            with naming_in_errors(figure.name):
                yield from _of_figure(figure, ground, takings)


def _of_conditions(report: Report, ground: Ground) -> Iterator[Array]:
    scope = Scope(ground.records.columns, ground.records.count, ground.as_of)
    for condition in report.only:
        yield holds(condition, scope)
        for name in blank_names(condition):
            column = ground.records.columns.get(name)
            if column is not None and column.kind in DATED:
                yield column.present & (days_of(column) > ground.as_of)


def _of_days(report: Report, ground: Ground) -> Iterator[Array]:
    """The days (hours, minutes) of the window's column, and of those along which figures count them."""
    columns = {report.window.of} if report.window is not None else set()
    periods = report.entries_of(PeriodEntry)
    if report.window is not None or any(kind_of(figure).counts_days(figure) for figure in report.figures):
        columns |= {entry.period for entry in periods}
    for name in sorted(columns):
        grains = [grain for entry in periods if entry.period == name for grain in entry.grains]
        size = min((CLOCK[g] for g in grains if isinstance(g, str) and g in CLOCK), default=DAY_MICROSECONDS)
        column = as_kind(ground.column(name), Kind.DATE, *DATED)
        if column.kind is Kind.DATETIME:
            column = Column(Kind.WHOLE, column.values // size, column.blank)
        yield numbered(column)


def _of_figure(figure: Taken, ground: Ground, takings: Takings) -> Iterator[Array]:
    of, where = takings.of(figure)
    if where is not None:
        yield where.mask
    if TAKES[figure.take].by_value and of.column is not None:
        yield numbered(of.column)
    if of.keys is not None:
        yield of.keys
    for name in (figure.of, figure.weight):
        if name is not None and name in ground.unit_texts:
            yield numbered(ground.unit_texts[name])
            yield ground.column(name).blanks


def numbered(column: Column) -> Array:
    """A number for each record of a column, equal where the values are; blanks are 0."""
    values = column.values
    if column.kind is Kind.TEXT:
        numbers: Array = values + np.int32(1)
    elif values.dtype == bool:
        numbers = values + np.int8(1)
    elif values.dtype.kind == "i" and len(values) and int(values.max()) - int(values.min()) < len(values) * 4 + 1024:
        numbers = values - (values.min() - 1)
    else:
        numbers = np.unique(values, return_inverse=True)[1].reshape(-1) + 1
    return numbers if column.blank is None else np.where(column.blank, 0, numbers)
