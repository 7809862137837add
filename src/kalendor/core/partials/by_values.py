"""Condenses records by the values of the columns that a report distinguishes records by, before its levels are made.

Records with the same values are in the same members, whatever the report makes of these. Where such values are few, as the
days and stores of a day's file are, its levels, conditions and periods are then computed for few rows.
"""

import math

from kalendor.core.formulas.expressions import names_in
from kalendor.core.groupings.ground import Ground
from kalendor.core.groupings.trees import negative
from kalendor.core.partials.told_apart import numbered
from kalendor.core.takes.takes import TAKES
from kalendor.core.values.columns import Array, Column, Kind
from kalendor.definitions.axis import CategoryEntry
from kalendor.definitions.figure import Taken
from kalendor.definitions.renaming import ColumnsNamed
from kalendor.definitions.report import Report

FEW = 4  # combinations of values for each record, up to which they may be few


def values_told(report: Report, ground: Ground) -> list[Array] | None:
    """Numbers, of shape (records,) each: records that are equal in all of them have the same values in every column by
    which the report distinguishes records. None if such values are many, or the report asks for more of a record than its
    values: its source, its sign, or the record itself."""
    if report.records is not None or ground.origin is not None:
        return None
    columns = _columns(report, ground)
    if columns is None or _turns(report, ground):
        return None
    in_units = sorted(_amounts(report) & ground.unit_texts.keys())
    columns += [ground.unit_texts[name] for name in in_units]
    if math.prod(map(_different, columns)) > FEW * ground.records.count:
        return None
    return [*map(numbered, columns), *(ground.column(name).blanks for name in in_units)]


def _turns(report: Report, ground: Ground) -> bool:
    """Whether categories reverse the sign of amounts, or place values as on a date that the report does not name."""
    trees = {tree.name: tree for tree in ground.groupings.trees.values()}
    return any(
        entry.signs
        or (entry.placed == "was" and entry.placed_by is None)
        or (entry.tree is not None and (entry.tree not in trees or negative(trees[entry.tree].roots)))
        for entry in report.entries_of(CategoryEntry)
    )


def _columns(report: Report, ground: Ground) -> list[Column] | None:
    """The columns that a report names, but for the amounts that its figures add up; None if one does not exist."""
    figures = [
        f.model_copy(update={"of": None, "weight": None}) if isinstance(f, Taken) and not TAKES[f.take].by_value else f
        for f in report.figures
    ]
    seen = ColumnsNamed(report.source, names_in)
    seen.report(report.model_copy(update={"figures": figures, "columns": []}))
    own = {name.casefold(): column for name, column in ground.records.columns.items()}
    names = {name.casefold() for name in seen.found if name.upper() != "AS_OF"}
    return [own[name] for name in sorted(names)] if names <= own.keys() else None


def _amounts(report: Report) -> set[str]:
    """The columns of amounts that figures add up."""
    taken = [f for f in report.figures if isinstance(f, Taken) and not TAKES[f.take].by_value]
    return {name for f in taken for name in (f.of, f.weight) if name is not None}


def _different(column: Column) -> int:
    """The most different values that a column may have, blank included; more than there are records if they are not counted."""
    values = column.values
    if column.kind is Kind.TEXT:
        return len(column.words) + 1
    if values.dtype.kind in "bi" and len(values):
        return int(values.max()) - int(values.min()) + 2
    return FEW * len(values) + 1
